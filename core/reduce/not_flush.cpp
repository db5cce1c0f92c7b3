#include "reduce/not_flush.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBndLib.hxx>
#include <Extrema_ExtPC.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Pln.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/box_tree.h"
#include "geometry/face_points.h"
#include "geometry/ray_field.h"
#include "join/contacts.h"
#include "model/places.h"
#include "reduce/join_sheets.h"
#include "reduce/sheet_growth.h"

// Each kind is looked for by itself, and what one has found no other tells again: an edge that ends short of a sheet is
// not also before its solid's rim.
//   - Ends before sheets: rays along the sheet (join_sheets).
//   - Edges apart: pairs of free edges whose boxes come near, by the distance of five points of one from the other.
//     Where solids are known, only over matter: the middle between them lies within one of the two.
//   - Rims: a ray along the sheet leaves the solid at once where the edge lies on its skin. Later: it ends short. Where
//     the point is outside, a ray back tells by how much it reaches too far.
//   - Lips: faces that hang on joints alone and reach no farther past them than half of what they pass through.
//   - Tabs and slits: three straight edges of an outline, of which the middle one is short.
//   - Overlaps: faces of two sheets that face each other nearer than their walls allow (join/contacts).
//   - Walls without a sheet: points midway in each wall of the solid, and how far they are from the nearest sheet.

namespace rasoir::reduce {
namespace {

constexpr std::array<double, 5> shares{0.05, 0.275, 0.5, 0.725, 0.95};
/// Of a part's size, by which triangles may be off: gaps of sheets are compared with their thickness.
constexpr double finely = 1e-4;

/// The solids that parts stand for, each once, with rays in it.
class Solids {
public:
    explicit Solids(Progress& progress) : m_progress(progress) {}
    const RayField* of(const Part& part) {
        if (!part.standsFor) return nullptr;
        auto& known = m_rays[part.standsFor.get()];
        if (!known)
            known = std::make_unique<RayField>(aloneInPlace(part.standsFor), std::vector<std::size_t>{}, finely,
                                               m_progress);
        return known.get();
    }

private:
    Progress& m_progress;
    std::map<const Part*, std::unique_ptr<RayField>> m_rays;
};

/// Whether a point lies in a solid: by what most of three rays meet first.
bool isWithin(const RayField& skin, const gp_Pnt& at) {
    int inside = 0;
    for (const gp_Dir& along : {gp_Dir(0.31, 0.52, 0.79), gp_Dir(-0.61, 0.33, 0.72), gp_Dir(0.1, -0.9, 0.42)}) {
        const auto hit = skin.first(at, along);
        inside += hit && hit->normal.Dot(gp_Vec(along)) > 0.0;
    }
    return inside >= 2;
}

class Looking {
public:
    Looking(const Model& model, const std::vector<std::size_t>& places, double upTo, Progress& progress)
        : m_model(model), m_upTo(upTo), m_progress(progress), m_solids(progress), m_safe(join::safeLimit(model).mm) {
        for (const std::size_t o : places)
            if (part(o).kind() == BodyKind::Sheet) m_places.push_back(o);
    }

    Result<std::vector<Flaw>> run() {
        if (m_places.empty()) return std::vector<Flaw>();
        for (const auto look : {&Looking::ends, &Looking::lips, &Looking::outlines, &Looking::apart, &Looking::rims,
                                &Looking::thicknesses}) {
            if (m_progress.cancelled()) return stopped();
            (this->*look)();
        }
        if (auto fine = overlaps(); !fine) return tl::unexpected(fine.error());
        if (auto fine = walls(); !fine) return tl::unexpected(fine.error());
        if (m_progress.cancelled()) return stopped();
        std::stable_sort(m_found.begin(), m_found.end(), [](const Flaw& a, const Flaw& b) {
            return std::pair(a.kind, a.size) < std::pair(b.kind, b.size);
        });
        return std::move(m_found);
    }

private:
    const Model& m_model;
    double m_upTo;
    Progress& m_progress;
    Solids m_solids;
    double m_safe;
    std::vector<std::size_t> m_places;
    std::vector<Flaw> m_found;
    std::set<std::pair<std::size_t, int>> m_told;  // places and edges
    std::map<std::size_t, std::set<int>> m_joint;  // by part: edges in common with others

