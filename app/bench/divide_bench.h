// The Divide bench: cutters gathered in a list, bodies united, subtracted, intersected, and blocks round them.
#pragma once
#include <QComboBox>
#include <QLineEdit>
#include <QTreeWidget>

#include "bench/bench.h"
#include "bench/cut_page.h"
#include "bench/divide_pages.h"
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
    void triedOut(const Outcome* outcome) override;

    [[nodiscard]] CutPage* cutPage() const { return m_cut; }
    [[nodiscard]] QTreeWidget* bodies() const { return m_bodies; }
    [[nodiscard]] std::vector<BenchDeed> deeds() override;
    [[nodiscard]] OutlinePage* outlinePage() const { return m_outline; }
    [[nodiscard]] SymmetryPage* symmetryPage() const { return m_symmetry; }
    void showKind(DivideKind kind);

protected:
    void refresh() override;

private:
    void meshAsOne(const std::vector<select::Pick>& picks, bool apart);
    [[nodiscard]] DivideKind kind() const { return static_cast<DivideKind>(m_kinds->current()); }
    [[nodiscard]] std::vector<std::string> names() const;  ///< of the selected places; empty: all
    [[nodiscard]] PickPage* page() const;                  ///< of the current kind; null: one of the older ones
    void refreshBodies();

    Selection& m_selection;
    std::vector<select::Pick> m_picks;
    QWidget* m_bodyPage;
    CutPage* m_cut = nullptr;
    OutlinePage* m_outline = nullptr;
    SymmetryPage* m_symmetry = nullptr;
    std::map<DivideKind, PickPage*> m_pages;
    QTreeWidget* m_bodies;
    QLineEdit* m_clearance;
    QComboBox* m_by;
    QCheckBox* m_option;
    QLabel *m_bodyHint, *m_clearanceLabel;
};

}  // namespace rasoir::app
