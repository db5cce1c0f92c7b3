// The page of the Join bench that lists bolted joints, like ones in a row, and makes beams of them.
#pragma once
#include <QTreeWidget>

#include "bench/bench.h"
#include "join/bolts.h"

namespace rasoir::app {

class BoltsPage : public QWidget {
    Q_OBJECT
public:
    BoltsPage(Session& session, QWidget* parent);

    void refresh();
    [[nodiscard]] std::optional<BenchStep> step() const;
    void addTo(BenchPreview& preview) const;
    [[nodiscard]] QString answer() const;
    /// Bolts of the marked rows.
    [[nodiscard]] std::size_t marked() const;
    [[nodiscard]] QTreeWidget* list() const { return m_list; }

signals:
    void changed();
    void closerWanted(const gp_Pnt& point, double size);

private:
    Session& m_session;
    QTreeWidget* m_list;
    std::vector<std::vector<std::size_t>> m_rows;  // joints of the session, like ones together
};

}  // namespace rasoir::app
