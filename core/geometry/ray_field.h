// Rays and distances to triangulated parts: what is hit first, what is nearest, how far away. Built once for a set of
// places, asked from any thread.
#pragma once
#include <gp_Dir.hxx>
#include <memory>
#include <set>

#include "common/progress.h"
#include "model/model.h"

namespace rasoir {

struct RayHit {
    double distance = 0.0;       ///< [mm]
    std::size_t occurrence = 0;  ///< index in the model
    int face = 0;                ///< 1-based face number in its part
    gp_Vec normal;               ///< of the triangle, unit length, outward for a solid
    gp_Pnt at;                   ///< the point hit
};

/// The triangles are the kernel's, made with this deviation from the true surface when there are none yet.
/// Coordinates are kept from the middle of the model in single precision: distances are good to about 1e-6 of its
/// extent, and to the tessellation's deviation on curved faces.
class RayField {
public:
    /// Of a part's size, by which its triangles may be off where nothing finer is needed: a pixel of a picture of it.
    static constexpr double usualDeviation = 1e-3;

    /// `occurrences`: those taken in; empty: all. `relativeDeviation`: of each part's size, for parts not tessellated
    /// yet.
    RayField(const Model& model, const std::vector<std::size_t>& occurrences, double relativeDeviation,
             Progress& progress);
    ~RayField();
    RayField(const RayField&) = delete;
    RayField& operator=(const RayField&) = delete;

    /// The first thing hit farther than `beyond` [mm] and nearer than `upTo`.
    [[nodiscard]] std::optional<RayHit> first(const gp_Pnt& from, const gp_Dir& along, double beyond = 0.0,
                                              double upTo = 1e300) const;
    /// Whether anything at all is hit; faster.
    [[nodiscard]] bool blocked(const gp_Pnt& from, const gp_Dir& along, double beyond, double upTo = 1e300) const;

    /// The triangle nearest to a point, with the distance to it; none farther away than `upTo` [mm].
    [[nodiscard]] std::optional<RayHit> nearest(const gp_Pnt& from, double upTo = 1e30) const;

    /// [mm] from a point to one face of one occurrence; none farther away than `upTo`.
    [[nodiscard]] std::optional<double> distanceTo(const gp_Pnt& from, std::size_t occurrence, int face,
                                                   double upTo) const;
    /// Whether all that lies within `radius` [mm] of a point looks much the same way: normals turned towards the
    /// point, none farther from another than 60 degrees. True where there is nothing. `never`: occurrences of which
    /// nothing may lie there.
    [[nodiscard]] bool plainWithin(const gp_Pnt& from, double radius, const std::set<std::size_t>& never) const;

    /// Whether within `radius` [mm] of a point two walls face each other across the air, turned against each other by
    /// more than a square corner: a passage, or a wedge. Normals are taken to point away from the material. `always`:
    /// occurrences of which anything counts as facing.
    [[nodiscard]] bool facedWithin(const gp_Pnt& from, double radius, const std::set<std::size_t>& always) const;

    struct Triangle {
        gp_Pnt middle;
        gp_Vec normal;  ///< unit, outward
        double area = 0.0;
        std::size_t occurrence = 0;
        int face = 0;
    };
    [[nodiscard]] const std::vector<Triangle>& triangles() const;
    [[nodiscard]] double extent() const;  ///< [mm] diagonal of everything
    /// [mm] what a ray leaves behind before it may hit anything: triangles are kept in single precision
    [[nodiscard]] double skin() const { return 1e-5 * extent(); }
    /// The same where the point lies on a triangle of this field, so that only its last digit is rounded.
    [[nodiscard]] double ownSkin() const { return 1e-6 * extent(); }

private:
    struct Inside;
    std::unique_ptr<Inside> m_inside;
};

}  // namespace rasoir
