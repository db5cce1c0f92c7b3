// One occurrence of a part on the stage: its faces, and its edges drawn by how many faces meet there.
#pragma once
#include <AIS_DisplayMode.hxx>
#include <AIS_Shape.hxx>
#include <Graphic3d_MaterialAspect.hxx>
#include <memory>
#include <set>

#include "model/model.h"
#include "theme.h"

namespace rasoir::app {

/// How an occurrence is drawn, beyond its shape.
struct PartLook {
    std::vector<QColor> faceColours;  ///< by face number ([0] unused); empty: bone. An invalid colour is bone too
    std::set<int> hiddenFaces;
    bool ghost = false;      ///< faint, and not to be picked
    bool convexity = false;  ///< edges coloured by convex, concave, smooth
    friend bool operator==(const PartLook&, const PartLook&) = default;
};

class PartPresentation : public AIS_Shape {
    DEFINE_STANDARD_RTTI_INLINE(PartPresentation, AIS_Shape)
public:
    PartPresentation(std::shared_ptr<const Part> part, std::size_t occurrence, const gp_Trsf& placement,
                     const Palette& palette, PartLook look);

    [[nodiscard]] const Part& part() const { return *m_part; }
    [[nodiscard]] const std::shared_ptr<const Part>& partPointer() const { return m_part; }
    /// The same shape under another name or material: the drawing stays.
    void setPart(std::shared_ptr<const Part> part) { m_part = std::move(part); }
    [[nodiscard]] std::size_t occurrence() const { return m_occurrence; }
    [[nodiscard]] const PartLook& look() const { return m_look; }

protected:
    void Compute(const Handle(PrsMgr_PresentationManager) & manager, const Handle(Prs3d_Presentation) & presentation,
                 const Standard_Integer mode) override;

private:
    void addFaces(const Handle(Prs3d_Presentation) & presentation) const;
    void addEdges(const Handle(Prs3d_Presentation) & presentation) const;

    std::shared_ptr<const Part> m_part;
    std::size_t m_occurrence;
    Palette m_palette;
    PartLook m_look;
};

/// How bodies take the light: without shine.
Graphic3d_MaterialAspect paperMaterial();
Quantity_Color kernelColour(const QColor& colour);
/// Points of an edge as it was tessellated, in part coordinates; two ends at least, or empty.
std::vector<gp_Pnt> edgePoints(const Incidence& topology, int edge);

}  // namespace rasoir::app
