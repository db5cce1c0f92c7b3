// The page of the Join bench that lists bolted joints, like ones in a row, and makes beams of them.
#pragma once
#include <QCheckBox>
#include <QComboBox>

#include "bench/bench_page.h"
#include "join/bolts.h"

namespace rasoir::app {

class BoltsPage : public BenchPage {
    Q_OBJECT
public:
    BoltsPage(Session& session, QWidget* parent);

    void refresh() override;
    [[nodiscard]] std::optional<BenchStep> step() const override;
    void addTo(BenchPreview& preview) const override;
    [[nodiscard]] QString answer() const override;
    [[nodiscard]] QString words() const override;
    [[nodiscard]] std::optional<int> count() const override;
    /// Bolts of the marked rows.
    [[nodiscard]] std::size_t marked() const;
    [[nodiscard]] QTreeWidget* list() const { return m_list; }
    [[nodiscard]] QComboBox* as() const { return m_as; }
    [[nodiscard]] QCheckBox* rings() const { return m_rings; }

private:
    [[nodiscard]] bool asBodies() const { return m_as->currentIndex() == 1; }
    QTreeWidget* m_list;
    QComboBox* m_as;
    QCheckBox* m_rings;
    std::vector<std::vector<std::size_t>> m_rows;  // joints of the session, like ones together
};

}  // namespace rasoir::app
