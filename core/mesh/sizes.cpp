#include "mesh/sizes.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <Geom2d_Curve.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Sphere.hxx>
#include <gp_Torus.hxx>
#include <queue>
#include <set>
#include <TopExp.hxx>
#include <TopoDS.hxx>

#include "common/sets.h"
#include "common/tolerance.h"
#include "geometry/box_tree.h"

// Every edge is sampled a few times per element. Each sample has a size: what target and curvature ask for, then what
// is near across a face. Vertices have the least size of what ends at them, and no more than their shortest edge. From
// the vertices sizes grow along the edges (Dijkstra), then along the samples of each edge, there and back. The number
// of elements of an edge is the integral of length over size, rounded; the points lie at equal shares of it.
//
// Edges that are one by a joint make a class. Their samples are put together by share of length.

namespace rasoir::mesh {

double sizeByCurvature(const GeomAdaptor_Surface& surface, double u, double v, const SizeRules& rules) {
    double curvature = 0.0;
    switch (surface.GetType()) {
        case GeomAbs_Plane:
            return rules.target;
        case GeomAbs_Cylinder:
            curvature = 1.0 / surface.Cylinder().Radius();
            break;
        case GeomAbs_Sphere:
            curvature = 1.0 / surface.Sphere().Radius();
            break;
        case GeomAbs_Torus:
            curvature = 1.0 / surface.Torus().MinorRadius();
            break;
        case GeomAbs_Cone: {
            // Towards its tip a cone bends ever more. Elements there need not be smaller than half the target from it.
            const gp_Cone cone = surface.Cone();
            const double radius = std::abs(cone.RefRadius() + v * std::sin(cone.SemiAngle()));
            const double least = 0.5 * rules.target * std::abs(std::sin(cone.SemiAngle()));
            curvature = std::abs(std::cos(cone.SemiAngle())) / std::max(radius, least);
            break;
        }
        default: {
            gp_Pnt point;
            gp_Vec du, dv, duu, dvv, duv;
            surface.D2(u, v, point, du, dv, duu, dvv, duv);
            const double e = du.SquareMagnitude(), f = du.Dot(dv), g = dv.SquareMagnitude();
            const double area = e * g - f * f;
            // Square of the sine: parameter lines side by side say nothing of the bend.
            if (area <= 1e-14 * e * g || area <= 0.0) return rules.target;
            const gp_Vec normal = du.Crossed(dv).Normalized();
            const double l = normal.Dot(duu), m = normal.Dot(duv), n = normal.Dot(dvv);
            const double mean = 0.5 * (e * n - 2.0 * f * m + g * l) / area, gauss = (l * n - m * m) / area;
            curvature = std::abs(mean) + std::sqrt(std::max(0.0, mean * mean - gauss));
        }
    }
    if (!(curvature > 0.0)) return rules.target;
    return std::clamp(2.0 * M_PI / (rules.perTurn * curvature), rules.least(), rules.target);
}

bool withinOne(const Part& part, int edge) {
    const auto uses = part.incidence().usesOf(edge);
    if (uses.size() != 2) return false;
    const auto a = part.known.asOne.find({EntityKind::Face, uses[0].face}),
               b = part.known.asOne.find({EntityKind::Face, uses[1].face});
    return a != part.known.asOne.end() && b != part.known.asOne.end() && a->second == b->second;
}

namespace {

struct Sample {
    double parameter = 0.0, along = 0.0, size = 0.0;  // along: length up to there
    gp_Pnt point;
};

struct SampledEdge {
    std::vector<Sample> samples;         // empty: no length
    int from = 0, to = 0;                // vertices
    bool soft = false;                   // within faces that are meshed as one
    const std::string* chain = nullptr;  // of edges that are
    [[nodiscard]] double length() const { return samples.empty() ? 0.0 : samples.back().along; }
};

/// All edges of one part.
class PartEdges {
public:
    PartEdges(const Part& part, const SizeRules& rules, const std::map<int, int>& finer)
        : m_part(part), m_rules(rules), m_edges(static_cast<std::size_t>(part.incidence().edgeCount()) + 1) {
        for (int e = 1; e <= part.incidence().edgeCount(); ++e) sample(e);
        for (int f = 1; f <= part.incidence().faceCount(); ++f) {
            sizesOnFace(f);
            narrow(f);
        }
        for (const auto& [face, times] : finer)
            for (const int e : part.incidence().edgesOf(face))
                for (Sample& one : m_edges[static_cast<std::size_t>(e)].samples) one.size *= std::pow(0.5, times);
    }
    std::vector<SampledEdge>& edges() { return m_edges; }

private:
    const Part& m_part;
    const SizeRules& m_rules;
    std::vector<SampledEdge> m_edges;