    [[nodiscard]] static tl::unexpected<Problem> stopped() {
        return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
    }
    [[nodiscard]] const Part& part(std::size_t place) const { return *m_model.parts[m_model.occurrences[place].part]; }
    [[nodiscard]] const gp_Trsf& placement(std::size_t place) const { return m_model.occurrences[place].placement; }
    const std::set<int>& jointEdges(std::size_t place) {
        const std::size_t p = m_model.occurrences[place].part;
        const auto known = m_joint.find(p);
        return known != m_joint.end() ? known->second : m_joint.emplace(p, jointEdgesOf(m_model, p)).first->second;
    }
    /// It ends its sheet and nothing has been told of it.
    bool isFree(std::size_t place, int edge) {
        return part(place).incidence().facesAt(edge) == 1 && !jointEdges(place).contains(edge) &&
               !m_told.contains({place, edge});
    }
    void tell(Flaw flaw) {
        if (flaw.edge > 0) m_told.insert({flaw.place, flaw.edge});
        if (flaw.otherEdge > 0 && flaw.other) m_told.insert({*flaw.other, flaw.otherEdge});
        m_found.push_back(flaw);
    }
    /// Places of one part differ in what they meet, but not in themselves: told once, of the first.
    [[nodiscard]] std::vector<std::size_t> oncePerPart() const {
        std::vector<std::size_t> once;
        std::set<std::size_t> seen;
        for (const std::size_t o : m_places)
            if (seen.insert(m_model.occurrences[o].part).second) once.push_back(o);
        return once;
    }
    [[nodiscard]] double thickAtEdge(std::size_t place, int edge) const {
        const Incidence& topology = part(place).incidence();
        const BRepAdaptor_Curve curve(topology.edge(edge));
        return thicknessAt(part(place), topology.usesOf(edge).front().face,
                           curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter())));
    }

    void ends() {
        // Those that are expected are told beyond the limit too.
        double thickest = 0.0;
        for (const std::size_t o : m_places)
            for (const auto& [entity, thickness] : part(o).known.thickness) thickest = std::max(thickest, thickness.at);
        const double upTo = m_upTo > 0.0 ? std::max(m_upTo, 5.0 * thickest + m_safe) : 0.0;
        for (const ShortEnd& end : findShortEnds(m_model, m_places, upTo, m_progress)) {
            if (!end.expected && end.farthest() > m_upTo) continue;
            Flaw flaw{FlawKind::EndsShort, end.place,    end.target, end.edge, 0, end.face,
                      end.farthest(),      end.expected, {}};
            flaw.where = makeRef(part(end.place), {EntityKind::Edge, end.edge}).at.Transformed(placement(end.place));
            tell(flaw);
        }
    }

