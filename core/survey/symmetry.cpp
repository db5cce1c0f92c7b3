#include "survey/symmetry.h"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <gp_Lin.hxx>
#include <map>

#include "common/text.h"
#include "common/tolerance.h"
#include "geometry/extent.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"

// A symmetry carries every face onto a face like it. So faces are taken for landmarks, a few directions are guessed,
// and each guess is tried on all landmarks by a sorted list: what is carried where no like landmark is, has no partner.

namespace rasoir::survey {
namespace {

struct Landmark {
    gp_Pnt at;
    double area = 0.0, radius = 0.0;
    int kind = 0;
    std::size_t place = 0;
    int face = 0;
};

std::vector<std::size_t> wantedPlaces(const Model& model, const std::set<std::size_t>& places) {
    std::vector<std::size_t> wanted;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        if (model.occurrences[o].aside || (!places.empty() && !places.contains(o))) continue;
        const Part& part = *model.parts[model.occurrences[o].part];
        if (!part.shape.IsNull() && !part.lump) wanted.push_back(o);
    }
    return wanted;
}

class Field {
public:
    Field(std::vector<Landmark> marks, double tolerance) : m_marks(std::move(marks)), m_tolerance(tolerance) {
        for (std::size_t i = 0; i < m_marks.size(); ++i) {
            m_byX.emplace_back(m_marks[i].at.X(), i);
            m_middle += m_marks[i].at.XYZ() * m_marks[i].area;
            m_area += m_marks[i].area;
        }
        std::sort(m_byX.begin(), m_byX.end());
        if (m_area > 0.0) m_middle /= m_area;
    }
    [[nodiscard]] const std::vector<Landmark>& marks() const { return m_marks; }
    [[nodiscard]] gp_Pnt middle() const { return gp_Pnt(m_middle); }

    /// Tries a movement; gives up once more than a tenth of the landmarks have no partner. `slack` widens the
    /// tolerance; `middles` gets the points midway between landmarks and their partners.
    [[nodiscard]] std::optional<Symmetry> tried(const gp_Trsf& move, double slack = 1.0,
                                                std::vector<gp_XYZ>* middles = nullptr) const {
        Symmetry found;
        for (const Landmark& mark : m_marks) {
            const gp_Pnt image = mark.at.Transformed(move);
            const Landmark* partner = nearestLike(mark, image, slack * m_tolerance);
            if (partner != nullptr) {
                ++found.matched;
                found.deviation = std::max(found.deviation, partner->at.Distance(image));
                if (middles != nullptr) middles->push_back(0.5 * (mark.at.XYZ() + partner->at.XYZ()));
                continue;
            }
            found.without.emplace_back(mark.place, mark.face);
            if (found.without.size() * 10 > m_marks.size()) return std::nullopt;
        }
        return found;
    }

private:
    [[nodiscard]] const Landmark* nearestLike(const Landmark& mark, const gp_Pnt& image, double tolerance) const {
        const Landmark* best = nullptr;
        double nearest = tolerance;
        auto it = std::lower_bound(m_byX.begin(), m_byX.end(), std::pair(image.X() - tolerance, std::size_t{0}));
        for (; it != m_byX.end() && it->first <= image.X() + tolerance; ++it) {
            const Landmark& other = m_marks[it->second];
            if (other.kind != mark.kind) continue;
            const double off = other.at.Distance(image);
            if (off > nearest) continue;
            // An area is known to the perimeter times the tolerance, about.
            if (std::abs(other.area - mark.area) > 4.0 * tolerance * std::sqrt(mark.area) + 1e-4 * mark.area) continue;
            if (std::abs(other.radius - mark.radius) > tolerance) continue;
            best = &other;
            nearest = off;
        }
        return best;
    }

