// What an empty window offers: a file, the last ones, and models to try.
#pragma once
#include <QFrame>
#include <QVBoxLayout>

namespace rasoir::app {

/// Lies in the middle of its parent while nothing is open.
class StartPage : public QFrame {
    Q_OBJECT
public:
    explicit StartPage(QWidget* parent);
    /// The files opened last, newest first.
    void setRecent(const QStringList& paths);
    /// Demo models that are installed with the program, or lie beside its sources; empty where there are none.
    [[nodiscard]] static QStringList demoModels();

signals:
    void askWanted();  ///< a file is to be chosen
    void fileWanted(const QString& path);

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void addFile(const QString& words, const QString& path, const QString& name);
    void place();
    QVBoxLayout* m_column;
};

}  // namespace rasoir::app
