#include "divide/cut.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRep_Builder.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>

#include "arrange/choice.h"
#include "common/sets.h"
#include "common/tolerance.h"
#include "divide/piece_measures.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "model/places.h"
#include "topology/making.h"

// Places of one part that a cutter meets in the same way, seen from the part, are cut once and stay places of the same
// pieces. So: for each place the cutters are brought into the part's coordinates; places with equal cutters make a
// class; each class is one arrangement of the part with its cutters, and each cell of it that lies in the part is a
// piece.

namespace rasoir::divide {
namespace {

struct Cutters {
    std::vector<gp_Pln> planes;                            // model coordinates
    std::vector<std::pair<TopoDS_Face, gp_Trsf>> carried;  // round faces carried on, and where they stand
    std::vector<std::size_t> occurrences;                  // that cut with their skin
};

/// Cutters as one place of a part sees them.
struct Seen {
    std::vector<gp_Pln> planes;
    std::vector<TopoDS_Shape> bodies;  // and faces carried on
    std::vector<gp_Trsf> from;         // of the bodies
};

bool alike(const gp_Trsf& a, const gp_Trsf& b, double tolerance) {
    const gp_Trsf apart = a.Inverted() * b;
    if (apart.TranslationPart().Modulus() > tolerance) return false;
    for (const gp_XYZ& axis : {gp_XYZ(1, 0, 0), gp_XYZ(0, 1, 0)}) {
        gp_Vec turned(axis);
        turned.Transform(apart);
        if (turned.Subtracted(gp_Vec(axis)).Magnitude() > Tolerance::noWay) return false;
    }
    return true;
}

bool alike(const Seen& a, const Seen& b, double tolerance) {
    if (a.planes.size() != b.planes.size() || a.bodies.size() != b.bodies.size()) return false;
    for (std::size_t i = 0; i < a.planes.size(); ++i)
        if (a.planes[i].Axis().Direction().Angle(b.planes[i].Axis().Direction()) > Tolerance::exactDirection ||
            a.planes[i].Distance(b.planes[i].Location()) > tolerance)
            return false;
    for (std::size_t i = 0; i < a.from.size(); ++i)
        if (!alike(a.from[i], b.from[i], tolerance)) return false;
    return true;
}

/// Parts of more pieces are not measured: it would cost more than the cut.
constexpr std::size_t measuredPieces = 50;

struct CutPiece {
    arrange::Chosen chosen;
    std::string side;
    double measure = 0.0;  // [mm^3], of sheets [mm^2]
};

/// What pieces add up to, beside what they were cut from: seen from one point each.
struct Balance {
    FaceMoments whole, pieces;
    gp_Pnt base;
    bool begun = false;