    std::vector<Landmark> m_marks;
    std::vector<std::pair<double, std::size_t>> m_byX;
    double m_tolerance, m_area = 0.0;
    gp_XYZ m_middle;
};

/// Directions worth trying, without doubles.
std::vector<gp_Dir> directionsOf(const Model& model, const std::vector<std::size_t>& places, const Field& field) {
    std::vector<gp_Dir> directions;
    const auto add = [&](const gp_Vec& along) {
        if (along.Magnitude() < Tolerance::noWay || directions.size() >= 120) return;
        const gp_Dir direction(along);
        if (std::none_of(directions.begin(), directions.end(),
                         [&](const gp_Dir& one) { return one.IsParallel(direction, Tolerance::sameDirection); }))
            directions.push_back(direction);
    };
    for (const gp_Dir& axis : {gp::DX(), gp::DY(), gp::DZ()}) add(gp_Vec(axis));
    Eigen::Matrix3d inertia = Eigen::Matrix3d::Zero();
    for (const Landmark& mark : field.marks()) {
        const gp_XYZ off = mark.at.XYZ() - field.middle().XYZ();
        const Eigen::Vector3d r(off.X(), off.Y(), off.Z());
        inertia += mark.area * (r.squaredNorm() * Eigen::Matrix3d::Identity() - r * r.transpose());
    }
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> axes(inertia);
    for (int k = 0; k < 3; ++k)
        add(gp_Vec(axes.eigenvectors()(0, k), axes.eigenvectors()(1, k), axes.eigenvectors()(2, k)));
    for (const std::size_t o : places) {
        std::size_t taken = 0;
        for (const WeighedDirection& direction : mainDirections(model.parts[model.occurrences[o].part]->incidence())) {
            if (++taken > 12) break;
            add(gp_Vec(direction.along).Transformed(model.occurrences[o].placement));
        }
        if (directions.size() > 60) break;
    }
    // Between landmarks of one kind, the rarest kinds first: a mirror plane lies square between two of them.
    std::map<std::tuple<int, long>, std::vector<const Landmark*>> kinds;
    for (const Landmark& mark : field.marks())
        kinds[{mark.kind, std::lround(50.0 * std::log(std::max(mark.area, Tolerance::noLength)))}].push_back(&mark);
    std::vector<const std::vector<const Landmark*>*> rarestFirst;
    for (const auto& [kind, like] : kinds)
        if (like.size() > 1 && like.size() <= 40) rarestFirst.push_back(&like);
    std::stable_sort(rarestFirst.begin(), rarestFirst.end(),
                     [](const auto* a, const auto* b) { return a->size() < b->size(); });
    for (const auto* like : rarestFirst)
        for (std::size_t i = 0; i < like->size(); ++i)
            for (std::size_t k = i + 1; k < like->size() && directions.size() < 120; ++k)
                add(gp_Vec((*like)[i]->at, (*like)[k]->at));
    return directions;
}

}  // namespace

Result<std::vector<Symmetry>> findSymmetries(const Model& model, const std::set<std::size_t>& places, double tolerance,
                                             Progress& progress) {
    const auto wanted = wantedPlaces(model, places);
    std::vector<Landmark> marks;
    std::map<std::size_t, std::vector<Landmark>> ofPart;
    bool allRound = true;
    for (const std::size_t o : wanted) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped.");
        const std::size_t p = model.occurrences[o].part;
        auto [known, fresh] = ofPart.try_emplace(p);
        if (fresh) {
            const Incidence& topology = model.parts[p]->incidence();
            for (int f = 1; f <= topology.faceCount(); ++f) {
                const Skin& skin = topology.skin(f);
                const auto round = roundSurface(topology.face(f));
                allRound = allRound && (round || surfaceKind(topology.face(f)) == SurfaceKind::Plane);
                known->second.push_back({skin.centre, skin.area, round ? round->radius : 0.0,
                                         static_cast<int>(surfaceKind(topology.face(f))), 0, f});
            }
        }
        for (Landmark mark : known->second) {
            mark.at.Transform(model.occurrences[o].placement);
            mark.place = o;
            marks.push_back(mark);
        }
    }
    std::vector<Symmetry> found;
    if (marks.empty()) return found;
    const Field field(std::move(marks), tolerance);
    const auto directions = directionsOf(model, wanted, field);
    std::size_t done = 0;
    for (const gp_Dir& direction : directions) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped.");
        progress.report(static_cast<double>(done++) / static_cast<double>(directions.size()), "Looking for symmetries");
        // What breaks a symmetry also pulls the middle of the skin off its plane. So it is tried roughly first, and the
        // plane then laid through the middle one of the points midway between partners.
        gp_Trsf mirror;
        mirror.SetMirror(gp_Ax2(field.middle(), direction));
        std::vector<gp_XYZ> middles;
        if (field.tried(mirror, 8.0, &middles) && !middles.empty()) {
            const auto along = [&direction](const gp_XYZ& a, const gp_XYZ& b) {
                return a.Dot(direction.XYZ()) < b.Dot(direction.XYZ());
            };
            std::nth_element(middles.begin(), middles.begin() + static_cast<std::ptrdiff_t>(middles.size() / 2),
                             middles.end(), along);
            const double shift = (middles[middles.size() / 2] - field.middle().XYZ()).Dot(direction.XYZ());
            const gp_Pnt through = field.middle().Translated(gp_Vec(direction) * shift);
            mirror.SetMirror(gp_Ax2(through, direction));
            if (auto fits = field.tried(mirror)) {
                fits->mirror = true;
                fits->plane = gp_Pln(through, direction);
                found.push_back(std::move(*fits));
            }
        }
        const gp_Ax1 axis(field.middle(), direction);
        // An odd angle fits only what is round about the axis; else the highest order that fits.
        const auto turnedBy = [&](double angle) {
            gp_Trsf turn;
            turn.SetRotation(axis, angle);
            return field.tried(turn);
        };
        std::optional<Symmetry> turn;
        int order = -1;
        if (allRound) {
            turn = turnedBy(1.0);
            if (turn && turn->whole())
                order = 0;
            else
                turn.reset();
        }
        for (int n = 36; order < 0 && n >= 2; --n)
            if (auto fits = turnedBy(2.0 * M_PI / n); fits && fits->whole()) {
                turn = std::move(fits);
                order = n;
            }
        if (turn) {
            turn->mirror = false;
            turn->axis = axis;
            turn->order = order;
            found.push_back(std::move(*turn));
        }
    }
    std::stable_sort(found.begin(), found.end(), [](const Symmetry& a, const Symmetry& b) {
        return std::tuple(a.without.size(), !a.mirror) < std::tuple(b.without.size(), !b.mirror);
    });
    return found;
}

