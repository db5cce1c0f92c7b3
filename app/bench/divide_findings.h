// The page of the Divide bench that says what it found by itself: bodies that do not mesh in layers, with the cuts that
// free them, and small faces and edges that would better be one with a neighbour.
#pragma once
#include <QLabel>
#include <QTreeWidget>

#include "bench/pick_page.h"

namespace rasoir::app {

class DivideFindingsPage : public PickPage {
    Q_OBJECT
public:
    DivideFindingsPage(Session& session, QWidget* parent);
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] QString words() const override;
    [[nodiscard]] std::vector<StageLine> lines() const override;
    void refresh() override;
    [[nodiscard]] QTreeWidget* list() const { return m_list; }
    /// Bodies that do not mesh in layers, and what could be one; none while it is not known.
    [[nodiscard]] std::optional<int> count() const;

    [[nodiscard]] bool leadsToSymmetry() const { return chosen().first == Kind::Symmetry; }

signals:
    void symmetriesWanted();

protected:
    void showEvent(QShowEvent* event) override;

private:
    enum class Kind { Heading, Layers, Beside, Symmetry };
    void addRow(Kind kind, std::size_t index, const QString& what, const QString& number);
    void addHeading(const QString& what);
    [[nodiscard]] std::pair<Kind, std::size_t> chosen() const;
    [[nodiscard]] std::optional<std::size_t> placeOf(std::size_t part) const;
    /// What is picked, and what can be done with it, in words.
    [[nodiscard]] QString aboutPicks() const;
    QLabel *m_hint, *m_picked;
    QTreeWidget* m_list;
    std::vector<const Part*> m_axisOf;  // parts of the model that the common axis was looked for in
    QString m_axis;                     // in words; empty: there is none
};

}  // namespace rasoir::app
