#include "handover/compare.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <gp_Ax1.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Lin.hxx>
#include <gp_Pln.hxx>
#include <gp_Sphere.hxx>
#include <gp_Torus.hxx>
#include <Poly_Triangulation.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "geometry/ray_field.h"
#include "geometry/round_surface.h"
#include "measure/facts.h"
#include "model/places.h"

// 1. Parts: by name, then by volume, area and number of faces.
// 2. Faces of a pair of parts: sorted by area, each is looked up among those of its area; kind, size and centre decide.
// 3. What is left is put together by how near it is of its kind: on one surface with another outline, about one axis
//    with another size, of one size in another place.
// 4. The distance of the skins is taken from the triangles of changed faces to the whole other skin, both ways.

namespace rasoir::handover {
namespace {

struct Fingerprint {
    int face = 0;
    std::string kind;
    double area = 0.0, size = 0.0, second = 0.0;  // [mm^2], [mm] radius, [mm] second radius or [rad] half angle
    gp_Pnt centre;
    gp_Ax1 axis;  // of a round one, or the plane's normal
    bool matched = false;
};

Fingerprint fingerprintOf(const Incidence& topology, int number) {
    Fingerprint print;
    print.face = number;
    const TopoDS_Face face = topology.face(number);
    const BRepAdaptor_Surface surface(face, false);
    print.kind = surfaceKindName(surfaceKind(face));
    const Skin skin = skinOf(face);
    print.area = skin.area;
    print.centre = skin.centre;
    switch (surface.GetType()) {
        case GeomAbs_Plane:
            print.axis = surface.Plane().Axis();
            break;
        case GeomAbs_Cylinder:
            print.axis = surface.Cylinder().Axis();
            print.size = surface.Cylinder().Radius();
            break;
        case GeomAbs_Cone:
            print.axis = surface.Cone().Axis();
            print.second = surface.Cone().SemiAngle();
            break;
        case GeomAbs_Sphere:
            print.axis = gp_Ax1(surface.Sphere().Location(), gp::DZ());
            print.size = surface.Sphere().Radius();
            break;
        case GeomAbs_Torus:
            print.axis = surface.Torus().Axis();
            print.size = surface.Torus().MinorRadius();
            print.second = surface.Torus().MajorRadius();
            break;
        default:
            break;
    }
    return print;
}

double extentOf(const Part& part) {
    Bnd_Box box;
    BRepBndLib::Add(part.shape, box, false);
    return box.IsVoid() ? 1.0 : std::max(box.CornerMin().Distance(box.CornerMax()), Tolerance::noLength);
}

class FaceMatching {
public:
    FaceMatching(const Part& before, const Part& after)
        : m_before(before), m_after(after), m_near(Tolerance::sameSize * std::max(extentOf(before), extentOf(after))) {
        for (int f = 1; f <= before.incidence().faceCount(); ++f) m_old.push_back(fingerprintOf(before.incidence(), f));
        for (int f = 1; f <= after.incidence().faceCount(); ++f) m_new.push_back(fingerprintOf(after.incidence(), f));
    }

    void run(PartChange& change) {
        matchTheSame(change);
        matchTheLike(change);
        for (const Fingerprint& one : m_old)
            if (!one.matched) change.faces.push_back({Change::Gone, one.face, 0, named(one) + " gone", one.centre});
        for (const Fingerprint& one : m_new)
            if (!one.matched) change.faces.push_back({Change::New, 0, one.face, named(one) + " new", one.centre});
    }

private:
    const Part &m_before, &m_after;
    double m_near;
    std::vector<Fingerprint> m_old, m_new;

