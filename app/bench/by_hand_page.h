// The page of the Reduce bench for work on sheets by hand: edges carried on or cut back, thickness set,
// sheets made of faces, drawn onto each other, turned over, bends made sharp.
#pragma once
#include <QComboBox>
#include <QLabel>
#include <set>

#include "bench/pick_page.h"
#include "model/reference.h"

namespace rasoir::app {

class ByHandPage : public PickPage {
    Q_OBJECT
public:
    ByHandPage(Session& session, QWidget* parent);

    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] QString words() const override;
    [[nodiscard]] std::vector<StageLine> lines() const override;
    void refresh() override;
    [[nodiscard]] QComboBox* what() const { return m_what; }
    [[nodiscard]] QLineEdit* length() const { return m_number; }
    [[nodiscard]] QString hint() const { return m_hint->text(); }

private:
    enum class What { CarryOn, CutBack, Thickness, SheetFrom, DrawOnto, Sides, SharpBends };
    [[nodiscard]] What current() const { return static_cast<What>(m_what->currentIndex()); }
    /// Edges that are picked and end a sheet.
    [[nodiscard]] std::vector<select::Pick> freeEdges() const;
    /// The picked face that edges go to or are cut at, if there is one.
    [[nodiscard]] std::optional<select::Pick> target() const;
    /// The plane of what is picked beside the edges: of a flat face; through an edge that ends no sheet, or a vertex,
    /// square to the sheet; model coordinates.
    [[nodiscard]] std::optional<gp_Pln> targetPlane() const;
    /// Which way the sheet runs out at the first of the edges, and its normal there; model coordinates.
    [[nodiscard]] bool frameAtEdge(gp_Vec& out, gp_Vec& normal) const;
    [[nodiscard]] std::optional<BenchStep> edgesStep() const;
    [[nodiscard]] std::optional<BenchStep> drawStep() const;
    [[nodiscard]] std::optional<BenchStep> sidesStep() const;
    [[nodiscard]] std::optional<BenchStep> bendsStep() const;
    /// Sheets that are picked, or of which a face is.
    [[nodiscard]] std::set<std::size_t> sheetPlaces() const;
    /// An arrow on each face of the sheets, the way it looks.
    void addArrows(std::vector<StageLine>& lines) const;
    /// Faces of sheets that are picked, and all of those of picked sheets.
    [[nodiscard]] std::vector<FaceRef> sheetFaces() const;
    /// Faces that are picked, of whatever body.
    [[nodiscard]] std::vector<FaceRef> allFaces() const;
    [[nodiscard]] std::optional<BenchStep> thicknessStep() const;
    [[nodiscard]] std::optional<BenchStep> sheetStep() const;
    void offerPositions();

    QComboBox *m_what, *m_position;
    QLineEdit* m_number;
    QLabel *m_hint, *m_numberLabel, *m_positionLabel;
};

}  // namespace rasoir::app