    void lips() {
        for (const std::size_t o : oncePerPart()) {
            const Incidence& topology = part(o).incidence();
            for (int f = 1; f <= topology.faceCount(); ++f) {
                std::vector<int> joints;
                int longest = 0;
                double through = 0.0, length = 0.0;
                bool hangs = true;
                for (const int e : topology.edgesOf(f)) {
                    if (topology.facesAt(e) == 1 && !jointEdges(o).contains(e)) {
                        if (const double own = lengthOf(topology.edge(e)); own > length) {
                            length = own;
                            longest = e;
                        }
                        continue;
                    }
                    hangs = hangs && (topology.facesAt(e) > 2 || jointEdges(o).contains(e));
                    joints.push_back(e);
                }
                if (!hangs || joints.empty() || longest == 0) continue;
                for (const int e : joints)
                    for (const EdgeUse& use : topology.usesOf(e))
                        if (use.face != f)
                            through = std::max(through, thicknessAt(part(o), use.face, topology.skin(f).centre));
                double wide = 0.0;
                for (const int e : topology.edgesOf(f)) {
                    const BRepAdaptor_Curve curve(topology.edge(e));
                    for (const double share : {0.0, 0.5, 1.0}) {
                        double nearest = 1e300;
                        for (const int joint : joints)
                            nearest = std::min(
                                nearest,
                                distanceFrom(topology.edge(joint), curve.Value((1.0 - share) * curve.FirstParameter() +
                                                                               share * curve.LastParameter())));
                        wide = std::max(wide, nearest);
                    }
                }
                const bool expected = through > 0.0 && wide <= 0.55 * through + m_safe;
                if (!expected && wide > 0.1 * length) continue;
                if (!expected && (m_upTo <= 0.0 || wide > m_upTo)) continue;
                const gp_Pnt where = topology.skin(f).centre.Transformed(placement(o));
                tell({FlawKind::Lip, o, std::nullopt, longest, 0, f, wide, expected, where});
            }
        }
    }

    static double distanceFrom(const TopoDS_Edge& edge, const gp_Pnt& point) {
        const BRepAdaptor_Curve curve(edge);
        double nearest = std::min(curve.Value(curve.FirstParameter()).Distance(point),
                                  curve.Value(curve.LastParameter()).Distance(point));
        const Extrema_ExtPC feet(point, curve);
        if (feet.IsDone())
            for (int i = 1; i <= feet.NbExt(); ++i) nearest = std::min(nearest, std::sqrt(feet.SquareDistance(i)));
        return nearest;
    }

    /// Tabs and slits. What the solid had is meant, unless it is narrower than any tool would make it.
    void outlines() {
        for (const std::size_t o : oncePerPart()) {
            const Incidence& topology = part(o).incidence();
            const gp_Trsf& place = placement(o);
            for (int e = 1; e <= topology.edgeCount(); ++e) {
                if (!isFree(o, e)) continue;
                const BRepAdaptor_Curve curve(topology.edge(e));
                const int face = topology.usesOf(e).front().face;
                if (curve.GetType() != GeomAbs_Line ||
                    GeomAdaptor_Surface(BRep_Tool::Surface(topology.face(face))).GetType() != GeomAbs_Plane)
                    continue;
                const double width = lengthOf(topology.edge(e));
                const double thick = thickAtEdge(o, e);
                if (thick <= 0.0 || width > thick) continue;
                gp_Pnt at;
                const gp_Vec out =
                    outAlong(topology, face, e, 0.5 * (curve.FirstParameter() + curve.LastParameter()), at);
                if (out.SquareMagnitude() < 0.5) continue;
                // Of each end: how far the outline goes on square to it, outwards for a slit, inwards for a tab.
                double shortest = 1e300;
                int outwards = 0, inwards = 0;
                std::vector<int> beside;
                for (const bool last : {false, true}) {
                    const TopoDS_Vertex corner =
                        last ? TopExp::LastVertex(topology.edge(e)) : TopExp::FirstVertex(topology.edge(e));
                    for (const int side : topology.edgesOf(face)) {
                        if (side == e || topology.facesAt(side) != 1) continue;
                        const TopoDS_Edge own = topology.edge(side);
                        const bool begins = TopExp::FirstVertex(own).IsSame(corner);
                        if ((!begins && !TopExp::LastVertex(own).IsSame(corner)) ||
                            BRepAdaptor_Curve(own).GetType() != GeomAbs_Line)
                            continue;
                        const gp_Pnt far = BRep_Tool::Pnt(begins ? TopExp::LastVertex(own) : TopExp::FirstVertex(own));
                        const gp_Vec way(BRep_Tool::Pnt(corner), far);
                        if (std::abs(way.Dot(out)) < std::cos(Tolerance::smooth) * way.Magnitude()) continue;
                        (way.Dot(out) > 0.0 ? outwards : inwards) += 1;
                        shortest = std::min(shortest, way.Magnitude());
                        beside.push_back(side);
                    }
                }
                const bool slit = outwards == 2;
                if ((!slit && inwards != 2) || shortest < width || (slit && width > 0.5 * thick)) continue;
                for (const int side : beside) m_told.insert({o, side});
                tell({slit ? FlawKind::Slit : FlawKind::Tab, o, std::nullopt, e, 0, face, width, false,
                      at.Transformed(place)});
            }
        }
    }

