// How well thin bodies of real files become sheets. First every solid is judged by rays alone, with no word of the code
// that finds walls: it is thin where most of its skin has an opposite side nearby and it is as voluminous as a sheet of
// that thickness. Then each thin one is reduced, and the sheets are held against the rays. Usage:
// rasoir-reduce-trial [--list] [--doubtful] FILE...
#include <fmt/format.h>

#include <BRepMesh_IncrementalMesh.hxx>
#include <chrono>
#include <gp_Ax2.hxx>
#include <numeric>
#include <optional>

#include "common/sets.h"
#include "exchange/files.h"
#include "geometry/face_points.h"
#include "geometry/integrals.h"
#include "geometry/ray_field.h"
#include "geometry/round_surface.h"
#include "reduce/midsurface.h"

using namespace rasoir;

namespace {

double clockNow() {
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

struct Sample {
    gp_Pnt at;             // midway in the material
    double through = 0.0;  // [mm]
    double area = 0.0;     // [mm^2]
    int face = 0;
};

struct Judged {
    bool thin = false;
    double thickness = 0.0, share = 0.0, fill = 0.0;
    std::vector<Sample> samples;  // of the skin that has an opposite side
};

Model modelOf(const TopoDS_Shape& solid, const std::string& name) {
    Model model;
    model.parts.push_back(std::make_shared<Part>(name, solid));
    model.occurrences.push_back({0, gp_Trsf(), name, {}, std::nullopt});
    model.giveIds();
    return model;
}

/// The material behind a point of the skin, where it is a wall.
std::optional<Sample> sampleAt(const RayField& field, const gp_Pnt& at, const gp_Vec& out, double area, int face) {
    if (out.Magnitude() < 0.5 || area <= 0.0) return std::nullopt;
    const gp_Dir inwards(out.Reversed());
    const auto hit = field.first(at, inwards, 1e-6 * field.extent());
    if (!hit || hit->normal.Dot(gp_Vec(inwards)) < std::cos(M_PI / 6)) return std::nullopt;
    // A wall goes on sideways; through a pin or a rib's foot the way is as short along one direction as across it.
    const gp_Pnt midway = at.Translated(gp_Vec(inwards) * (0.5 * hit->distance));
    const gp_Ax2 across(midway, inwards);
    for (const gp_Dir& along :
         {across.XDirection(), across.YDirection(), gp_Dir(gp_Vec(across.XDirection()) + gp_Vec(across.YDirection())),
          gp_Dir(gp_Vec(across.XDirection()) - gp_Vec(across.YDirection()))}) {
        const auto there = field.first(midway, along), back = field.first(midway, along.Reversed());
        if (there && back && there->distance + back->distance <= 1.5 * hit->distance) return std::nullopt;
    }
    return Sample{midway, hit->distance, area, face};
}

Judged judge(const Model& model) {
    Progress progress;
    const RayField field(model, {}, 1e-3, progress);
    Judged judged;
    double skin = 0.0;
    std::vector<std::pair<double, double>> through;  // thickness and area
    for (const RayField::Triangle& one : field.triangles()) {
        skin += one.area;
        if (const auto sample = sampleAt(field, one.middle, one.normal, one.area, one.face))
            through.emplace_back(sample->through, one.area);
    }
    if (through.empty()) return judged;
    const double limit = 0.1 * std::sqrt(0.5 * skin);
    std::sort(through.begin(), through.end());
    double below = 0.0, half = 0.0;
    for (const auto& [t, area] : through) {
        if (t <= limit) below += area;
        if (half < 0.4 * skin) judged.thickness = t;
        half += area;
    }
    judged.share = below / skin;
    judged.fill = rasoir::volumeOf(model.parts[0]->shape) / (0.5 * skin * judged.thickness);
    judged.thin = judged.share >= 0.8 && judged.fill >= 0.85 && judged.thickness <= limit;
    if (!judged.thin) return judged;
    // What is held against the sheets is the thin skin alone. A flat has few triangles, whatever stands on its other
    // side: each face is asked at many points of its own.
    for (int f = 1; f <= model.parts[0]->incidence().faceCount(); ++f)
        for (const SkinSample& point : skinSamples(model.parts[0]->incidence().face(f), 24))
            if (const auto sample = sampleAt(field, point.at, point.out, point.area, f);
                sample && sample->through <= limit)
                judged.samples.push_back(*sample);
    return judged;
}

struct Held {
    std::map<int, double> bare;  // [mm^2] by face, of the thin skin that has none
    double covered = 0.0;        // share of the thin skin that has a sheet midway in it, or matter that stays solid
    double solid = 0.0;          // the latter alone
    std::size_t connected = 0;   // pieces that hang together
    double outside = 0.0;        // share of the sheets that lies outside the solid
};

/// Inside a closed skin, the first thing seen in any direction is seen from behind. Two of three are enough.
bool isInside(const RayField& skin, const gp_Pnt& point) {
    int inside = 0;
    for (const gp_Dir& along : {gp_Dir(0.31, 0.52, 0.79), gp_Dir(-0.61, 0.33, 0.72), gp_Dir(0.1, -0.9, 0.42)}) {
        const auto hit = skin.first(point, along);
        inside += hit && hit->normal.Dot(gp_Vec(along)) > 0.0;
    }
    return inside >= 2;
}

/// Pieces that hang together: faces over common edges, and places over their joints, as where a sheet ends at matter
/// that stays solid, and what links tie.
std::size_t piecesOf(const Model& made) {
    std::vector<int> first;  // of each place's faces
    int count = 0;
    for (const Occurrence& place : made.occurrences) {
        first.push_back(count);
        count += made.parts[place.part]->incidence().faceCount() + 1;
    }
    Sets sets(static_cast<std::size_t>(count));
    std::vector<bool> isFace(static_cast<std::size_t>(count), false);
    for (std::size_t o = 0; o < first.size(); ++o) {
        const Incidence& topology = made.parts[made.occurrences[o].part]->incidence();
        for (int f = 1; f <= topology.faceCount(); ++f) isFace[static_cast<std::size_t>(first[o] + f)] = true;
        for (int e = 1; e <= topology.edgeCount(); ++e) {
            const auto uses = topology.usesOf(e);
            for (std::size_t i = 1; i < uses.size(); ++i) sets.join(first[o] + uses[0].face, first[o] + uses[i].face);
        }
    }
    for (const Joint& joint : made.joints) {
        std::vector<int> joined;
        for (const JointUse& use : joint.uses) {
            const std::size_t o = *made.placeOf(use.place);
            const Incidence& topology = made.parts[made.occurrences[o].part]->incidence();
            if (joint.kind == EntityKind::Face) joined.push_back(first[o] + use.number);
            if (joint.kind == EntityKind::Edge && topology.facesAt(use.number) > 0)
                joined.push_back(first[o] + topology.usesOf(use.number).front().face);
        }
        for (std::size_t i = 1; i < joined.size(); ++i) sets.join(joined[0], joined[i]);
    }
    for (const Pairing& link : made.pairings) {
        if (link.kind != PairingKind::Link) continue;
        std::vector<int> tied;
        for (const Group& group : made.groups)
            if (group.name == link.first || group.name == link.second)
                for (const auto& member : group.members) {
                    if (member.place == 0) continue;
                    const std::size_t o = *made.placeOf(member.place);
                    const Incidence& topology = made.parts[made.occurrences[o].part]->incidence();
                    if (member.entity.kind == EntityKind::Face) tied.push_back(first[o] + member.entity.number);
                    if (member.entity.kind == EntityKind::Edge && topology.facesAt(member.entity.number) > 0)
                        tied.push_back(first[o] + topology.usesOf(member.entity.number).front().face);
                }
        for (std::size_t i = 1; i < tied.size(); ++i) sets.join(tied[0], tied[i]);
    }
    std::set<int> roots;
    for (int f = 0; f < count; ++f)
        if (isFace[static_cast<std::size_t>(f)]) roots.insert(sets.root(f));
    return roots.size();
}

Held hold(const Judged& judged, const Model& solid, const Model& made) {
    Progress progress;
    Held held;
    std::vector<std::size_t> sheets, solids;
    for (std::size_t o = 0; o < made.occurrences.size(); ++o)
        (made.parts[made.occurrences[o].part]->kind() == BodyKind::Sheet ? sheets : solids).push_back(o);
    if (sheets.empty()) return held;
    const RayField field(made, sheets, 1e-3, progress);
    std::optional<RayField> thick;
    if (!solids.empty()) thick.emplace(made, solids, 1e-3, progress);
    double all = 0.0, near = 0.0, stays = 0.0;
    for (const Sample& one : judged.samples) {
        all += one.area;
        const auto sheet = field.nearest(one.at, one.through);
        bool there = false;
        if (sheet) {
            // A wall beyond a step in thickness lies beside its sheet, by an offset that the sheet knows.
            const auto& known = made.parts[made.occurrences[sheet->occurrence].part]->known.thickness;
            const auto thickness = known.find({EntityKind::Face, sheet->face});
            const double offset = thickness != known.end() ? thickness->second.offset : 0.0;
            there = one.at.Distance(sheet->at.Translated(sheet->normal * offset)) <= 0.1 * one.through;
        }
        if (there)
            near += one.area;
        else if (thick && isInside(*thick, one.at))
            stays += one.area;
        else
            held.bare[one.face] += one.area;
    }
    held.covered = all > 0.0 ? (near + stays) / all : 0.0;
    held.solid = all > 0.0 ? stays / all : 0.0;
    const RayField skin(solid, {}, 1e-3, progress);
    double area = 0.0, out = 0.0;
    for (const RayField::Triangle& one : field.triangles()) {
        area += one.area;
        if (!isInside(skin, one.middle)) out += one.area;
    }
    held.outside = area > 0.0 ? out / area : 0.0;
    held.connected = piecesOf(made);
    return held;
}

/// Where to look: the faces with most of what is bare.
void sayBare(const Model& model, const Held& held) {
    std::vector<std::pair<double, int>> faces;
    for (const auto& [face, area] : held.bare) faces.emplace_back(area, face);
    std::sort(faces.rbegin(), faces.rend());
    for (std::size_t f = 0; f < faces.size() && f < 6; ++f) {
        const TopoDS_Face face = model.parts[0]->incidence().face(faces[f].second);
        const gp_Pnt centre = skinOf(face).centre;
        fmt::print("      face {}, {}, {:.3g} of {:.3g} mm² bare, at {:.4g} {:.4g} {:.4g}\n", faces[f].second,
                   surfaceKindName(surfaceKind(face)), faces[f].first, areaOf(face), centre.X(), centre.Y(),
                   centre.Z());
    }
}

}  // namespace

int main(int argc, char** argv) {
    bool onlyList = false, doubtful = false;
    std::size_t thin = 0, good = 0, refused = 0, uncovered = 0, apart = 0, outside = 0;
    double seconds = 0.0;
    std::map<std::string, int> reasons;
    for (int i = 1; i < argc; ++i) {
        if (std::string(argv[i]) == "--list") {
            onlyList = true;
            continue;
        }
        if (std::string(argv[i]) == "--doubtful") {
            doubtful = true;
            continue;
        }
        Progress progress;
        exchange::ReadOptions options;
        options.unit = Unit::Millimetre;
        const auto model = exchange::readFile(argv[i], options, progress);
        if (!model) continue;
        for (const auto& part : model->parts)
            for (int b = 1; b <= part->incidence().bodyCount(); ++b) {
                const TopoDS_Shape body = part->incidence().body(b);
                if (body.ShapeType() != TopAbs_SOLID || !(rasoir::volumeOf(body) > 0.0)) continue;
                const Model own = modelOf(body, part->name);
                const Judged judged = judge(own);
                if (!judged.thin) continue;
                ++thin;
                fmt::print("{} \"{}\" body {}: {} faces, {:.4g} mm thick, {:.0f} % of the skin", argv[i], part->name, b,
                           own.parts[0]->incidence().faceCount(), judged.thickness, 100.0 * judged.share);
                if (onlyList) {
                    fmt::print("\n");
                    continue;
                }
                std::fflush(stdout);
                const double start = clockNow();
                reduce::Midsurface wanted;
                wanted.doubtful = doubtful;
                const auto made = reduce::midsurface(own, wanted, progress);
                const double took = clockNow() - start;
                seconds += took;
                std::string reason;
                if (!made) reason = made.error().what;
                if (made)
                    for (const Item& item : made->items)
                        if (!item.done) reason = item.problem.what;
                if (!reason.empty()) {
                    ++refused;
                    std::string kind;
                    for (const char c : reason)
                        if (std::isdigit(static_cast<unsigned char>(c)) == 0) kind += c;
                    ++reasons[kind];
                    fmt::print(": REFUSED, {:.1f} s: {}\n", took, reason);
                    continue;
                }
                const Held held = hold(judged, own, made->model);
                const bool covered = held.covered >= 0.95, one = held.connected == 1, within = held.outside < 1e-3;
                uncovered += !covered;
                apart += !one;
                outside += !within;
                good += covered && one && within;
                fmt::print(
                    ": {:.1f} % covered, {:.1f} by matter that stays solid, {} connected, {:.2f} % outside, {:.1f} "
                    "s{}\n",
                    100.0 * held.covered, 100.0 * held.solid, held.connected, 100.0 * held.outside, took,
                    covered && one && within ? "" : "  <--");
                if (!covered) sayBare(own, held);
            }
        std::fflush(stdout);
    }
    fmt::print("thin solids {}: {} well, {} refused; not covered {}, not connected {}, outside {}; {:.1f} s\n", thin,
               good, refused, uncovered, apart, outside, seconds);
    for (const auto& [reason, count] : reasons) fmt::print("    {} x {}\n", count, reason);
    return 0;
}