    void sample(int number) {
        const TopoDS_Edge edge = m_part.incidence().edge(number);
        SampledEdge& own = m_edges[static_cast<std::size_t>(number)];
        if (BRep_Tool::Degenerated(edge)) return;
        const BRepAdaptor_Curve curve(edge);
        const double first = curve.FirstParameter(), last = curve.LastParameter();
        if (Precision::IsInfinite(first) || Precision::IsInfinite(last) || last <= first) return;
        const TopoDS_Edge forward = TopoDS::Edge(edge.Oriented(TopAbs_FORWARD));
        own.from = m_part.incidence().vertexNumber(TopExp::FirstVertex(forward));
        own.to = m_part.incidence().vertexNumber(TopExp::LastVertex(forward));
        own.soft = withinOne(m_part, number);
        const auto mark = m_part.known.asOne.find({EntityKind::Edge, number});
        if (mark != m_part.known.asOne.end()) own.chain = &mark->second;
        int spans = 8;
        if (curve.GetType() == GeomAbs_BSplineCurve) spans = std::max(spans, 4 * (curve.NbKnots() - 1));
        if (curve.GetType() != GeomAbs_Line) spans = std::max(spans, 16);
        const double chord = curve.Value(first).Distance(curve.Value(0.5 * (first + last))) +
                             curve.Value(0.5 * (first + last)).Distance(curve.Value(last));
        spans = std::clamp(static_cast<int>(std::min(2000.0, 3.0 * chord / m_rules.target)), spans, 2000);
        for (int i = 0; i <= spans; ++i) {
            Sample one;
            one.parameter = first + (last - first) * i / spans;
            one.size = m_rules.target;
            if (curve.GetType() == GeomAbs_Line) {
                one.point = curve.Value(one.parameter);
            } else {
                gp_Vec d1, d2;
                curve.D2(one.parameter, one.point, d1, d2);
                if (const double speed = d1.Magnitude(); speed > Tolerance::noLength) {
                    const double curvature = d1.Crossed(d2).Magnitude() / (speed * speed * speed);
                    if (curvature > 0.0)
                        one.size =
                            std::clamp(2.0 * M_PI / (m_rules.perTurn * curvature), m_rules.least(), m_rules.target);
                }
            }
            if (i > 0) one.along = own.samples.back().along + own.samples.back().point.Distance(one.point);
            own.samples.push_back(one);
        }
        if (!(own.length() > 0.0)) own.samples.clear();
    }

    /// What the curvature of a face asks of the edges round it.
    void sizesOnFace(int face) {
        const TopoDS_Face shape = m_part.incidence().face(face);
        const GeomAdaptor_Surface surface(BRep_Tool::Surface(shape));
        if (surface.GetType() == GeomAbs_Plane) return;
        const bool same = surface.GetType() == GeomAbs_Cylinder || surface.GetType() == GeomAbs_Sphere ||
                          surface.GetType() == GeomAbs_Torus;
        const double constant = same ? sizeByCurvature(surface, 0.0, 0.0, m_rules) : 0.0;
        for (const int e : m_part.incidence().edgesOf(face)) {
            double first = 0.0, last = 0.0;
            const Handle(Geom2d_Curve) trace =
                same ? Handle(Geom2d_Curve)()
                     : BRep_Tool::CurveOnSurface(m_part.incidence().edge(e), shape, first, last);
            if (!same && trace.IsNull()) continue;
            for (Sample& one : m_edges[static_cast<std::size_t>(e)].samples) {
                if (same) {
                    one.size = std::min(one.size, constant);
                } else {
                    const gp_Pnt2d uv = trace->Value(one.parameter);
                    one.size = std::min(one.size, sizeByCurvature(surface, uv.X(), uv.Y(), m_rules));
                }
            }
        }
    }

