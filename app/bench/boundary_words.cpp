#include "bench/boundary_words.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QDir>
#include <QFile>
#include <QHeaderView>
#include <QLabel>
#include <QMessageBox>
#include <QPushButton>
#include <QVBoxLayout>

#include "common/safe_file.h"
#include "session.h"
#include "words.h"

namespace rasoir::app {
namespace {

QString wordsFile() {
    return MaterialShelf::folder() + "/boundary-words.json";
}

}  // namespace

join::KindWords boundaryWords() {
    QFile file(wordsFile());
    if (!file.open(QIODevice::ReadOnly)) return {};
    const Json kept = Json::parse(file.readAll().toStdString(), nullptr, false);
    if (!kept.is_object()) return {};
    join::KindWords words;
    for (const auto& [word, kind] : kept.items())
        if (kind.is_string()) words.emplace_back(word, kind.get<std::string>());
    return words;
}

BoundaryWordsDialog::BoundaryWordsDialog(QWidget* parent) : QDialog(parent) {
    setWindowTitle("What names say");
    auto* column = new QVBoxLayout(this);
    auto* told = new QLabel(
        "A boundary whose name has a word that begins so is proposed as this kind, before the words that are known "
        "anyway.",
        this);
    told->setWordWrap(true);
    column->addWidget(told);
    m_table = new QTableWidget(0, 2, this);
    m_table->setObjectName("boundaryWords");
    m_table->setHorizontalHeaderLabels({"Begins with", "Kind"});
    m_table->verticalHeader()->hide();
    m_table->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    column->addWidget(m_table, 1);
    auto* more = new QPushButton("Another word", this);
    more->setObjectName("anotherWord");
    connect(more, &QPushButton::clicked, this, [this] {
        addRow({}, "wall");
        m_table->setCurrentCell(m_table->rowCount() - 1, 0);
        m_table->setFocus();
    });
    column->addWidget(more);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Save | QDialogButtonBox::Cancel, this);
    connect(buttons, &QDialogButtonBox::accepted, this, &BoundaryWordsDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    column->addWidget(buttons);
    for (const auto& [word, kind] : boundaryWords()) addRow(text(word), text(kind));
    addRow({}, "inlet");
    resize(360, 320);
}

void BoundaryWordsDialog::addRow(const QString& word, const QString& kind) {
    const int row = m_table->rowCount();
    m_table->insertRow(row);
    m_table->setItem(row, 0, new QTableWidgetItem(word));
    auto* kinds = new QComboBox(m_table);
    for (const std::string& one : join::boundaryKinds()) kinds->addItem(text(one));
    kinds->setCurrentText(kind);
    m_table->setCellWidget(row, 1, kinds);
}

void BoundaryWordsDialog::accept() {
    Json kept = Json::object();
    for (int row = 0; row < m_table->rowCount(); ++row) {
        const QString word = m_table->item(row, 0)->text().trimmed().toLower();
        const auto* kind = qobject_cast<const QComboBox*>(m_table->cellWidget(row, 1));
        if (!word.isEmpty() && kind != nullptr) kept[word.toStdString()] = kind->currentText().toStdString();
    }
    QDir().mkpath(MaterialShelf::folder());
    if (const auto written = writeText(wordsFile().toStdString(), kept.dump(2) + "\n"); !written) {
        QMessageBox::warning(this, windowTitle(), text(sentence(written.error())));
        return;
    }
    QDialog::accept();
}

}  // namespace rasoir::app
