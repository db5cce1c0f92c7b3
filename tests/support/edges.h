// Edges of a test body, picked by a rule.
#pragma once
#include <BRep_Tool.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <vector>

#include "geometry/edge_probe.h"

namespace rasoir::test {

/// Edges of a body that a rule picks, by their middle, and by the edge itself where it asks for that.
template <class Rule>
std::vector<TopoDS_Edge> edgesWhere(const TopoDS_Shape& body, Rule rule) {
    TopTools_IndexedMapOfShape edges;
    TopExp::MapShapes(body, TopAbs_EDGE, edges);
    std::vector<TopoDS_Edge> some;
    for (int e = 1; e <= edges.Extent(); ++e) {
        const TopoDS_Edge edge = TopoDS::Edge(edges(e));
        if (BRep_Tool::Degenerated(edge)) continue;
        const EdgeProbe probe(edge);
        const gp_Pnt middle = probe.value(0.5 * (probe.first() + probe.last()));
        bool picked = false;
        if constexpr (std::is_invocable_v<Rule, const gp_Pnt&, const TopoDS_Edge&>)
            picked = rule(middle, edge);
        else
            picked = rule(middle);
        if (picked) some.push_back(edge);
    }
    return some;
}

}  // namespace rasoir::test
