// The Shave bench: kinds, cut bar, findings, effect, and the one button that says what it will do.
#pragma once
#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include "bench/action_foot.h"
#include "bench/cut_bar.h"
#include "bench/findings_list.h"
#include "session.h"
#include "stage/preview_presentation.h"
#include "stage/stage_overlay.h"

namespace rasoir::app {

enum class ShaveKind { Holes, Slots, Bores };

/// What the stage shall show for this bench.
struct ShavePreview {
    std::vector<PreviewFaces> goes, kept;
    std::vector<StageMark> marks;
};

class ShaveBench : public QWidget {
    Q_OBJECT
public:
    explicit ShaveBench(Session& session, QWidget* parent = nullptr);

    [[nodiscard]] CutBar* cutBar() const { return m_cutBar; }
    [[nodiscard]] FindingsList* findings() const { return m_list; }
    [[nodiscard]] QPushButton* button() const { return m_button; }
    [[nodiscard]] QString message() const { return m_message->text(); }
    [[nodiscard]] ShavePreview preview() const;
    [[nodiscard]] int openFindings() const;   ///< holes and slots of what is surveyed, that would go at the limit
    void setHoveredFace(std::size_t occurrence, int face);  ///< on the stage: its finding lights up
    void keepPicked(std::size_t part, int face);             ///< the hole of a picked face: kept, or no longer kept
    void showKind(ShaveKind kind);

signals:
    void previewChanged();
    void closerWanted(const gp_Pnt& point, double size);
    void stateChanged();

private:
    struct Key {
        std::size_t part;
        std::size_t hole;
    };
    void refresh();
    void recount();
    void apply();
    void setVerdict(const std::vector<int>& keys, Verdict verdict);
    [[nodiscard]] const survey::Hole& holeOf(const Key& key) const;
    [[nodiscard]] Verdict verdictOf(const Key& key) const;
    [[nodiscard]] bool goes(const Key& key) const;
    [[nodiscard]] bool ofKind(const survey::Hole& hole, ShaveKind kind) const;
    [[nodiscard]] int keyAt(std::size_t part, int face) const;
    [[nodiscard]] std::size_t copiesOf(std::size_t part) const;
    void showMessage(const QString& html);

    Session& m_session;
    ShaveKind m_kind = ShaveKind::Holes;
    QLabel *m_state, *m_elements, *m_mass, *m_message;
    QPushButton* m_kinds[6];
    CutBar* m_cutBar;
    FindingsList* m_list;
    ActionFoot* m_foot;
    QPushButton* m_button;
    std::vector<Key> m_keys;
    /// Verdicts by part name and middle of the hole, so that they outlive the numbering of another state of the part.
    std::map<std::string, Verdict> m_verdicts;
    std::vector<int> m_hovered;
    bool m_limitChosen = false;
};

}  // namespace rasoir::app
