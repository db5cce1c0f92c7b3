// What every bench is: a panel that answers one question, and all that the window has to know of it.
//
// Adding a bench is one class and one line in bench_list.cpp. The window itself knows no bench by name where it shows
// states, previews and results, passes keys on, or looks closer.
#pragma once
#include <functional>
#include <QCheckBox>
#include <QGridLayout>
#include <QKeySequence>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <QWidget>

#include "bench/action_foot.h"
#include "glyphs.h"
#include "select/pick.h"
#include "stage/mesh_presentation.h"
#include "stage/preview_presentation.h"
#include "stage/stage_overlay.h"

namespace rasoir::app {

class CutBar;

/// Does it once control is back in the event loop. A list must not be filled anew while one of its items is telling
/// that it has changed: the item would be gone before it has finished.
inline void afterwards(QObject* owner, std::function<void()> act) {
    QMetaObject::invokeMethod(owner, std::move(act), Qt::QueuedConnection);
}

/// What the stage shall show for a bench.
struct BenchPreview {
    std::vector<PreviewFaces> goes, kept;
    std::vector<std::vector<PreviewFaces>> bands;  ///< from near to far: the later, the paler
    std::vector<StageMark> marks;
    std::vector<int> sets;           ///< by place: those of one number in one tone; -1: as ever. Empty: no tones
    std::vector<gp_Vec> apart;       ///< by place: how far it is drawn from where it is [mm]; empty: nothing is
    std::vector<std::size_t> going;  ///< whole places that would go
    std::vector<StageLine> lines;
    std::vector<StageHandle> handles;
    std::shared_ptr<const StageMesh> mesh, meshReceived;  ///< drawn instead of the parts; left of the wipe
};

/// Something a bench can do, for the menu and the find box. The bench is brought to the front first.
struct BenchDeed {
    QString text;
    QKeySequence key;
    std::function<void(const std::vector<select::Pick>& picks)> run;
};

class Bench : public QWidget {
    Q_OBJECT
public:
    Bench(QString name, QString question, QString does, Session& session, QWidget* parent);

    [[nodiscard]] const QString& name() const { return m_name; }
    [[nodiscard]] const QString& question() const { return m_question; }
    [[nodiscard]] const QString& does() const { return m_does; }  ///< a line, for the tip
    /// In words, for the bench bar: "no file", "surveying", "12 open", "settled".
    [[nodiscard]] virtual QString state() const = 0;
    /// The step that its button would take; none where it would take none.
    [[nodiscard]] virtual std::optional<BenchStep> step() const { return std::nullopt; }
    [[nodiscard]] virtual BenchPreview preview() const { return {}; }
    /// The wish to see what would be left; null where a bench has no such thing.
    [[nodiscard]] virtual QCheckBox* resultSwitch() const { return nullptr; }
    [[nodiscard]] virtual CutBar* cutBar() const { return nullptr; }
    /// The one button that does it; null where there is none.
    [[nodiscard]] virtual QPushButton* primary() const { return nullptr; }
    [[nodiscard]] virtual std::vector<BenchDeed> deeds() { return {}; }
    [[nodiscard]] virtual bool tintsParts() const { return false; }
    /// K: keeps what is picked or chosen in its list.
    virtual void keep(const std::vector<select::Pick>&) {}
    /// The things of the rows chosen in its list, of which a group can be made.
    [[nodiscard]] virtual std::vector<select::Pick> chosenThings() const { return {}; }
    /// What is picked has changed.
    virtual void picksChanged(const std::vector<select::Pick>&) {}
    /// What its step would make, found out beside the window; null where there is none, or it would not do.
    virtual void triedOut(const Outcome*) {}
    /// One of its handles on the stage was dragged [mm along its direction].
    virtual void handleMoved(int, double) {}
    /// A click on the stage, at that point of the model; what is picked has been told already.
    virtual void clicked(const gp_Pnt&) {}
    /// A picked size is to be its limit; false where it has none.
    virtual bool takeLimit(double millimetres);

signals:
    void previewChanged();
    void stateChanged();
    void closerWanted(const gp_Pnt& point, double size);
    void selectionCloserWanted();  ///< what was just chosen shall fill the stage
    void edgesWanted(const std::vector<rasoir::select::Pick>& picks);
    void picksWanted(const std::vector<rasoir::select::Pick>& picks);

protected:
    /// "no file", "surveying", and else what `known` says.
    [[nodiscard]] QString stateOr(bool known, const QString& words) const;
    Session& m_session;

private:
    QString m_name, m_question, m_does;
};

/// Lets the rows of a list wrap in a column instead of being cut; call after filling it, and when its width changes.
void wrapRows(QTreeWidget* list, int column);

/// A kind with its count: flat, on a rule, the one in hand in bold on a stronger one. Where the room is short the name
/// gives way and not the count.
class KindButton : public QPushButton {
public:
    explicit KindButton(QWidget* parent);
    void setKind(const QString& name, std::optional<int> count, bool current);

protected:
    void paintEvent(QPaintEvent* event) override;
    QSize minimumSizeHint() const override { return {40, QPushButton::minimumSizeHint().height()}; }

private:
    QString m_name, m_count;
    bool m_current = false;
};

/// The kinds of a bench as flat buttons in two columns, the current one underlined.
class KindGrid : public QWidget {
    Q_OBJECT
public:
    struct Kind {
        QString name;
        Glyph glyph;
    };
    KindGrid(std::vector<Kind> kinds, QWidget* parent);
    [[nodiscard]] int current() const { return m_current; }
    void setCurrent(int kind);
    void setCount(int kind, std::optional<int> count);
    [[nodiscard]] KindButton* button(int kind) const { return m_buttons[static_cast<std::size_t>(kind)]; }

signals:
    void chosen(int kind);

private:
    void style();
    std::vector<Kind> m_kinds;
    std::vector<std::optional<int>> m_counts;
    std::vector<KindButton*> m_buttons;
    int m_current = 0;
};

/// A bench laid out as all of them are: question, answer, kinds, whatever it brings, message, foot.
class LaidOutBench : public Bench {
    Q_OBJECT
public:
    LaidOutBench(QString name, QString question, QString does, Session& session, QWidget* parent);
    [[nodiscard]] QPushButton* button() const { return m_foot->button(); }
    [[nodiscard]] QPushButton* primary() const override { return button(); }
    [[nodiscard]] QString message() const { return m_message->text(); }
    [[nodiscard]] QString answer() const { return m_answer->text(); }
    [[nodiscard]] KindGrid* kinds() const { return m_kinds; }
    [[nodiscard]] QCheckBox* resultSwitch() const override { return m_foot->resultSwitch(); }

protected:
    /// Call once: the kinds, then the bench's own widgets go into the returned column.
    QVBoxLayout* lay(std::vector<KindGrid::Kind> kinds);
    void showMessage(const QString& html);
    void setAnswer(const QString& text);
    virtual void refresh() = 0;
    virtual void apply();  ///< takes step()

    KindGrid* m_kinds = nullptr;
    ActionFoot* m_foot = nullptr;

private:
    QLabel *m_answer = nullptr, *m_message = nullptr;
};

}  // namespace rasoir::app
