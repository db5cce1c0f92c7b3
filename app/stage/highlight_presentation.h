// What is selected, drawn over the model: faces tinted, edges heavy, vertices as dots.
#pragma once
#include <AIS_InteractiveObject.hxx>

#include "model/model.h"
#include "select/pick.h"
#include "theme.h"

namespace rasoir::app {

/// Not pickable, never part of "fit". A body or a part is drawn by all its faces.
class HighlightPresentation : public AIS_InteractiveObject {
    DEFINE_STANDARD_RTTI_INLINE(HighlightPresentation, AIS_InteractiveObject)
public:
    HighlightPresentation(const Model& model, const std::vector<select::Pick>& picks, const QColor& colour,
                          double opacity);

protected:
    void Compute(const Handle(PrsMgr_PresentationManager) & manager, const Handle(Prs3d_Presentation) & presentation,
                 const Standard_Integer mode) override;
    void ComputeSelection(const Handle(SelectMgr_Selection) &, const Standard_Integer) override {}
    Standard_Boolean AcceptDisplayMode(const Standard_Integer mode) const override { return mode == 0; }

private:
    struct Entry {
        std::shared_ptr<const Part> part;
        gp_Trsf placement;
        select::Pick pick;
    };
    std::vector<Entry> m_entries;
    QColor m_colour;
    double m_opacity;
};

}  // namespace rasoir::app
