// The user guide in a window of its own, at the chapter of the bench in hand.
#pragma once
#include <QDialog>
#include <QTextBrowser>

namespace rasoir::app {

class GuideWindow : public QDialog {
    Q_OBJECT
public:
    explicit GuideWindow(QWidget* parent);
    /// Opens the guide at the chapter that tells of a bench; at its beginning for a name it does not know.
    void showFor(const QString& bench);
    /// The heading that is at the top now.
    [[nodiscard]] QString chapter() const { return m_chapter; }

private:
    QTextBrowser* m_text;
    QString m_chapter;
};

}  // namespace rasoir::app
