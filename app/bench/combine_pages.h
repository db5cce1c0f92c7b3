// Pages of the Divide bench for whole bodies: united, subtracted, intersected; and what is put round them.
#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QTreeWidget>

#include "bench/pick_page.h"

namespace rasoir::app {

/// Bodies in the order they were picked; the first one leads.
class CombinePage : public PickPage {
    Q_OBJECT
public:
    enum class Way { Unite, Subtract, Intersect };
    CombinePage(Way way, Session& session, QWidget* parent);
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] QString words() const override;
    void refresh() override;
    [[nodiscard]] QTreeWidget* bodies() const { return m_bodies; }

private:
    [[nodiscard]] std::vector<std::string> chosen() const;
    Way m_way;
    QTreeWidget* m_bodies;
    QCheckBox* m_stay;
};

/// A block, cylinder or ball round what is selected; its sides are dragged on the stage. In two halves as a mould.
class SurroundPage : public PickPage {
    Q_OBJECT
public:
    SurroundPage(Session& session, QWidget* parent);
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] QString words() const override;
    [[nodiscard]] std::vector<StageLine> lines() const override;
    [[nodiscard]] std::vector<StageHandle> handles() const override;
    void handleMoved(int handle, double by) override;
    void refresh() override;
    [[nodiscard]] QComboBox* by() const { return m_by; }
    [[nodiscard]] QLineEdit* clearance() const { return m_clearance; }
    [[nodiscard]] QComboBox* parting() const { return m_parting; }

private:
    /// Six clearances [mm] as they are typed; none where they make no sense.
    [[nodiscard]] std::optional<std::array<double, 6>> clearances() const;
    [[nodiscard]] int axis() const;  ///< of the cylinder: 0 x, 1 y, 2 z
    [[nodiscard]] std::optional<double> partedAt() const;
    QComboBox *m_by, *m_parting;
    QLineEdit *m_clearance, *m_name, *m_at;
    QLabel *m_atLabel, *m_hint;
    QCheckBox* m_without;
};

}  // namespace rasoir::app
