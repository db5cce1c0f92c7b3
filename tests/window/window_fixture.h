// What the tests of the window share: the window itself, clicking, dragging, hovering, waiting.
#pragma once
#include <fstream>
#include <QApplication>
#include <QTemporaryDir>
#include <QTreeWidget>
#include <QtWidgets>

#include "bench/bench_bar.h"
#include "bench/shave_bench.h"
#include "board/parts_board.h"
#include "common/safe_file.h"
#include "exchange/files.h"
#include "find_command.h"
#include "geometry/round_surface.h"
#include "ledger/ledger_strip.h"
#include "ledger/step_dialog.h"
#include "main_window.h"
#include "measure/between.h"
#include "selection.h"
#include "stage/stage.h"
#include "support/bodies.h"
#include "support/run.h"
#include "theme.h"

namespace rasoir::test {

using namespace rasoir::app;

/// A window on a display, with a folder to work in. No slots of its own: each test class has init() and cleanup() from
/// here.
class WindowFixture : public QObject {
protected:
    std::unique_ptr<MainWindow> m_window;
    QTemporaryDir m_folder;

    Session& session() { return m_window->session(); }
    ShaveBench& shave() { return *m_window->shave(); }
    const std::vector<Pick>& picks() { return m_window->selection().picks(); }
    void settle() {
        QTRY_VERIFY_WITH_TIMEOUT(!session().isBusy(), 60000);
        QTest::qWait(20);
        QTRY_VERIFY_WITH_TIMEOUT(!session().isBusy(), 60000);
    }
    void openAndSettle(const QString& path) {
        QSignalSpy opened(&session(), &Session::opened);
        m_window->openFile(path);
        QTRY_VERIFY_WITH_TIMEOUT(opened.count() == 1, 60000);
        settle();
    }
    static QString arm() { return QString::fromStdString(demoFile("hanger-arm.step")); }
    QString plate(int holes = 6) {
        const QString path = m_folder.filePath("plate.step");
        if (!exchange::writeFile(modelOf(drilledPlate(100, 60, 8, holes, 5), "plate"), path.toStdString(), {},
                                 quietly()))
            return {};
        return path;
    }
    /// A plate with six 5 mm holes, judged at a target size of 4 mm.
    void openPlate() {
        openAndSettle(plate());
        QLineEdit* target = m_window->findChild<QLineEdit*>("targetSize");
        target->setFocus();
        target->selectAll();
        QTest::keyClicks(target, "4 mm");
        QTest::keyClick(target, Qt::Key_Return);
        m_window->stage()->setFocus();
        settle();
        QTRY_COMPARE(shave().button()->text(), QString("Remove 6 holes"));
    }
    void drag(QWidget* widget, const QPoint& from, const QPoint& to, Qt::MouseButton button = Qt::LeftButton) {
        QTest::mousePress(widget, button, {}, from);
        for (int i = 1; i <= 10; ++i) {
            const QPointF at = QPointF(from) + (QPointF(to) - QPointF(from)) * i / 10.0;
            QMouseEvent move(QEvent::MouseMove, at, widget->mapToGlobal(at), Qt::NoButton, button, Qt::NoModifier);
            QApplication::sendEvent(widget, &move);
        }
        QTest::mouseRelease(widget, button, {}, to);
    }
    void hover(const QPointF& at) {
        QMouseEvent move(QEvent::MouseMove, at, m_window->stage()->mapToGlobal(at), Qt::NoButton, Qt::NoButton,
                         Qt::NoModifier);
        QApplication::sendEvent(m_window->stage(), &move);
    }
    void openWindow() {
        QSettings().clear();
        m_window = std::make_unique<MainWindow>();
        m_window->show();
        QVERIFY(QTest::qWaitForWindowExposed(m_window.get()));
        QApplication::setActiveWindow(m_window.get());  // no window manager here to do it; shortcuts need it
    }
    void closeWindow() {
        session().cancel();
        QTRY_VERIFY_WITH_TIMEOUT(!session().isBusy(), 60000);
        m_window.reset();
    }
};

}  // namespace rasoir::test
