// How good an element is, in the measures that are asked for in the field.
#pragma once
#include <gp_Pnt.hxx>
#include <string>
#include <vector>

#include "mesh/trial_mesh.h"

namespace rasoir::mesh {

/// For triangles, as defined in docs/user-guide.md, "Trial mesh":
enum class Measure {
    ShortestSide,   ///< [mm]
    LeastAngle,     ///< [deg], 60 at best
    LargestAngle,   ///< [deg], 60 at best
    Skewness,       ///< max((largest - 60) / 120, (60 - least) / 60): 0 at best, 1 without area
    AspectRatio,    ///< longest side over 2 sqrt(3) times the radius of the inscribed circle: 1 at best
    ScaledJacobian  ///< least sine of an angle over sin 60: 1 at best, 0 without area
};
inline constexpr std::array<Measure, 6> measures{Measure::ShortestSide, Measure::LeastAngle,  Measure::LargestAngle,
                                                 Measure::Skewness,     Measure::AspectRatio, Measure::ScaledJacobian};
[[nodiscard]] const char* measureName(Measure measure);  ///< "shortest side"
[[nodiscard]] const char* measureUnit(Measure measure);  ///< "mm", "deg", ""
/// Small is bad for a side, an angle, a Jacobian; large is for the others.
[[nodiscard]] bool smallIsBad(Measure measure);
/// What is commonly asked for: a fifth of the target, 20 and 130 degrees, 0.7, 5, 0.35.
[[nodiscard]] double customaryLimit(Measure measure, double target);

[[nodiscard]] double measured(Measure measure, const gp_Pnt& a, const gp_Pnt& b, const gp_Pnt& c);

/// Elements that fall short, with what they have in common.
struct BadPlace {
    std::size_t part = 0;
    std::vector<int> faces;  ///< the face whose narrowness is to blame first
    std::string what;        ///< "hole", "round", ... as the caller calls it; else the kind of surface
    std::size_t elements = 0;
    double worst = 0.0;
    gp_Pnt where;  ///< [mm, part coordinates] the worst one's middle
};

/// Things by name that bad elements can be put down to: their faces, and what they are called.
struct KnownFeature {
    std::size_t part = 0;
    std::vector<int> faces;
    std::string name;  ///< "hole Ø 3"
};

struct QualityFigures {
    Measure measure = Measure::ShortestSide;
    double limit = 0.0;
    std::size_t elements = 0, bad = 0;  ///< of the parts, each once
    double worst = 0.0, mean = 0.0;
    std::vector<double> values;    ///< of all elements, rising
    std::vector<BadPlace> places;  ///< most elements first
};

/// Puts bad elements down to features: one whose faces they lie on, or else to the smallest face at the element.
[[nodiscard]] QualityFigures qualityOf(const Model& model, const TrialMesh& mesh, Measure measure, double limit,
                                       const std::vector<KnownFeature>& features = {});

}  // namespace rasoir::mesh
