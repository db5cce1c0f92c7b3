// One occurrence of a part on the stage: its faces, and its edges drawn by how many faces meet there.
#pragma once
#include <AIS_DisplayMode.hxx>
#include <AIS_Shape.hxx>
#include <memory>

#include "model/model.h"
#include "theme.h"

namespace rasoir::app {

class PartPresentation : public AIS_Shape {
    DEFINE_STANDARD_RTTI_INLINE(PartPresentation, AIS_Shape)
public:
    PartPresentation(std::shared_ptr<const Part> part, std::size_t occurrence, const gp_Trsf& placement, const Palette& palette,
                     bool partColours);

    [[nodiscard]] const Part& part() const { return *m_part; }
    [[nodiscard]] const std::shared_ptr<const Part>& partPointer() const { return m_part; }
    [[nodiscard]] std::size_t occurrence() const { return m_occurrence; }

protected:
    void Compute(const Handle(PrsMgr_PresentationManager)& manager, const Handle(Prs3d_Presentation)& presentation,
                 const Standard_Integer mode) override;

private:
    void addFaces(const Handle(Prs3d_Presentation)& presentation) const;
    void addEdges(const Handle(Prs3d_Presentation)& presentation) const;

    std::shared_ptr<const Part> m_part;
    std::size_t m_occurrence;
    Palette m_palette;
    bool m_partColours;
};

Quantity_Color kernelColour(const QColor& colour);
/// Points of an edge as it was tessellated, in part coordinates; two ends at least, or empty.
std::vector<gp_Pnt> edgePoints(const Incidence& topology, int edge);

}  // namespace rasoir::app
