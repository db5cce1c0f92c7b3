// The whole scene with little detail, drawn in place of the parts while a heavy model is being moved.
#pragma once
#include <AIS_InteractiveObject.hxx>

#include "model/model.h"
#include "theme.h"

namespace rasoir::app {

/// Faces that would be a few pixels are left out; flat faces lose their inner loops; round ones stay as they are
/// tessellated.
class CoarsePresentation : public AIS_InteractiveObject {
    DEFINE_STANDARD_RTTI_INLINE(CoarsePresentation, AIS_InteractiveObject)
public:
    /// `smallest`: [mm] faces with a shorter diagonal are left out.
    CoarsePresentation(const Model& model, const std::vector<std::size_t>& occurrences, double smallest,
                       const Palette& palette);

protected:
    void Compute(const Handle(PrsMgr_PresentationManager) & manager, const Handle(Prs3d_Presentation) & presentation,
                 const Standard_Integer mode) override;
    void ComputeSelection(const Handle(SelectMgr_Selection) &, const Standard_Integer) override {}
    Standard_Boolean AcceptDisplayMode(const Standard_Integer mode) const override { return mode == 0; }

private:
    struct Mesh {
        std::vector<gp_Pnt> nodes;
        std::vector<gp_Dir> normals;
        std::vector<std::array<int, 3>> triangles;
        std::vector<std::pair<int, int>> lines;
    };
    static Mesh coarsened(const Part& part, double smallest);

    std::map<const Part*, Mesh> m_meshes;
    std::vector<std::pair<const Part*, gp_Trsf>> m_places;
    std::vector<std::shared_ptr<const Part>> m_keep;
    Palette m_palette;
};

/// Triangles as the parts are tessellated, of all these places.
[[nodiscard]] std::size_t trianglesIn(const Model& model, const std::vector<std::size_t>& occurrences);

/// Cuts a simple polygon into triangles by its ears (Meisters 1975): indices into the points; empty when it crosses
/// itself.
[[nodiscard]] std::vector<std::array<int, 3>> earsOf(const std::vector<std::array<double, 2>>& polygon);

}  // namespace rasoir::app
