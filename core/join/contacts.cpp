#include "join/contacts.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <boost/geometry.hpp>
#include <boost/geometry/index/rtree.hpp>
#include <BRep_Tool.hxx>
#include <BRepBndLib.hxx>
#include <BRepClass3d_SolidClassifier.hxx>
#include <BRepTools.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <GeomAdaptor_Surface.hxx>

#include "common/guard.h"
#include "geometry/curves.h"
#include "geometry/extent.h"
#include "geometry/integrals.h"
#include "geometry/ray_field.h"

// Every face is sampled once, in the part's own coordinates, on a grid over its parameters: points within it, and the
// outward normal there. Of two faces whose boxes come near, the samples of the smaller one are dropped onto the surface
// of the other: those that land within it, near enough and face to face, make the contact. Sampling says how much
// touches within a few per cent, which is what a list needs; what is joined is computed exactly, by the arrangement.

namespace rasoir::join {
namespace {

namespace bg = boost::geometry;
namespace bgi = boost::geometry::index;
using Point3 = bg::model::point<double, 3, bg::cs::cartesian>;
using Box3 = bg::model::box<Point3>;

constexpr int grid = 9;  // samples along each parameter

struct Sample {
    gp_Pnt at;
    gp_Vec outward;
};

struct SampledFace {
    TopoDS_Face face;
    Handle(Geom_Surface) surface;
    std::vector<Sample> samples;
    double area = 0.0;
    double low[2]{}, high[2]{}, period[2]{};
    std::shared_ptr<BRepTopAdaptor_FClass2d> within;
    Bnd_Box box;
};

SampledFace sampled(const TopoDS_Face& face) {
    SampledFace made;
    made.face = TopoDS::Face(face.Oriented(TopAbs_FORWARD));
    made.surface = BRep_Tool::Surface(made.face);
    made.area = areaOf(face);
    BRepBndLib::Add(face, made.box, false);
    made.within = std::make_shared<BRepTopAdaptor_FClass2d>(made.face, 1e-9);
    BRepTools::UVBounds(made.face, made.low[0], made.high[0], made.low[1], made.high[1]);
    made.period[0] = made.surface->IsUPeriodic() ? made.surface->UPeriod() : 0.0;
    made.period[1] = made.surface->IsVPeriodic() ? made.surface->VPeriod() : 0.0;
    for (int i = 0; i < grid; ++i)
        for (int j = 0; j < grid; ++j) {
            // Between the grid's lines: on the boundary a point belongs to no face for sure.
            const gp_Pnt2d uv(made.low[0] + (made.high[0] - made.low[0]) * (i + 0.5) / grid,
                              made.low[1] + (made.high[1] - made.low[1]) * (j + 0.5) / grid);
            if (made.within->Perform(uv) != TopAbs_IN) continue;
            gp_Pnt point;
            gp_Vec du, dv;
            made.surface->D1(uv.X(), uv.Y(), point, du, dv);
            gp_Vec normal = du.Crossed(dv);
            if (normal.SquareMagnitude() < 1e-200) continue;
            normal.Normalize();
            if (face.Orientation() == TopAbs_REVERSED) normal.Reverse();
            made.samples.push_back({point, normal});
        }
    return made;
}

/// Distance of a point from a face that it faces, negative where it has passed it; none where its foot lies outside
/// the face or beyond reach.
std::optional<double> distanceTo(const SampledFace& face, bool reversed, const Sample& from, double reach) {
    const auto foot = footOn(face.surface, from.at, 1e-7);
    if (!foot) return std::nullopt;
    double uv[2]{foot->X(), foot->Y()};
    for (const int way : {0, 1})
        if (face.period[way] > 0.0)
            uv[way] -=
                face.period[way] * std::round((uv[way] - 0.5 * (face.low[way] + face.high[way])) / face.period[way]);
    gp_Pnt point;
    gp_Vec du, dv;
    face.surface->D1(uv[0], uv[1], point, du, dv);
    const double off = point.Distance(from.at);
    if (off > reach) return std::nullopt;
    gp_Vec normal = du.Crossed(dv);
    if (normal.SquareMagnitude() < 1e-200) return std::nullopt;
    normal.Normalize();
    if (reversed) normal.Reverse();
    if (normal.Dot(from.outward) > -std::cos(M_PI / 6.0)) return std::nullopt;
    if (face.within->Perform(gp_Pnt2d(uv[0], uv[1])) == TopAbs_OUT) return std::nullopt;
    return off > 1e-7 && gp_Vec(from.at, point).Dot(from.outward) < -0.5 * off ? -off : off;
}

/// Whether points lie within a solid: by two rays first, which cost little, and exactly only where one of them says so.
class Within {
public:
    Within(const std::shared_ptr<const Part>& part, Progress& progress)
        : m_box(tightBox(part->shape)), m_exact(part->shape), m_rays(alone(part), {}, 0.01, progress) {}

