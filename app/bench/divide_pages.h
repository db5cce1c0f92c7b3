// Pages of the Divide bench for cross-sections and symmetries.
#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QTreeWidget>

#include "bench/pick_page.h"
#include "survey/symmetry.h"

namespace rasoir::app {

class SectionPage : public PickPage {
    Q_OBJECT
public:
    SectionPage(Session& session, QWidget* parent);
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] QString words() const override;
    void refresh() override;

private:
    QComboBox* m_through;
    QLineEdit* m_number;
    QLabel* m_numberLabel;
    QCheckBox* m_half;
};

/// What is symmetric, found when the page is looked at; a row is kept in half, or in a sector.
class SymmetryPage : public PickPage {
    Q_OBJECT
public:
    SymmetryPage(Session& session, QWidget* parent);
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] QString words() const override;
    [[nodiscard]] std::vector<StageLine> lines() const override;
    void refresh() override;
    [[nodiscard]] QTreeWidget* list() const { return m_list; }
    [[nodiscard]] int found() const { return m_list->topLevelItemCount(); }

protected:
    void showEvent(QShowEvent* event) override;

private:
    [[nodiscard]] std::vector<std::pair<int, const survey::Symmetry*>> chosen() const;  ///< rows and what they say
    [[nodiscard]] StageLine drawn(const survey::Symmetry& one, double reach) const;
    QStringList m_rows;      ///< as the list shows them
    std::set<int> m_behind;  ///< rows of which the other side is kept
    QLabel* m_hint;
    QTreeWidget* m_list;
    QCheckBox* m_other;
};

}  // namespace rasoir::app
