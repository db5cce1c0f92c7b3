// The page of the Join bench that lists lines where bodies can be welded, and keeps them.
#pragma once
#include <QDoubleSpinBox>

#include "bench/bench_page.h"
#include "join/welds.h"

namespace rasoir::app {

class WeldsPage : public BenchPage {
    Q_OBJECT
public:
    WeldsPage(Session& session, QWidget* parent);

    void refresh() override;
    [[nodiscard]] std::optional<BenchStep> step() const override;
    void addTo(BenchPreview& preview) const override;
    [[nodiscard]] QString answer() const override;
    [[nodiscard]] QString words() const override;
    [[nodiscard]] std::optional<int> count() const override;
    [[nodiscard]] QTreeWidget* list() const { return m_list; }
    [[nodiscard]] QDoubleSpinBox* throat() const { return m_throat; }
    [[nodiscard]] QDoubleSpinBox* shortest() const { return m_shortest; }
    [[nodiscard]] QDoubleSpinBox* strip() const { return m_strip; }

private:
    /// Lines between the places of two parts that are long enough.
    struct Row {
        std::string first, second;
        std::vector<std::size_t> lines;  // of the session's plan
    };
    [[nodiscard]] bool longEnough(const join::WeldLine& line) const;
    [[nodiscard]] bool isMarked(std::size_t row) const;
    void fill();

    QTreeWidget* m_list;
    QDoubleSpinBox *m_throat, *m_shortest, *m_strip;
    std::vector<Row> m_rows;
};

}  // namespace rasoir::app