    struct FreeEdge {
        std::size_t place;
        int edge, face;
        std::array<gp_Pnt, 5> at;   // model coordinates
        std::array<gp_Vec, 5> out;  // unit, along the sheet
        gp_Vec way;                 // unit, along the edge at its middle
        double thick;
    };

    void apart() {
        std::vector<FreeEdge> free;
        std::vector<Bnd_Box> boxes;
        for (const std::size_t o : m_places) {
            const Incidence& topology = part(o).incidence();
            for (int e = 1; e <= topology.edgeCount(); ++e) {
                if (!isFree(o, e)) continue;
                const BRepAdaptor_Curve curve(topology.edge(e));
                FreeEdge own{o, e, topology.usesOf(e).front().face, {}, {}, {}, thickAtEdge(o, e)};
                bool fine = true;
                Bnd_Box box;
                for (std::size_t i = 0; i < shares.size() && fine; ++i) {
                    const gp_Vec out =
                        outAlong(topology, own.face, e,
                                 curve.FirstParameter() + shares[i] * (curve.LastParameter() - curve.FirstParameter()),
                                 own.at[i]);
                    fine = out.SquareMagnitude() > 0.5;
                    own.at[i].Transform(placement(o));
                    own.out[i] = out.Transformed(placement(o));
                    box.Add(own.at[i]);
                }
                if (!fine) continue;
                own.way = gp_Vec(own.at[1], own.at[3]);
                if (own.way.Magnitude() < Tolerance::noLength) continue;
                own.way.Normalize();
                free.push_back(own);
                boxes.push_back(box);
            }
        }
        const BoxTree tree(boxes);
        double widest = m_upTo;
        for (const FreeEdge& one : free) widest = std::max(widest, 1.1 * one.thick + m_safe);
        for (std::size_t i = 0; i < free.size(); ++i) {
            std::optional<Flaw> best;
            for (const std::size_t j : tree.near(boxes[i], widest)) {
                if (j == i) continue;
                const auto flaw = gapBetween(free[i], free[j]);
                if (flaw && (!best || flaw->size < best->size)) best = flaw;
            }
            if (best && !m_told.contains({best->place, best->edge}) &&
                !m_told.contains({*best->other, best->otherEdge}))
                tell(*best);
        }
    }

