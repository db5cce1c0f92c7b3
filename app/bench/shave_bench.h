// The Shave bench: kinds, cut bar, findings, effect, and the one button that says what it will do.
#pragma once
#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QWidget>
#include <set>

#include "bench/bench.h"
#include "bench/cut_bar.h"
#include "bench/findings_list.h"
#include "bench/shave_features.h"
#include "select/pick.h"
#include "session.h"
#include "stage/preview_presentation.h"
#include "stage/stage_overlay.h"

namespace rasoir::app {

class ShaveBench : public Bench {
    Q_OBJECT
public:
    explicit ShaveBench(Session& session, QWidget* parent = nullptr);

    [[nodiscard]] CutBar* cutBar() const override { return m_cutBar; }
    [[nodiscard]] QPushButton* kindButton(ShaveKind kind) const { return m_kinds[static_cast<std::size_t>(kind)]; }
    [[nodiscard]] QComboBox* diameter() const { return m_diameter; }  ///< of the cylinder that takes a thread's place
    [[nodiscard]] FindingsList* findings() const { return m_list; }
    [[nodiscard]] QPushButton* button() const { return m_button; }
    [[nodiscard]] QString message() const { return m_message->text(); }
    [[nodiscard]] BenchPreview preview() const override;
    [[nodiscard]] QString state() const override;
    [[nodiscard]] QPushButton* primary() const override { return button(); }
    [[nodiscard]] std::vector<BenchDeed> deeds() override;
    void keep(const std::vector<select::Pick>& picks) override;
    [[nodiscard]] std::vector<select::Pick> chosenThings() const override;
    void picksChanged(const std::vector<select::Pick>& picks) override;
    /// The step that the button would take; none where it would take none.
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] QCheckBox* resultSwitch() const override { return m_foot->resultSwitch(); }
    [[nodiscard]] bool isKnown() const;         ///< everything in the work has been surveyed
    [[nodiscard]] int openFindings() const;     ///< what was found and would go at the limits
    void setHovered(const select::Pick& pick);  ///< on the stage: its finding lights up
    void keepPicked(const select::Pick& pick);  ///< the feature of a picked face, or of an edge where it has no faces:
                                                ///< kept, or no longer kept
    void showKind(ShaveKind kind);
    /// The inner corners that steps have made sharp, in every place that is shown: there the stress is fictitious.
    [[nodiscard]] std::vector<select::Pick> sharpened() const;
    /// Takes the picked faces out, whatever they are; says why not where that cannot be.
    void removePicked(const std::vector<select::Pick>& picks);

private:
    using Key = ShaveKey;
    using Feature = ShaveFeature;
    [[nodiscard]] std::optional<Feature> featureOf(
        const Key& key) const;  ///< none between a change and the survey after it
    [[nodiscard]] std::vector<Key> keysOf(std::size_t part) const;
    /// The group that names a face or an edge of it; empty where none does.
    [[nodiscard]] std::string groupOf(const Key& key) const;
    void takeNames();
    void refresh();
    void layKinds(const std::array<int, shaveKinds>& counts);
    void markSeen(int key);  ///< the analyst has looked at it
    void recount();
    void apply();
    void sayOfLastStep();
    void takeAlong();                           ///< the last step once more, with what would have to go too
    void closeOtherwise(bool nearest = false);  ///< the last wound closed the next way there is, or again the nearest
    void setVerdict(const std::vector<int>& keys, Verdict verdict);
    [[nodiscard]] std::string verdictKey(const Key& key) const;
    [[nodiscard]] Verdict verdictOf(const Key& key) const;
    [[nodiscard]] double limitOf(ShaveKind kind) const;  ///< [mm] chosen, else by the target size
    [[nodiscard]] bool goes(const Key& key) const;
    [[nodiscard]] int keyAt(const select::Pick& pick) const;
    [[nodiscard]] std::size_t copiesOf(std::size_t part) const;
    void showMessage(const QString& html);

    ShaveKind m_kind = ShaveKind::Holes;
    QLabel *m_state, *m_none, *m_elements, *m_mass, *m_stress, *m_message;
    QGridLayout* m_kindGrid;
    QWidget* m_diameterRow;
    QComboBox* m_diameter;
    std::array<KindButton*, shaveKinds> m_kinds{};
    CutBar* m_cutBar;
    FindingsList* m_list;
    ActionFoot* m_foot;
    QPushButton* m_button;
    std::vector<Key> m_keys;
    /// Verdicts by part name and middle of the feature, so that they outlive the numbering of another state of the
    /// part.
    std::map<std::pair<PartId, Entity>, std::string> m_named;  ///< what groups name, by the first of them
    std::map<std::string, Verdict> m_verdicts;
    std::set<std::string> m_seen;  ///< looked at, by the same names
    std::vector<int> m_hovered;
    std::optional<BenchStep> m_asked;  ///< last asked for
    bool m_closingOtherwise = false;
    std::set<std::size_t> m_everShown;              ///< kinds of which this file had some
    bool m_fresh = false;                           ///< a file has been opened and no kind chosen yet
    std::map<ShaveKind, double> m_limits, m_froms;  ///< chosen, by kind; the lower ends of ranges
};

}  // namespace rasoir::app
