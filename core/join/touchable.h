// One body as something that others may touch: its skin sampled, its edges as lines of points, all found by place.
#pragma once

#include <Bnd_Box.hxx>
#include <Geom_Curve.hxx>
#include <Geom_Surface.hxx>
#include <memory>

#include "geometry/box_tree.h"
#include "geometry/face_region.h"
#include "model/model.h"

namespace rasoir::join {

/// A point of a skin. Of a sheet with thickness it lies half the thickness off the sheet, once on either side.
struct SkinPoint {
    gp_Pnt at;       ///< [mm, part coordinates]
    gp_Vec outward;  ///< unit
    gp_Pnt on;       ///< [mm] the point of the face itself
};

/// How a point that faces a face lies to it.
struct Facing {
    double gap = 0.0;    ///< [mm] from skin to skin; negative: they have passed one another
    double angle = 0.0;  ///< [rad] by which the normals do not look straight at each other
    gp_Pnt foot;         ///< [mm] the foot on the face
};

/// A face with points of its skin, which can be asked how far others are from it. Asking is safe from any thread.
class SkinFace {
public:
    /// `thickness`: of a sheet's face whose gaps count from its skins; null where they count from the face itself.
    SkinFace(const TopoDS_Face& face, int number, bool sheet, const Thickness* thickness);

    [[nodiscard]] int number() const { return m_number; }  ///< in the part
    [[nodiscard]] double area() const { return m_area; }
    [[nodiscard]] const Bnd_Box& box() const { return m_box; }  ///< of its skins
    [[nodiscard]] bool isPlane() const { return m_plane; }
    [[nodiscard]] const Handle(Geom_Surface) & surface() const { return m_surface; }
    /// Of a sheet those of one side come first, then as many of the other.
    [[nodiscard]] const std::vector<SkinPoint>& samples() const { return m_samples; }
    [[nodiscard]] double areaOfSample() const { return m_areaOfSample; }

    /// Where a point that faces this face lies to it; none where its foot lies outside the face, farther away than
    /// `reach`, or the two do not look at each other within 30 degrees. `foot`: where to begin, and then the foot.
    [[nodiscard]] std::optional<Facing> facing(const SkinPoint& from, double reach,
                                               std::optional<gp_Pnt2d>& foot) const;
    /// How far a point lies from the skin on its side, and its foot, whatever way it looks; none where the foot lies
    /// outside the face.
    [[nodiscard]] std::optional<Facing> below(const gp_Pnt& from) const;
    /// The foot of a point on the surface, wherever the face ends; brought into the face's own period.
    [[nodiscard]] std::optional<gp_Pnt2d> footOf(const gp_Pnt& point, const std::optional<gp_Pnt2d>& guess) const;
    [[nodiscard]] bool covers(const gp_Pnt2d& foot) const;  ///< in the face or on its rim
    /// Point and outward normal; false at a pole.
    bool skinAt(const gp_Pnt2d& uv, gp_Pnt& point, gp_Vec& outward) const;

private:
    int m_number;
    bool m_sheet, m_reversed, m_plane;
    std::optional<Thickness> m_thickness;
    TopoDS_Face m_face;
    Handle(Geom_Surface) m_surface;
    std::vector<SkinPoint> m_samples;
    double m_area = 0.0, m_areaOfSample = 0.0;
    double m_period[2]{};
    std::shared_ptr<const FaceRegion> m_region;
    Bnd_Box m_box;

    /// [mm] of the skin above the face, on the side to which its normal looks or on the other.
    [[nodiscard]] double skinHeight(const gp_Pnt& at, bool front) const;
};

/// An edge as points along it.
struct RimLine {
    int number = 0;  ///< in the part
    Handle(Geom_Curve) curve;
    double first = 0.0, last = 0.0;
    double length = 0.0;         ///< [mm]
    std::vector<gp_Pnt> points;  ///< its ends, and between them at even steps
    std::vector<gp_Vec> ways;    ///< unit, along it at those points
    Bnd_Box box;
    std::optional<Section> section;  ///< of a beam whose gaps count from its skin
    /// [mm] how far the section reaches from the line in a direction, where the line runs that way.
    [[nodiscard]] double reachTowards(const gp_Vec& direction, const gp_Vec& way) const;
};

/// One body of a part, in the part's coordinates.
class Touchable {
public:
    /// `body`: its number in the part. `fromSkins`: gaps count from the skins of sheets and beams.
    Touchable(const std::shared_ptr<const Part>& part, int body, bool fromSkins);

    [[nodiscard]] const std::shared_ptr<const Part>& part() const { return m_part; }
    [[nodiscard]] const TopoDS_Shape& shape() const { return m_shape; }
    [[nodiscard]] BodyKind kind() const { return m_kind; }
    [[nodiscard]] const Bnd_Box& box() const { return m_box; }
    [[nodiscard]] const std::vector<SkinFace>& faces() const { return m_faces; }
    /// Edges that may touch something where no face does: all of a solid or a wire, the free ones of a sheet.
    [[nodiscard]] const std::vector<RimLine>& rims() const { return m_rims; }
    /// Indices of faces whose boxes come within `gap` [mm] of a box, ascending.
    [[nodiscard]] std::vector<std::size_t> facesNear(const Bnd_Box& box, double gap) const;

private:
    std::shared_ptr<const Part> m_part;
    TopoDS_Shape m_shape;
    BodyKind m_kind = BodyKind::Empty;
    Bnd_Box m_box;
    std::vector<SkinFace> m_faces;
    std::vector<RimLine> m_rims;
    BoxTree m_tree;  // of the faces

    void takeFaces(bool fromSkins);
    void takeRims(bool fromSkins);
};

}  // namespace rasoir::join
