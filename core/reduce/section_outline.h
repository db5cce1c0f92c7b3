// Sections of beams as outlines, and where a beam's matter is.
#pragma once
#include <BRepAdaptor_Curve.hxx>
#include <gp_XY.hxx>

#include "model/model.h"

namespace rasoir::reduce {

/// The loops of a section [mm], in (up, across) about its centroid: as it knows them, else as its shape and sizes say;
/// of a shape that is not known the rectangle round it. Outer loops run counterclockwise, holes the other way.
[[nodiscard]] std::vector<std::vector<gp_XY>> outlinesOf(const Section& section);

/// How far a point of the section's plane lies outside of the section [mm]; negative: within, so far from its outline.
[[nodiscard]] double outsideOf(const Section& section, const gp_XY& at);

/// Where a section stands on its edge; the directions are units, square to each other.
struct SectionPlace {
    gp_Pnt middle;  ///< its centroid
    gp_Vec along, up, across;
};
/// `share`  of the edge's parameters, 0 to 1. On an arc the section turns with the line.
[[nodiscard]] SectionPlace placeOfSection(const BRepAdaptor_Curve& edge, const Section& section, double share);

/// The beams of some parts, asked for distances from their matter.
class BeamMatter {
public:
    explicit BeamMatter(const std::vector<std::shared_ptr<const Part>>& parts);
    [[nodiscard]] bool isEmpty() const { return m_beams.empty(); }

    struct Distance {
        double outside = 0.0;  ///< [mm] of a point from the nearest beam's matter; 0: within it
        double toSkin = 0.0;   ///< [mm] from the nearest outline, where the point lies beside a beam
        double depth = 0.0;    ///< [mm] largest extent of that beam's section
    };
    [[nodiscard]] Distance of(const gp_Pnt& point) const;

private:
    struct Beam {
        BRepAdaptor_Curve edge;
        Section section;
        double depth = 0.0;
    };
    std::vector<Beam> m_beams;
};

}  // namespace rasoir::reduce