    std::optional<Flaw> gapBetween(const FreeEdge& a, const FreeEdge& b) {
        constexpr double alike = 0.94;  // cosine: edges that run alike within 20 degrees
        if (std::abs(a.way.Dot(b.way)) < alike) return std::nullopt;
        const double sum = 0.5 * (a.thick + b.thick);
        const double expected = 1.1 * std::max(a.thick, b.thick) + m_safe, most = std::max(m_upTo, expected);
        const double least = 10.0 * m_model.samePoint();
        const TopoDS_Edge other = part(b.place).incidence().edge(b.edge);
        double far = 0.0, near = 1e300;
        for (const gp_Pnt& at : a.at) {
            const double own = distanceFrom(other, at.Transformed(placement(b.place).Inverted()));
            far = std::max(far, own);
            near = std::min(near, own);
        }
        if (near < least || far > most) return std::nullopt;
        // Each looks at where the other one lies: edges of two plates that lie on each other look the same way.
        const gp_Vec between(a.at[2], b.at[2]);
        const gp_Vec across = between - a.way * between.Dot(a.way);
        const double lean = a.out[2].Dot(b.out[2]);
        const bool facing = lean < -0.94 && across.Dot(a.out[2]) > 0.94 * across.Magnitude();
        const bool corner = std::abs(lean) < 0.94 && across.Dot(a.out[2]) > -least && across.Dot(b.out[2]) < least;
        if (!facing && !corner) return std::nullopt;
        const gp_Pnt middle((a.at[2].XYZ() + b.at[2].XYZ()) / 2.0);
        bool known = false, matter = false;
        for (const FreeEdge* one : {&a, &b})
            if (const RayField* solid = m_solids.of(part(one->place))) {
                known = true;
                matter = matter || isWithin(*solid, middle.Transformed(placement(one->place).Inverted()));
            }
        const bool oneSolid =
            a.place == b.place || (part(a.place).standsFor && part(a.place).standsFor == part(b.place).standsFor);
        if (known && oneSolid && !matter) return std::nullopt;
        Flaw flaw{FlawKind::Apart, a.place, b.place, a.edge, b.edge, a.face, far, false, middle};
        flaw.expected = far <= (facing ? m_safe + (matter ? sum : 0.0) : 0.75 * (a.thick + b.thick) + m_safe);
        return flaw;
    }

    void rims() {
        for (const std::size_t o : oncePerPart()) {
            const RayField* solid = m_solids.of(part(o));
            if (solid == nullptr) continue;
            const Incidence& topology = part(o).incidence();
            for (int e = 1; e <= topology.edgeCount(); ++e) {
                if (!isFree(o, e)) continue;
                const int face = topology.usesOf(e).front().face;
                const double thick = thickAtEdge(o, e), least = std::max(0.05 * thick, 2.0 * finely * solid->extent());
                const BRepAdaptor_Curve curve(topology.edge(e));
                double before = 0.0, beyond = 0.0;
                gp_Pnt middle;
                for (const double share : shares) {
                    gp_Pnt at;
                    const gp_Vec out =
                        outAlong(topology, face, e,
                                 curve.FirstParameter() + share * (curve.LastParameter() - curve.FirstParameter()), at);
                    if (out.SquareMagnitude() < 0.5) continue;
                    if (share == 0.5) middle = at;
                    const auto skin = solid->nearest(at, 1e30);
                    if (!skin || skin->distance < least) continue;  // it lies on the skin
                    const auto ahead = solid->first(at, gp_Dir(out), solid->skin());
                    if (ahead && ahead->normal.Dot(out) > 0.0) {
                        before = std::max(before, ahead->distance);
                    } else if (const auto back = solid->first(at, gp_Dir(out.Reversed()), solid->skin());
                               back && back->normal.Dot(out) > 0.0) {
                        beyond = std::max(beyond, back->distance);
                    }
                }
                const double size = std::max(before, beyond);
                if (size < least) continue;
                const bool expected = size <= std::max(2.0 * thick, m_safe);
                if (!expected && size > m_upTo) continue;
                tell({before >= beyond ? FlawKind::BeforeRim : FlawKind::BeyondRim, o, std::nullopt, e, 0, face, size,
                      expected, middle.Transformed(placement(o))});
            }
        }
    }

    void thicknesses() {
        for (const std::size_t o : oncePerPart()) {
            const Incidence& topology = part(o).incidence();
            for (int f = 1; f <= topology.faceCount(); ++f) {
                const gp_Pnt centre = topology.skin(f).centre;
                if (thicknessAt(part(o), f, centre) > 0.0) continue;
                // It can be put right where something tells how thick it is.
                const bool known = part(o).standsFor || !part(o).known.thickness.empty();
                tell({FlawKind::NoThickness, o, std::nullopt, 0, 0, f, 0.0, known, centre.Transformed(placement(o))});
            }
        }
    }

