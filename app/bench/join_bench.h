// The Join bench: what touches what, what nearly does, what reaches into what; and faces made common.
#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QSlider>
#include <QTreeWidget>

#include "bench/bench.h"
#include "bench/bolts_page.h"
#include "bench/cut_bar.h"
#include "bench/flow_page.h"
#include "bench/regions_page.h"
#include "bench/spots_page.h"
#include "bench/welds_page.h"
#include "join/contacts.h"

namespace rasoir::app {

enum class JoinKind { Touching, Near, Overlaps, Joined, Bolts, Welds, Spots, Flow, Regions };

class JoinBench : public LaidOutBench {
    Q_OBJECT
public:
    explicit JoinBench(Session& session, QWidget* parent = nullptr);

    [[nodiscard]] QString state() const override;
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] BenchPreview preview() const override;
    [[nodiscard]] CutBar* cutBar() const override { return page() == m_flow ? m_flow->reachBar() : m_cutBar; }
    [[nodiscard]] std::vector<BenchDeed> deeds() override;
    [[nodiscard]] QTreeWidget* pairs() const { return m_list; }
    void showKind(JoinKind kind);
    void picksChanged(const std::vector<select::Pick>& picks) override;
    [[nodiscard]] FlowPage* flow() const { return m_flow; }
    [[nodiscard]] BoltsPage* bolts() const { return m_bolts; }
    [[nodiscard]] WeldsPage* welds() const { return m_welds; }
    [[nodiscard]] SpotsPage* spots() const { return m_spots; }
    [[nodiscard]] RegionsPage* regions() const { return m_regions; }

    [[nodiscard]] QSlider* pull() const { return m_pull; }
    [[nodiscard]] QComboBox* overlaps() const { return m_overlaps; }
    [[nodiscard]] QComboBox* becomes() const { return m_becomes; }
    [[nodiscard]] QCheckBox* byMaterials() const { return m_byMaterials; }
    [[nodiscard]] QComboBox* gapsBy() const { return m_gapsBy; }

protected:
    void refresh() override;
    void showEvent(QShowEvent* event) override;  ///< the survey is made when it is first looked at

private:
    /// Pairs that the button would make one: what touches, and what overlaps unless one of the two stays apart.
    [[nodiscard]] std::size_t promised() const;
    /// Kept as two, whether in contact or tied to each other.
    [[nodiscard]] bool asContact() const { return m_becomes->currentData().toString() != "common"; }
    [[nodiscard]] bool asLink() const { return m_becomes->currentData().toString() == "link"; }
    [[nodiscard]] QComboBox* choice(const char* name, const QString& whatFor,
                                    const std::vector<std::pair<const char*, const char*>>& ways);
    [[nodiscard]] QString wordsOnButton() const;
    /// The page of the kind that is shown, where it has one of its own.
    [[nodiscard]] BenchPage* page() const;
    void showPage();
    void addJoinedEdges(BenchPreview& preview) const;
    void addSets(BenchPreview& preview) const;
    /// All contacts of one kind between the places of two parts.
    struct Row {
        std::size_t placeA = 0, placeB = 0;  // the first pair
        std::set<std::pair<std::size_t, std::size_t>> pairs;
        std::vector<std::size_t> contacts;
        double area = 0.0, gap = 0.0, widest = 0.0, volume = 0.0;
        double lines = 0.0;   // edges in common, or how long those are along which they touch [mm]
        bool wedge = false;   // a gap that widens
        bool tangent = true;  // all of it is: nothing there can become one
        [[nodiscard]] bool isOwn() const { return placeA == placeB; }  // the bodies of one part
        std::optional<PairingKind> kept;                               // as two, in contact, say
    };
    /// What stands for a row: its bodies as a ledger calls them, or their materials where rows fold by those; and
    /// whether it was unmarked: its pairs stay as they are.
    [[nodiscard]] std::pair<std::string, std::string> namesOf(const Row& row) const;
    [[nodiscard]] bool isLeft(const Row& row) const;
    [[nodiscard]] QString detailOf(const Row& row) const;  ///< for its tip
    [[nodiscard]] JoinKind kind() const { return static_cast<JoinKind>(m_kinds->current()); }
    [[nodiscard]] const join::ContactReport* report() const;
    // The places picked, when they are two or more: only what is between them is listed and joined. One alone has
    // nothing to be joined to, so that it means the whole model.
    [[nodiscard]] std::set<std::size_t> scope() const;
    [[nodiscard]] std::vector<Row> rowsOf(JoinKind kind) const;
    [[nodiscard]] double limit() const;

    CutBar* m_cutBar;
    QTreeWidget* m_list;
    FlowPage* m_flow;
    BoltsPage* m_bolts;
    WeldsPage* m_welds;
    SpotsPage* m_spots;
    RegionsPage* m_regions;
    std::vector<BenchPage*> m_pages;  // all of them
    QComboBox *m_becomes, *m_gapsBy, *m_overlaps;
    QCheckBox* m_byMaterials;
    QWidget* m_pulling;  // the slider with its words
    QSlider* m_pull;
    std::vector<Row> m_rows;
    std::set<std::pair<std::string, std::string>> m_left;  // rows that were unmarked
    std::set<std::pair<std::string, std::string>> m_own;   // bodies of one part that were marked to be joined too
    bool m_limitChosen = false;
};

}  // namespace rasoir::app
