#include "geometry/ray_field.h"

#include <embree3/rtcore.h>

#include <Bnd_Box.hxx>
#include <BRepBndLib.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <Poly_Triangulation.hxx>

#include "common/guard.h"
#include "common/tolerance.h"

namespace rasoir {

struct RayField::Inside {
    RTCDevice device = nullptr;
    RTCScene scene = nullptr;
    gp_Pnt middle;
    double extent = 0.0;
    std::vector<Triangle> triangles;
    const float* corners = nullptr;  // nine a triangle, from the middle; the scene's own
};

namespace {

/// Triangles of one face in its part's coordinates: three corners each, turned outward.
template <class Take>
void eachTriangle(const TopoDS_Face& face, Take take) {
    TopLoc_Location place;
    const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(face, place);
    if (mesh.IsNull()) return;
    const gp_Trsf by = place.Transformation();
    const bool reversed = (face.Orientation() == TopAbs_REVERSED) != by.IsNegative();
    for (int t = 1; t <= mesh->NbTriangles(); ++t) {
        int a = 0, b = 0, c = 0;
        mesh->Triangle(t).Get(a, b, c);
        if (reversed) std::swap(b, c);
        take(mesh->Node(a).Transformed(by), mesh->Node(b).Transformed(by), mesh->Node(c).Transformed(by));
    }
}

}  // namespace

RayField::RayField(const Model& model, const std::vector<std::size_t>& wanted, double relativeDeviation,
                   Progress& progress)
    : m_inside(std::make_unique<Inside>()) {
    Inside& in = *m_inside;
    std::vector<std::size_t> occurrences = wanted;
    if (occurrences.empty())
        for (std::size_t o = 0; o < model.occurrences.size(); ++o) occurrences.push_back(o);
    Bnd_Box all;
    std::set<std::size_t> meshed;
    std::map<std::size_t, Bnd_Box> boxes;
    for (const std::size_t o : occurrences) {
        const std::size_t p = model.occurrences[o].part;
        const Part& part = *model.parts[p];
        if (part.shape.IsNull()) continue;
        if (meshed.insert(p).second) {
            Bnd_Box& box = boxes[p];
            BRepBndLib::Add(part.shape, box, false);
            if (box.IsVoid()) continue;
            const double size = box.CornerMin().Distance(box.CornerMax());
            (void)guarded("Drawing", [&]() -> Result<void> {
                IMeshTools_Parameters parameters;
                parameters.Deflection = std::max(relativeDeviation * size, Tolerance::least);
                parameters.Angle = 0.35;
                parameters.InParallel = true;
                parameters.AllowQualityDecrease = true;
                BRepMesh_IncrementalMesh mesh(part.shape, parameters);  // keeps triangles that are fine enough
                return {};
            });
        }
        if (!boxes[p].IsVoid()) all.Add(boxes[p].Transformed(model.occurrences[o].placement));
        if (progress.cancelled()) break;
    }
    if (!all.IsVoid()) {
        in.middle = gp_Pnt(0.5 * (all.CornerMin().XYZ() + all.CornerMax().XYZ()));
        in.extent = all.CornerMin().Distance(all.CornerMax());
    }
    std::vector<float> corners;
    for (const std::size_t o : occurrences) {
        if (progress.cancelled()) break;
        const Occurrence& occurrence = model.occurrences[o];
        const Part& part = *model.parts[occurrence.part];
        if (part.shape.IsNull()) continue;
        const Incidence& topology = part.incidence();
        const bool mirrored = occurrence.placement.IsNegative();
        for (int f = 1; f <= topology.faceCount(); ++f)
            eachTriangle(topology.face(f), [&](gp_Pnt a, gp_Pnt b, gp_Pnt c) {
                if (mirrored) std::swap(b, c);
                gp_XYZ sum(0, 0, 0);
                std::array<gp_Pnt, 3> points{a, b, c};
                for (gp_Pnt& point : points) {
                    point.Transform(occurrence.placement);
                    sum += point.XYZ();
                }
                const gp_Vec square = gp_Vec(points[0], points[1]).Crossed(gp_Vec(points[0], points[2]));
                const double twice = square.Magnitude();
                if (!(twice > 0.0)) return;
                for (const gp_Pnt& point : points)
                    for (int i = 1; i <= 3; ++i)
                        corners.push_back(static_cast<float>(point.Coord(i) - in.middle.Coord(i)));
                in.triangles.push_back({gp_Pnt(sum / 3.0), square / twice, 0.5 * twice, o, f});
            });
    }
    in.device = rtcNewDevice(nullptr);
    in.scene = rtcNewScene(in.device);
    rtcSetSceneFlags(in.scene, RTC_SCENE_FLAG_ROBUST);
    if (!in.triangles.empty()) {
        const RTCGeometry geometry = rtcNewGeometry(in.device, RTC_GEOMETRY_TYPE_TRIANGLE);
        auto* vertices = static_cast<float*>(rtcSetNewGeometryBuffer(
            geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 3 * sizeof(float), corners.size() / 3));
        std::copy(corners.begin(), corners.end(), vertices);
        in.corners = vertices;
        auto* indices = static_cast<unsigned*>(rtcSetNewGeometryBuffer(
            geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 3 * sizeof(unsigned), in.triangles.size()));
        for (std::size_t i = 0; i < 3 * in.triangles.size(); ++i) indices[i] = static_cast<unsigned>(i);
        rtcCommitGeometry(geometry);
        rtcAttachGeometry(in.scene, geometry);
        rtcReleaseGeometry(geometry);
    }
    rtcCommitScene(in.scene);
}

RayField::~RayField() {
    rtcReleaseScene(m_inside->scene);
    rtcReleaseDevice(m_inside->device);
}

const std::vector<RayField::Triangle>& RayField::triangles() const {
    return m_inside->triangles;
}
double RayField::extent() const {
    return m_inside->extent;
}

std::optional<RayHit> RayField::first(const gp_Pnt& from, const gp_Dir& along, double beyond, double upTo) const {
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRayHit ray{};
    ray.ray.org_x = static_cast<float>(from.X() - m_inside->middle.X());
    ray.ray.org_y = static_cast<float>(from.Y() - m_inside->middle.Y());
    ray.ray.org_z = static_cast<float>(from.Z() - m_inside->middle.Z());
    ray.ray.dir_x = static_cast<float>(along.X());
    ray.ray.dir_y = static_cast<float>(along.Y());
    ray.ray.dir_z = static_cast<float>(along.Z());
    ray.ray.tnear = static_cast<float>(beyond);
    ray.ray.tfar = upTo >= 1e30 ? std::numeric_limits<float>::infinity() : static_cast<float>(upTo);
    ray.ray.mask = ~0u;
    ray.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    rtcIntersect1(m_inside->scene, &context, &ray);
    if (ray.hit.geomID == RTC_INVALID_GEOMETRY_ID) return std::nullopt;
    const Triangle& triangle = m_inside->triangles[ray.hit.primID];
    return RayHit{ray.ray.tfar, triangle.occurrence, triangle.face, triangle.normal,
                  from.Translated(gp_Vec(along) * static_cast<double>(ray.ray.tfar))};
}

namespace {

/// The point of a triangle that is nearest to p. Source: Ericson, Real-Time Collision Detection (2005), 5.1.5.
gp_XYZ nearestOn(const gp_XYZ& p, const gp_XYZ& a, const gp_XYZ& b, const gp_XYZ& c) {
    const gp_XYZ ab = b - a, ac = c - a, ap = p - a;
    const double d1 = ab.Dot(ap), d2 = ac.Dot(ap);
    if (d1 <= 0.0 && d2 <= 0.0) return a;
    const gp_XYZ bp = p - b;
    const double d3 = ab.Dot(bp), d4 = ac.Dot(bp);
    if (d3 >= 0.0 && d4 <= d3) return b;
    const double vc = d1 * d4 - d3 * d2;
    if (vc <= 0.0 && d1 >= 0.0 && d3 <= 0.0) return a + ab * (d1 / (d1 - d3));
    const gp_XYZ cp = p - c;
    const double d5 = ab.Dot(cp), d6 = ac.Dot(cp);
    if (d6 >= 0.0 && d5 <= d6) return c;
    const double vb = d5 * d2 - d1 * d6;
    if (vb <= 0.0 && d2 >= 0.0 && d6 <= 0.0) return a + ac * (d2 / (d2 - d6));
    const double va = d3 * d6 - d5 * d4;
    if (va <= 0.0 && d4 - d3 >= 0.0 && d5 - d6 >= 0.0) return b + (c - b) * ((d4 - d3) / ((d4 - d3) + (d5 - d6)));
    const double sum = va + vb + vc;
    return a + ab * (vb / sum) + ac * (vc / sum);
}

struct NearestSoFar {
    const float* corners;
    const RayField::Triangle* triangles;
    std::optional<std::pair<std::size_t, int>> only;  // occurrence and face
    gp_XYZ from;
    double distance;
    std::optional<unsigned> triangle;
    gp_XYZ foot;
};

/// The point of a triangle that is nearest to another point.
gp_XYZ footOn(const float* corners, unsigned triangle, const gp_XYZ& from) {
    const float* at = corners + 9 * static_cast<std::size_t>(triangle);
    const auto corner = [at](int i) { return gp_XYZ(at[3 * i], at[3 * i + 1], at[3 * i + 2]); };
    return nearestOn(from, corner(0), corner(1), corner(2));
}

/// Shows a visitor all triangles whose boxes come within a radius of a point.
void visitWithin(RTCScene scene, const gp_XYZ& from, float radius, RTCPointQueryFunction visit, void* visitor) {
    RTCPointQuery query{};
    query.x = static_cast<float>(from.X());
    query.y = static_cast<float>(from.Y());
    query.z = static_cast<float>(from.Z());
    query.radius = radius;
    RTCPointQueryContext context;
    rtcInitPointQueryContext(&context);
    rtcPointQuery(scene, &query, &context, visit, visitor);
}

bool takeNearer(RTCPointQueryFunctionArguments* arguments) {
    auto& so = *static_cast<NearestSoFar*>(arguments->userPtr);
    if (so.only && (so.triangles[arguments->primID].occurrence != so.only->first ||
                    so.triangles[arguments->primID].face != so.only->second))
        return false;
    const gp_XYZ foot = footOn(so.corners, arguments->primID, so.from);
    const double distance = (foot - so.from).Modulus();
    if (distance >= so.distance) return false;
    so.foot = foot;
    so.distance = distance;
    so.triangle = arguments->primID;
    arguments->query->radius = static_cast<float>(distance);
    return true;
}

/// The normals met so far within the radius: they are one wall while none is far from the first.
struct PlainSoFar {
    const float* corners;
    const std::vector<RayField::Triangle>& triangles;
    const std::set<std::size_t>& never;
    gp_XYZ from;
    double radius;
    std::optional<gp_Vec> first;
    bool plain = true;
};

bool takePlain(RTCPointQueryFunctionArguments* arguments) {
    auto& so = *static_cast<PlainSoFar*>(arguments->userPtr);
    if (!so.plain) return false;
    const gp_XYZ foot = footOn(so.corners, arguments->primID, so.from);
    if ((foot - so.from).Modulus() > so.radius) return false;
    const RayField::Triangle& triangle = so.triangles[arguments->primID];
    // Turned to the side it is seen from: two sheets that face each other are not one wall.
    const gp_Vec normal =
        gp_Vec(so.from - foot).Dot(triangle.normal) < 0.0 ? triangle.normal.Reversed() : triangle.normal;
    // Half of the angle on either side of the first one.
    constexpr double leastCosine = 0.866;
    if (so.never.contains(triangle.occurrence) || (so.first && so.first->Dot(normal) < leastCosine)) {
        so.plain = false;
        arguments->query->radius = 0.0F;
        return true;
    }
    if (!so.first) so.first = normal;
    return false;
}

/// The walls met so far within the radius, one of each plane.
struct FacedSoFar {
    const float* corners;
    const std::vector<RayField::Triangle>& triangles;
    const std::set<std::size_t>& always;
    gp_XYZ from;
    double radius;
    std::vector<std::pair<gp_Vec, gp_XYZ>> walls;  // normal, and a point
    bool faced = false;
};

bool takeFacing(RTCPointQueryFunctionArguments* arguments) {
    auto& so = *static_cast<FacedSoFar*>(arguments->userPtr);
    if (so.faced) return false;
    const gp_XYZ foot = footOn(so.corners, arguments->primID, so.from);
    if ((foot - so.from).Modulus() > so.radius) return false;
    const RayField::Triangle& triangle = so.triangles[arguments->primID];
    constexpr double opposed = -0.25;  // more than a square corner
    constexpr std::size_t mostWalls = 30;
    bool known = false;
    so.faced = so.always.contains(triangle.occurrence) || so.walls.size() >= mostWalls;
    for (const auto& [normal, point] : so.walls) {
        const gp_Vec across(foot - point);
        const double off = 0.03 * so.radius;
        known = known || (normal.Dot(triangle.normal) > 0.95 && std::abs(across.Dot(normal)) < off);
        // Each lies before the other, with air between them.
        so.faced = so.faced || (normal.Dot(triangle.normal) < opposed && across.Dot(normal) > -off &&
                                across.Dot(triangle.normal) < off);
    }
    if (!known) so.walls.emplace_back(triangle.normal, foot);
    if (so.faced) arguments->query->radius = 0.0F;
    return so.faced;
}

}  // namespace

bool RayField::facedWithin(const gp_Pnt& from, double radius, const std::set<std::size_t>& always) const {
    FacedSoFar so{m_inside->corners, m_inside->triangles, always, from.XYZ() - m_inside->middle.XYZ(), radius, {}};
    visitWithin(m_inside->scene, so.from, static_cast<float>(radius), takeFacing, &so);
    return so.faced;
}

bool RayField::plainWithin(const gp_Pnt& from, double radius, const std::set<std::size_t>& never) const {
    PlainSoFar so{m_inside->corners, m_inside->triangles, never, from.XYZ() - m_inside->middle.XYZ(), radius, {}, true};
    visitWithin(m_inside->scene, so.from, static_cast<float>(radius), takePlain, &so);
    return so.plain;
}

namespace {

void ask(RTCScene scene, NearestSoFar& so, double upTo) {
    visitWithin(scene, so.from, upTo >= 1e30 ? std::numeric_limits<float>::infinity() : static_cast<float>(upTo),
                takeNearer, &so);
}

}  // namespace

std::optional<RayHit> RayField::nearest(const gp_Pnt& from, double upTo) const {
    const gp_XYZ middle = m_inside->middle.XYZ();
    NearestSoFar so{m_inside->corners, m_inside->triangles.data(), {}, from.XYZ() - middle, upTo, std::nullopt, {}};
    ask(m_inside->scene, so, upTo);
    if (!so.triangle) return std::nullopt;
    const Triangle& triangle = m_inside->triangles[*so.triangle];
    return RayHit{so.distance, triangle.occurrence, triangle.face, triangle.normal, gp_Pnt(so.foot + middle)};
}

std::optional<double> RayField::distanceTo(const gp_Pnt& from, std::size_t occurrence, int face, double upTo) const {
    NearestSoFar so{m_inside->corners,
                    m_inside->triangles.data(),
                    std::pair{occurrence, face},
                    from.XYZ() - m_inside->middle.XYZ(),
                    upTo,
                    std::nullopt,
                    {}};
    ask(m_inside->scene, so, upTo);
    return so.triangle ? std::optional(so.distance) : std::nullopt;
}

bool RayField::blocked(const gp_Pnt& from, const gp_Dir& along, double beyond, double upTo) const {
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRay ray{};
    ray.org_x = static_cast<float>(from.X() - m_inside->middle.X());
    ray.org_y = static_cast<float>(from.Y() - m_inside->middle.Y());
    ray.org_z = static_cast<float>(from.Z() - m_inside->middle.Z());
    ray.dir_x = static_cast<float>(along.X());
    ray.dir_y = static_cast<float>(along.Y());
    ray.dir_z = static_cast<float>(along.Z());
    ray.tnear = static_cast<float>(beyond);
    ray.tfar = upTo >= 1e30 ? std::numeric_limits<float>::infinity() : static_cast<float>(upTo);
    ray.mask = ~0u;
    rtcOccluded1(m_inside->scene, &context, &ray);
    return ray.tfar < 0.0f;
}

}  // namespace rasoir
