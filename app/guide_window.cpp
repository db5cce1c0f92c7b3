#include "guide_window.h"

#include <QFile>
#include <QRegularExpression>
#include <QScrollBar>
#include <QTextBlock>
#include <QTextCursor>
#include <QVBoxLayout>

namespace rasoir::app {
namespace {

/// What the guide calls the work of a bench: words of its chapter's heading.
QString headingOf(const QString& bench) {
    static const std::pair<const char*, const char*> chapters[] = {{"Intake", "From file to facts"},
                                                                   {"Mend", "From loose faces to a solid"},
                                                                   {"Shave", "From a file to a shaved file"},
                                                                   {"Divide", "Dividing bodies"},
                                                                   {"Join", "Joining bodies"},
                                                                   {"Reduce", "Sheets from thin walls"},
                                                                   {"Hand over", "Handing over"}};
    for (const auto& [name, heading] : chapters)
        if (bench == name) return heading;
    return {};
}

}  // namespace

GuideWindow::GuideWindow(QWidget* parent) : QDialog(parent) {
    setWindowTitle("User guide");
    setModal(false);
    resize(720, 640);
    auto* column = new QVBoxLayout(this);
    m_text = new QTextBrowser(this);
    m_text->setObjectName("guide");
    m_text->setOpenExternalLinks(true);
    column->addWidget(m_text);
    QFile file(":/user-guide.md");
    if (!file.open(QIODevice::ReadOnly)) return;
    // The pictures are in the folder of the documents, not in the program.
    QString text = QString::fromUtf8(file.readAll());
    text.remove(QRegularExpression("^!\\[[^\\n]*\\n", QRegularExpression::MultilineOption));
    m_text->setMarkdown(text);
    // Markdown comes without room between its paragraphs.
    for (QTextBlock block = m_text->document()->begin(); block.isValid(); block = block.next()) {
        if (block.textList() != nullptr || block.blockFormat().hasProperty(QTextFormat::BlockCodeFence)) continue;
        QTextBlockFormat format = block.blockFormat();
        format.setTopMargin(format.headingLevel() > 0 ? 18.0 : 0.0);
        format.setBottomMargin(8.0);
        QTextCursor(block).setBlockFormat(format);
    }
}

void GuideWindow::showFor(const QString& bench) {
    show();
    raise();
    activateWindow();
    const QString heading = headingOf(bench);
    m_chapter.clear();
    for (QTextBlock block = m_text->document()->begin(); block.isValid(); block = block.next()) {
        if (block.blockFormat().headingLevel() == 0) continue;
        if (!heading.isEmpty() && !block.text().contains(heading)) continue;
        m_chapter = block.text();
        // To the end first, so that the chapter comes to stand at the top.
        m_text->verticalScrollBar()->setValue(m_text->verticalScrollBar()->maximum());
        QTextCursor cursor(block);
        m_text->setTextCursor(cursor);
        m_text->verticalScrollBar()->setValue(m_text->verticalScrollBar()->value() + m_text->cursorRect().top() - 8);
        return;
    }
}

}  // namespace rasoir::app