    /// Deeper than `reach` [mm] within it; in the part's coordinates.
    bool deep(const gp_Pnt& point, double reach) {
        // Deep in the solid is deep in its box: what lies on another body's outermost skin is told without more ado.
        const gp_Pnt low = m_box.CornerMin(), high = m_box.CornerMax();
        for (int way = 1; way <= 3; ++way)
            if (point.Coord(way) < low.Coord(way) + reach || point.Coord(way) > high.Coord(way) - reach) return false;
        static const std::array ways{gp_Dir(0.34, 0.81, 0.47), gp_Dir(-0.62, 0.21, -0.75)};
        const bool likely = std::any_of(ways.begin(), ways.end(), [&](const gp_Dir& way) {
            const auto hit = m_rays.first(point, way);
            return hit && hit->normal.Dot(gp_Vec(way)) > 0.0;
        });
        if (!likely) return false;
        m_exact.Perform(point, reach);
        return m_exact.State() == TopAbs_IN;
    }

private:
    Bnd_Box m_box;
    BRepClass3d_SolidClassifier m_exact;
    RayField m_rays;

    static Model alone(const std::shared_ptr<const Part>& part) {
        Model model;
        model.parts.push_back(part);
        model.occurrences.emplace_back();
        return model;
    }
};

struct Entry {
    std::size_t place = 0;
    int face = 0;
    friend bool operator==(const Entry&, const Entry&) = default;
};

Box3 treeBox(const Bnd_Box& box, double gap) {
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
    return {{low.X() - gap, low.Y() - gap, low.Z() - gap}, {high.X() + gap, high.Y() + gap, high.Z() + gap}};
}

}  // namespace

const char* contactKindName(ContactKind kind) {
    switch (kind) {
        case ContactKind::Touching:
            return "touching";
        case ContactKind::Near:
            return "near miss";
        case ContactKind::Overlap:
            return "overlap";
    }
    return "";
}

SafeLimit safeLimit(const Model& model) {
    SafeLimit limit{0.1 * model.targetSize, "a tenth of the target size"};
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        if (model.parts[p]->shape.IsNull() || model.isAside(p)) continue;
        const Bnd_Box box = tightBox(model.parts[p]->shape);
        if (box.IsVoid()) continue;
        const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
        const double thin = std::min({high.X() - low.X(), high.Y() - low.Y(), high.Z() - low.Z()});
        if (model.parts[p]->kind() == BodyKind::Solid && thin / 3.0 < limit.mm)
            limit = {thin / 3.0, fmt::format("a third of the thinnest side of \"{}\"", model.parts[p]->name)};
    }
    // A limit is read and typed by people: the 1, 2 or 5 times a power of ten next below.
    const double power = std::pow(10.0, std::floor(std::log10(std::max(limit.mm, 1e-9)) + 1e-9));
    for (const double step : {5.0, 2.0, 1.0})
        if (step * power <= limit.mm * (1.0 + 1e-9)) {
            limit.mm = step * power;
            break;
        }
    return limit;
}

