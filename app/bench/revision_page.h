// The page of the Hand over bench for the designer's next revision: what changed, which steps fit, go on with it.
#pragma once
#include "bench/bench_page.h"
#include "handover/revision.h"

namespace rasoir::app {

class RevisionPage : public BenchPage {
    Q_OBJECT
public:
    RevisionPage(Session& session, QWidget* parent);

    void refresh() override;
    [[nodiscard]] std::optional<BenchStep> step() const override { return std::nullopt; }
    void addTo(BenchPreview&) const override {}
    [[nodiscard]] QString answer() const override;
    [[nodiscard]] QString words() const override;
    /// What the button does: asks for a file, or goes on with the one that was looked at.
    void act() override;
    [[nodiscard]] bool acts() const override { return !m_session.isEmpty(); }
    [[nodiscard]] QTreeWidget* list() const { return m_list; }
    [[nodiscard]] QPushButton* nearestButton() const { return m_nearest; }

signals:
    void fileWanted();

private:
    /// The step of the chosen row, where the nearest can be taken for it.
    [[nodiscard]] std::optional<std::size_t> offered() const;

    QTreeWidget* m_list;
    QPushButton *m_other, *m_nearest;
};

}  // namespace rasoir::app
