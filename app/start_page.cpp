#include "start_page.h"

#include <QCoreApplication>
#include <QDir>
#include <QEvent>
#include <QFileInfo>
#include <QLabel>
#include <QPushButton>

#include "theme.h"

namespace rasoir::app {

StartPage::StartPage(QWidget* parent) : QFrame(parent) {
    setObjectName("startPage");
    m_column = new QVBoxLayout(this);
    m_column->setSpacing(4);
    parent->installEventFilter(this);
    setRecent({});
}

QStringList StartPage::demoModels() {
    for (const QString& folder :
         {QCoreApplication::applicationDirPath() + "/../share/doc/rasoir/examples", QString(RASOIR_DEMO_FOLDER)}) {
        QStringList found;
        for (const char* name : {"hanger-arm.step", "hanger-arm-as-received.step", "clamp-cover.step", "carrier.step"})
            if (QFileInfo::exists(folder + "/" + name)) found << QDir::cleanPath(folder + "/" + name);
        if (!found.isEmpty()) return found;
    }
    return {};
}

void StartPage::addFile(const QString& words, const QString& path, const QString& name) {
    auto* button = new QPushButton(words, this);
    button->setObjectName(name);
    button->setFlat(true);
    button->setCursor(Qt::PointingHandCursor);
    button->setToolTip(path);
    button->setStyleSheet("text-align: left; padding: 4px 8px;");
    connect(button, &QPushButton::clicked, this, [this, path] {
        if (path.isEmpty())
            emit askWanted();
        else
            emit fileWanted(path);
    });
    m_column->addWidget(button);
}

void StartPage::setRecent(const QStringList& paths) {
    while (QLayoutItem* item = m_column->takeAt(0)) {
        // Later, since it may be the very button that was pressed.
        if (QWidget* widget = item->widget()) {
            widget->hide();
            widget->deleteLater();
        }
        delete item;
    }
    const auto heading = [this](const QString& words) {
        auto* label = new QLabel(words, this);
        label->setFont(Theme::font(14, 600));
        m_column->addWidget(label);
    };
    heading("Open a file, or drop one here");
    addFile("Choose a file…", {}, "startOpen");
    QStringList there;
    for (const QString& path : paths)
        if (QFileInfo::exists(path)) there << path;
    if (!there.isEmpty()) {
        m_column->addSpacing(10);
        heading("The last ones");
        for (const QString& path : there) addFile(QFileInfo(path).fileName(), path, "startRecent");
    }
    if (const QStringList demo = demoModels(); !demo.isEmpty()) {
        m_column->addSpacing(10);
        heading("To try");
        for (const QString& path : demo) {
            const QString name = QFileInfo(path).completeBaseName();
            addFile(name == "hanger-arm"               ? "An arm with holes, rounds and letters"
                    : name == "hanger-arm-as-received" ? "The same arm as it came: gaps, slivers, faces missing"
                    : name == "clamp-cover"            ? "A cover with bosses and marks"
                                                       : "A whole carrier: twelve parts in 68 places",
                    path, "startDemo");
        }
    }
    adjustSize();
    place();
}

void StartPage::place() {
    move((parentWidget()->width() - width()) / 2, (parentWidget()->height() - height()) / 2);
}

bool StartPage::eventFilter(QObject* watched, QEvent* event) {
    if (watched == parentWidget() && event->type() == QEvent::Resize) place();
    return QFrame::eventFilter(watched, event);
}

}  // namespace rasoir::app
