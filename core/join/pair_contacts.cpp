#include "join/pair_contacts.h"

#include <BRep_Tool.hxx>
#include <Eigen/Eigenvalues>
#include <GeomAPI_ExtremaCurveCurve.hxx>
#include <GeomLProp_SLProps.hxx>

#include "common/tolerance.h"
#include "geometry/curves.h"

// Faces first: of two faces whose boxes come near, the points of the smaller one are dropped onto the other one: those
// that land within it, near enough and face to face, make the contact. Sampling says how much touches within a few per
// cent, which is what a list needs; what is joined is computed exactly, by the arrangement.
//
// Curved faces that touch along a line or in a point leave no sample near enough, or a row of them by chance. Where the
// height of one over the other is least, their normals are parallel: Newton's method finds that from the nearest
// sample. (Going to and fro between the feet would crawl: at a touching point it gains less with every step.) Where the
// two come together there, the difference of their curvatures tells whether they lie on each other (none), stay
// together in one direction (a line, which is then followed), or in none (a point).
//
// Edges last, and only between bodies that no face joins: a body that stands on its edge, a sheet that ends on a wall,
// a beam that lies along it. Points along the edge are measured against the faces near it, and edges against edges.

namespace rasoir::join {
namespace {

/// The two feet from which two faces are closest to each other near some point; in the coordinates of B.
struct Closest {
    gp_Pnt onA, onB;
    gp_Pnt2d uvA, uvB;
    [[nodiscard]] double distance() const { return onA.Distance(onB); }
};

/// Curvatures of a surface as a symmetric matrix: the height of the surface over its tangent plane along `up`, twice.
std::optional<Eigen::Matrix3d> curvaturesOf(const Handle(Geom_Surface) & surface, const gp_Pnt2d& uv, const gp_Vec& up,
                                            const gp_Trsf& placed) {
    GeomLProp_SLProps at(surface, uv.X(), uv.Y(), 2, Tolerance::noWay);
    if (!at.IsCurvatureDefined()) return std::nullopt;
    gp_Dir most, least;
    Eigen::Matrix3d heights = Eigen::Matrix3d::Zero();
    const double side = gp_Vec(at.Normal()).Transformed(placed).Dot(up) > 0.0 ? 1.0 : -1.0;
    const auto add = [&](double curvature, const gp_Vec& along) {
        const gp_Vec there = along.Transformed(placed);
        const Eigen::Vector3d way(there.X(), there.Y(), there.Z());
        heights += side * curvature * way * way.transpose();
    };
    if (at.IsUmbilic()) {
        const gp_Vec across = gp_Vec(at.Normal()).Crossed(gp_Vec(at.D1U())).Normalized();
        add(at.MeanCurvature(), gp_Vec(at.D1U()).Normalized());
        add(at.MeanCurvature(), across);
        return heights;
    }
    at.CurvatureDirections(most, least);
    add(at.MaxCurvature(), gp_Vec(most));
    add(at.MinCurvature(), gp_Vec(least));
    return heights;
}

class PairSearch {
public:
    PairSearch(const Touchable& a, const Touchable& b, const gp_Trsf& placed, const ContactSearch& search, double exact,
               std::size_t& tried)
        : m_a(a),
          m_b(b),
          m_placed(placed),
          m_back(placed.Inverted()),
          m_search(search),
          m_exact(exact),
          m_reach(std::max(search.upTo, exact)),
          m_tried(tried) {}

    std::vector<Contact> run(const Progress& progress) {
        for (const SkinFace& own : m_a.faces()) {
            if (progress.cancelled()) return {};
            for (const std::size_t other : m_b.facesNear(own.box().Transformed(m_placed), m_reach))
                measure(own, m_b.faces()[other]);
        }
        const bool together = std::any_of(m_found.begin(), m_found.end(),
                                          [](const Contact& contact) { return contact.kind != ContactKind::Near; });
        if (!m_search.linesAndPoints || together) return std::move(m_found);
        alongRims(progress);
        return std::move(m_found);
    }

private:
    const Touchable &m_a, &m_b;
    const gp_Trsf m_placed, m_back;
    const ContactSearch& m_search;
    const double m_exact, m_reach;
    std::size_t& m_tried;
    std::vector<Contact> m_found;

    // ---- faces ----

