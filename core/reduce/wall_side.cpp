#include "reduce/wall_side.h"

#include <BRep_Tool.hxx>
#include <BRepBndLib.hxx>
#include <TopoDS.hxx>

#include "common/tolerance.h"
#include "geometry/curves.h"
#include "reduce/walls.h"

namespace rasoir::reduce {

WallSide sideOf(const TopoDS_Face& shape) {
    WallSide side;
    const TopoDS_Face face = TopoDS::Face(shape.Oriented(TopAbs_FORWARD));
    side.surface = BRep_Tool::Surface(face);
    const auto region = std::make_shared<FaceRegion>(face);
    side.within = region;
    side.period[0] = side.surface->IsUPeriodic() ? side.surface->UPeriod() : 0.0;
    side.period[1] = side.surface->IsVPeriodic() ? side.surface->VPeriod() : 0.0;
    BRepBndLib::Add(face, side.box, false);
    // A narrow frame lies between the points of a coarse grid.
    for (int count = 11; count < 200 && side.samples.size() < 8; count *= 3) {
        side.samples.clear();
        for (int u = 0; u < count; ++u)
            for (int v = 0; v < count; ++v) {
                const gp_Pnt2d uv(region->low[0] + (region->high[0] - region->low[0]) * (u + 0.5) / count,
                                  region->low[1] + (region->high[1] - region->low[1]) * (v + 0.5) / count);
                if (region->where(uv) == FaceRegion::Where::In) side.samples.push_back(uv);
            }
    }
    return side;
}

std::optional<gp_Pnt2d> footIn(const WallSide& side, const gp_Pnt& point) {
    const auto foot = footOn(side.surface, point, Tolerance::least);
    if (!foot) return std::nullopt;
    double uv[2]{foot->X(), foot->Y()};
    for (const int way : {0, 1})
        if (side.period[way] > 0.0)
            uv[way] -=
                side.period[way] *
                std::round((uv[way] - 0.5 * (side.within->low[way] + side.within->high[way])) / side.period[way]);
    const gp_Pnt2d found(uv[0], uv[1]);
    return side.within->where(found) == FaceRegion::Where::Out ? std::nullopt : std::optional(found);
}

std::optional<double> footWithin(const WallSide& side, const gp_Pnt& point) {
    const auto uv = footIn(side, point);
    if (!uv) return std::nullopt;
    return side.surface->Value(uv->X(), uv->Y()).Distance(point);
}

struct WallProbe::Faces {
    std::vector<WallSide> a, b;
};

WallProbe::WallProbe(const Part& part, const Wall& wall) : m_faces(std::make_unique<Faces>()), m_wall(wall) {
    for (const int f : wall.sideA) m_faces->a.push_back(sideOf(part.incidence().face(f)));
    for (const int f : wall.sideB) m_faces->b.push_back(sideOf(part.incidence().face(f)));
}

WallProbe::~WallProbe() = default;

bool WallProbe::between(const gp_Pnt& point) const {
    const double half = 0.5 * m_wall.thicknessAt(point);
    const auto near = [&](const std::vector<WallSide>& sides) {
        return std::any_of(sides.begin(), sides.end(), [&](const WallSide& side) {
            const auto off = footWithin(side, point);
            return off && *off <= 1.02 * half + 0.6 * m_wall.uneven + Tolerance::noWay;
        });
    };
    return near(m_faces->a) && near(m_faces->b);
}

}  // namespace rasoir::reduce