Result<ContactReport> findContacts(const Model& model, double upTo, Progress& progress) {
    if (!(upTo >= 0.0) || !std::isfinite(upTo)) return fail(ProblemKind::BadInput, "The widest gap is no length.");
    return guarded("Looking for contacts", [&]() -> Result<ContactReport> {
        ContactReport report;
        const double exact = 10.0 * model.tolerances().samePoint, reach = std::max(upTo, exact);
        std::vector<std::vector<SampledFace>> faces(model.parts.size());  // by part, [0] unused
        std::vector<std::pair<Box3, Entry>> boxed;
        for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
            const Occurrence& place = model.occurrences[o];
            const Part& part = *model.parts[place.part];
            if (place.aside || part.lump || part.shape.IsNull()) continue;
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            const Incidence& topology = part.incidence();
            auto& own = faces[place.part];
            if (own.empty()) {
                own.resize(1);
                for (int f = 1; f <= topology.faceCount(); ++f) own.push_back(sampled(topology.face(f)));
            }
            for (int f = 1; f <= topology.faceCount(); ++f) {
                Bnd_Box box;
                BRepBndLib::Add(topology.face(f).Moved(TopLoc_Location(place.placement)), box, false);
                if (!box.IsVoid()) boxed.push_back({treeBox(box, 0.5 * reach), {o, f}});
            }
        }
        const bgi::rtree<std::pair<Box3, Entry>, bgi::quadratic<16>> tree(boxed);
        std::vector<std::pair<Entry, Entry>> pairs;
        for (const auto& [box, own] : boxed)
            for (auto it = tree.qbegin(bgi::intersects(box)); it != tree.qend(); ++it)
                if (it->second.place > own.place) pairs.push_back({own, it->second});
        std::sort(pairs.begin(), pairs.end(), [](const auto& a, const auto& b) {
            return std::tuple(a.first.place, a.second.place, a.first.face, a.second.face) <
                   std::tuple(b.first.place, b.second.place, b.first.face, b.second.face);
        });
        std::set<std::pair<std::size_t, std::size_t>> near;
        // Samples (place, face, number) that touch a place: nobody needs to ask whether they lie within it.
        std::set<std::tuple<std::size_t, int, std::size_t, std::size_t>> touching;
        for (std::size_t i = 0; i < pairs.size(); ++i) {
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            progress.report(static_cast<double>(i) / static_cast<double>(pairs.size()), "Looking for contacts");
            const auto& [a, b] = pairs[i];
            near.insert({a.place, b.place});
            ++report.pairsTried;
            const Occurrence &placeA = model.occurrences[a.place], &placeB = model.occurrences[b.place];
            const SampledFace &faceA = faces[placeA.part][a.face], &faceB = faces[placeB.part][b.face];
            // The smaller face's samples lie closer together: they see a small contact on a large face.
            const bool fromB = faceB.area < faceA.area;
            const SampledFace &from = fromB ? faceB : faceA, &onto = fromB ? faceA : faceB;
            const gp_Trsf there = (fromB ? placeA : placeB).placement.Inverted() * (fromB ? placeB : placeA).placement;
            const bool reversed =
                (model.parts[(fromB ? placeA : placeB).part]->incidence().face(fromB ? a.face : b.face))
                    .Orientation() == TopAbs_REVERSED;
            Contact contact;
            std::size_t hits = 0;
            double deepest = 0.0;
            // Most samples of faces that only come close at their rims are nowhere near: a box tells so at once.
            Bnd_Box closeBy = onto.box;
            closeBy.Enlarge(reach);
            for (std::size_t k = 0; k < from.samples.size(); ++k) {
                Sample sample = from.samples[k];
                sample.at.Transform(there);
                if (closeBy.IsOut(sample.at)) continue;
                sample.outward.Transform(there);
                const auto seen = distanceTo(onto, reversed, sample, reach);
                if (!seen) continue;
                if (fromB)
                    touching.emplace(b.place, b.face, k, a.place);
                else
                    touching.emplace(a.place, a.face, k, b.place);
                const double off = std::abs(*seen);
                deepest = std::max(deepest, -*seen);
                if (hits == 0 || off < contact.gap) {
                    contact.gap = off;
                    contact.where = sample.at.Transformed((fromB ? placeA : placeB).placement);
                }
                contact.widest = std::max(contact.widest, off);
                ++hits;
            }
            if (hits == 0) continue;
            contact.placeA = a.place;
            contact.placeB = b.place;
            contact.faceA = a.face;
            contact.faceB = b.face;
            contact.kind = contact.widest <= exact ? ContactKind::Touching : ContactKind::Near;
            contact.past = contact.kind == ContactKind::Near && deepest > 0.5 * contact.widest;
            contact.area = from.area * static_cast<double>(hits) / static_cast<double>(from.samples.size());
            report.contacts.push_back(contact);
        }
        // Bodies that reach into one another: a vertex or a sample of the one lies within the other.
        std::map<std::size_t, std::unique_ptr<Within>> within;
        for (const auto& [p, q] : near)
            for (const auto& [one, other] : {std::pair{p, q}, {q, p}}) {
                if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
                const std::size_t part = model.occurrences[other].part;
                if (model.parts[part]->kind() != BodyKind::Solid) continue;
                auto& solid = within[part];
                if (!solid) solid = std::make_unique<Within>(model.parts[part], progress);
                const gp_Trsf into = model.occurrences[other].placement.Inverted() * model.occurrences[one].placement;
                std::optional<gp_Pnt> inside;
                const auto& own = faces[model.occurrences[one].part];
                for (std::size_t f = 1; f < own.size() && !inside; ++f)
                    for (std::size_t k = 0; k < own[f].samples.size() && !inside; ++k) {
                        if (touching.contains({one, static_cast<int>(f), k, other})) continue;
                        const gp_Pnt point = own[f].samples[k].at.Transformed(into);
                        if (solid->deep(point, reach)) inside = point;
                    }
                if (!inside) continue;
                Contact contact;
                contact.kind = ContactKind::Overlap;
                contact.placeA = p;
                contact.placeB = q;
                contact.where = inside->Transformed(model.occurrences[other].placement);
                report.contacts.push_back(contact);
                break;
            }
        std::stable_sort(report.contacts.begin(), report.contacts.end(), [](const Contact& a, const Contact& b) {
            return std::tuple(a.placeA, a.placeB, a.kind) < std::tuple(b.placeA, b.placeB, b.kind);
        });
        return report;
    });
}

}  // namespace rasoir::join
