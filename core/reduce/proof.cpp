#include "reduce/proof.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <Eigen/Eigenvalues>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Circ.hxx>
#include <Poly_Triangulation.hxx>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "geometry/extent.h"
#include "geometry/face_points.h"
#include "geometry/integrals.h"
#include "geometry/ray_field.h"
#include "measure/facts.h"
#include "measure/mass.h"
#include "reduce/wall_side.h"

// The drawn body is triangles: the sheet's own, moved to either side. Distances between it and the solid are asked of
// points, in both directions. A point of the solid's skin is as far from the drawn body as it is from the sheet, less
// half the thickness there: so rims, where the sheet ends square, count as met. A point of the drawn skin reaches out
// when a ray says that it is outside of the solid.

namespace rasoir::reduce {
namespace {

constexpr double opposed = 0.98;  // cosine between the normals of the two sides of a wall

/// Where the middle of the wall lies, and how thick it is, above a point of a sheet's face.
std::pair<double, double> offsetAndHalf(const Thickness& own, const gp_Pnt& at) {
    return {own.offset, 0.5 * (own.at + own.gradient.Dot(gp_Vec(own.from, at)))};
}

void meshed(const TopoDS_Shape& shape, double deviation) {
    (void)guarded("Drawing", [&]() -> Result<void> {
        const BRepMesh_IncrementalMesh mesh(shape, std::max(deviation, 1e-7), false, 0.35, true);  // keeps finer ones
        return {};
    });
}

class Drawer {
public:
    Drawer(const Part& part, DrawnBody& body) : m_part(part), m_body(body) {}

    void face(int number, const Thickness& own) {
        TopLoc_Location place;
        const TopoDS_Face shape = m_part.incidence().face(number);
        const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(shape, place);
        if (mesh.IsNull()) return;
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(shape);
        const bool reversed = shape.Orientation() == TopAbs_REVERSED;
        const int first = static_cast<int>(m_body.points.size()), count = mesh->NbNodes();
        // Node n above is at first + 2 (n - 1), below it right behind.
        for (int n = 1; n <= count; ++n) {
            const gp_Pnt at = mesh->Node(n).Transformed(place.Transformation());
            gp_Vec normal;
            if (mesh->HasUVNodes()) {
                gp_Pnt there;
                gp_Vec du, dv;
                surface->D1(mesh->UVNode(n).X(), mesh->UVNode(n).Y(), there, du, dv);
                normal = du.Crossed(dv);
            }
            if (normal.Magnitude() > 1e-100) normal.Normalize();
            if (reversed) normal.Reverse();
            const auto [offset, half] = offsetAndHalf(own, at);
            m_body.points.push_back(at.Translated(normal * (offset + half)));
            m_body.points.push_back(at.Translated(normal * (offset - half)));
        }
        const auto add = [&](int a, int b, int c) {
            m_body.triangles.push_back({a, b, c});
            m_body.from.push_back(number);
        };
        std::map<std::pair<int, int>, int> sides;  // edges of the triangulation that one triangle has: its rim
        for (int t = 1; t <= mesh->NbTriangles(); ++t) {
            int n[3];
            mesh->Triangle(t).Get(n[0], n[1], n[2]);
            if (reversed) std::swap(n[1], n[2]);
            const auto above = [&](int i) { return first + 2 * (n[i] - 1); };
            add(above(0), above(1), above(2));
            add(above(0) + 1, above(2) + 1, above(1) + 1);
            for (int i = 0; i < 3; ++i) {
                const int a = n[i], b = n[(i + 1) % 3];
                const auto known = sides.find({b, a});
                if (known != sides.end())
                    sides.erase(known);
                else
                    sides[{a, b}] = t;
            }
        }
        for (const auto& [side, triangle] : sides) {
            const int a = first + 2 * (side.first - 1), b = first + 2 * (side.second - 1);
            if (!isFree(m_body.points[static_cast<std::size_t>(a)], m_body.points[static_cast<std::size_t>(a) + 1],
                        number))
                continue;
            add(a, a + 1, b);
            add(b, a + 1, b + 1);
        }
    }

