#include "mend/stitch.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_MapOfShape.hxx>

#include "mend/stitcher.h"
#include "model/lineage_builder.h"

namespace rasoir::mend {

Result<Stitched> Stitcher::run() {
    m_collapsed = m_wanted.collapsed;
    for (const int e : m_wanted.collapsed)  // one that is closed already has nothing to bring together
        if (BRep_Tool::Degenerated(m_incidence.edge(e)) ||
            TopExp::FirstVertex(m_incidence.edge(e)).IsSame(TopExp::LastVertex(m_incidence.edge(e))))
            m_collapsed.erase(e);
    for (;;) {
        const std::size_t before = m_collapsed.size();
        auto done = attempt();
        if (done || m_collapsed.size() == before) return done;
        // What spoiled a face stays as it was; the rest is tried again.
        m_pairs.clear();
        m_left.clear();
        m_again = m_refusals = 0;
    }
}

Result<Stitched> Stitcher::attempt() {
    auto rims = survey::pairRims(m_incidence, m_wanted.upTo, m_wanted.exact, m_progress, {}, m_collapsed);
    if (!rims) return tl::unexpected(rims.error());
    m_rims = std::move(*rims);
    m_surfaces.resize(static_cast<std::size_t>(m_incidence.faceCount()) + 1);
    for (int f = 1; f <= m_incidence.faceCount(); ++f) m_surfaces[f] = BRep_Tool::Surface(m_incidence.face(f));
    mapVertices();
    m_piecesOf.assign(static_cast<std::size_t>(m_incidence.edgeCount()) + 1, {});
    for (std::size_t p = 0; p < m_rims.pieces.size(); ++p)
        m_piecesOf[m_rims.pieces[p].edge].push_back(static_cast<int>(p));
    m_checked.assign(static_cast<std::size_t>(m_incidence.faceCount()) + 1, {});
    choosePairs();
    if (m_pairs.empty() && m_collapsed.empty())
        return fail(ProblemKind::NotPossible,
                    fmt::format("No two open edges run alongside each other within {} mm.", m_wanted.upTo),
                    "Raise the limit, or patch the opening.");
    Stitched result;
    constexpr int rounds = 11;
    for (int round = 0; round < rounds; ++round) {
        if (m_progress.cancelled()) return cancelled();
        begin();
        makeCorners();
        m_progress.report(0.5, "Joining edges");
        if (auto made = makeEdges(); !made) return tl::unexpected(made.error());
        if (m_again == 0) {
            m_progress.report(0.7, "Rebuilding faces");
            rebuildFaces();
            spoiledFaces(round < 5);
        }
        if (m_again == 0) break;
        std::erase_if(m_pairs, [](const Pair& pair) { return pair.refused; });
        if (std::exchange(m_spoiledByCollapse, false) || (m_pairs.empty() && m_collapsed.empty()) ||
            round + 1 == rounds)
            return refusal();
        m_again = 0;
    }
    finish(result);
    return result;
}

tl::unexpected<Problem> Stitcher::refusal() const {
    Place place;
    std::string why = "None of the pairs of open edges could be joined.";
    if (!m_left.empty()) {
        place.faces = {m_left.front().faceA, m_left.front().faceB};
        place.point = m_left.front().where;
        why = fmt::format("No pair of open edges could be joined: {}", m_left.front().why);
    }
    return fail(ProblemKind::NotPossible, why, "Lower the limit, or join the edges one by one.", std::move(place));
}

void Stitcher::mapVertices() {
    m_edgesAtVertex.clear();
    m_edgesAtVertex.resize(static_cast<std::size_t>(m_incidence.vertexCount()) + 1);
    for (int e = 1; e <= m_incidence.edgeCount(); ++e)
        for (TopoDS_Iterator it(m_incidence.edge(e)); it.More(); it.Next()) {
            auto& at = m_edgesAtVertex[m_incidence.vertexNumber(it.Value())];
            if (at.empty() || at.back() != e) at.push_back(e);
        }
}

void Stitcher::choosePairs() {
    for (std::size_t p = 0; p < m_rims.pieces.size(); ++p) {
        const RimPiece& a = m_rims.pieces[p];
        if (a.partner <= static_cast<int>(p)) continue;
        const RimPiece& b = piece(a.partner);
        if (a.most > m_wanted.upTo && a.most > m_wanted.exact) continue;
        const auto faces = std::minmax(a.face, b.face);
        const std::pair<int, int> key(faces.first, faces.second);
        if (std::find(m_wanted.kept.begin(), m_wanted.kept.end(), key) != m_wanted.kept.end()) continue;
        if (!m_wanted.only.empty() && std::find(m_wanted.only.begin(), m_wanted.only.end(), key) == m_wanted.only.end())
            continue;
        Pair pair;
        pair.a = static_cast<int>(p);
        pair.b = a.partner;
        m_pairs.push_back(std::move(pair));
    }
}

void Stitcher::begin() {
    m_newVertex.assign(m_rims.corners.size(), TopoDS_Vertex());
    m_cornerPoint.assign(m_rims.corners.size(), gp_Pnt());
    m_replaced.assign(static_cast<std::size_t>(m_incidence.edgeCount()) + 1, {});
    m_faces.assign(static_cast<std::size_t>(m_incidence.faceCount()) + 1, TopoDS_Face());
    m_changed.assign(m_faces.size(), false);
    m_pairOfPiece.assign(m_rims.pieces.size(), -1);
    for (std::size_t i = 0; i < m_pairs.size(); ++i)
        m_pairOfPiece[m_pairs[i].a] = m_pairOfPiece[m_pairs[i].b] = static_cast<int>(i);
}

void Stitcher::finish(Stitched& result) {
    m_progress.report(0.9, "Putting bodies together");
    // Solids that were not touched stay; all else is put together anew.
    std::vector<TopoDS_Shape> intact;
    TopTools_MapOfShape inIntact;
    for (TopExp_Explorer solid(m_shape, TopAbs_SOLID); solid.More(); solid.Next()) {
        bool touched = false;
        for (TopExp_Explorer face(solid.Current(), TopAbs_FACE); face.More() && !touched; face.Next())
            touched = m_changed[m_incidence.faceNumber(face.Current())] != 0;
        if (touched) continue;
        intact.push_back(solid.Current());
        for (TopExp_Explorer face(solid.Current(), TopAbs_FACE); face.More(); face.Next()) inIntact.Add(face.Current());
    }
    std::vector<TopoDS_Face> loose;
    for (int f = 1; f <= m_incidence.faceCount(); ++f)
        if (!m_faces[f].IsNull() && !inIntact.Contains(m_faces[f])) loose.push_back(m_faces[f]);
    result.bodies = bodiesFrom(loose);
    result.shape = result.bodies.shape;
    if (!intact.empty()) {
        TopoDS_Compound all;
        const BRep_Builder builder;
        builder.MakeCompound(all);
        for (const TopoDS_Shape& solid : intact) builder.Add(all, solid);
        if (result.shape.ShapeType() == TopAbs_COMPOUND)
            for (TopoDS_Iterator it(result.shape); it.More(); it.Next()) builder.Add(all, it.Value());
        else
            builder.Add(all, result.shape);
        result.shape = all;
        result.bodies.solids += static_cast<int>(intact.size());
    }
    for (const Pair& pair : m_pairs) {
        ++result.joined;
        result.widest = std::max(result.widest, piece(pair.a).most);
        if (pair.shift > result.largestShift) {
            result.largestShift = pair.shift;
            result.shiftAt = pair.shiftAt;
        }
        if (!pair.exact && pair.step > result.largestStep) {
            result.largestStep = pair.step;
            result.stepAt = pair.stepAt;
        }
    }
    result.collapsed = m_collapsed.size();
    result.left = std::move(m_left);
    result.left.insert(result.left.end(), m_stayed.begin(), m_stayed.end());
    LineageBuilder lineage(m_incidence, result.shape);
    for (int f = 1; f <= m_incidence.faceCount(); ++f)
        if (!m_faces[f].IsNull() && m_changed[f]) lineage.face(f, m_faces[f]);
    for (int e = 1; e <= m_incidence.edgeCount(); ++e) {
        const auto& parts = m_replaced[e];
        if (m_collapsed.contains(e)) continue;
        for (const Replacement& part : parts) lineage.edge(e, part.edge);
    }
    result.lineage = lineage.finish();
}

Result<Stitched> stitch(const Incidence& incidence, const TopoDS_Shape& shape, const StitchWanted& wanted,
                        Progress& progress) {
    return Stitcher(incidence, shape, wanted, progress).run();
}

}  // namespace rasoir::mend
