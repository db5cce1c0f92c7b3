// A trial mesh on the stage: its elements with their edges, those that fall short in brass.
#pragma once
#include <AIS_InteractiveObject.hxx>
#include <memory>

#include "mesh/quality.h"
#include "theme.h"

namespace rasoir::app {

/// A mesh as it is drawn, for the whole model.
struct StageMesh {
    mesh::AssembledMesh mesh;
    std::vector<bool> bad;  ///< by triangle
    bool plain = false;     ///< a body rather than elements: without their edges, and one can see into it
    /// By triangle, 0 to 1: from the tone of bodies to that of trouble, without edges; empty: by what is bad.
    std::vector<double> shades;
};

/// Marks the elements of a mesh that fall short of a limit.
std::shared_ptr<const StageMesh> drawnMesh(const Model& model, const mesh::TrialMesh& mesh, mesh::Measure measure,
                                           double limit);

/// Not pickable. Edges are left out where there are so many elements that they would be all one sees.
class MeshPresentation : public AIS_InteractiveObject {
    DEFINE_STANDARD_RTTI_INLINE(MeshPresentation, AIS_InteractiveObject)
public:
    MeshPresentation(std::shared_ptr<const StageMesh> mesh, const Palette& palette);

protected:
    void Compute(const Handle(PrsMgr_PresentationManager) & manager, const Handle(Prs3d_Presentation) & presentation,
                 const Standard_Integer mode) override;
    void ComputeSelection(const Handle(SelectMgr_Selection) &, const Standard_Integer) override {}
    Standard_Boolean AcceptDisplayMode(const Standard_Integer mode) const override { return mode == 0; }

private:
    std::shared_ptr<const StageMesh> m_mesh;
    Palette m_palette;
};

}  // namespace rasoir::app
