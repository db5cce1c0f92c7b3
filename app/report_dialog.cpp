#include "report_dialog.h"

#include <QDate>
#include <QDialogButtonBox>
#include <QFormLayout>
#include <QSettings>

namespace rasoir::app {

ReportDialog::ReportDialog(QWidget* parent) : QDialog(parent) {
    setObjectName("reportDialog");
    setWindowTitle("Write a report");
    auto* form = new QFormLayout(this);
    const auto field = [this, form](const char* name, const QString& label, const QString& text) {
        auto* edit = new QLineEdit(text, this);
        edit->setObjectName(name);
        form->addRow(label, edit);
        return edit;
    };
    m_author = field("reportAuthor", "Made by", QSettings().value("reportAuthor").toString());
    m_checker = field("reportChecker", "Checked by", {});
    m_date = field("reportDate", "Date", QDate::currentDate().toString(Qt::ISODate));
    m_pictures = new QCheckBox("With pictures, and a close-up of each step", this);
    m_pictures->setObjectName("reportPictures");
    m_pictures->setChecked(true);
    form->addRow(m_pictures);
    m_mesh = new QCheckBox("With the trial mesh, as received and now", this);
    m_mesh->setObjectName("reportMesh");
    form->addRow(m_mesh);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel, this);
    buttons->button(QDialogButtonBox::Ok)->setText("Write");
    form->addRow(buttons);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
}

handover::ReportOptions ReportDialog::options() const {
    QSettings().setValue("reportAuthor", m_author->text());
    const auto said = [](const QLineEdit* edit) { return edit->text().trimmed().toStdString(); };
    return {m_pictures->isChecked(), said(m_author), said(m_checker), said(m_date), {}, m_mesh->isChecked()};
}

}  // namespace rasoir::app
