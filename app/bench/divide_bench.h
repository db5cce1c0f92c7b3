// The Divide bench: what it found, cutters gathered in a list, bodies united, subtracted, intersected, blocks round
// them, faces and edges parted, points, cross-sections, symmetries. Each kind is a page.
#pragma once
#include "bench/bench.h"
#include "bench/combine_pages.h"
#include "bench/cut_page.h"
#include "bench/divide_findings.h"
#include "bench/divide_pages.h"
#include "bench/edge_pages.h"
#include "bench/outline_page.h"
#include "selection.h"

namespace rasoir::app {

enum class DivideKind {
    Cut,
    Findings,
    Unite,
    Subtract,
    Intersect,
    Surround,
    PartFace,
    PartEdge,
    Points,
    Section,
    Symmetry
};

class DivideBench : public LaidOutBench {
    Q_OBJECT
public:
    DivideBench(Session& session, Selection& selection, QWidget* parent = nullptr);

    [[nodiscard]] QString state() const override;
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] BenchPreview preview() const override;
    void picksChanged(const std::vector<select::Pick>& picks) override;
    void handleMoved(int handle, double by) override;
    void clicked(const gp_Pnt& point) override;
    void triedOut(const Outcome* outcome) override;

    [[nodiscard]] std::vector<BenchDeed> deeds() override;
    [[nodiscard]] CutPage* cutPage() const { return m_cut; }
    [[nodiscard]] OutlinePage* outlinePage() const { return m_outline; }
    [[nodiscard]] SymmetryPage* symmetryPage() const { return m_symmetry; }
    [[nodiscard]] SurroundPage* surroundPage() const { return m_surround; }
    [[nodiscard]] DivideFindingsPage* findings() const { return m_findings; }
    [[nodiscard]] PickPage* page() const { return m_pages[static_cast<std::size_t>(m_kinds->current())]; }
    void showKind(DivideKind kind);

protected:
    void refresh() override;
    void apply() override;

private:
    void meshAsOne(const std::vector<select::Pick>& picks, bool apart);
    [[nodiscard]] DivideKind kind() const { return static_cast<DivideKind>(m_kinds->current()); }
    [[nodiscard]] std::vector<std::string> names() const;  ///< of the selected places; empty: all

    Selection& m_selection;
    std::vector<select::Pick> m_picks;
    DivideFindingsPage* m_findings;
    CutPage* m_cut;
    OutlinePage* m_outline;
    SymmetryPage* m_symmetry;
    SurroundPage* m_surround;
    std::vector<PickPage*> m_pages;  // by kind
};

}  // namespace rasoir::app
