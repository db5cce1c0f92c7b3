// Pages of the Divide bench for edges that are parted and points that are set.
#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>

#include "bench/pick_page.h"
#include "divide/points.h"

namespace rasoir::app {

class PartEdgePage : public PickPage {
    Q_OBJECT
public:
    PartEdgePage(Session& session, QWidget* parent);
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] QString words() const override;
    void refresh() override;

private:
    QComboBox* m_how;
    QLineEdit* m_number;
    QLabel *m_hint, *m_numberLabel;
};

/// Points at what is picked, or at a place in numbers; thrown onto a face or an edge if wanted.
class PointsPage : public PickPage {
    Q_OBJECT
public:
    PointsPage(Session& session, QWidget* parent);
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] QString words() const override;
    [[nodiscard]] std::vector<StageLine> lines() const override;
    [[nodiscard]] QLineEdit* at() const { return m_at; }
    [[nodiscard]] QCheckBox* thrown() const { return m_thrown; }

private:
    /// Where points are wanted, and what they are thrown onto.
    struct Wanted {
        std::vector<divide::Place> places;
        std::optional<EntityRef> onto;
    };
    [[nodiscard]] std::optional<Wanted> wanted() const;
    QLineEdit *m_at, *m_name, *m_group;
    QCheckBox* m_thrown;
};

}  // namespace rasoir::app
