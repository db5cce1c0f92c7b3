#include "print/pdf.h"

#include <QFile>
#include <QFont>
#include <QGuiApplication>
#include <QPageSize>
#include <QPdfWriter>
#include <QTextDocument>

#include "common/safe_file.h"

namespace rasoir::print {
namespace {

void needApplication() {
    if (QCoreApplication::instance() != nullptr) return;
    if (!qEnvironmentVariableIsSet("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
    static int count = 1;
    static char name[] = "rasoir-cli";
    static std::array<char*, 2> arguments{name, nullptr};
    static QGuiApplication application(count, arguments.data());
}

}  // namespace

Result<void> writePdf(const std::string& html, const std::filesystem::path& path) {
    needApplication();
    return writeBeside(path, [&](const std::filesystem::path& beside) -> Result<void> {
        QFile file(QString::fromStdString(beside.string()));
        if (!file.open(QIODevice::WriteOnly))
            return fail(ProblemKind::Storage, "The page cannot be written: " + file.errorString().toStdString() + ".");
        {
            QPdfWriter writer(&file);
            writer.setPageSize(QPageSize(QPageSize::A4));
            writer.setPageMargins(QMarginsF(16, 16, 16, 16), QPageLayout::Millimeter);
            writer.setResolution(110);  // pictures of the page then fill its width as on the screen
            writer.setCreator("Rasoir");
            QTextDocument document;
            document.setDefaultFont(QFont("sans-serif", 9));
            document.setHtml(QString::fromStdString(html));
            document.setPageSize(QSizeF(writer.width(), writer.height()));
            document.print(&writer);
        }
        if (file.error() != QFileDevice::NoError || !file.flush())
            return fail(ProblemKind::Storage, "The page cannot be written: " + file.errorString().toStdString() + ".");
        return {};
    });
}

}  // namespace rasoir::print
