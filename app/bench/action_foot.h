// The foot of a bench: the switch that shows what would be left, the button that says what it will do, and, while
// something runs long, its progress and a way to stop it.
#pragma once
#include <QCheckBox>
#include <QProgressBar>
#include <QPushButton>
#include <QStackedWidget>

#include "session.h"

namespace rasoir::app {

class ActionFoot : public QWidget {
    Q_OBJECT
public:
    explicit ActionFoot(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] QPushButton* button() const { return m_button; }
    /// Whether the stage shows what the button would leave, instead of what there is.
    [[nodiscard]] QCheckBox* resultSwitch() const { return m_result; }

signals:
    void idleAgain();  ///< what ran has ended: the button may be enabled again

private:
    QStackedWidget* m_stack;
    QCheckBox* m_result;
    QPushButton* m_button;
    QProgressBar* m_progress;
};

/// A step that a bench would take.
struct BenchStep {
    std::string operation;
    Json parameters = Json::object();
};

/// What the last step left, and why, with a link to the place ("x,y,z,size"); empty when it did all, or is not the one
/// shown. `left` is the word for what was not done, such as "not removed".
QString leftByLastStep(const Session& session, const QString& left);
/// A problem in the colour of trouble, for a bench's message.
QString troubleText(const Problem& problem);
/// What of the last step is worth a look though it was done, with a link to the place: the largest shift of a stitch.
QString placeOfLastStep(const Session& session);
/// A link "along": the step again, with what would have to go too.
QString takeAlongLink();

}  // namespace rasoir::app
