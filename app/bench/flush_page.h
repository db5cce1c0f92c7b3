// The page of the Reduce bench that lists what of sheets is not flush, and puts right what is marked.
#pragma once
#include "bench/bench_page.h"
#include "bench/cut_bar.h"
#include "reduce/not_flush.h"

namespace rasoir::app {

class FlushPage : public BenchPage {
    Q_OBJECT
public:
    /// `blade`: the bench's own, which it shows above this page.
    FlushPage(Session& session, CutBar* blade, QWidget* parent);

    void refresh() override;
    [[nodiscard]] std::optional<BenchStep> step() const override;
    void addTo(BenchPreview& preview) const override;
    [[nodiscard]] QString answer() const override;
    [[nodiscard]] QString words() const override;
    [[nodiscard]] std::optional<int> count() const override;
    [[nodiscard]] QTreeWidget* list() const { return m_list; }
    void bladeMoved();
    void begin();  ///< as if nothing had been chosen yet

private:
    [[nodiscard]] const std::vector<reduce::Flaw>* found() const;
    [[nodiscard]] bool goesByRule(const reduce::Flaw& flaw) const;
    [[nodiscard]] bool goes(std::size_t flaw) const;
    /// Of the survey, those that would be put right.
    [[nodiscard]] std::vector<std::size_t> chosen() const;
    /// Sheets that the step is about: of the picked parts, or all.
    [[nodiscard]] std::vector<std::size_t> places() const;

    CutBar* m_blade;
    QTreeWidget* m_list;
    std::vector<std::size_t> m_rows;       // of the survey
    std::map<std::size_t, bool> m_byMark;  // of the survey: marked against the rule
    bool m_limitChosen = false;
};

}  // namespace rasoir::app
