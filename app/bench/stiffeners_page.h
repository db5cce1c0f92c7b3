// The page of the Reduce bench that lists beams along sheets and on them, and puts them there.
#pragma once
#include "bench/bench_page.h"
#include "reduce/beams_on_sheets.h"

namespace rasoir::app {

class StiffenersPage : public BenchPage {
    Q_OBJECT
public:
    StiffenersPage(Session& session, QWidget* parent);

    void refresh() override;
    [[nodiscard]] std::optional<BenchStep> step() const override;
    void addTo(BenchPreview& preview) const override;
    [[nodiscard]] QString answer() const override;
    [[nodiscard]] QString words() const override;
    [[nodiscard]] std::optional<int> count() const override;
    [[nodiscard]] QTreeWidget* list() const { return m_list; }
    [[nodiscard]] QCheckBox* links() const { return m_links; }

private:
    [[nodiscard]] bool isMarked(std::size_t row) const;

    QTreeWidget* m_list;
    QCheckBox* m_links;
};

}  // namespace rasoir::app