    void beam(int number, const Section& own) {
        const BRepAdaptor_Curve curve(m_part.incidence().edge(number));
        const int steps = curve.GetType() == GeomAbs_Line ? 1 : 24;
        const double first = curve.FirstParameter(), last = curve.LastParameter();
        for (const auto& loop : outlinesOf(own)) {
            const int begin = static_cast<int>(m_body.points.size()), around = static_cast<int>(loop.size());
            for (int i = 0; i <= steps; ++i) {
                const double share = static_cast<double>(i) / steps;
                gp_Pnt at;
                gp_Vec along;
                curve.D1(first + share * (last - first), at, along);
                // On an arc the section turns with the line.
                gp_Vec turned = own.up;
                if (curve.GetType() == GeomAbs_Circle) turned.Rotate(curve.Circle().Axis(), share * (last - first));
                gp_Vec up = turned - along * (turned.Dot(along) / along.SquareMagnitude());
                if (up.Magnitude() < 1e-9) up = gp_Vec(gp_Ax2(at, gp_Dir(along)).XDirection());
                up.Normalize();
                const gp_Vec across = along.Normalized().Crossed(up);
                const gp_Pnt middle = at.Translated(own.startOffset * (1.0 - share) + own.endOffset * share);
                for (const gp_XY& corner : loop)
                    m_body.points.push_back(middle.Translated(up * corner.X() + across * corner.Y()));
            }
            for (int i = 0; i < steps; ++i)
                for (int k = 0; k < around; ++k) {
                    const int a = begin + i * around + k, b = begin + i * around + (k + 1) % around;
                    m_body.triangles.push_back({a, b, a + around});
                    m_body.triangles.push_back({b, b + around, a + around});
                    m_body.from.insert(m_body.from.end(), 2, -number);
                }
        }
    }

private:
    const Part& m_part;
    DrawnBody& m_body;

    /// Whether the side of a triangulation between two skins lies on a free edge: near none that others share.
    [[nodiscard]] bool isFree(const gp_Pnt& above, const gp_Pnt& below, int face) const {
        const gp_Pnt at(0.5 * (above.XYZ() + below.XYZ()));
        double nearest = 1e300;
        bool free = true;
        for (const int e : m_part.incidence().edgesOf(face)) {
            const EdgeSamples& samples = samplesOf(e);
            for (const gp_Pnt& point : samples)
                if (const double off = point.SquareDistance(at); off < nearest) {
                    nearest = off;
                    free = m_part.incidence().facesAt(e) == 1;
                }
        }
        return free;
    }
    using EdgeSamples = std::vector<gp_Pnt>;
    const EdgeSamples& samplesOf(int edge) const {
        auto& known = m_samples[edge];
        if (known.empty()) {
            const BRepAdaptor_Curve curve(m_part.incidence().edge(edge));
            for (int i = 0; i <= 48; ++i)
                known.push_back(
                    curve.Value(curve.FirstParameter() + (curve.LastParameter() - curve.FirstParameter()) * i / 48.0));
        }
        return known;
    }
    mutable std::map<int, EdgeSamples> m_samples;

    /// Corners of a section, along its height and across.
    [[nodiscard]] static std::vector<std::vector<gp_XY>> outlinesOf(const Section& own) {
        const auto size = [&own](std::size_t i) { return i < own.sizes.size() ? own.sizes[i] : 0.0; };
        const auto round = [](double radius) {
            std::vector<gp_XY> loop;
            constexpr int corners = 24;
            for (int i = 0; i < corners; ++i)
                loop.emplace_back(radius * std::cos(2.0 * M_PI * i / corners),
                                  radius * std::sin(2.0 * M_PI * i / corners));
            return loop;
        };
        const auto rectangle = [](double height, double breadth) {
            const double h = 0.5 * height, b = 0.5 * breadth;
            return std::vector<gp_XY>{{h, -b}, {h, b}, {-h, b}, {-h, -b}};
        };
        if (own.shape == "round") return {round(0.5 * size(0))};
        if (own.shape == "tube") return {round(0.5 * size(0)), round(0.5 * size(0) - size(1))};
        if (own.shape == "box")
            return {rectangle(size(0), size(1)), rectangle(size(0) - 2.0 * size(2), size(1) - 2.0 * size(2))};
        return {rectangle(size(0), size(1) > 0.0 ? size(1) : size(0))};
    }
};

/// Feet in the faces of parts, on the surfaces themselves.
class Feet {
public:
    explicit Feet(const std::vector<std::shared_ptr<const Part>>& parts) : m_parts(parts) {}

