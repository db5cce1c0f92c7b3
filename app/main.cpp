#include <cstdio>
#include <QApplication>
#include <QFileInfo>
#include <QIcon>
#include <QTimer>
#include <string_view>

#include "main_window.h"
#include "theme.h"

int main(int argc, char** argv) {
    for (int i = 1; i < argc; ++i) {
        const std::string_view word = argv[i];
        if (word == "--version") {
            std::puts("rasoir " RASOIR_VERSION);
            return 0;
        }
        if (word == "--help" || word == "-h") {
            std::puts(
                "Usage: rasoir [FILE]\nOpens a STEP, IGES, BREP or .rasoir file in a window. See rasoir(1), and "
                "rasoir-cli for scripts.");
            return 0;
        }
    }
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
