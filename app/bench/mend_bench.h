// The Mend bench: what keeps the parts from being watertight, by kind, and what closes it.
#pragma once
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>

#include "bench/bench.h"
#include "bench/cut_bar.h"
#include "bench/findings_list.h"
#include "stage/preview_presentation.h"
#include "stage/stage_overlay.h"

namespace rasoir::app {

enum class MendKind { Gaps, Openings, Doubled, RunsOver, Slivers, Tiny, Needless, Other };
constexpr std::size_t mendKinds = 8;

class MendBench : public Bench {
    Q_OBJECT
public:
    explicit MendBench(Session& session, QWidget* parent = nullptr);

    [[nodiscard]] CutBar* cutBar() const override { return m_cutBar; }
    [[nodiscard]] FindingsList* findings() const { return m_list; }
    [[nodiscard]] QPushButton* button() const { return m_foot->button(); }
    [[nodiscard]] QPushButton* safeButton() const { return m_safeButton; }
    [[nodiscard]] QString statement() const { return m_state->text(); }
    [[nodiscard]] QString message() const { return m_message->text(); }
    [[nodiscard]] int openFindings() const;  ///< all that is listed, of everything in the work
    [[nodiscard]] bool isOpen() const;       ///< something keeps a part from being closed: no other bench is first
    void showKind(MendKind kind);
    /// The step that the button would take, or while the pointer is on it the safe one; none where it would take none.
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] QCheckBox* resultSwitch() const override { return m_foot->resultSwitch(); }
    [[nodiscard]] BenchPreview preview() const override;
    [[nodiscard]] QString state() const override;
    [[nodiscard]] QPushButton* primary() const override { return button(); }
    [[nodiscard]] std::vector<BenchDeed> deeds() override;
    void keep(const std::vector<select::Pick>& picks) override;
    /// Shown while the pointer is on the button that mends what is safe: what that would do, on the stage.
    void setSafePreview(bool on);
    /// Chooses the next or the one before in the list and goes there.
    void walk(int by);
    /// Joins two open edges of one part, however far apart they are; says why not where that cannot be.
    void joinPicked(const std::vector<select::Pick>& picks);
    /// Puts a face between two open edges of one part.
    void bridgePicked(const std::vector<select::Pick>& picks);
    /// Patches the openings that the picked edges bound.
    void patchPicked(const std::vector<select::Pick>& picks);

private:
    struct Key {
        std::size_t part;
        std::size_t defect;
    };
    void refresh();
    void recount();
    void apply();
    void applySafe();
    void setVerdict(const std::vector<int>& keys, Verdict verdict);
    void goTo(int key);
    [[nodiscard]] const survey::Defect& defectOf(const Key& key) const;
    [[nodiscard]] std::string verdictKey(const Key& key) const;
    [[nodiscard]] Verdict verdictOf(const Key& key) const;
    [[nodiscard]] bool goes(const Key& key) const;
    [[nodiscard]] bool keptOnes() const;
    [[nodiscard]] std::vector<std::string> partNames() const;  ///< the selected; empty: all
    /// Numbers of the picked open edges, all of one part; empty where they are not, and the message says so.
    std::vector<int> openEdgesAmong(const std::vector<select::Pick>& picks, std::size_t& part);
    void showMessage(const QString& html);
    /// What Mend what is safe would take on.
    [[nodiscard]] static bool isSafe(const survey::Defect& defect, const survey::DefectReport& report);
    [[nodiscard]] QString safeWords() const;
    void noteMeantOpen();

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    MendKind m_kind = MendKind::Gaps;
    bool m_kindChosen = false;  ///< by hand; else the first kind that has findings is shown
    QLabel *m_state, *m_detail, *m_safe, *m_message;
    std::array<KindButton*, mendKinds> m_kinds{};
    CutBar* m_cutBar;
    FindingsList* m_list;
    QPushButton* m_safeButton;
    ActionFoot* m_foot;
    std::vector<Key> m_keys;
    std::map<std::string, Verdict> m_verdicts;
    std::vector<int> m_hovered;
    bool m_limitChosen = false, m_previewsSafe = false;
    int m_walked = -1;
};

}  // namespace rasoir::app
