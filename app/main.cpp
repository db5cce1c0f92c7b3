#include <QApplication>
#include <QFileInfo>
#include <QIcon>
#include <QTimer>

#include "main_window.h"
#include "theme.h"

int main(int argc, char** argv) {
    // The kernel's viewer draws through GLX inside the widget's own context.
    if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM") && !qEnvironmentVariableIsEmpty("DISPLAY"))
        qputenv("QT_QPA_PLATFORM", "xcb");
    if (qEnvironmentVariableIsEmpty("QT_XCB_GL_INTEGRATION")) qputenv("QT_XCB_GL_INTEGRATION", "xcb_glx");
    QApplication::setOrganizationName("rasoir");
    QApplication::setApplicationName("rasoir");
    Q_INIT_RESOURCE(resources);
    QApplication application(argc, argv);
    QApplication::setStyle("Fusion");
    application.setWindowIcon(QIcon(":/rasoir.svg"));
    application.setDesktopFileName("rasoir");
    rasoir::catchKernelSignals();
    rasoir::app::MainWindow window;
    window.show();
    window.offerRecovery();
    const QStringList arguments = QApplication::arguments();
    if (arguments.size() > 1) QTimer::singleShot(0, &window, [&window, path = arguments[1]] { window.openFile(path); });
    return QApplication::exec();
}
