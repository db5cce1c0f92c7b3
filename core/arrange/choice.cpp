#include "arrange/choice.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <numeric>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>

#include "arrange/maker.h"
#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "model/lineage_builder.h"
#include "topology/bodies.h"
#include "topology/soundness.h"

namespace rasoir::arrange {
namespace {

struct Placed {
    int piece;
    TopoDS_Face face;
};

/// Where the faces and edges of a shape come from: the owners of its pieces and arcs say it.
void tellLineage(const Arrangement& all, const std::vector<Placed>& placed, Maker& maker, const std::set<int>& cutters,
                 Chosen& chosen) {
    std::map<int, std::unique_ptr<LineageBuilder>> builders;
    const auto builder = [&](int input) -> LineageBuilder& {
        auto& own = builders[input];
        if (!own) own = std::make_unique<LineageBuilder>(*all.topology[input], chosen.shape);
        return *own;
    };
    const Incidence now(chosen.shape);
    std::set<int> arcs;
    for (const auto& [p, face] : placed) {
        bool cut = false;
        for (const Owner& owner : all.pieces[p].owners) {
            const TopoDS_Face old = all.faceOf(owner);
            const bool turned = (old.Orientation() == face.Orientation()) == owner.reversed;
            builder(owner.input).face(owner.number, face, !old.IsSame(face), turned);
            cut = cut || cutters.contains(owner.input);
        }
        chosen.faceOfPiece[p] = now.faceNumber(face);
        if (cut) chosen.cutFaces.push_back(chosen.faceOfPiece[p]);
        for (const Use& use : all.pieces[p].uses) arcs.insert(use.arc);
    }
    for (const int a : arcs) {
        const TopoDS_Edge edge = maker.edge(a);
        chosen.edgeOfArc[a] = now.edgeNumber(edge);
        if (all.arcs[a].from >= 0 && all.arcs[a].to >= 0) {
            chosen.vertexOfNode[all.arcs[a].from] = now.vertexNumber(TopExp::FirstVertex(edge));
            chosen.vertexOfNode[all.arcs[a].to] = now.vertexNumber(TopExp::LastVertex(edge));
        }
        for (const Owner& owner : all.arcs[a].owners) {
            const TopoDS_Edge made = maker.edge(a);
            const TopoDS_Edge old = all.topology[owner.input]->edge(owner.number);
            builder(owner.input).edge(owner.number, made, !old.IsSame(made), owner.reversed);
        }
    }
    for (auto& [input, own] : builders) chosen.lineage[input] = own->finish();
    std::sort(chosen.cutFaces.begin(), chosen.cutFaces.end());
}

/// Whether every face that was made, or made anew because an edge of it was, is sound. What is handed on as the very
/// same object is as sound as it came; and a face that came unsound is not held against the step.
Result<void> prove(const Arrangement& all, const std::vector<Placed>& placed) {
    for (const auto& [p, face] : placed) {
        const Owner& owner = all.pieces[p].owners.front();
        const TopoDS_Face from = all.faceOf(owner);
        if (face.IsSame(from) || soundFace(face) || !soundFace(from)) continue;
        return fail(
            ProblemKind::NotPossible,
            fmt::format("A piece of face {} of \"{}\" would not be sound.", owner.number, all.inputs[owner.input].name),
            "Move what cuts it a little, or mend the face first.",
            {all.inputs[owner.input].name, {owner.number}, skinOf(face).centre});
    }
    return {};
}

}  // namespace

std::vector<std::pair<int, bool>> piecesWithin(const Arrangement& all, int sheet, int solid) {
    std::vector<std::pair<int, bool>> pieces;
    for (std::size_t p = 0; p < all.pieces.size(); ++p) {
        const Piece& piece = all.pieces[p];
        const auto owner = std::find_if(piece.owners.begin(), piece.owners.end(),
                                        [sheet](const Owner& one) { return one.input == sheet; });
        if (owner == piece.owners.end()) continue;
        if (all.cells[piece.plusCell].inputs.contains(solid) || all.cells[piece.minusCell].inputs.contains(solid))
            pieces.emplace_back(static_cast<int>(p), owner->reversed);
    }
    return pieces;
}

std::vector<int> cellsIn(const Arrangement& all, int input) {
    std::vector<int> cells;
    for (std::size_t c = 0; c < all.cells.size(); ++c)
        if (all.cells[c].inputs.contains(input)) cells.push_back(static_cast<int>(c));
    return cells;
}

Result<Chosen> solidsOf(const Arrangement& all, const std::vector<int>& cells, const std::set<int>& cutters) {
    Chosen chosen;
    std::vector<char> in(all.cells.size(), false);
    for (const int c : cells) in[c] = true;
    std::vector<int> pieces;
    for (std::size_t p = 0; p < all.pieces.size(); ++p)
        if (in[all.pieces[p].plusCell] != in[all.pieces[p].minusCell]) pieces.push_back(static_cast<int>(p));
    if (pieces.empty()) return chosen;
    Maker maker(all, pieces);
    std::vector<Placed> placed;
    std::vector<TopoDS_Face> faces;
    for (const int p : pieces) {
        placed.push_back({p, maker.face(p, in[all.pieces[p].plusCell])});
        faces.push_back(placed.back().face);
    }
    const Bodies bodies = bodiesFrom(faces);
    // Closed skins that look outwards are proof enough; the volume tells a skin that was turned or taken for a void.
    // All is seen from one point: where faces meet only within a file's tolerance, a volume depends on that point.
    TopExp_Explorer corner(bodies.shape, TopAbs_VERTEX);
    const gp_Pnt base = corner.More() ? BRep_Tool::Pnt(TopoDS::Vertex(corner.Current())) : gp_Pnt();
    double expected = 0.0;
    for (const TopoDS_Face& face : faces) expected += volumeSeenFrom(base, face);
    const double made = volumeSeenFrom(base, bodies.shape);
    if (bodies.sheets > 0 || bodies.looseFaces > 0 || bodies.solids == 0 || made <= 0.0 ||
        std::abs(made - expected) > Tolerance::sameSize * std::abs(expected))
        return fail(ProblemKind::NotPossible, "The pieces do not make closed bodies.",
                    "Mend the bodies first, or move one of them a little.");
    if (auto sound = prove(all, placed); !sound) return tl::unexpected(sound.error());
    chosen.shape = bodies.shape;
    chosen.solids = bodies.solids;
    chosen.volume = made;
    chosen.widest = maker.widest();
    tellLineage(all, placed, maker, cutters, chosen);
    return chosen;
}

Result<Chosen> sheetOf(const Arrangement& all, const std::vector<std::pair<int, bool>>& pieces,
                       const std::set<int>& cutters) {
    Chosen chosen;
    std::vector<int> numbers;
    for (const auto& [p, reversed] : pieces) numbers.push_back(p);
    Maker maker(all, numbers);
    std::vector<Placed> placed;
    std::vector<TopoDS_Face> faces;
    for (const auto& [p, reversed] : pieces) {
        placed.push_back({p, maker.face(p, reversed)});
        faces.push_back(placed.back().face);
    }
    chosen.shape = bodiesFrom(faces).shape;
    if (auto sound = prove(all, placed); !sound) return tl::unexpected(sound.error());
    chosen.widest = maker.widest();
    tellLineage(all, placed, maker, cutters, chosen);
    return chosen;
}

std::vector<std::pair<int, bool>> piecesOf(const Arrangement& all, int sheet) {
    std::vector<std::pair<int, bool>> mine;
    for (std::size_t p = 0; p < all.pieces.size(); ++p)
        for (const Owner& owner : all.pieces[p].owners)
            if (owner.input == sheet && all.topology[sheet]->bodyOf(owner.number) < 0) {
                mine.emplace_back(static_cast<int>(p),
                                  (all.faceOf(owner).Orientation() == TopAbs_REVERSED) != owner.reversed);
                break;
            }
    return mine;
}

Result<std::vector<Chosen>> sheetsOf(const Arrangement& all, int input, const std::set<int>& cutters) {
    const auto sided = piecesOf(all, input);
    std::map<int, bool> turned(sided.begin(), sided.end());
    std::vector<int> mine;
    for (const auto& [p, side] : sided) mine.push_back(p);
    // Arcs along which a cutter runs part the sheet.
    std::set<int> cut;
    for (const Piece& piece : all.pieces) {
        const bool cuts = std::any_of(piece.owners.begin(), piece.owners.end(),
                                      [&](const Owner& owner) { return cutters.contains(owner.input); });
        if (!cuts) continue;
        for (const Use& use : piece.uses) cut.insert(use.arc);
    }
    // Also where it ends within the cutter, as the line along which a plane crosses a lone flat sheet does.
    for (std::size_t a = 0; a < all.arcs.size(); ++a)
        if (std::any_of(cutters.begin(), cutters.end(),
                        [&](int cutter) { return all.arcs[a].within.contains(cutter); }))
            cut.insert(static_cast<int>(a));
    std::map<int, int> group;
    for (const int p : mine) group[p] = p;
    const std::function<int(int)> root = [&](int p) {
        while (group[p] != p) p = group[p];
        return p;
    };
    std::map<int, int> firstAt;
    for (const int p : mine)
        for (const Use& use : all.pieces[p].uses) {
            if (cut.contains(use.arc)) continue;
            const auto [known, fresh] = firstAt.try_emplace(use.arc, p);
            if (!fresh) group[root(p)] = root(known->second);
        }
    std::map<int, std::vector<int>> groups;
    for (const int p : mine) groups[root(p)].push_back(p);
    std::vector<Chosen> sheets;
    for (const auto& [first, pieces] : groups) {
        std::vector<std::pair<int, bool>> own;
        for (const int p : pieces) own.emplace_back(p, turned[p]);
        auto sheet = sheetOf(all, own, cutters);
        if (!sheet) return tl::unexpected(sheet.error());
        sheets.push_back(std::move(*sheet));
    }
    return sheets;
}

}  // namespace rasoir::arrange