    static std::string named(const Fingerprint& one) {
        const bool round = one.kind == "cylinder" || one.kind == "sphere";
        return one.kind + (round ? fmt::format(" Ø {} mm", readable(2.0 * one.size)) : std::string());
    }
    [[nodiscard]] bool sameSize(const Fingerprint& a, const Fingerprint& b) const {
        return a.kind == b.kind && std::abs(a.size - b.size) <= m_near && std::abs(a.second - b.second) <= m_near;
    }
    [[nodiscard]] bool sameAxis(const Fingerprint& a, const Fingerprint& b) const {
        return a.axis.Direction().IsParallel(b.axis.Direction(), Tolerance::sameDirection) &&
               gp_Lin(a.axis).Distance(b.axis.Location()) <= 10.0 * m_near;
    }
    [[nodiscard]] bool sameSurface(const Fingerprint& a, const Fingerprint& b) const {
        if (!sameSize(a, b)) return false;
        if (a.kind == "plane")
            return a.axis.Direction().IsParallel(b.axis.Direction(), Tolerance::sameDirection) &&
                   std::abs(gp_Vec(a.axis.Location(), b.axis.Location()).Dot(gp_Vec(a.axis.Direction()))) <= m_near;
        if (a.kind == "cylinder") return sameAxis(a, b);
        if (a.kind == "sphere") return a.axis.Location().Distance(b.axis.Location()) <= m_near;
        if (a.kind == "torus") return sameAxis(a, b) && a.axis.Location().Distance(b.axis.Location()) <= m_near;
        return false;
    }

    void matchTheSame(PartChange& change) {
        std::vector<std::size_t> byArea(m_new.size());
        for (std::size_t i = 0; i < byArea.size(); ++i) byArea[i] = i;
        std::sort(byArea.begin(), byArea.end(),
                  [this](std::size_t a, std::size_t b) { return m_new[a].area < m_new[b].area; });
        for (Fingerprint& one : m_old) {
            const double slack = Tolerance::sameSize * one.area + m_near * m_near;
            auto at = std::lower_bound(byArea.begin(), byArea.end(), one.area - slack,
                                       [this](std::size_t i, double area) { return m_new[i].area < area; });
            for (; at != byArea.end() && m_new[*at].area <= one.area + slack; ++at) {
                Fingerprint& other = m_new[*at];
                if (other.matched || !sameSize(one, other) || one.centre.Distance(other.centre) > 10.0 * m_near)
                    continue;
                one.matched = other.matched = true;
                ++change.facesSame;
                break;
            }
        }
    }