    /// Where another edge of the face is near, elements are no larger than the gap between.
    void narrow(int face) {
        std::vector<Bnd_Box> boxes;
        std::vector<std::pair<int, int>> segments;  // edge and the sample at its end, of each box
        const auto edges = m_part.incidence().edgesOf(face);
        for (const int e : edges) {
            const SampledEdge& own = m_edges[static_cast<std::size_t>(e)];
            if (own.soft) continue;
            for (std::size_t i = 1; i < own.samples.size(); ++i) {
                Bnd_Box& box = boxes.emplace_back();
                box.Add(own.samples[i].point);
                box.Add(own.samples[i - 1].point);
                segments.emplace_back(e, static_cast<int>(i));
            }
        }
        const BoxTree tree(boxes);
        for (const int e : edges) {
            SampledEdge& own = m_edges[static_cast<std::size_t>(e)];
            if (own.soft) continue;
            for (Sample& one : own.samples) {
                const double reach = one.size;
                const gp_Pnt& p = one.point;
                Bnd_Box here;
                here.Add(p);
                double nearest = reach;
                std::size_t asked = 0;
                tree.visit(here, reach, [&](std::size_t i) {
                    const auto [edge, end] = segments[i];
                    const SampledEdge& other = m_edges[static_cast<std::size_t>(edge)];
                    if (edge == e || (own.chain != nullptr && other.chain != nullptr && *own.chain == *other.chain) ||
                        other.from == own.from || other.from == own.to || other.to == own.from || other.to == own.to)
                        return true;
                    const gp_Pnt &a = other.samples[static_cast<std::size_t>(end) - 1].point,
                                 &b = other.samples[static_cast<std::size_t>(end)].point;
                    const gp_Vec along(a, b);
                    const double length = along.SquareMagnitude();
                    const double share = length > 0.0 ? std::clamp(gp_Vec(a, p).Dot(along) / length, 0.0, 1.0) : 0.0;
                    nearest = std::min(nearest, p.Distance(a.Translated(along * share)));
                    return ++asked < 64;
                });
                one.size = std::min(one.size, std::max(nearest, m_rules.least()));
            }
        }
    }
};

/// Edges of several parts that are one, and vertices.
class Classes {
public:
    Classes(const Model& model, const std::map<std::size_t, std::unique_ptr<PartEdges>>& parts) {
        int edges = 0, vertices = 0;
        for (const auto& [p, own] : parts) {
            m_firstEdge[p] = edges;
            m_firstVertex[p] = vertices;
            edges += model.parts[p]->incidence().edgeCount() + 1;
            vertices += model.parts[p]->incidence().vertexCount() + 1;
        }
        m_vertices = std::make_unique<Sets>(static_cast<std::size_t>(vertices));
        struct Tie {
            int other;
            bool against;
        };
        std::vector<std::vector<Tie>> ties(static_cast<std::size_t>(edges));
        for (const Joint& joint : model.joints) {
            if (joint.kind == EntityKind::Face) continue;
            std::optional<std::pair<int, bool>> first;
            for (const JointUse& use : joint.uses) {
                const auto place = model.placeOf(use.place);
                if (!place || !parts.contains(model.occurrences[*place].part)) continue;
                const std::size_t p = model.occurrences[*place].part;
                const int number = joint.kind == EntityKind::Edge ? edge(p, use.number) : vertex(p, use.number);
                if (first && joint.kind == EntityKind::Vertex) m_vertices->join(first->first, number);
                if (first && joint.kind == EntityKind::Edge) {
                    const bool against = first->second != use.reversed;
                    ties[static_cast<std::size_t>(first->first)].push_back({number, against});
                    ties[static_cast<std::size_t>(number)].push_back({first->first, against});
                }
                if (!first) first = std::pair(number, use.reversed);
            }
        }
        // The first of each class gives the sense; the others are reached over ties.
        m_root.assign(static_cast<std::size_t>(edges), -1);
        m_turned.assign(static_cast<std::size_t>(edges), false);
        for (int e = 0; e < edges; ++e) {
            if (m_root[static_cast<std::size_t>(e)] >= 0) continue;
            m_root[static_cast<std::size_t>(e)] = e;
            std::vector<int> todo{e};
            while (!todo.empty()) {
                const auto here = static_cast<std::size_t>(todo.back());
                todo.pop_back();
                for (const Tie& tie : ties[here]) {
                    const auto there = static_cast<std::size_t>(tie.other);
                    if (m_root[there] >= 0) continue;
                    m_root[there] = e;
                    m_turned[there] = m_turned[here] != tie.against;
                    todo.push_back(tie.other);
                }
            }
        }
    }
    [[nodiscard]] int edge(std::size_t part, int number) const { return m_firstEdge.at(part) + number; }
    [[nodiscard]] int vertex(std::size_t part, int number) const { return m_firstVertex.at(part) + number; }
    [[nodiscard]] int rootOfEdge(int edge) const { return m_root[static_cast<std::size_t>(edge)]; }
    [[nodiscard]] int rootOfVertex(int vertex) { return m_vertices->root(vertex); }
    [[nodiscard]] bool turned(int edge) const {
        return m_turned[static_cast<std::size_t>(edge)];
    }  ///< against its root

private:
    std::map<std::size_t, int> m_firstEdge, m_firstVertex;
    std::unique_ptr<Sets> m_vertices;
    std::vector<int> m_root;
    std::vector<bool> m_turned;
};

void grade(SampledEdge& edge, double growth) {
    for (std::size_t i = 1; i < edge.samples.size(); ++i)
        edge.samples[i].size =
            std::min(edge.samples[i].size,
                     edge.samples[i - 1].size + growth * (edge.samples[i].along - edge.samples[i - 1].along));
    for (std::size_t i = edge.samples.size(); i-- > 1;)
        edge.samples[i - 1].size =
            std::min(edge.samples[i - 1].size,
                     edge.samples[i].size + growth * (edge.samples[i].along - edge.samples[i - 1].along));
}

/// Shares of length at which a sampled edge is divided, rising from 0 to 1.
std::vector<double> sharesOf(const SampledEdge& edge, int atLeast) {
    std::vector<double> sum{0.0};
    for (std::size_t i = 1; i < edge.samples.size(); ++i) {
        const Sample &a = edge.samples[i - 1], &b = edge.samples[i];
        sum.push_back(sum.back() + 0.5 * (b.along - a.along) * (1.0 / a.size + 1.0 / b.size));
    }
    const int count = std::max(atLeast, static_cast<int>(std::lround(sum.back())));
    std::vector<double> shares{0.0};
    std::size_t i = 1;
    for (int k = 1; k < count; ++k) {
        const double wanted = sum.back() * k / count;
        while (i + 1 < sum.size() && sum[i] < wanted) ++i;
        const double part = (wanted - sum[i - 1]) / (sum[i] - sum[i - 1]);
        shares.push_back((edge.samples[i - 1].along + part * (edge.samples[i].along - edge.samples[i - 1].along)) /
                         edge.length());
    }
    shares.push_back(1.0);
    return shares;
}

/// A share of length as a parameter, and the size there.
std::pair<double, double> sampledAt(const SampledEdge& edge, double share) {
    const double along = share * edge.length();
    const auto it = std::lower_bound(edge.samples.begin() + 1, edge.samples.end() - 1, along,
                                     [](const Sample& one, double value) { return one.along < value; });
    const Sample &a = *(it - 1), &b = *it;
    const double part = b.along > a.along ? std::clamp((along - a.along) / (b.along - a.along), 0.0, 1.0) : 0.0;
    return {a.parameter + part * (b.parameter - a.parameter), a.size + part * (b.size - a.size)};
}

/// Edges of a face between the same two vertices may not both be one element long, nor may the only one of a face.
std::set<int> edgesOfThinLoops(const Part& part) {
    std::set<int> edges;
    const Incidence& topology = part.incidence();
    for (int f = 1; f <= topology.faceCount(); ++f) {
        std::map<std::pair<int, int>, std::vector<int>> between;
        std::size_t count = 0;
        for (const int e : topology.edgesOf(f)) {
            const TopoDS_Edge edge = topology.edge(e);
            if (BRep_Tool::Degenerated(edge)) continue;
            ++count;
            between[std::minmax(topology.vertexNumber(TopExp::FirstVertex(edge)),
                                topology.vertexNumber(TopExp::LastVertex(edge)))]
                .push_back(e);
        }
        for (const auto& [ends, own] : between)
            if (own.size() > 1 || count <= 2) edges.insert(own.begin(), own.end());
    }
    return edges;
}

}  // namespace

std::map<std::size_t, DividedEdges> divideEdges(const Model& model, const std::vector<std::size_t>& parts,
                                                const SizeRules& rules,
                                                const std::map<std::size_t, std::map<int, int>>& finer,
                                                Progress& progress) {
    std::map<std::size_t, std::unique_ptr<PartEdges>> all;
    for (const std::size_t p : parts) {
        if (progress.cancelled()) return {};
        const auto own = finer.find(p);
        all[p] = std::make_unique<PartEdges>(*model.parts[p], rules,
                                             own == finer.end() ? std::map<int, int>{} : own->second);
    }
    Classes classes(model, all);
    // Sizes at vertices, grown along the edges.
    struct Way {
        int to;
        double length;
    };
    std::map<int, double> sizeAt;
    std::map<int, std::vector<Way>> ways;
    const auto ends = [&](std::size_t p, const SampledEdge& edge) {
        return std::pair(classes.rootOfVertex(classes.vertex(p, edge.from)),
                         classes.rootOfVertex(classes.vertex(p, edge.to)));
    };
    const auto lower = [&](int vertex, double size) {
        const auto [it, fresh] = sizeAt.try_emplace(vertex, size);
        if (!fresh) it->second = std::min(it->second, size);
    };
    for (auto& [p, own] : all)
        for (SampledEdge& edge : own->edges()) {
            if (edge.samples.empty()) continue;
            grade(edge, rules.growth);
            const auto [a, b] = ends(p, edge);
            const double most =
                edge.soft || edge.chain != nullptr ? rules.target : std::max(edge.length(), rules.least());
            lower(a, std::min(edge.samples.front().size, most));
            lower(b, std::min(edge.samples.back().size, most));
            ways[a].push_back({b, edge.length()});
            ways[b].push_back({a, edge.length()});
        }
    using Entry = std::pair<double, int>;
    std::priority_queue<Entry, std::vector<Entry>, std::greater<>> queue;
    for (const auto& [vertex, size] : sizeAt) queue.emplace(size, vertex);
    while (!queue.empty()) {
        const auto [size, vertex] = queue.top();
        queue.pop();
        if (size > sizeAt[vertex]) continue;
        for (const Way& way : ways[vertex])
            if (const double reached = size + rules.growth * way.length; reached < sizeAt[way.to]) {
                sizeAt[way.to] = reached;
                queue.emplace(reached, way.to);
            }
    }
    // Along each edge; then the most divided of those that are one says how.
    std::map<int, std::vector<double>> sharesOfClass;
    for (auto& [p, own] : all) {
        const std::set<int> thin = edgesOfThinLoops(*model.parts[p]);
        for (std::size_t e = 1; e < own->edges().size(); ++e) {
            SampledEdge& edge = own->edges()[e];
            if (edge.samples.empty()) continue;
            const auto [a, b] = ends(p, edge);
            edge.samples.front().size = std::min(edge.samples.front().size, sizeAt[a]);
            edge.samples.back().size = std::min(edge.samples.back().size, sizeAt[b]);
            grade(edge, rules.growth);
            const int number = classes.edge(p, static_cast<int>(e));
            std::vector<double> shares = sharesOf(edge, edge.from == edge.to                 ? 3
                                                        : thin.contains(static_cast<int>(e)) ? 2
                                                                                             : 1);
            if (classes.turned(number)) {
                std::reverse(shares.begin(), shares.end());
                for (double& share : shares) share = 1.0 - share;
            }
            std::vector<double>& most = sharesOfClass[classes.rootOfEdge(number)];
            if (shares.size() > most.size()) most = std::move(shares);
        }
    }
    std::map<std::size_t, DividedEdges> result;
    for (auto& [p, own] : all) {
        DividedEdges& divided = result[p];
        divided.parameters.resize(own->edges().size());
        divided.sizes.resize(own->edges().size());
        for (std::size_t e = 1; e < own->edges().size(); ++e) {
            const SampledEdge& edge = own->edges()[e];
            if (edge.samples.empty()) continue;
            const int number = classes.edge(p, static_cast<int>(e));
            std::vector<double> shares = sharesOfClass[classes.rootOfEdge(number)];
            if (classes.turned(number)) {
                std::reverse(shares.begin(), shares.end());
                for (double& share : shares) share = 1.0 - share;
            }
            for (const double share : shares) {
                const auto [parameter, size] = sampledAt(edge, share);
                divided.parameters[e].push_back(parameter);
                divided.sizes[e].push_back(size);
            }
            divided.parameters[e].front() = edge.samples.front().parameter;
            divided.parameters[e].back() = edge.samples.back().parameter;
        }
    }
    return result;
}

}  // namespace rasoir::mesh
