// The page of the Join bench that makes a flow space: openings with their lids, and what the fluid wets.
#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QPushButton>

#include "bench/bench_page.h"
#include "bench/cut_bar.h"
#include "join/leaks.h"
#include "join/openings.h"
#include "join/reach.h"

namespace rasoir::app {

class FlowPage : public BenchPage {
    Q_OBJECT
public:
    FlowPage(Session& session, QWidget* parent);

    /// A face that is picked is the seed; edges are the loop of a lid.
    void picksChanged(const std::vector<select::Pick>& picks);
    void refresh() override;
    [[nodiscard]] std::optional<BenchStep> step() const override;
    void addTo(BenchPreview& preview) const override;
    [[nodiscard]] QString words() const override;
    [[nodiscard]] QTreeWidget* list() const { return m_list; }
    [[nodiscard]] QTreeWidget* leaks() const { return m_leaks; }
    [[nodiscard]] QCheckBox* narrow() const { return m_narrow; }
    [[nodiscard]] QCheckBox* longer() const { return m_longer; }
    [[nodiscard]] QCheckBox* every() const { return m_every; }
    [[nodiscard]] QCheckBox* outer() const { return m_outer; }
    [[nodiscard]] QDoubleSpinBox* clearance() const { return m_clearance; }
    [[nodiscard]] QComboBox* spaces() const { return m_spaces; }
    [[nodiscard]] QPushButton* lidByHand() const { return m_lidByHand; }
    [[nodiscard]] CutBar* reachBar() const { return m_reachBar; }
    [[nodiscard]] bool isOuter() const { return m_outer->isChecked(); }
    /// What the seed is, in words.
    [[nodiscard]] QString answer() const override;

private:
    void fill();
    void fillLeaks();
    void fillReach();
    void look();  ///< asks for what is reached, and for the leaks
    void addLidByHand();
    void addRow(const join::Opening& opening, const QString& what, bool lid);
    void addBands(BenchPreview& preview) const;
    [[nodiscard]] const join::ReachReport* reach() const;  ///< null while it is looked for, and where it was refused
    [[nodiscard]] const join::LeakReport* report() const;  ///< as well
    QHBoxLayout* checkedNumber(QCheckBox*& check, QDoubleSpinBox*& field, const QString& words, const char* name);

    QTreeWidget *m_list, *m_leaks;
    QLabel* m_leaksSaid;
    QPushButton* m_lidByHand;
    CutBar* m_reachBar;
    QComboBox* m_spaces;  // which closed spaces become bodies
    QCheckBox *m_every, *m_outer, *m_narrow, *m_longer;
    QDoubleSpinBox *m_clearance, *m_narrowField, *m_longerField;
    std::set<std::size_t> m_withoutLid;     // numbers of openings whose lid was taken off
    bool m_filled = false;                  // with the openings that were found
    std::vector<std::size_t> m_numbers;     // of the rows' openings among all that were found
    std::vector<join::Opening> m_openings;  // in step with the rows: those found, and after them those by hand
    using Loop = std::vector<std::pair<std::size_t, int>>;  // edges, each with its place
    Loop m_pickedEdges;
    struct LidByHand {
        Loop edges;
        join::Opening opening;
        bool marked = true;
    };
    std::vector<LidByHand> m_byHand;
    std::vector<std::vector<std::size_t>> m_leakKinds;  // in step with the rows of leaks
    [[nodiscard]] std::vector<std::size_t> currentLeaks() const;
    std::size_t m_visited = 0;  // of the current row's leaks
    QString m_refused;          // why the picked edges make no lid
    std::vector<std::size_t> m_walls;
    std::optional<std::pair<std::size_t, int>> m_seed;  // place and face
};

}  // namespace rasoir::app