    struct Foot {
        gp_Pnt at;
        gp_Vec normal;  // outwards, as the face looks
    };
    /// None where the foot lies outside the face's outline.
    std::optional<Foot> in(std::size_t part, int face, const gp_Pnt& point) {
        const TopoDS_Face shape = m_parts[part]->incidence().face(face);
        auto known = m_sides.find({part, face});
        if (known == m_sides.end()) known = m_sides.emplace(std::pair(part, face), sideOf(shape)).first;
        const auto uv = footIn(known->second, point);
        if (!uv) return std::nullopt;
        Foot foot;
        gp_Vec du, dv;
        known->second.surface->D1(uv->X(), uv->Y(), foot.at, du, dv);
        foot.normal = du.Crossed(dv);
        if (foot.normal.Magnitude() < 1e-200) return std::nullopt;
        foot.normal.Normalize();
        if (shape.Orientation() == TopAbs_REVERSED) foot.normal.Reverse();
        return foot;
    }

private:
    const std::vector<std::shared_ptr<const Part>>& m_parts;
    std::map<std::pair<std::size_t, int>, WallSide> m_sides;
};

/// The largest relative difference of principal moments of inertia about the centres.
double momentChange(const measure::MassProperties& before, const measure::MassProperties& after) {
    const auto principal = [](const measure::MassProperties& own) {
        Eigen::Matrix3d matrix;
        const auto& i = own.inertia;
        matrix << i[0], i[3], i[4], i[3], i[1], i[5], i[4], i[5], i[2];
        return Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d>(matrix).eigenvalues().eval();
    };
    const auto a = principal(before), b = principal(after);
    double most = 0.0;
    for (int i = 0; i < 3; ++i)
        if (a[i] > 0.0) most = std::max(most, std::abs(b[i] - a[i]) / a[i]);
    return most;
}

Model modelOf(const std::vector<std::shared_ptr<const Part>>& parts) {
    Model model;
    for (const auto& part : parts) {
        model.occurrences.push_back({model.parts.size(), gp_Trsf(), part->name, {}, std::nullopt});
        model.parts.push_back(std::make_shared<Part>(*part));
    }
    return model;
}

bool isOnePlace(const gp_Trsf& a, const gp_Trsf& b) {
    for (int row = 1; row <= 3; ++row)
        for (int column = 1; column <= 4; ++column)
            if (std::abs(a.Value(row, column) - b.Value(row, column)) > (column < 4 ? 1e-9 : 1e-6)) return false;
    return true;
}

}  // namespace

DrawnBody drawnBody(const Part& part, double relativeDeviation, Progress& progress) {
    DrawnBody body;
    meshed(part.shape, relativeDeviation * std::sqrt(tightBox(part.shape).SquareExtent()));
    Drawer drawer(part, body);
    for (const auto& [thing, thickness] : part.known.thickness) {
        if (progress.cancelled()) break;
        if (thing.kind == EntityKind::Face && thing.number <= part.incidence().faceCount())
            drawer.face(thing.number, thickness);
    }
    for (const auto& [thing, section] : part.known.sections)
        if (thing.kind == EntityKind::Edge && thing.number <= part.incidence().edgeCount())
            drawer.beam(thing.number, section);
    return body;
}

std::vector<StandIn> standIns(const Work& work) {
    // Each part of the model now is followed back, step by step, to where it was a solid.
    struct Origin {
        std::size_t step, part;
        auto operator<=>(const Origin&) const = default;
    };
    const Model& now = work.current();
    const std::size_t steps = work.statesKnown();
    const auto before = [&](std::size_t step, std::size_t part) {
        const auto* lineage = work.lineageOfStep(step);
        if (lineage != nullptr)
            for (const PartLineage& own : *lineage)
                if ((own.into == PartLineage::samePlace ? own.part : own.into) == part) return own.part;
        return part;
    };
    const auto isReduced = [](const Part& part) {
        return part.kind() != BodyKind::Solid && (!part.known.thickness.empty() || !part.known.sections.empty());
    };
    std::map<Origin, std::vector<std::size_t>> found;
    for (std::size_t p = 0; p < now.parts.size(); ++p) {
        if (!isReduced(*now.parts[p])) continue;
        std::size_t own = p;
        for (std::size_t step = steps; step-- > 0;) {
            own = before(step, own);
            const Model& model = work.modelAfter(step);
            if (own >= model.parts.size()) break;
            if (model.parts[own]->kind() != BodyKind::Solid) continue;
            found[{step, own}].push_back(p);
            break;
        }
    }
    // What was cut off as too thick by the same step stands for the rest of it.
    for (std::size_t p = 0; p < now.parts.size(); ++p) {
        if (now.parts[p]->kind() != BodyKind::Solid) continue;
        std::size_t own = p;
        for (std::size_t step = steps; step-- > 0;) {
            own = before(step, own);
            const auto of = found.find({step, own});
            if (of == found.end()) continue;
            of->second.push_back(p);
            break;
        }
    }
    // Copies that became parts of their own stand each for the solid by themselves; what was parted in one place stands
    // for it together.
    const auto placeOf = [&](std::size_t p) {
        for (const Occurrence& place : now.occurrences)
            if (place.part == p) return place.placement;
        return gp_Trsf();
    };
    std::vector<StandIn> all;
    for (const auto& [origin, parts] : found) {
        const auto solid = work.modelAfter(origin.step).parts[origin.part];
        const std::size_t first = all.size();
        for (const std::size_t p : parts) {
            const gp_Trsf own = placeOf(p);
            const auto same =
                std::find_if(all.begin() + static_cast<std::ptrdiff_t>(first), all.end(),
                             [&](const StandIn& one) { return isOnePlace(placeOf(one.parts.front()), own); });
            if (same != all.end())
                same->parts.push_back(p);
            else if (now.parts[p]->kind() != BodyKind::Solid)
                all.push_back({solid, {p}});
        }
    }
    return all;
}

std::vector<std::string> proofLines(const Proof& proof) {
    // What is less than a ten-thousandth of a millimetre or of a per cent is nothing.
    const auto plain = [](double value) { return std::abs(value) < 1e-4 ? std::string("0") : readable(value); };
    const auto reach = [&](const char* what, const Worst& worst, const char* else_) {
        return worst.by < 1e-4 ? std::string(else_)
                               : fmt::format("{} {} mm, at {} {} {}", what, plain(worst.by), plain(worst.at.X()),
                                             plain(worst.at.Y()), plain(worst.at.Z()));
    };
    std::vector<std::string> lines{
        fmt::format("volume {} mm³ for {} mm³, {} %", readable(proof.drawnVolume), readable(proof.solidVolume),
                    readable(100.0 * proof.drawnVolume / std::max(proof.solidVolume, 1e-300), 2)),
        fmt::format("centre moved by {} mm, moments of inertia changed by up to {} %", plain(proof.centreShift),
                    plain(100.0 * proof.largestMoment))};
    const std::string pieces = counted(static_cast<std::size_t>(proof.pieces), "piece");
    if (!proof.skinsHeld) {
        lines.push_back(pieces + "; the skins of beams are not held against the solid");
        return lines;
    }
    lines.push_back(fmt::format("{} % of the skin has a drawn skin on it", readable(100.0 * proof.covered, 1)));
    lines.push_back(reach("the solid reaches out by up to", proof.left, "nothing of the solid is left out"));
    lines.push_back(reach("what is drawn reaches beyond the solid by up to", proof.beyond,
                          "nothing drawn reaches beyond the solid"));
    lines.push_back(reach("thickness off by up to", proof.thickness, "thickness as measured everywhere"));
    lines.push_back(fmt::format("{}, {} of {} mm", pieces,
                                counted(static_cast<std::size_t>(proof.freeEdges), "free edge"),
                                readable(proof.freeLength)));
    return lines;
}

Result<Proof> proofOf(const Model& model, const StandIn& standIn, Progress& progress) {
    return guarded("Proving what was reduced", [&]() -> Result<Proof> {
        Proof proof;
        std::vector<std::shared_ptr<const Part>> reduced, solids;
        for (const std::size_t p : standIn.parts)
            (model.parts[p]->kind() == BodyKind::Solid ? solids : reduced).push_back(model.parts[p]);
        if (reduced.empty()) return fail(ProblemKind::BadInput, "Nothing stands for that solid.");
        // Mass, as if all weighed the same.
        const auto weighed = [&](const std::vector<std::shared_ptr<const Part>>& parts) {
            Model own = modelOf(parts);
            own.density = 1e9;  // so that a mass is a volume
            measure::MassProperties sum;
            for (auto& part : own.parts) {
                auto plain = part->copy();
                plain->material.clear();
                plain->known.added.clear();
                sum += measure::massOf(own, *plain, measure::factsOf(*plain, 1.0, false));
            }
            return sum;
        };
        const measure::MassProperties whole = weighed({standIn.solid});
        std::vector<std::shared_ptr<const Part>> all = reduced;
        all.insert(all.end(), solids.begin(), solids.end());
        const measure::MassProperties after = weighed(all);
        proof.solidVolume = whole.mass;
        proof.drawnVolume = after.mass;
        proof.centreShift = whole.centre.Distance(after.centre);
        proof.largestMoment = momentChange(whole, after);
        for (const auto& part : reduced) {
            const Incidence& topology = part->incidence();
            for (int e = 1; e <= topology.edgeCount(); ++e)
                if (topology.facesAt(e) == 1) {
                    ++proof.freeEdges;
                    proof.freeLength += lengthOf(topology.edge(e));
                }
            proof.pieces += topology.bodyCount();
        }
        // Distances are to sheets. A section knows its sizes and not its outline, so that beams have no skin to hold.
        if (std::any_of(reduced.begin(), reduced.end(), [](const auto& part) { return part->known.thickness.empty(); }))
            return proof;
        proof.skinsHeld = true;
        const Model sheets = modelOf(reduced), left = modelOf(solids), before = modelOf({standIn.solid});
        const RayField middle(sheets, {}, 1e-3, progress), skin(before, {}, 1e-3, progress);
        std::unique_ptr<RayField> rest;
        if (!solids.empty()) rest = std::make_unique<RayField>(left, std::vector<std::size_t>{}, 1e-3, progress);
        const std::vector<std::shared_ptr<const Part>> solidAlone{standIn.solid};
        Feet onSheets(reduced), onSolid(solidAlone);
        double area = 0.0, covered = 0.0;
        const double extent = skin.extent();
        std::vector<SkinSample> samples;
        for (int f = 1; f <= standIn.solid->incidence().faceCount(); ++f) {
            const auto own = skinSamples(standIn.solid->incidence().face(f), 16);
            samples.insert(samples.end(), own.begin(), own.end());
        }
        // What reaches out does so at its edges.
        for (int e = 1; e <= standIn.solid->incidence().edgeCount(); ++e) {
            const TopoDS_Edge edge = standIn.solid->incidence().edge(e);
            if (BRep_Tool::Degenerated(edge)) continue;
            const BRepAdaptor_Curve curve(edge);
            for (const double share : {0.0, 0.25, 0.5, 0.75, 1.0})
                samples.push_back({curve.Value((1.0 - share) * curve.FirstParameter() + share * curve.LastParameter()),
                                   gp_Vec(), 0.0});
        }
        for (const SkinSample& one : samples) {
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            area += one.area;
            auto hit = middle.nearest(one.at);
            if (hit)
                if (const auto foot = onSheets.in(hit->occurrence, hit->face, one.at);
                    foot && foot->at.Distance(one.at) < hit->distance + 2e-3 * extent) {
                    hit->at = foot->at;
                    hit->normal = foot->normal;
                    hit->distance = foot->at.Distance(one.at);
                }
            double off = hit ? hit->distance : extent;
            bool onSkin = false;
            if (hit) {
                const Part& part = *reduced[hit->occurrence];
                const auto own = part.known.thickness.find({EntityKind::Face, hit->face});
                if (own != part.known.thickness.end()) {
                    const auto [offset, half] = offsetAndHalf(own->second, hit->at);
                    const gp_Vec away(hit->at, one.at);
                    // Along the wall it counts in full, across it by what it is more than the half on that side.
                    const double across = away.Dot(hit->normal) - offset;
                    const double aside = std::sqrt(std::max(0.0, off * off - std::pow(away.Dot(hit->normal), 2)));
                    off = std::hypot(std::max(0.0, std::abs(across) - half), aside > 1e-6 * extent ? aside : 0.0);
                    onSkin = std::abs(std::abs(across) - half) <= 0.02 * half && aside < 0.02 * half;
                    // What the solid really measures there, straight through.
                    const bool square = aside < 0.02 * half && std::abs(hit->normal.Dot(one.out)) > opposed;
                    const auto far =
                        square ? skin.first(one.at, gp_Dir(one.out.Reversed()), 1e-5 * extent) : std::nullopt;
                    if (far && far->normal.Dot(one.out) < -opposed && far->distance < 6.0 * half) {
                        const auto foot = onSolid.in(0, far->face, one.at);
                        const double differs = foot ? std::abs(foot->at.Distance(one.at) - 2.0 * half) : 0.0;
                        if (differs > proof.thickness.by) proof.thickness = {differs, one.at};
                    }
                }
            }
            if (rest && (!onSkin || off > 0.0))
                if (const auto solid = rest->nearest(one.at, std::max(off, 1e-3 * extent)); solid) {
                    off = std::min(off, solid->distance);
                    onSkin = onSkin || solid->distance < 1e-3 * extent;
                }
            if (onSkin) covered += one.area;
            if (off > proof.left.by) proof.left = {off, one.at};
        }
        proof.covered = area > 0.0 ? covered / area : 0.0;
        // What is drawn outside of the solid.
        const auto outside = [&](const gp_Pnt& at) {
            int inside = 0;
            for (const gp_Dir& along : {gp_Dir(0.31, 0.52, 0.79), gp_Dir(-0.61, 0.33, 0.72), gp_Dir(0.1, -0.9, 0.42)}) {
                const auto hit = skin.first(at, along);
                inside += hit && hit->normal.Dot(gp_Vec(along)) > 0.0;
            }
            return inside < 2;
        };
        for (std::size_t i = 0; i < reduced.size(); ++i) {
            const DrawnBody body = drawnBody(*reduced[i], 1e-3, progress);
            for (const auto& t : body.triangles) {
                if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
                const auto point = [&](int k) {
                    return body.points[static_cast<std::size_t>(t[static_cast<std::size_t>(k)])].XYZ();
                };
                const gp_Pnt at((point(0) + point(1) + point(2)) / 3.0);
                const auto nearest = skin.nearest(at);
                // Triangles are off round skins by as much as they were told they may be.
                const bool out = nearest && nearest->distance > 2e-3 * extent && outside(at);
                if (i == 0) proof.reachesOut.push_back(out);
                if (out && nearest->distance > proof.beyond.by) proof.beyond = {nearest->distance, at};
            }
        }
        return proof;
    });
}

}  // namespace rasoir::reduce