std::string describe(const Symmetry& symmetry) {
    const gp_Ax1 axis = symmetry.mirror ? symmetry.plane.Axis() : symmetry.axis;
    const gp_XYZ at = axis.Location().XYZ(), along = axis.Direction().XYZ();
    const auto triple = [](const gp_XYZ& v) {
        return fmt::format("({}, {}, {})", readable(v.X()), readable(v.Y()), readable(v.Z()));
    };
    std::string told, direction = triple(along);
    for (int k = 1; k <= 3; ++k)
        if (std::abs(std::abs(along.Coord(k)) - 1.0) < Tolerance::exactDirection) {
            direction = std::string(1, "xyz"[k - 1]);
            if (symmetry.mirror) told = fmt::format("Mirror plane {} = {}", direction, readable(at.Coord(k)));
        }
    if (told.empty())
        told = symmetry.mirror ? fmt::format("Mirror plane through {}, normal {}", triple(at), direction)
               : symmetry.order == 0
                   ? fmt::format("Round about {} through {}", direction, triple(at))
                   : fmt::format("{} times the same about {} through {}", symmetry.order, direction, triple(at));
    if (!symmetry.whole())
        told += fmt::format("; {} of {} faces have no partner", symmetry.without.size(),
                            symmetry.without.size() + symmetry.matched);
    else if (symmetry.deviation > Tolerance::samePlace)
        told += fmt::format("; within {} mm", readable(symmetry.deviation));
    return told;
}

std::optional<CommonAxis> commonAxis(const Model& model, const std::set<std::size_t>& places) {
    struct Bundle {
        gp_Ax1 axis;
        double area = 0.0;
    };
    std::vector<Bundle> bundles;
    double all = 0.0;
    const double tolerance = 100.0 * model.samePoint();
    for (const std::size_t o : wantedPlaces(model, places)) {
        const Incidence& topology = model.parts[model.occurrences[o].part]->incidence();
        for (int f = 1; f <= topology.faceCount(); ++f) {
            const auto round = roundSurface(topology.face(f));
            if (!round || round->kind == SurfaceKind::Sphere) continue;
            const double area = topology.area(f);
            const gp_Ax1 axis = round->axis.Transformed(model.occurrences[o].placement);
            all += area;
            const auto known = std::find_if(bundles.begin(), bundles.end(), [&](const Bundle& one) {
                return one.axis.Direction().IsParallel(axis.Direction(), Tolerance::fittedDirection) &&
                       gp_Lin(one.axis).Distance(axis.Location()) <= tolerance;
            });
            if (known == bundles.end())
                bundles.push_back({axis, area});
            else
                known->area += area;
        }
    }
    const auto most = std::max_element(bundles.begin(), bundles.end(),
                                       [](const Bundle& a, const Bundle& b) { return a.area < b.area; });
    if (most == bundles.end() || most->area < all / 3.0) return std::nullopt;
    return CommonAxis{most->axis, most->area / all};
}

}  // namespace rasoir::survey
