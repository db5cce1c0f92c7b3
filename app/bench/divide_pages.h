// What the Divide bench asks for, kind by kind: a page of fields that makes a step and shows it on the stage first.
#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QTreeWidget>

#include "bench/pick_page.h"
#include "divide/outline.h"
#include "survey/symmetry.h"

namespace rasoir::app {

/// Lines and outlines drawn on a face in distances from one of its edges; to part the face, or to be cut out.
class OutlinePage : public PickPage {
    Q_OBJECT
public:
    OutlinePage(Session& session, QWidget* parent);
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] QString words() const override;
    [[nodiscard]] std::vector<StageLine> lines() const override;
    [[nodiscard]] std::vector<StageHandle> handles() const override;
    void handleMoved(int handle, double by) override;
    void refresh() override;
    [[nodiscard]] QComboBox* way() const { return m_way; }
    [[nodiscard]] QLineEdit* distance() const { return m_y; }

private:
    enum class Way { Line, Rectangle, Circle, Slot, Ring, Points, Thrown };
    [[nodiscard]] Way current() const { return static_cast<Way>(m_way->currentIndex()); }
    [[nodiscard]] std::optional<divide::Outline> outline() const;
    /// Frame of the picked face, and how far the face reaches along its x.
    struct Seen {
        gp_Ax3 frame;
        double low = 0.0, high = 0.0;
    };
    [[nodiscard]] std::optional<Seen> seen(const divide::Outline& outline) const;
    QComboBox *m_way, *m_from, *m_does;
    QLabel *m_hint, *m_xLabel, *m_yLabel, *m_aLabel, *m_bLabel, *m_angleLabel, *m_fromLabel, *m_depthLabel,
        *m_groupLabel;
    QLineEdit *m_x, *m_y, *m_a, *m_b, *m_angle, *m_depth, *m_group;
};

class PartEdgePage : public PickPage {
    Q_OBJECT
public:
    PartEdgePage(Session& session, QWidget* parent);
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] QString words() const override;

private:
    QComboBox* m_how;
    QLineEdit* m_number;
};

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
    [[nodiscard]] const survey::Symmetry* chosen() const;
    QLabel* m_hint;
    QTreeWidget* m_list;
    QCheckBox* m_other;
};

}  // namespace rasoir::app
