// Lines and outlines drawn on a flat face, in distances from one of its edges; and the walls they stand for.
#pragma once
#include <gp_Ax3.hxx>
#include <TopoDS_Shape.hxx>

#include "model/json.h"
#include "model/model.h"
#include "model/reference.h"

namespace rasoir::divide {

/// What is drawn, in numbers that can be typed and edited. x runs along a straight edge of the face, y away from it
/// into the face; so "7.5 mm from this edge" is a line at y = 7.5.
struct Outline {
    std::string shape = "line";  ///< line (right across the face), rectangle, circle, slot, polyline, closedPolyline
    std::optional<EntityRef> along;  ///< the edge that x runs along; none: the face's longest straight one
    std::string from = "start";      ///< where x is zero on that edge: start, middle or end
    /// Instead of `from`: x is zero at the foot of this vertex, of the centre of this round edge, or where the line of
    /// this straight edge crosses the one that x runs along. Things of the face's part.
    std::optional<EntityRef> origin;
    std::array<double, 2> at{0.0, 0.0};         ///< [mm] the line's point, or the middle of what is drawn
    double angle = 0.0;                         ///< [degrees] from the edge, towards the face's inside
    std::array<double, 2> size{0.0, 0.0};       ///< [mm] rectangle: along, across; slot: over all, width; circle: Ø, -
    std::vector<std::array<double, 2>> points;  ///< [mm] of a polyline, from `at`
    [[nodiscard]] bool closed() const { return shape != "line" && shape != "polyline"; }
};
void to_json(Json& json, const Outline& outline);
void from_json(const Json& json, Outline& outline);

/// The edge that a reference means; where its length has changed, the one that still passes through its middle.
[[nodiscard]] Result<FoundEntity> findEdge(const Model& model, const EntityRef& reference);
/// The face that a reference means; where it has changed, the one of like kind at the given edge.
[[nodiscard]] Result<FoundFace> findFaceAt(const Model& model, const FaceRef& face,
                                           const std::optional<EntityRef>& edge);

/// The outline with its edges as they are numbered now.
/// Refuses   edges and vertices that are gone.
[[nodiscard]] Result<Outline> resolved(const Model& model, const Outline& outline);

/// The face's own coordinates: origin on the edge, x along it, y into the face, z outwards.
/// Refuses   a face that is not flat, an edge that is not straight or not the face's, an origin that gives no foot.
[[nodiscard]] Result<gp_Ax3> frameOf(const Part& part, int face, const Outline& outline);

/// The outline on the face as edges, in the part's coordinates, in their order.
/// `reach`   [mm] how far a line runs to either side.
/// Refuses   sizes that are nothing, a polyline that crosses or touches itself.
[[nodiscard]] Result<TopoDS_Shape> drawn(const Outline& outline, const gp_Ax3& frame, double reach);
/// Walls square to the face through what is drawn, `height` [mm] to either side of it.
[[nodiscard]] TopoDS_Shape wallsOf(const TopoDS_Shape& drawn, const gp_Ax3& frame, double height);
/// Whether a point of the face lies within a closed outline, or between a line and the edge.
[[nodiscard]] bool isWithin(const Outline& outline, const gp_Ax3& frame, const gp_Pnt& point);

}  // namespace rasoir::divide
