// The page of the Join bench that makes a flow space: openings with their lids, and what the fluid wets.
#pragma once
#include <QCheckBox>
#include <QDoubleSpinBox>
#include <QTreeWidget>

#include "bench/bench.h"
#include "join/openings.h"

namespace rasoir::app {

class FlowPage : public QWidget {
    Q_OBJECT
public:
    FlowPage(Session& session, QWidget* parent);

    /// A face that is picked is the seed.
    void picksChanged(const std::vector<select::Pick>& picks);
    void refresh();
    [[nodiscard]] std::optional<BenchStep> step() const;
    void addTo(BenchPreview& preview) const;
    [[nodiscard]] QTreeWidget* list() const { return m_list; }
    [[nodiscard]] QCheckBox* every() const { return m_every; }
    [[nodiscard]] QCheckBox* outer() const { return m_outer; }
    [[nodiscard]] QDoubleSpinBox* clearance() const { return m_clearance; }
    [[nodiscard]] bool isOuter() const { return m_outer->isChecked(); }
    /// What the seed is, in words.
    [[nodiscard]] QString answer() const;

signals:
    void changed();
    void closerWanted(const gp_Pnt& point, double size);

private:
    void fill();

    Session& m_session;
    QTreeWidget* m_list;
    QCheckBox *m_every, *m_outer;
    QDoubleSpinBox* m_clearance;
    std::vector<join::Opening> m_openings;  // in step with the rows
    std::vector<std::size_t> m_walls;
    std::optional<std::pair<std::size_t, int>> m_seed;  // place and face
};

}  // namespace rasoir::app