    void measure(const SkinFace& a, const SkinFace& b) {
        ++m_tried;
        // The smaller face's samples lie closer together: they see a small contact on a large face.
        const bool fromB = b.area() < a.area();
        const SkinFace &from = fromB ? b : a, &onto = fromB ? a : b;
        const gp_Trsf& there = fromB ? m_back : m_placed;
        Contact contact;
        contact.faceA = a.number();
        contact.faceB = b.number();
        double deepest = 0.0;
        std::size_t hits = 0;
        Bnd_Box closeBy = onto.box();
        closeBy.SetGap(closeBy.GetGap() + m_reach);
        std::array<std::optional<gp_Pnt2d>, 2> feet;
        const bool twoSides = (fromB ? m_b : m_a).kind() == BodyKind::Sheet;
        const std::size_t count = twoSides ? from.samples().size() / 2 : from.samples().size();
        for (std::size_t k = 0; k < count; ++k) {
            std::optional<Facing> seen;
            gp_Pnt at;
            for (int side = 0; side < (twoSides ? 2 : 1); ++side) {
                SkinPoint point = from.samples()[k + (side > 0 ? count : 0)];
                point.at.Transform(there);
                // Most samples of faces that only come close at their rims are nowhere near: a box tells so at once.
                if (closeBy.IsOut(point.at)) continue;
                point.on.Transform(there);
                point.outward.Transform(there);
                auto facing = onto.facing(point, m_reach, feet[static_cast<std::size_t>(side)]);
                if (!facing) continue;
                // Sheets that lie in one place can be joined as they are, whatever their skins do.
                if (facing->foot.Distance(point.on) <= m_exact) facing->gap = 0.0;
                if (seen && std::abs(facing->gap) >= std::abs(seen->gap)) continue;
                seen = facing;
                at = point.at;
            }
            if (!seen) continue;
            const double off = std::abs(seen->gap);
            deepest = std::max(deepest, -seen->gap);
            if (hits == 0 || off < contact.gap) {
                contact.gap = off;
                contact.where = fromB ? at.Transformed(m_placed) : at;
            }
            contact.widest = std::max(contact.widest, off);
            contact.angle = std::max(contact.angle, seen->angle);
            ++hits;
        }
        contact.kind = hits > 0 && contact.widest <= m_exact ? ContactKind::Touching : ContactKind::Near;
        contact.past = contact.kind == ContactKind::Near && deepest > 0.5 * contact.widest;
        contact.area = from.areaOfSample() * static_cast<double>(hits);
        if (m_search.linesAndPoints && !contact.past && !(a.isPlane() && b.isPlane()) &&
            touchTangentially(a, b, contact, hits > 0))
            hits = 1;
        if (hits > 0) m_found.push_back(contact);
    }

    /// How a point of A's surface lies over B's: the foot, and how the height changes along A's two parameters.
    struct Over {
        Closest feet;
        Eigen::Vector2d slope;
        gp_Vec du, dv;  // of A, in the coordinates of B
    };
    [[nodiscard]] std::optional<Over> overAt(const SkinFace& a, const SkinFace& b, const gp_Pnt2d& uv,
                                             const std::optional<gp_Pnt2d>& guess) const {
        Over over;
        gp_Pnt at;
        a.surface()->D1(uv.X(), uv.Y(), at, over.du, over.dv);
        over.feet.uvA = uv;
        over.feet.onA = at.Transformed(m_placed);
        over.du.Transform(m_placed);
        over.dv.Transform(m_placed);
        const auto foot = b.footOf(over.feet.onA, guess);
        gp_Vec normal;
        if (!foot || !b.skinAt(*foot, over.feet.onB, normal)) return std::nullopt;
        over.feet.uvB = *foot;
        over.slope = {over.du.Dot(normal), over.dv.Dot(normal)};
        return over;
    }

