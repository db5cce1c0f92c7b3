#include "join/touchable.h"

#include <BRep_Tool.hxx>
#include <BRepBndLib.hxx>
#include <GCPnts_AbscissaPoint.hxx>
#include <GeomAdaptor_Curve.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/extent.h"
#include "geometry/face_points.h"
#include "geometry/integrals.h"

namespace rasoir::join {
namespace {

constexpr int samplesAlong = 9;  // of a face, each way
constexpr int stepsAlong = 10;   // of an edge
const double widestAngle = M_PI / 6.0;

}  // namespace

SkinFace::SkinFace(const TopoDS_Face& face, int number, bool sheet, const Thickness* thickness)
    : m_number(number),
      m_sheet(sheet),
      m_reversed(face.Orientation() == TopAbs_REVERSED),
      m_face(TopoDS::Face(face.Oriented(TopAbs_FORWARD))),
      m_surface(BRep_Tool::Surface(m_face)),
      m_region(std::make_shared<FaceRegion>(m_face)) {
    if (thickness != nullptr) m_thickness = *thickness;
    m_plane = GeomAdaptor_Surface(m_surface).GetType() == GeomAbs_Plane;
    BRepBndLib::Add(face, m_box, false);
    m_period[0] = m_surface->IsUPeriodic() ? m_surface->UPeriod() : 0.0;
    m_period[1] = m_surface->IsVPeriodic() ? m_surface->VPeriod() : 0.0;
    const std::vector<SkinSample> points = skinSamples(face, *m_region, samplesAlong);
    for (const SkinSample& point : points) m_area += point.area;  // together the face's, which is dear to take again
    if (points.empty())
        m_area = areaOf(face);
    else
        m_areaOfSample = m_area / static_cast<double>(points.size());
    double highest = 0.0;
    for (const bool front : {true, false}) {
        if (!front && !sheet) break;
        for (const SkinSample& point : points) {
            const double height = skinHeight(point.at, front);
            const gp_Vec out = front ? point.out : -point.out;
            m_samples.push_back({point.at.Translated(height * out), out, point.at});
            highest = std::max(highest, height);
        }
    }
    m_box.SetGap(m_box.GetGap() + highest);
}

double SkinFace::skinHeight(const gp_Pnt& at, bool front) const {
    if (!m_thickness) return 0.0;
    const double thick = m_thickness->at + m_thickness->gradient.Dot(gp_Vec(m_thickness->from, at));
    return 0.5 * thick + (front ? m_thickness->offset : -m_thickness->offset);
}

std::optional<gp_Pnt2d> SkinFace::footOf(const gp_Pnt& point, const std::optional<gp_Pnt2d>& guess) const {
    const auto foot = footOn(m_surface, point, Tolerance::least, guess);
    if (!foot) return std::nullopt;
    double uv[2]{foot->X(), foot->Y()};
    for (const int way : {0, 1})
        if (m_period[way] > 0.0)
            uv[way] -= m_period[way] *
                       std::round((uv[way] - 0.5 * (m_region->low[way] + m_region->high[way])) / m_period[way]);
    return gp_Pnt2d(uv[0], uv[1]);
}

bool SkinFace::covers(const gp_Pnt2d& foot) const {
    return m_region->where(foot) != FaceRegion::Where::Out;
}

bool SkinFace::skinAt(const gp_Pnt2d& uv, gp_Pnt& point, gp_Vec& outward) const {
    gp_Vec du, dv;
    m_surface->D1(uv.X(), uv.Y(), point, du, dv);
    outward = du.Crossed(dv);
    if (outward.SquareMagnitude() < Tolerance::divisible) return false;
    outward.Normalize();
    if (m_reversed) outward.Reverse();
    return true;
}

std::optional<Facing> SkinFace::facing(const SkinPoint& from, double reach, std::optional<gp_Pnt2d>& foot) const {
    foot = footOf(from.at, foot);
    if (!foot) return std::nullopt;
    gp_Pnt point;
    gp_Vec normal;
    if (!skinAt(*foot, point, normal)) return std::nullopt;
    // A sheet is met on the side that looks at the point.
    const bool front = !m_sheet || normal.Dot(from.outward) < 0.0;
    if (!front) normal.Reverse();
    const double cosine = -normal.Dot(from.outward);
    if (cosine < std::cos(widestAngle)) return std::nullopt;
    const double off = point.Distance(from.at);
    const bool passed = off > Tolerance::least && gp_Vec(from.at, point).Dot(from.outward) < -0.5 * off;
    const double gap = (passed ? -off : off) - skinHeight(point, front);
    if (std::abs(gap) > reach || !covers(*foot)) return std::nullopt;
    return Facing{gap, std::acos(std::min(cosine, 1.0)), point};
}

std::optional<Facing> SkinFace::below(const gp_Pnt& from) const {
    const auto foot = footOf(from, std::nullopt);
    if (!foot) return std::nullopt;
    gp_Pnt point;
    gp_Vec normal;
    if (!skinAt(*foot, point, normal) || !covers(*foot)) return std::nullopt;
    const double along = gp_Vec(point, from).Dot(normal);
    const double off = point.Distance(from);
    const bool within = !m_sheet && along < -0.5 * off && off > Tolerance::least;
    return Facing{(within ? -off : off) - skinHeight(point, along >= 0.0), 0.0, point};
}

double RimLine::reachTowards(const gp_Vec& direction, const gp_Vec& way) const {
    if (!section || section->sizes.empty()) return 0.0;
    // Along the line itself the section has no depth: a beam ends where its line does.
    if (section->shape == "round" || section->shape == "tube")
        return 0.5 * section->sizes[0] * direction.Crossed(way).Magnitude();
    // Other shapes reach as far as the rectangle round them: height along `up`, breadth across it.
    const gp_Vec up = section->up.Normalized();
    const double height = section->sizes[0], breadth = section->sizes.size() > 1 ? section->sizes[1] : height;
    return 0.5 * (std::abs(direction.Dot(up)) * height + std::abs(direction.Dot(way.Crossed(up))) * breadth);
}

Touchable::Touchable(const std::shared_ptr<const Part>& part, int body, bool fromSkins)
    : m_part(part), m_shape(part->incidence().body(body)) {
    switch (m_shape.ShapeType()) {
        case TopAbs_SOLID:
            m_kind = BodyKind::Solid;
            break;
        case TopAbs_SHELL:
        case TopAbs_FACE:
            m_kind = BodyKind::Sheet;
            break;
        case TopAbs_WIRE:
        case TopAbs_EDGE:
            m_kind = BodyKind::Wire;
            break;
        default:
            return;
    }
    BRepBndLib::Add(m_shape, m_box, false);
    takeFaces(fromSkins);
    takeRims(fromSkins);
}

void Touchable::takeFaces(bool fromSkins) {
    const Incidence& topology = m_part->incidence();
    std::vector<Bnd_Box> boxes;
    std::size_t count = 0;
    for (TopExp_Explorer it(m_shape, TopAbs_FACE); it.More(); it.Next()) ++count;
    m_faces.reserve(count);  // a face with its samples is dear to move
    for (TopExp_Explorer it(m_shape, TopAbs_FACE); it.More(); it.Next()) {
        const int number = topology.faceNumber(it.Current());
        const auto& known = m_part->known.thickness;
        const auto thickness = known.find({EntityKind::Face, number});
        m_faces.emplace_back(TopoDS::Face(it.Current()), number, m_kind == BodyKind::Sheet,
                             fromSkins && thickness != known.end() ? &thickness->second : nullptr);
        if (!m_faces.back().box().IsVoid()) {
            boxes.push_back(m_faces.back().box());
            m_box.Add(m_faces.back().box());
        }
    }
    m_tree = BoxTree(boxes);
}

void Touchable::takeRims(bool fromSkins) {
    const Incidence& topology = m_part->incidence();
    TopTools_IndexedMapOfShape edges;
    TopExp::MapShapes(m_shape, TopAbs_EDGE, edges);
    for (int e = 1; e <= edges.Extent(); ++e) {
        const TopoDS_Edge& edge = TopoDS::Edge(edges(e));
        const int number = topology.edgeNumber(edge);
        if (BRep_Tool::Degenerated(edge) || (m_kind == BodyKind::Sheet && topology.facesAt(number) != 1)) continue;
        RimLine rim;
        rim.number = number;
        rim.curve = BRep_Tool::Curve(edge, rim.first, rim.last);
        if (rim.curve.IsNull()) continue;
        const GeomAdaptor_Curve adaptor(rim.curve, rim.first, rim.last);
        rim.length = GCPnts_AbscissaPoint::Length(adaptor);
        for (int i = 0; i <= stepsAlong; ++i) {
            gp_Pnt at;
            gp_Vec way;
            rim.curve->D1(rim.first + (rim.last - rim.first) * i / stepsAlong, at, way);
            rim.points.push_back(at);
            rim.ways.push_back(way.Magnitude() > Tolerance::noLength ? way.Normalized() : way);
        }
        BRepBndLib::Add(edge, rim.box, false);
        const auto& known = m_part->known.sections;
        if (const auto section = known.find({EntityKind::Edge, number}); fromSkins && section != known.end()) {
            rim.section = section->second;
            double most = 0.0;
            for (const double size : section->second.sizes) most = std::max(most, size);
            rim.box.SetGap(rim.box.GetGap() +
                           most);  // the farthest corner of a rectangle lies 0.71 of its larger side off
            m_box.Add(rim.box);
        }
        m_rims.push_back(std::move(rim));
    }
}

std::vector<std::size_t> Touchable::facesNear(const Bnd_Box& box, double gap) const {
    return m_tree.near(box, gap);
}

}  // namespace rasoir::join