    struct Guess {
        int rank = 0;
        double far = 0.0;
        std::size_t before = 0, after = 0;
        Change change = Change::Changed;
        std::string what;
    };
    [[nodiscard]] std::optional<Guess> guessOf(std::size_t i, std::size_t k) const {
        const Fingerprint &a = m_old[i], &b = m_new[k];
        if (a.kind != b.kind) return std::nullopt;
        Guess guess{0, a.centre.Distance(b.centre), i, k, Change::Changed, {}};
        const auto areas = [&] { return fmt::format(", {} to {} mm²", readable(a.area), readable(b.area)); };
        if (sameSurface(a, b)) {
            guess.what = named(b) + " of another outline" + areas();
            return guess;
        }
        const bool parallel = a.axis.Direction().IsParallel(b.axis.Direction(), Tolerance::sameDirection);
        if ((a.kind == "cylinder" && sameAxis(a, b)) ||
            (a.kind == "sphere" && a.axis.Location().Distance(b.axis.Location()) <= m_near)) {
            guess.rank = 1;
            guess.change = Change::Resized;
            guess.what = fmt::format("{} Ø {} to Ø {} mm", a.kind, readable(2.0 * a.size), readable(2.0 * b.size));
            return guess;
        }
        if (sameSize(a, b) && std::abs(a.area - b.area) <= Tolerance::sameSize * a.area) {
            guess.rank = 2;
            guess.change = Change::Moved;
            guess.what = fmt::format("{} moved by {} mm", named(b), readable(guess.far));
            return guess;
        }
        if (a.kind == "plane" && parallel) {
            const double by = std::abs(gp_Vec(a.axis.Location(), b.axis.Location()).Dot(gp_Vec(a.axis.Direction())));
            guess.rank = 3;
            guess.change = Change::Moved;
            guess.what = fmt::format("plane moved by {} mm", readable(by)) + areas();
            return guess;
        }
        if (a.kind == "cylinder" && parallel && sameSize(a, b)) {
            guess.rank = 3;
            guess.change = Change::Moved;
            guess.what =
                fmt::format("{} moved by {} mm", named(b), readable(gp_Lin(a.axis).Distance(b.axis.Location())));
            return guess;
        }
        return std::nullopt;
    }
    void matchTheLike(PartChange& change) {
        std::vector<Guess> guesses;
        for (std::size_t i = 0; i < m_old.size(); ++i)
            for (std::size_t k = 0; k < m_new.size() && !m_old[i].matched; ++k)
                if (!m_new[k].matched)
                    if (auto guess = guessOf(i, k)) guesses.push_back(std::move(*guess));
        std::stable_sort(guesses.begin(), guesses.end(), [](const Guess& a, const Guess& b) {
            return std::tie(a.rank, a.far) < std::tie(b.rank, b.far);
        });
        for (Guess& guess : guesses) {
            Fingerprint &a = m_old[guess.before], &b = m_new[guess.after];
            if (a.matched || b.matched) continue;
            a.matched = b.matched = true;
            change.faces.push_back({guess.change, a.face, b.face, std::move(guess.what), b.centre});
        }
    }
};

/// The farthest that triangles of some faces of one part lie from the skin of another.
void farthestFrom(const Part& part, const std::set<int>& faces, const RayField& other, PartChange& change) {
    for (const int f : faces) {
        TopLoc_Location at;
        const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(part.incidence().face(f), at);
        if (mesh.IsNull()) continue;
        const auto ask = [&](const gp_Pnt& point) {
            if (const auto hit = other.nearest(point); hit && hit->distance > change.farthest) {
                change.farthest = hit->distance;
                change.where = point;
            }
        };
        for (int i = 1; i <= mesh->NbNodes(); ++i) ask(mesh->Node(i).Transformed(at.Transformation()));
        for (int t = 1; t <= mesh->NbTriangles(); ++t) {
            int a = 0, b = 0, c = 0;
            mesh->Triangle(t).Get(a, b, c);
            ask(gp_Pnt((mesh->Node(a).XYZ() + mesh->Node(b).XYZ() + mesh->Node(c).XYZ()) / 3.0)
                    .Transformed(at.Transformation()));
        }
    }
}

void measureSkins(const std::shared_ptr<const Part>& before, const std::shared_ptr<const Part>& after,
                  PartChange& change, Progress& progress) {
    if (change.faces.empty()) return;
    std::set<int> old, fresh;
    for (const FaceChange& face : change.faces) {
        if (face.before > 0) old.insert(face.before);
        if (face.after > 0) fresh.insert(face.after);
    }
    constexpr double fine = 1e-3;  // of a part's size: what the triangles may lie off a round face
    const RayField skinBefore(aloneInPlace(before), {}, fine, progress),
        skinAfter(aloneInPlace(after), {}, fine, progress);
    farthestFrom(*after, fresh, skinBefore, change);
    farthestFrom(*before, old, skinAfter, change);
}

std::vector<gp_Trsf> placementsOf(const Model& model, std::size_t part) {
    std::vector<gp_Trsf> all;
    for (const Occurrence& place : model.occurrences)
        if (place.part == part && !place.aside) all.push_back(place.placement);
    return all;
}

bool samePlacement(const gp_Trsf& a, const gp_Trsf& b, double near) {
    // Entries of a rotation, as a file's digits leave them.
    for (int r = 1; r <= 3; ++r)
        for (int c = 1; c <= 4; ++c)
            if (std::abs(a.Value(r, c) - b.Value(r, c)) > (c == 4 ? near : 1e-7)) return false;
    return true;
}

}  // namespace

const char* changeName(Change change) {
    static constexpr std::array<const char*, 6> names{"same", "changed", "moved", "resized", "new", "gone"};
    return names[static_cast<std::size_t>(change)];
}

bool Comparison::same() const {
    return std::all_of(parts.begin(), parts.end(), [](const PartChange& part) {
        return part.change == Change::Same && part.placesMoved == 0 && part.placesBefore == part.placesAfter;
    });
}

Result<Comparison> compare(const Model& before, const Model& after, Progress& progress) {
    return guarded("Comparing", [&]() -> Result<Comparison> {
        const auto oldFacts = measure::factsOfParts(before, false, progress),
                   newFacts = measure::factsOfParts(after, false, progress);
        if (!oldFacts) return tl::unexpected(oldFacts.error());
        if (!newFacts) return tl::unexpected(newFacts.error());
        std::vector<std::optional<std::size_t>> partner(after.parts.size());
        std::vector<char> taken(before.parts.size(), 0);
        std::multimap<std::string, std::size_t> byName;
        for (std::size_t p = 0; p < before.parts.size(); ++p) byName.emplace(before.parts[p]->name, p);
        for (std::size_t p = 0; p < after.parts.size(); ++p)
            for (auto [at, end] = byName.equal_range(after.parts[p]->name); at != end && !partner[p]; ++at)
                if (!taken[at->second]) {
                    partner[p] = at->second;
                    taken[at->second] = 1;
                }
        for (std::size_t p = 0; p < after.parts.size(); ++p)
            for (std::size_t q = 0; q < before.parts.size() && !partner[p]; ++q) {
                const auto &a = (*oldFacts)[q], &b = (*newFacts)[p];
                if (taken[q] || a.faces != b.faces ||
                    std::abs(a.volume - b.volume) > Tolerance::sameSize * std::abs(a.volume) ||
                    std::abs(a.area - b.area) > Tolerance::sameSize * a.area)
                    continue;
                partner[p] = q;
                taken[q] = 1;
            }
        // One left on either side is the same one, under another name.
        const auto left = std::count(taken.begin(), taken.end(), 0);
        const auto alone = std::count(partner.begin(), partner.end(), std::nullopt);
        if (left == 1 && alone == 1) {
            const auto q = static_cast<std::size_t>(std::find(taken.begin(), taken.end(), 0) - taken.begin());
            *std::find(partner.begin(), partner.end(), std::nullopt) = q;
            taken[q] = 1;
        }
        Comparison comparison;
        for (std::size_t p = 0; p < after.parts.size(); ++p) {
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped.");
            progress.report(static_cast<double>(p) / static_cast<double>(after.parts.size()), "Comparing");
            PartChange change;
            change.after = p;
            change.name = after.parts[p]->name;
            change.volumeAfter = (*newFacts)[p].volume;
            change.areaAfter = (*newFacts)[p].area;
            const auto now = placementsOf(after, p);
            change.placesAfter = now.size();
            if (!partner[p]) {
                change.change = Change::New;
                comparison.parts.push_back(std::move(change));
                continue;
            }
            const std::size_t q = *partner[p];
            const Part &old = *before.parts[q], &fresh = *after.parts[p];
            change.before = q;
            if (old.name != fresh.name) change.was = old.name;
            change.volumeBefore = (*oldFacts)[q].volume;
            change.areaBefore = (*oldFacts)[q].area;
            change.centreShift = gp_Vec((*oldFacts)[q].centre, (*newFacts)[p].centre);
            change.otherMaterial = old.material != fresh.material;
            const auto then = placementsOf(before, q);
            change.placesBefore = then.size();
            const double near = Tolerance::sameSize * std::max(extentOf(fresh), 1.0);
            for (std::size_t i = 0; i < std::min(then.size(), now.size()); ++i)
                change.placesMoved += !samePlacement(then[i], now[i], near);
            if (!old.shape.IsNull() && !fresh.shape.IsNull() && !old.shape.IsPartner(fresh.shape)) {
                FaceMatching(old, fresh).run(change);
                measureSkins(before.parts[q], after.parts[p], change, progress);
            } else {
                change.facesSame = static_cast<std::size_t>((*newFacts)[p].faces);
            }
            const bool otherShape =
                old.shape.IsNull() != fresh.shape.IsNull() || old.lump.has_value() != fresh.lump.has_value();
            if (!change.faces.empty() || otherShape || change.otherMaterial || !change.was.empty())
                change.change = Change::Changed;
            comparison.parts.push_back(std::move(change));
        }
        for (std::size_t q = 0; q < before.parts.size(); ++q) {
            if (taken[q]) continue;
            PartChange change;
            change.change = Change::Gone;
            change.before = q;
            change.name = before.parts[q]->name;
            change.volumeBefore = (*oldFacts)[q].volume;
            change.areaBefore = (*oldFacts)[q].area;
            change.placesBefore = placementsOf(before, q).size();
            comparison.parts.push_back(std::move(change));
        }
        progress.report(1.0, "Compared");
        return comparison;
    });
}

std::vector<std::string> told(const PartChange& part) {
    std::vector<std::string> lines;
    const std::string name = fmt::format("\"{}\"", part.name);
    if (part.change == Change::New)
        lines.push_back(fmt::format("{} is new: {} mm³ in {}.", name, readable(part.volumeAfter),
                                    counted(part.placesAfter, "place")));
    if (part.change == Change::Gone) lines.push_back(fmt::format("{} is gone.", name));
    if (!part.before || !part.after) return lines;
    if (!part.was.empty()) lines.push_back(fmt::format("{} was called \"{}\".", name, part.was));
    if (part.placesBefore != part.placesAfter)
        lines.push_back(
            fmt::format("{} stands in {}, before in {}.", name, counted(part.placesAfter, "place"), part.placesBefore));
    if (part.placesMoved > 0)
        lines.push_back(fmt::format("{} stands elsewhere in {}.", name, counted(part.placesMoved, "place")));
    if (part.otherMaterial) lines.push_back(fmt::format("{} is of another material.", name));
    if (!part.faces.empty()) {
        lines.push_back(fmt::format("{}: {} of {} faces changed, volume {} to {} mm³, skins up to {} mm apart.", name,
                                    part.faces.size(), part.faces.size() + part.facesSame, readable(part.volumeBefore),
                                    readable(part.volumeAfter), readable(part.farthest)));
        for (const FaceChange& face : part.faces) lines.push_back("  " + face.what);
    }
    return lines;
}

Json toJson(const Comparison& comparison) {
    Json json{{"same", comparison.same()}, {"parts", Json::array()}};
    const auto at = [](const gp_Pnt& point) { return Json{point.X(), point.Y(), point.Z()}; };
    for (const PartChange& part : comparison.parts) {
        Json one{{"part", part.name},
                 {"change", changeName(part.change)},
                 {"volume_mm3", {part.volumeBefore, part.volumeAfter}},
                 {"area_mm2", {part.areaBefore, part.areaAfter}},
                 {"places", {part.placesBefore, part.placesAfter}},
                 {"facesSame", part.facesSame},
                 {"faces", Json::array()}};
        if (!part.was.empty()) one["was"] = part.was;
        if (part.placesMoved > 0) one["placesMoved"] = part.placesMoved;
        if (part.otherMaterial) one["otherMaterial"] = true;
        if (part.where) {
            one["farthest_mm"] = part.farthest;
            one["farthestAt_mm"] = at(*part.where);
        }
        for (const FaceChange& face : part.faces) {
            Json change{{"change", changeName(face.change)}, {"what", face.what}, {"at_mm", at(face.where)}};
            if (face.before > 0) change["before"] = face.before;
            if (face.after > 0) change["after"] = face.after;
            one["faces"].push_back(std::move(change));
        }
        json["parts"].push_back(std::move(one));
    }
    return json;
}

}  // namespace rasoir::handover