    /// From a point of A's surface to where the two are least apart: the slope of the height vanishes there. Newton's
    /// method with differences; along a line of contact only the step across it is taken.
    [[nodiscard]] std::optional<Closest> closestFrom(const SkinFace& a, const SkinFace& b, gp_Pnt2d uv,
                                                     std::optional<gp_Pnt2d> guess) const {
        std::optional<Over> here;
        for (int round = 0; round < 30; ++round) {
            here = overAt(a, b, uv, guess);
            if (!here) return std::nullopt;
            guess = here->feet.uvB;
            const double longU = here->du.Magnitude(), longV = here->dv.Magnitude();
            if (longU < Tolerance::noLength || longV < Tolerance::noLength) return std::nullopt;
            const double size = std::max(std::sqrt(std::min(a.area(), b.area())), 10.0 * m_exact);
            // Of the size: where second differences lose least to rounding.
            const double hU = 1e-5 * size / longU, hV = 1e-5 * size / longV;
            const auto alongU = overAt(a, b, {uv.X() + hU, uv.Y()}, guess),
                       alongV = overAt(a, b, {uv.X(), uv.Y() + hV}, guess);
            if (!alongU || !alongV) return std::nullopt;
            // In lengths along the surface, so that the two parameters weigh alike.
            Eigen::Matrix2d change;
            change.col(0) = (alongU->slope - here->slope) / (hU * longU);
            change.col(1) = (alongV->slope - here->slope) / (hV * longV);
            change.row(0) /= longU;
            change.row(1) /= longV;
            Eigen::JacobiSVD<Eigen::Matrix2d> solver(change, Eigen::ComputeFullU | Eigen::ComputeFullV);
            solver.setThreshold(1e-4);  // of the largest eigenvalue: a sliding contact has one that is noise
            Eigen::Vector2d step = solver.solve(Eigen::Vector2d(-here->slope.x() / longU, -here->slope.y() / longV));
            if (!step.allFinite()) return std::nullopt;
            if (const double most = 0.3 * size; step.norm() > most) step *= most / step.norm();
            if (step.norm() < 0.01 * m_exact) break;
            uv.SetCoord(uv.X() + step.x() / longU, uv.Y() + step.y() / longV);
        }
        return here ? std::optional(here->feet) : std::nullopt;
    }

    /// Whether two curved faces touch along a line or in a point: then the contact is that. Where they only come near
    /// (`near`), its gap becomes the least one.
    bool touchTangentially(const SkinFace& a, const SkinFace& b, Contact& contact, bool near) const {
        std::optional<gp_Pnt> seed;
        if (near) {
            seed = contact.where;
        } else {
            // The sample of A nearest to B's surface; those of a far part of the face lead elsewhere.
            Bnd_Box closeBy = b.box();
            closeBy.SetGap(closeBy.GetGap() + std::max(m_reach, 0.2 * std::sqrt(a.area())));
            double least = 1e300;
            std::optional<gp_Pnt2d> foot;
            for (const SkinPoint& sample : a.samples()) {
                const gp_Pnt at = sample.on.Transformed(m_placed);
                if (closeBy.IsOut(at)) continue;
                foot = b.footOf(at, foot);
                if (!foot) continue;
                const double off = b.surface()->Value(foot->X(), foot->Y()).Distance(at);
                if (off < least) {
                    least = off;
                    seed = at;
                }
            }
        }
        if (!seed) return false;
        const auto begin = a.footOf(seed->Transformed(m_back), std::nullopt);
        if (!begin) return false;
        const auto closest = closestFrom(a, b, *begin, std::nullopt);
        if (!closest || !a.covers(closest->uvA) || !b.covers(closest->uvB)) return false;
        if (near) contact.gap = std::min(contact.gap, closest->distance());
        if (closest->distance() > m_exact) return false;
        gp_Pnt at;
        gp_Vec outA, outB;
        if (!a.skinAt(closest->uvA, at, outA) || !b.skinAt(closest->uvB, at, outB)) return false;
        outA.Transform(m_placed);
        if (std::abs(outA.Dot(outB)) < std::cos(M_PI / 180.0)) return false;
        if (m_a.kind() == BodyKind::Solid && m_b.kind() == BodyKind::Solid && outA.Dot(outB) > 0.0) return false;
        const auto heightsA = curvaturesOf(a.surface(), closest->uvA, outB, m_placed),
                   heightsB = curvaturesOf(b.surface(), closest->uvB, outB, gp_Trsf());
        // Of the three eigenvalues of the difference that along the normal is zero; the other two decide.
        std::array<int, 3> order{0, 1, 2};
        Eigen::Matrix3d difference = Eigen::Matrix3d::Identity();  // a point, where a curvature is not defined
        if (heightsA && heightsB) difference = *heightsA - *heightsB;
        const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> apart(difference);
        std::sort(order.begin(), order.end(),
                  [&](int i, int k) { return std::abs(apart.eigenvalues()[i]) < std::abs(apart.eigenvalues()[k]); });
        const double most = std::abs(apart.eigenvalues()[order[2]]), least = std::abs(apart.eigenvalues()[order[1]]);
        // Bent alike they lie on each other, as far as samples can tell.
        const double spacing = std::sqrt(std::min(a.areaOfSample(), b.areaOfSample()));
        if (most * spacing * spacing / 8.0 <= m_exact) return false;
        contact.kind = ContactKind::Point;
        contact.gap = contact.widest = closest->distance();
        contact.area = 0.0;
        contact.angle = 0.0;
        contact.where = closest->onB;
        // Of the largest: what lies below is a way in which the faces slide on each other.
        if (least > 1e-4 * most) return true;
        contact.kind = ContactKind::Line;
        const Eigen::Vector3d across = apart.eigenvectors().col(order[2]);
        follow(a, b, *closest, outB.Crossed(gp_Vec(across.x(), across.y(), across.z())), contact);
        return true;
    }

