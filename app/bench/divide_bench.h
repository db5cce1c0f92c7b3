// The Divide bench: cutters gathered in a list, bodies united, subtracted, intersected, and blocks round them.
#pragma once
#include <gp_Pln.hxx>
#include <QComboBox>
#include <QLineEdit>
#include <QTreeWidget>

#include "bench/bench.h"
#include "bench/divide_pages.h"
#include "divide/cutters.h"
#include "selection.h"

namespace rasoir::app {

enum class DivideKind { Cut, Unite, Subtract, Intersect, Surround, PartFace, PartEdge, Section, Symmetry };

class DivideBench : public LaidOutBench {
    Q_OBJECT
public:
    DivideBench(Session& session, Selection& selection, QWidget* parent = nullptr);

    [[nodiscard]] QString state() const override;
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] BenchPreview preview() const override;
    void picksChanged(const std::vector<select::Pick>& picks) override;
    void handleMoved(int handle, double by) override;

    [[nodiscard]] QTreeWidget* cutters() const { return m_list; }
    [[nodiscard]] QTreeWidget* bodies() const { return m_bodies; }
    [[nodiscard]] QLineEdit* position() const { return m_position; }
    [[nodiscard]] QComboBox* keptSide() const { return m_keep; }
    [[nodiscard]] std::vector<BenchDeed> deeds() override;
    [[nodiscard]] OutlinePage* outlinePage() const { return m_outline; }
    [[nodiscard]] SymmetryPage* symmetryPage() const { return m_symmetry; }
    void showKind(DivideKind kind);
    /// A plane square to an axis (0 x, 1 y, 2 z) through the middle of what is selected, or of everything.
    void addAcross(int axis);
    /// Along the picked flat face, or through three picked vertices; says why not where that cannot be.
    void addFromPicks();

protected:
    void refresh() override;
    bool eventFilter(QObject* watched, QEvent* event) override;  ///< Delete takes a cutter out of the list

private:
    void meshAsOne(const std::vector<select::Pick>& picks, bool apart);
    struct Cutter {
        gp_Pln plane;        ///< model coordinates, where it was first
        double shift = 0.0;  ///< [mm] along its normal
        int axis = -1;       ///< square to it; -1: neither
        QString name;
        [[nodiscard]] gp_Pln now() const { return plane.Translated(gp_Vec(plane.Axis().Direction()) * shift); }
        /// What its number says: the coordinate on its axis, else the distance from where it was put.
        [[nodiscard]] double number() const;
    };
    [[nodiscard]] DivideKind kind() const { return static_cast<DivideKind>(m_kinds->current()); }
    [[nodiscard]] Bnd_Box boxOfWanted() const;
    [[nodiscard]] std::vector<std::string> names() const;  ///< of the selected places; empty: all
    [[nodiscard]] PickPage* page() const;                  ///< of the current kind; null: one of the older ones
    void refreshCutters();
    void refreshBodies();
    void setNumber(double number);

    Selection& m_selection;
    std::vector<Cutter> m_cutters;
    std::vector<select::Pick> m_picks;
    QWidget *m_cutPage, *m_bodyPage;
    OutlinePage* m_outline = nullptr;
    SymmetryPage* m_symmetry = nullptr;
    std::map<DivideKind, PickPage*> m_pages;
    QTreeWidget *m_list, *m_bodies;
    QLineEdit *m_position, *m_group, *m_clearance;
    QComboBox *m_keep, *m_by;
    QCheckBox* m_option;
    QLabel *m_positionLabel, *m_met, *m_bodyHint, *m_clearanceLabel;
};

}  // namespace rasoir::app
