// The Reduce bench: walls by thickness, shown before anything is made, and sheets made of them.
#pragma once
#include <QTreeWidget>

#include "bench/bench.h"
#include "bench/cut_bar.h"
#include "reduce/walls.h"

namespace rasoir::app {

class ReduceBench : public LaidOutBench {
    Q_OBJECT
public:
    explicit ReduceBench(Session& session, QWidget* parent = nullptr);

    [[nodiscard]] QString state() const override;
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] BenchPreview preview() const override;
    [[nodiscard]] CutBar* cutBar() const override { return m_cutBar; }
    [[nodiscard]] QTreeWidget* walls() const { return m_list; }
    [[nodiscard]] QCheckBox* doubtful() const { return m_doubtful; }

protected:
    void refresh() override;
    void showEvent(QShowEvent* event) override;

private:
    struct Row {
        std::size_t part = 0, wall = 0;
    };
    [[nodiscard]] bool goes(const reduce::Wall& wall) const;
    [[nodiscard]] const std::map<std::size_t, std::vector<reduce::Wall>>* found() const;

    CutBar* m_cutBar;
    QTreeWidget* m_list;
    QCheckBox* m_doubtful;
    std::vector<Row> m_rows;
    bool m_limitChosen = false;
};

}  // namespace rasoir::app