    /// Follows a line of contact both ways from a point of it, and puts its length and middle into the contact.
    void follow(const SkinFace& a, const SkinFace& b, const Closest& start, const gp_Vec& along,
                Contact& contact) const {
        Bnd_Box common = b.box();
        const gp_Pnt low = common.CornerMin(), high = common.CornerMax();
        const double step = low.Distance(high) / 64.0;
        std::vector<gp_Pnt> line{start.onB};
        for (const double sign : {1.0, -1.0}) {
            Closest here = start;
            gp_Vec way = along.Normalized() * sign;
            for (int i = 0; i < 256; ++i) {
                const auto onA = a.footOf(here.onB.Translated(step * way).Transformed(m_back), here.uvA);
                if (!onA) break;
                const auto next = closestFrom(a, b, *onA, here.uvB);
                if (!next || next->distance() > m_exact || !a.covers(next->uvA) || !b.covers(next->uvB)) break;
                const gp_Vec moved(here.onB, next->onB);
                if (moved.Magnitude() < 0.1 * step) break;
                way = moved.Normalized();
                here = *next;
                if (sign > 0.0)
                    line.push_back(here.onB);
                else
                    line.insert(line.begin(), here.onB);
                // Round and closed: the other way would be the same again.
                if (line.size() > 4 && here.onB.Distance(start.onB) < 0.7 * step) {
                    contact.length = lengthOf(line);
                    return;
                }
            }
        }
        // The ends lie somewhere within the next step.
        contact.length = lengthOf(line) + step;
        contact.where = line[line.size() / 2];
    }

    static double lengthOf(const std::vector<gp_Pnt>& line) {
        double length = 0.0;
        for (std::size_t i = 1; i < line.size(); ++i) length += line[i - 1].Distance(line[i]);
        return length;
    }

    // ---- edges ----

    /// How far from an edge something is still told: a rim of a sheet, or a beam, may end short of it.
    [[nodiscard]] double reachOf(const Touchable& body) const {
        return body.kind() == BodyKind::Solid ? m_exact : m_reach;
    }

    void alongRims(const Progress& progress) {
        const std::size_t faces = m_found.size();
        for (const bool fromB : {false, true}) {
            const Touchable &own = fromB ? m_b : m_a, &other = fromB ? m_a : m_b;
            const double reach = reachOf(own);
            for (const RimLine& rim : own.rims()) {
                if (progress.cancelled()) return;
                for (const std::size_t f : other.facesNear(rim.box.Transformed(fromB ? m_back : m_placed), reach))
                    measure(rim, other.faces()[f], fromB, reach);
            }
        }
        if (m_found.size() == faces || m_a.kind() == BodyKind::Wire || m_b.kind() == BodyKind::Wire) rimOnRim();
        keepOnce(faces);
    }

    void measure(const RimLine& rim, const SkinFace& face, bool fromB, double reach) {
        ++m_tried;
        Contact contact;
        (fromB ? contact.edgeB : contact.edgeA) = rim.number;
        (fromB ? contact.faceA : contact.faceB) = face.number();
        const gp_Trsf& there = fromB ? m_back : m_placed;
        std::vector<gp_Pnt> hits;
        double least = 1e300;
        for (std::size_t i = 0; i < rim.points.size(); ++i) {
            const gp_Pnt at = rim.points[i].Transformed(there);
            const auto seen = face.below(at);
            if (!seen) continue;
            double gap = std::abs(seen->gap);
            const gp_Vec towards(at, seen->foot);
            // What lies in the face itself can be joined as it is; else the section's skin is what comes near.
            if (towards.Magnitude() <= m_exact)
                gap = 0.0;
            else if (rim.section)
                gap = std::abs(seen->gap -
                               rim.reachTowards(towards.Normalized().Transformed(there.Inverted()), rim.ways[i]));
            if (gap > reach) continue;
            contact.widest = std::max(contact.widest, gap);
            if (gap < least) contact.gap = least = gap;
            hits.push_back(at);
        }
        if (hits.empty()) return;
        const double share = static_cast<double>(hits.size() - 1) / static_cast<double>(rim.points.size() - 1);
        contact.length = share * rim.length;
        contact.kind = contact.widest > m_exact ? ContactKind::Near
                       : hits.size() > 1        ? ContactKind::Line
                                                : ContactKind::Point;
        const gp_Pnt middle = hits[hits.size() / 2];
        contact.where = fromB ? middle.Transformed(m_placed) : middle;
        m_found.push_back(contact);
    }

