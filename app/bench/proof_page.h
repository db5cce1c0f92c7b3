// The page of the Reduce bench that holds sheets and beams against the solids they stand for.
#pragma once
#include <QTreeWidget>

#include "bench/bench.h"

namespace rasoir::app {

class ProofPage : public QWidget {
    Q_OBJECT
public:
    explicit ProofPage(Session& session, QWidget* parent = nullptr);

    /// Fills the list from what the session knows; what is chosen stays chosen.
    void refresh();
    [[nodiscard]] QString answer() const;
    /// Everything as thick as it says it is, what reaches out of the solids in brass, over their edges.
    [[nodiscard]] BenchPreview preview() const;
    [[nodiscard]] QTreeWidget* list() const { return m_list; }

signals:
    void changed();
    void closerWanted(const gp_Pnt& point, double size);

protected:
    void resizeEvent(QResizeEvent* event) override;

private:
    /// The stand-in that the chosen row is of; all when none is chosen.
    [[nodiscard]] std::optional<std::size_t> chosen() const;

    Session& m_session;
    QTreeWidget* m_list;
    mutable std::shared_ptr<const StageMesh> m_drawn;  // of `m_of`, so that the stage need not draw it again
    mutable std::optional<std::size_t> m_of;
    mutable bool m_stale = true;
};

}  // namespace rasoir::app
