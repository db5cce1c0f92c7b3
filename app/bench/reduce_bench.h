// The Reduce bench: walls by thickness, shown before anything is made, and sheets made of them; slender bodies, and
// beams; what of sheets is not flush; work on sheets by hand.
#pragma once
#include <QComboBox>
#include <QLineEdit>
#include <QTreeWidget>

#include "bench/bench.h"
#include "bench/by_hand_page.h"
#include "bench/cut_bar.h"
#include "bench/flush_page.h"
#include "bench/proof_page.h"
#include "bench/stiffeners_page.h"
#include "reduce/frame_members.h"
#include "reduce/walls.h"

namespace rasoir::app {

enum class ReduceKind { Walls, Beams, Lumps, Joints, ByHand, Proof, Stiffeners };

class ReduceBench : public LaidOutBench {
    Q_OBJECT
public:
    explicit ReduceBench(Session& session, QWidget* parent = nullptr);

    [[nodiscard]] QString state() const override;
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] BenchPreview preview() const override;
    [[nodiscard]] CutBar* cutBar() const override { return m_cutBar; }
    [[nodiscard]] QTreeWidget* walls() const { return m_list; }
    [[nodiscard]] QCheckBox* doubtful() const { return m_doubtful; }
    [[nodiscard]] QLineEdit* flush() const { return m_flush; }
    [[nodiscard]] QTreeWidget* beams() const { return m_beams; }
    [[nodiscard]] FlushPage* flushPage() const { return m_flushPage; }
    [[nodiscard]] QComboBox* steps() const { return m_steps; }
    [[nodiscard]] QTreeWidget* lumps() const { return m_lumps; }
    [[nodiscard]] std::vector<BenchDeed> deeds() override;
    [[nodiscard]] ByHandPage* byHand() const { return m_byHand; }
    [[nodiscard]] ProofPage* proof() const { return m_proof; }
    [[nodiscard]] StiffenersPage* stiffeners() const { return m_stiffeners; }
    void picksChanged(const std::vector<select::Pick>& picks) override;
    void showKind(ReduceKind kind);

protected:
    void refresh() override;
    void showEvent(QShowEvent* event) override;

private:
    struct Row {
        std::size_t part = 0, wall = 0;
    };
    /// By the blade and the doubtful's switch alone, and with what was marked by hand.
    [[nodiscard]] bool goesByRule(const reduce::Wall& wall) const;
    [[nodiscard]] bool goes(const Row& row) const;
    [[nodiscard]] const std::map<std::size_t, std::vector<reduce::Wall>>* found() const;

    [[nodiscard]] ReduceKind kind() const { return static_cast<ReduceKind>(m_kinds->current()); }
    /// The row of a frame, which its members' rows hang below.
    QTreeWidgetItem* frameRow(const std::vector<reduce::Slender>& bars, std::size_t part);
    void refreshBeams();
    void showFlush();
    void showStiffeners();
    void refreshLumps();
    void lumpsMarked();
    /// Parts of a list whose rows are marked.
    [[nodiscard]] static std::vector<std::size_t> markedIn(const QTreeWidget* list);
    /// Bars that the button would make beams of: marked, and of the picked parts where some are picked.
    [[nodiscard]] std::vector<std::size_t> chosenBars() const;

    CutBar* m_cutBar;
    QTreeWidget *m_list, *m_beams, *m_lumps;
    QWidget* m_options;  // of walls
    QCheckBox* m_doubtful;
    QLineEdit* m_flush;
    QComboBox* m_steps;
    ByHandPage* m_byHand;
    ProofPage* m_proof;
    FlushPage* m_flushPage;
    StiffenersPage* m_stiffeners;
    std::vector<select::Pick> m_picks;
    std::vector<Row> m_rows;
    std::vector<std::pair<std::size_t, int>> m_withoutWall;        // parts and faces, in the rows after those of walls
    std::map<std::pair<std::size_t, std::size_t>, bool> m_byMark;  // part and wall: marked against the rule
    bool m_limitChosen = false;
};

}  // namespace rasoir::app