    /// Edges that cross or meet away from all faces: corner on corner, edge across edge, beam at beam.
    void rimOnRim() {
        const bool wires = m_a.kind() == BodyKind::Wire || m_b.kind() == BodyKind::Wire;
        const double reach = wires ? m_reach : m_exact;
        for (const RimLine& a : m_a.rims()) {
            Bnd_Box box = a.box.Transformed(m_placed);
            box.SetGap(box.GetGap() + reach);
            for (const RimLine& b : m_b.rims()) {
                if (box.IsOut(b.box)) continue;
                ++m_tried;
                const Handle(Geom_Curve) curve = Handle(Geom_Curve)::DownCast(a.curve->Transformed(m_placed));
                GeomAPI_ExtremaCurveCurve nearest(curve, b.curve, a.first, a.last, b.first, b.last);
                gp_Pnt onA, onB;
                if (!nearest.TotalNearestPoints(onA, onB)) continue;
                Contact contact;
                contact.edgeA = a.number;
                contact.edgeB = b.number;
                contact.gap = onA.Distance(onB);
                if (contact.gap > m_exact) {
                    const gp_Vec towards = gp_Vec(onA, onB).Normalized();
                    contact.gap = std::abs(contact.gap - b.reachTowards(towards, b.ways[b.ways.size() / 2]) -
                                           a.reachTowards(towards.Transformed(m_back), a.ways[a.ways.size() / 2]));
                }
                if (contact.gap > reach) continue;
                contact.widest = contact.gap;
                contact.kind = contact.gap <= m_exact ? ContactKind::Point : ContactKind::Near;
                contact.where = onB;
                m_found.push_back(contact);
            }
        }
    }

    /// An edge in common is an edge of several faces: of those after the first `faces` one is kept for each line, and
    /// points only where there is no line.
    void keepOnce(std::size_t faces) {
        std::vector<Contact> once(m_found.begin(), m_found.begin() + static_cast<std::ptrdiff_t>(faces));
        const auto onRimOf = [this](const Contact& known, const gp_Pnt& at) {
            const bool ofB = known.edgeB > 0;
            const auto& rims = (ofB ? m_b : m_a).rims();
            const auto rim = std::find_if(rims.begin(), rims.end(), [&](const RimLine& one) {
                return one.number == (ofB ? known.edgeB : known.edgeA);
            });
            return parameterAt(rim->curve, ofB ? at : at.Transformed(m_back), 10.0 * m_exact).has_value();
        };
        for (const ContactKind kind : {ContactKind::Line, ContactKind::Near, ContactKind::Point}) {
            if (kind == ContactKind::Point &&
                std::any_of(once.begin(), once.end(), [](const Contact& c) { return c.kind == ContactKind::Line; }))
                continue;
            for (std::size_t i = faces; i < m_found.size(); ++i) {
                const Contact& one = m_found[i];
                if (one.kind != kind) continue;
                const bool known = std::any_of(once.begin(), once.end(), [&](const Contact& other) {
                    if (other.where.Distance(one.where) <= 10.0 * m_exact) return true;
                    return kind != ContactKind::Point && other.kind == kind && (other.edgeA > 0 || other.edgeB > 0) &&
                           onRimOf(other, one.where);
                });
                if (!known) once.push_back(one);
            }
        }
        m_found = std::move(once);
    }
};

}  // namespace

std::vector<Contact> contactsBetween(const Touchable& a, const Touchable& b, const gp_Trsf& placed,
                                     const ContactSearch& search, double exact, std::size_t& tried,
                                     const Progress& progress) {
    return PairSearch(a, b, placed, search, exact, tried).run(progress);
}

}  // namespace rasoir::join