    Result<void> overlaps() {
        if (m_places.size() < 2) return {};
        double thickest = 0.0;
        for (const std::size_t o : m_places)
            for (const auto& [entity, thickness] : part(o).known.thickness) thickest = std::max(thickest, thickness.at);
        const std::set<std::size_t> own(m_places.begin(), m_places.end());
        Model sheets = m_model;
        for (std::size_t o = 0; o < sheets.occurrences.size(); ++o)
            sheets.occurrences.change(o).aside = !own.contains(o);
        const auto report = join::findContacts(sheets, {std::max(thickest, 10.0 * m_model.samePoint())}, m_progress);
        if (!report) return tl::unexpected(report.error());
        const auto paired = pairedPlaces(m_model);
        std::set<std::pair<std::size_t, std::size_t>> seen;
        for (const join::Contact& contact : report->contacts) {
            if (contact.faceA == 0 || contact.faceB == 0 || contact.isWedge() || !(contact.area > 0.0)) continue;
            if (contact.kind != join::ContactKind::Touching && contact.kind != join::ContactKind::Near) continue;
            const auto thick = [&](std::size_t place, int face) {
                return thicknessAt(part(place), face, contact.where.Transformed(placement(place).Inverted()));
            };
            // Walls that lie on each other have their middles half of both apart; joints have taken what is in common.
            const double sum = 0.5 * (thick(contact.placeA, contact.faceA) + thick(contact.placeB, contact.faceB));
            const bool touching = contact.kind == join::ContactKind::Touching;
            if (!touching && contact.gap > 0.9 * sum) continue;
            if (facesInCommon(contact.placeA, contact.faceA, contact.placeB, contact.faceB)) continue;
            if (!seen.insert({contact.placeA, contact.placeB}).second) continue;
            const bool kept =
                paired.contains({std::min(contact.placeA, contact.placeB), std::max(contact.placeA, contact.placeB)});
            tell({FlawKind::Overlap, contact.placeA, contact.placeB, 0, 0, contact.faceA, touching ? 0.0 : contact.gap,
                  touching && !kept, contact.where});
        }
        return {};
    }

    [[nodiscard]] bool facesInCommon(std::size_t placeA, int faceA, std::size_t placeB, int faceB) const {
        return std::any_of(m_model.joints.begin(), m_model.joints.end(), [&](const Joint& joint) {
            const auto has = [&](std::size_t place, int face) {
                return std::any_of(joint.uses.begin(), joint.uses.end(), [&](const JointUse& use) {
                    return use.number == face && use.place == m_model.occurrences[place].id;
                });
            };
            return joint.kind == EntityKind::Face && has(placeA, faceA) && has(placeB, faceB);
        });
    }

    Result<void> walls() {
        // By solid, and by where it stands: parts that stand for it together.
        std::map<const Part*, std::vector<std::size_t>> sheetsOf;
        for (const std::size_t o : oncePerPart())
            if (part(o).standsFor) sheetsOf[part(o).standsFor.get()].push_back(o);
        for (const auto& [solid, places] : sheetsOf) {
            std::vector<std::size_t> parts;
            for (const std::size_t o : places) parts.push_back(m_model.occurrences[o].part);
            const auto left = wallsNotCovered(m_model, parts, m_progress);
            if (!left) return tl::unexpected(left.error());
            for (const Wall& wall : *left)
                tell({FlawKind::NotCovered, places.front(), std::nullopt, 0, 0, wall.sideA.front(), wall.thickness,
                      wall.slenderness == Slenderness::Thin, wall.where.Transformed(placement(places.front()))});
        }
        return {};
    }
};

}  // namespace

const char* flawName(FlawKind kind) {
    constexpr std::array names{"endsShort", "apart", "beforeRim", "beyondRim",   "lip",
                               "tab",       "slit",  "overlap",   "noThickness", "notCovered"};
    return names[static_cast<std::size_t>(kind)];
}