    void add(const TopoDS_Shape& shape, FaceMoments& sum) {
        for (TopExp_Explorer it(shape, TopAbs_FACE); it.More(); it.Next()) {
            const auto own = momentsOf(TopoDS::Face(it.Current()), base);
            if (own) sum.add(*own);
        }
    }
    void add(const Part& part, const std::vector<CutPiece>& made) {
        if (part.kind() != BodyKind::Solid) return;
        if (!begun) base = skinOf(part.shape).centre;
        begun = true;
        add(part.shape, whole);
        for (const CutPiece& piece : made) add(piece.chosen.shape, pieces);
    }
    [[nodiscard]] std::string told() const {
        const BodyMoments before = bodyOf(whole, base), after = bodyOf(pieces, base);
        if (before.volume == 0.0) return {};
        const double off = after.centre.Distance(before.centre);
        return std::abs(after.volume - before.volume) <= Tolerance::rounding * std::abs(before.volume)
                   ? fmt::format("In all {} mm³ as before, centre {} mm off.", readable(before.volume), readable(off))
                   : fmt::format("In all {} mm³, {} mm³ more than before, centre {} mm off.", readable(after.volume),
                                 readable(after.volume - before.volume), readable(off));
    }
};

/// The bodies of a part, those that share a vertex together: each group is cut for itself. Solids that merely touch or
/// overlap, as they do in files, have nothing to say about each other here.
std::vector<TopoDS_Shape> groupsOf(const Part& part) {
    const Incidence& topology = part.incidence();
    const int count = topology.bodyCount();
    if (count < 2) return {part.shape};
    Sets together(static_cast<std::size_t>(count) + 1);
    std::vector<int> firstAt(static_cast<std::size_t>(topology.vertexCount()) + 1, 0);
    for (int b = 1; b <= count; ++b)
        for (TopExp_Explorer it(topology.body(b), TopAbs_VERTEX); it.More(); it.Next()) {
            int& first = firstAt[static_cast<std::size_t>(topology.vertexNumber(it.Current()))];
            if (first > 0) together.join(first, b);
            first = b;
        }
    std::map<int, std::vector<int>> groups;  // by their first body, so that their order is that of the part
    for (int b = 1; b <= count; ++b) groups[together.root(b)].push_back(b);
    std::vector<TopoDS_Shape> shapes;
    for (const auto& [first, bodies] : groups) {
        std::vector<TopoDS_Shape> own;
        for (const int b : bodies) own.push_back(topology.body(b));
        shapes.push_back(gathered(own));
    }
    return shapes;
}

int numberIn(const Incidence& whole, const Incidence& group, EntityKind kind, int number) {
    switch (kind) {
        case EntityKind::Body:
            return whole.bodyNumber(group.body(number));
        case EntityKind::Face:
            return whole.faceNumber(group.face(number));
        case EntityKind::Edge:
            return whole.edgeNumber(group.edge(number));
        case EntityKind::Vertex:
            break;
    }
    return whole.vertexNumber(group.vertex(number));
}

/// A group that nothing meets, as a piece: the very same shape.
CutPiece untouched(const TopoDS_Shape& group, const Incidence& whole) {
    CutPiece piece;
    piece.chosen.shape = group;
    const Incidence own(group);
    piece.chosen.solids = own.solidCount();
    piece.chosen.volume = piece.chosen.solids > 0 ? volumeOf(group) : 0.0;
    piece.measure = piece.chosen.solids > 0 ? piece.chosen.volume : areaOf(group);
    PartLineage& lineage = piece.chosen.lineage[0];
    for (const auto& [kind, count] : {std::pair{EntityKind::Body, own.bodyCount()},
                                      {EntityKind::Face, own.faceCount()},
                                      {EntityKind::Edge, own.edgeCount()},
                                      {EntityKind::Vertex, own.vertexCount()}})
        for (int number = 1; number <= count; ++number)
            lineage.of(kind).push_back({numberIn(whole, own, kind, number), number, false, false});
    return piece;
}

/// The pieces of a group of bodies; one, the group itself, where nothing meets it.
Result<std::vector<CutPiece>> piecesOfGroup(const TopoDS_Shape& group, const Part& part, const Seen& seen,
                                            double tolerance, Progress& progress) {
    Bnd_Box box;
    BRepBndLib::Add(group, box, false);
    std::vector<arrange::Input> inputs{{group, part.name}};
    std::set<int> cutters;
    for (const gp_Pln& plane : seen.planes) {
        const TopoDS_Face face = faceAcross(plane, box, tolerance);
        if (face.IsNull()) continue;
        cutters.insert(static_cast<int>(inputs.size()));
        inputs.push_back({face, fmt::format("cutter {}", inputs.size())});
    }
    for (const TopoDS_Shape& body : seen.bodies) {
        Bnd_Box reach;
        BRepBndLib::Add(body, reach, false);
        if (box.IsOut(reach)) continue;
        cutters.insert(static_cast<int>(inputs.size()));
        inputs.push_back({body, fmt::format("cutter {}", inputs.size())});
    }
    if (cutters.empty()) return std::vector<CutPiece>{untouched(group, part.incidence())};
    const auto all = arrange::arrange(std::move(inputs), tolerance, progress);
    if (!all) return tl::unexpected(all.error());
    std::vector<CutPiece> pieces;
    // Whole and pieces are seen from one point: see decision 64.
    const gp_Pnt base = skinOf(group).centre;
    double sum = 0.0;
    for (const int cell : arrange::cellsIn(*all, 0)) {
        auto chosen = arrange::solidsOf(*all, {cell}, cutters);
        if (!chosen) return tl::unexpected(chosen.error());
        sum += volumeSeenFrom(base, chosen->shape);
        pieces.push_back({std::move(*chosen), {}, 0.0});
        pieces.back().measure = pieces.back().chosen.volume;
    }
    auto sheets = arrange::sheetsOf(*all, 0, cutters);
    if (!sheets) return tl::unexpected(sheets.error());
    for (arrange::Chosen& sheet : *sheets) {
        pieces.push_back({std::move(sheet), {}, 0.0});
        pieces.back().measure = areaOf(pieces.back().chosen.shape);
    }
    const Incidence& own = *all->topology[0];
    // A cutter that lies in a face, or touches from outside, leaves as many bodies as there were.
    if (static_cast<int>(pieces.size()) <= own.bodyCount())
        return std::vector<CutPiece>{untouched(group, part.incidence())};
    const bool solid = own.solidCount() == own.bodyCount();
    // 1e-5: volumes by tangents along spline edges are good to about 1e-6.
    if (const double whole = volumeSeenFrom(base, group); solid && std::abs(sum - whole) > 1e-5 * std::abs(whole))
        return fail(ProblemKind::Internal,
                    fmt::format("The pieces of \"{}\" do not add up to its volume ({} of {} mm³).", part.name,
                                readable(sum), readable(whole)),
                    "Mend the part first.", {part.name, {}, {}});
    for (CutPiece& piece : pieces)
        if (const auto lineage = piece.chosen.lineage.find(0); lineage != piece.chosen.lineage.end())
            for (const EntityKind kind : entityKinds)
                for (Link& link : lineage->second.of(kind))
                    link.before = numberIn(part.incidence(), own, kind, link.before);
    return pieces;
}

/// All pieces of a part; none where nothing is met.
Result<std::vector<CutPiece>> piecesOf(const Part& part, const Seen& seen, const std::string& keep, double tolerance,
                                       Progress& progress) {
    const std::vector<TopoDS_Shape> groups = groupsOf(part);
    std::vector<CutPiece> pieces;
    bool met = false;
    for (const TopoDS_Shape& group : groups) {
        auto own = piecesOfGroup(group, part, seen, tolerance, progress);
        if (!own) return tl::unexpected(own.error());
        met = met || own->size() > 1 || !own->front().chosen.shape.IsSame(group);
        std::move(own->begin(), own->end(), std::back_inserter(pieces));
    }
    if (!met) return std::vector<CutPiece>{};
    Bnd_Box box;
    BRepBndLib::Add(part.shape, box, false);
    std::vector<gp_Pln> across;
    for (const gp_Pln& plane : seen.planes)
        if (!faceAcross(plane, box, tolerance).IsNull()) across.push_back(plane);
    // On which side of the planes is a piece? It lies wholly on one of each, so its centre tells.
    for (CutPiece& piece : pieces) {
        const gp_Pnt centre = skinOf(piece.chosen.shape).centre;
        bool above = true, below = true;
        for (const gp_Pln& plane : across) {
            const bool positive = gp_Vec(plane.Location(), centre).Dot(plane.Axis().Direction()) > 0.0;
            above = above && positive;
            below = below && !positive;
        }
        if (across.size() == 1 && seen.bodies.empty()) piece.side = sideName(across.front(), above);
        if ((keep == "above" && !above) || (keep == "below" && !below)) piece.side = "-";
    }
    if (keep != "both") std::erase_if(pieces, [](const CutPiece& piece) { return piece.side == "-"; });
    if (across.size() > 1 || !seen.bodies.empty())
        for (std::size_t i = 0; i < pieces.size(); ++i) pieces[i].side = fmt::format("piece {}", i + 1);
    return pieces;
}

Result<Cutters> cuttersOf(const Model& model, const Cut& step) {
    Cutters cutters;
    for (const Plane& one : step.planes) {
        const auto plane = planeOf(one);
        if (!plane) return tl::unexpected(plane.error());
        cutters.planes.push_back(*plane);
    }
    for (const FaceRef& face : step.faces) {
        const auto found = findFace(model, face);
        if (!found) return tl::unexpected(found.error());
        const Part& part = *model.parts[found->part];
        const auto place = std::find_if(model.occurrences.begin(), model.occurrences.end(),
                                        [&](const Occurrence& o) { return o.part == found->part && !o.aside; });
        const gp_Trsf placement = place == model.occurrences.end() ? gp_Trsf() : place->placement;
        if (surfaceKind(part.incidence().face(found->face)) != SurfaceKind::Plane) {
            Bnd_Box box;
            for (const Occurrence& one : model.occurrences)
                if (!one.aside && !model.parts[one.part]->shape.IsNull())
                    BRepBndLib::Add(
                        model.parts[one.part]->shape.Moved(TopLoc_Location(placement.Inverted() * one.placement)), box,
                        false);
            const auto carried = faceCarriedOn(part, found->face, step.offset, box);
            if (!carried) return tl::unexpected(carried.error());
            cutters.carried.emplace_back(*carried, placement);
            continue;
        }
        auto plane = planeOf(model, face, step.offset);
        if (!plane) return tl::unexpected(plane.error());
        plane->Transform(placement);
        cutters.planes.push_back(*plane);
    }
    if (!step.bodies.empty()) {
        const auto places = placesNamed(model, step.bodies);
        if (!places) return tl::unexpected(places.error());
        cutters.occurrences = *places;
    }
    return cutters;
}

}  // namespace

std::vector<ParameterInfo> Cut::infos() {
    return {
        {"parts", "list of names", "", "Parts or places to cut; empty: all that is not set aside.", Json::array()},
        {"planes", "list of planes", "mm", "{\"through\": [x, y, z], \"normal\": [x, y, z]}, model coordinates.",
         Json::array()},
        {"faces", "list of faces", "", "Faces along which is cut, carried on past their ends.", Json::array()},
        {"offset", "number", "mm", "Distance of the cut from those faces, outwards.", 0.0},
        {"bodies", "list of names", "", "Parts or places that cut with their skin.", Json::array()},
        {"keep", "text", "", "both, above or below: the side of the planes that stays.", "both"},
        {"group", "text", "", "Name of a group that the cut faces make; empty: none.", ""},
        {"without", "list of names", "", "Pieces, as they are named after the cut, that are dropped.", Json::array()}};
}

void to_json(Json& json, const Cut& step) {
    json = Json::object();
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (!step.planes.empty()) json["planes"] = step.planes;
    if (!step.faces.empty()) {
        json["faces"] = step.faces;
        json["offset"] = step.offset;
    }
    if (!step.bodies.empty()) json["bodies"] = step.bodies;
    if (step.keep != "both") json["keep"] = step.keep;
    if (!step.group.empty()) json["group"] = step.group;
    if (!step.without.empty()) json["without"] = step.without;
}

void from_json(const Json& json, Cut& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.planes = json.value("planes", std::vector<Plane>{});
    step.faces = json.value("faces", std::vector<FaceRef>{});
    step.offset = json.value("offset", 0.0);
    step.bodies = json.value("bodies", std::vector<std::string>{});
    step.keep = json.value("keep", "both");
    if (step.keep != "both" && step.keep != "above" && step.keep != "below")
        throw std::invalid_argument("keep is both, above or below");
    step.group = json.value("group", "");
    step.without = json.value("without", std::vector<std::string>{});
}

Result<Outcome> cut(const Model& model, const Cut& step, Progress& progress) {
    if (!std::isfinite(step.offset)) return fail(ProblemKind::BadInput, "The offset is no number.");
    const auto cutters = cuttersOf(model, step);
    if (!cutters) return tl::unexpected(cutters.error());
    if (cutters->planes.empty() && cutters->carried.empty() && cutters->occurrences.empty())
        return fail(ProblemKind::BadInput, "There is nothing to cut with.", "Give a plane, a face or a body.");
    const auto meant = placesMeant(model, step.parts);
    if (!meant) return tl::unexpected(meant.error());
    std::set<std::size_t> wanted(meant->begin(), meant->end());
    for (const std::size_t o : cutters->occurrences) wanted.erase(o);

    Outcome outcome;
    outcome.model = model;
    const double tolerance = model.samePoint();
    std::size_t pieces = 0, cutParts = 0;
    std::set<std::string> dropped;  // of those that were to be
    PieceMeasures all;
    Balance balance;
    std::string thinnest;  // the piece that is
    Group made{step.group, "cut faces", std::nullopt, {}, std::nullopt};
    std::vector<std::pair<std::size_t, std::vector<std::size_t>>> more;  // occurrence: further parts that stand there
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const Part& part = *model.parts[p];
        if (part.shape.IsNull() || part.lump) continue;
        std::vector<std::pair<Seen, std::vector<std::size_t>>> classes;
        for (const std::size_t o : wanted) {
            if (model.occurrences[o].part != p) continue;
            const gp_Trsf inverse = model.occurrences[o].placement.Inverted();
            Seen seen;
            for (const gp_Pln& plane : cutters->planes) seen.planes.push_back(plane.Transformed(inverse));
            for (const auto& [face, placement] : cutters->carried) {
                seen.from.push_back(inverse * placement);
                seen.bodies.push_back(face.Moved(TopLoc_Location(seen.from.back())));
            }
            for (const std::size_t c : cutters->occurrences) {
                seen.from.push_back(inverse * model.occurrences[c].placement);
                seen.bodies.push_back(
                    model.parts[model.occurrences[c].part]->shape.Moved(TopLoc_Location(seen.from.back())));
            }
            const auto known = std::find_if(classes.begin(), classes.end(),
                                            [&](const auto& one) { return alike(one.first, seen, tolerance); });
            if (known == classes.end())
                classes.push_back({std::move(seen), {o}});
            else
                known->second.push_back(o);
        }
        for (const auto& [seen, places] : classes) {
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            auto found = piecesOf(part, seen, step.keep, tolerance, progress);
            Item item{part.name, false, {}, 0.0};
            if (!found) {
                if (found.error().kind == ProblemKind::Cancelled) return tl::unexpected(found.error());
                item.what = fmt::format("\"{}\" stays whole", part.name);
                item.problem = found.error();
                if (item.problem.where.part.empty()) item.problem.where.part = part.name;
                outcome.items.push_back(std::move(item));
                continue;
            }
            if (found->empty()) {
                if (step.parts.empty()) continue;
                item.problem = {ProblemKind::NotPossible,
                                fmt::format("No cutter meets \"{}\".", part.name),
                                {part.name, {}, {}},
                                "Move the cutter, or leave the part out."};
                outcome.items.push_back(std::move(item));
                continue;
            }
            ++cutParts;
            if (step.keep == "both" && step.without.empty() && found->size() <= measuredPieces)
                balance.add(part, *found);
            std::vector<std::size_t> indices;
            std::string told;
            std::set<std::string> own;  // names of this part's pieces, also of those that are dropped
            for (CutPiece& piece : *found) {
                auto fresh = part.copy();
                fresh->id = 0;
                fresh->name = freeName(outcome.model, fmt::format("{}, {}", part.name, piece.side));
                for (int n = 2; own.contains(fresh->name); ++n)
                    fresh->name = freeName(outcome.model, fmt::format("{}, {} ({})", part.name, piece.side, n));
                own.insert(fresh->name);
                if (std::find(step.without.begin(), step.without.end(), fresh->name) != step.without.end()) {
                    dropped.insert(fresh->name);
                    told += fmt::format("{}{} {} dropped", told.empty() ? "" : ", ", readable(piece.measure),
                                        piece.chosen.solids > 0 ? "mm³" : "mm²");
                    continue;
                }
                fresh->setShape(piece.chosen.shape);
                fresh->known = {};
                fresh->meantOpen.clear();
                fresh->sharpened.clear();
                PartLineage lineage = piece.chosen.lineage.at(0);
                fresh->inherit(part, lineage, gp_Trsf());
                lineage.part = p;
                lineage.into = outcome.model.parts.size();
                indices.push_back(lineage.into);
                outcome.lineage.push_back(std::move(lineage));
                told += fmt::format("{}{} {}", told.empty() ? "" : ", ", readable(piece.measure),
                                    piece.chosen.solids > 0 ? "mm³" : "mm²");
                outcome.model.parts.push_back(std::move(fresh));
                ++pieces;
                if (found->size() <= measuredPieces) {
                    const PieceMeasures measures = measuresOf(piece.chosen, progress);
                    if (measures.thinnest && (!all.thinnest || *measures.thinnest < *all.thinnest))
                        thinnest = outcome.model.parts.back()->name;
                    all = least(all, measures);
                }
                if (!step.group.empty()) {
                    outcome.model.giveIds();
                    for (const int f : piece.chosen.cutFaces)
                        made.members.insert({outcome.model.parts.back()->id, everyPlace, {EntityKind::Face, f}});
                }
            }
            if (indices.empty())
                return fail(ProblemKind::BadInput, fmt::format("All pieces of \"{}\" would be dropped.", part.name),
                            "Leave one of them, or set the part aside.");
            item.what = fmt::format("\"{}\" in {}: {}", part.name, counted(found->size(), "piece"), told);
            item.done = true;
            outcome.items.push_back(std::move(item));
            for (const std::size_t o : places) more.emplace_back(o, indices);
            if (model.mirrorPairOf(p) != nullptr) {
                std::erase_if(outcome.model.mirrors,
                              [p](const MirrorPair& pair) { return pair.original == p || pair.image == p; });
                outcome.notes.push_back(
                    fmt::format("\"{}\" was cut for itself: its mirror image is a part of its own now.", part.name));
            }
        }
    }
    if (cutParts == 0) {
        for (const Item& item : outcome.items) return tl::unexpected(item.problem);
        return fail(ProblemKind::NothingToDo, "The cutters meet no part.", "Move them, or bring parts back.");
    }
    // Where a part stood, its pieces stand.
    SharedVector<Occurrence> places;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const auto cutPlace = std::find_if(more.begin(), more.end(), [o](const auto& one) { return one.first == o; });
        if (cutPlace == more.end()) {
            places.share(model.occurrences, o);
            continue;
        }
        for (const std::size_t part : cutPlace->second) {
            Occurrence place = model.occurrences[o];
            place.part = part;
            place.name = outcome.model.parts[part]->name;
            place.id = 0;
            places.push_back(std::move(place));
        }
    }
    outcome.model.occurrences = std::move(places);
    // Parts that stand nowhere any more go; the lineage speaks of what is left.
    std::vector<std::size_t> order;
    std::vector<bool> used(outcome.model.parts.size(), false);
    for (const Occurrence& place : outcome.model.occurrences) used[place.part] = true;
    for (std::size_t p = 0; p < used.size(); ++p)
        if (used[p]) order.push_back(p);
    for (PartLineage& own : outcome.lineage)
        own.into = static_cast<std::size_t>(std::find(order.begin(), order.end(), own.into) - order.begin());
    outcome.model.dropUnusedParts();
    if (!step.group.empty()) {
        std::erase_if(outcome.model.groups, [&](const Group& group) { return group.name == step.group; });
        outcome.model.groups.push_back(std::move(made));
    }
    for (const std::string& name : step.without)
        if (!dropped.contains(name))
            return fail(ProblemKind::BadInput,
                        fmt::format("The cut makes no piece \"{}\" that could be dropped.", name),
                        "See how the pieces are named, and name one of them.");
    std::string measured;
    const auto tell = [&measured](const char* what, const std::optional<double>& value, const std::string& rest) {
        if (value) measured += fmt::format("{}{} {}{}", measured.empty() ? "" : "; ", what, readable(*value), rest);
    };
    tell("thinnest piece", all.thinnest, fmt::format(" mm, \"{}\"", thinnest));
    tell("shortest new edge", all.shortestEdge, " mm");
    tell("least new angle", all.leastAngle, "°");
    if (!measured.empty()) {
        measured[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(measured[0])));
        outcome.notes.push_back(measured + ".");
    }
    if (const std::string told = balance.begun ? balance.told() : std::string(); !told.empty())
        outcome.notes.push_back(told);
    outcome.summary =
        fmt::format("Cut {} into {}", cutParts == 1 ? "a part" : counted(cutParts, "part"), counted(pieces, "piece"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

}  // namespace rasoir::divide
