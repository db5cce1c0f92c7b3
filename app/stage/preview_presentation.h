// What is about to go, and what is kept: the walls of holes drawn as plugs in the part's true shape.
#pragma once
#include <AIS_InteractiveObject.hxx>
#include <memory>

#include "model/model.h"
#include "theme.h"

namespace rasoir::app {

struct PreviewFaces {
    std::shared_ptr<const Part> part;
    gp_Trsf placement;
    std::vector<int> faces;
};

/// Not pickable. Drawn twice: solid where it is seen, faint through the body where it is not.
class PreviewPresentation : public AIS_InteractiveObject {
    DEFINE_STANDARD_RTTI_INLINE(PreviewPresentation, AIS_InteractiveObject)
public:
    PreviewPresentation(std::vector<PreviewFaces> faces, const QColor& colour, double opacity, bool through);

protected:
    void Compute(const Handle(PrsMgr_PresentationManager) & manager, const Handle(Prs3d_Presentation) & presentation,
                 const Standard_Integer mode) override;
    void ComputeSelection(const Handle(SelectMgr_Selection) &, const Standard_Integer) override {}
    Standard_Boolean AcceptDisplayMode(const Standard_Integer mode) const override { return mode == 0; }

private:
    std::vector<PreviewFaces> m_faces;
    QColor m_colour;
    double m_opacity;
};

}  // namespace rasoir::app
