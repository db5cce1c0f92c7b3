// The foot of a bench: the button that says what it will do, and, while something runs long, its progress and a way to stop it.
#pragma once
#include <QProgressBar>
#include <QPushButton>
#include <QStackedWidget>

#include "session.h"

namespace rasoir::app {

class ActionFoot : public QStackedWidget {
    Q_OBJECT
public:
    explicit ActionFoot(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] QPushButton* button() const { return m_button; }

signals:
    void idleAgain();   ///< what ran has ended: the button may be enabled again

private:
    QPushButton* m_button;
    QProgressBar* m_progress;
};

/// What the last step left, and why, with a link to the place ("x,y,z,size"); empty when it did all, or is not the one shown.
/// `left` is the word for what was not done, such as "not removed".
QString leftByLastStep(const Session& session, const QString& left);
/// A problem in the colour of trouble, for a bench's message.
QString troubleText(const Problem& problem);

}  // namespace rasoir::app