const char* flawWords(FlawKind kind) {
    constexpr std::array words{"ends short of another sheet", "edges end before each other",
                               "ends before the solid does",  "reaches beyond the solid",
                               "lip beyond a joint",          "tab of the outline",
                               "slit in the outline",         "sheets lie on each other",
                               "no thickness known",          "wall without a sheet"};
    return words[static_cast<std::size_t>(kind)];
}

std::optional<FlawKind> flawFromName(const std::string& name) {
    for (const FlawKind kind : flawKinds)
        if (name == flawName(kind)) return kind;
    return std::nullopt;
}

bool hasLength(const Flaw& flaw) {
    return flaw.kind != FlawKind::NoThickness && flaw.kind != FlawKind::NotCovered;
}

bool isTakenBy(const Flaw& flaw, double upTo) {
    return upTo > 0.0 && hasLength(flaw) ? flaw.size <= upTo * (1.0 + Tolerance::atLimit) : flaw.expected;
}

Result<std::vector<Wall>> wallsNotCovered(const Model& model, const std::vector<std::size_t>& parts,
                                          Progress& progress) {
    const Part& solid = *model.parts[parts.front()]->standsFor;
    auto walls = findWalls(solid, 0.0, 0.0, progress);
    if (!walls) return walls;
    // All that stands for it, and what of it has stayed solid; in the solid's coordinates, which are the parts'.
    Model sheets, rest;
    std::set<const Part*> wanted;
    for (const std::size_t p : parts) wanted.insert(model.parts[p].get());
    for (const auto& part : model.parts) {
        const bool isSheet = wanted.contains(part.get());
        if (!isSheet && (part->standsFor.get() != &solid || part->kind() == BodyKind::Sheet)) continue;
        Model& into = isSheet ? sheets : rest;
        into.occurrences.push_back({into.parts.size(), gp_Trsf(), part->name, {}, std::nullopt});
        into.parts.push_back(part);
    }
    const RayField middle(sheets, {}, RayField::usualDeviation, progress);
    std::optional<RayField> kept;
    if (!rest.parts.empty()) kept.emplace(rest, std::vector<std::size_t>{}, RayField::usualDeviation, progress);
    std::vector<Wall> left;
    for (Wall& wall : *walls) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        if (wall.slenderness == Slenderness::Thick) continue;
        double area = 0.0, covered = 0.0;
        const WallProbe probe(solid, wall);
        for (const int f : wall.sideA)
            for (const SkinSample& one : skinSamples(solid.incidence().face(f), 8)) {
                const gp_Pnt midway = one.at.Translated(one.out * (-0.5 * wall.thicknessAt(one.at)));
                if (!probe.between(midway)) continue;  // there the other side is another wall's, or none
                area += one.area;
                // Its sheet is the nearest, or that of a thinner wall which has this side too: the drawn skin tells.
                const double off = RayField::usualDeviation * middle.extent();
                const auto sheet = middle.nearest(one.at, 2.0 * wall.thickness + off);
                const double half =
                    sheet ? 0.5 * thicknessAt(*sheets.parts[sheet->occurrence], sheet->face, sheet->at) : 0.0;
                const bool under = sheet && (std::abs(sheet->distance - half) < 0.3 * half + off ||
                                             middle.nearest(midway, 0.3 * wall.thickness + off).has_value());
                if (under || (kept && isWithin(*kept, midway))) covered += one.area;
            }
        if (covered < 0.5 * area) left.push_back(std::move(wall));
    }
    return left;
}

Result<std::vector<Flaw>> findNotFlush(const Model& model, const std::vector<std::size_t>& places, double upTo,
                                       Progress& progress) {
    return guarded("Looking for what is not flush", [&] { return Looking(model, places, upTo, progress).run(); });
}

}  // namespace rasoir::reduce
