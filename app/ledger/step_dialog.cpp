#include "ledger/step_dialog.h"

#include <QCheckBox>
#include <QDialogButtonBox>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>

#include "theme.h"

namespace rasoir::app {
namespace {

QString joined(const Json& list) {
    QStringList words;
    for (const Json& word : list)
        words << QString::fromStdString(word.is_string() ? word.get<std::string>() : word.dump());
    return words.join("; ");
}

}  // namespace

StepDialog::StepDialog(const Operation& operation, const Json& parameters, QWidget* parent)
    : QDialog(parent), m_parameters(parameters) {
    setWindowTitle("Edit step: " + QString::fromStdString(operation.title));
    setMinimumWidth(420);
    auto* form = new QFormLayout(this);
    for (const ParameterInfo& info : operation.parameters) addField(info, parameters.value(info.name, info.standard));
    m_problem = new QLabel(this);
    m_problem->setWordWrap(true);
    m_problem->setStyleSheet(QString("color: %1;").arg(colours().vermilionText.name()));
    m_problem->hide();
    form->addRow(m_problem);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel, this);
    form->addRow(buttons);
    connect(buttons, &QDialogButtonBox::accepted, this, &StepDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
}

void StepDialog::addField(const ParameterInfo& info, const Json& value) {
    auto* form = static_cast<QFormLayout*>(layout());
    const QString meaning = QString::fromStdString(info.meaning);
    const QString label = QString::fromStdString(info.name + (info.unit.empty() ? "" : " [" + info.unit + "]"));
    if (info.type == "boolean") {
        auto* box = new QCheckBox(meaning, this);
        box->setObjectName(QString::fromStdString(info.name));
        box->setChecked(value.is_boolean() && value.get<bool>());
        form->addRow(label, box);
        m_fields.push_back({info, [box]() -> Result<Json> { return Json(box->isChecked()); }});
        return;
    }
    auto* line = new QLineEdit(this);
    line->setObjectName(QString::fromStdString(info.name));
    line->setToolTip(meaning);
    line->setPlaceholderText(meaning);
    form->addRow(label, line);
    const auto unreadable = [name = info.name](const std::string& wanted) {
        return fail(ProblemKind::BadInput, "\"" + name + "\" should be " + wanted + ".");
    };
    if (info.type == "number") {
        line->setText(value.is_number() ? QString::number(value.get<double>(), 'g', 12) : QString());
        const bool isLength = info.unit == "mm";
        m_fields.push_back({info, [line, isLength, unreadable]() -> Result<Json> {
                                if (isLength) {
                                    const auto length = parseLength(line->text().toStdString());
                                    return length ? Result<Json>(Json(*length)) : tl::unexpected(length.error());
                                }
                                bool fine = false;
                                const double number = line->text().toDouble(&fine);
                                return fine ? Result<Json>(Json(number)) : unreadable("a number");
                            }});
    } else if (info.type == "list of names" || info.type == "list of words") {
        line->setText(joined(value));
        m_fields.push_back({info, [line]() -> Result<Json> {
                                Json list = Json::array();
                                for (const QString& word : line->text().split(';', Qt::SkipEmptyParts))
                                    if (!word.trimmed().isEmpty()) list.push_back(word.trimmed().toStdString());
                                return list;
                            }});
    } else if (info.type == "word" || info.type == "text") {
        line->setText(value.is_string() ? QString::fromStdString(value.get<std::string>()) : QString());
        m_fields.push_back({info, [line]() -> Result<Json> { return Json(line->text().toStdString()); }});
    } else {
        // References and the like are made by picking; here they can still be read, copied and thinned out as JSON.
        line->setText(QString::fromStdString(value.dump()));
        line->setCursorPosition(0);
        m_fields.push_back({info, [line, unreadable]() -> Result<Json> {
                                Json json = Json::parse(line->text().toStdString(), nullptr, false);
                                return json.is_discarded() ? Result<Json>(unreadable("JSON"))
                                                           : Result<Json>(std::move(json));
                            }});
    }
}

void StepDialog::accept() {
    Json edited = m_parameters;
    for (const Field& field : m_fields) {
        auto value = field.read();
        if (!value) {
            m_problem->setText("▲ " + QString::fromStdString(sentence(value.error())));
            m_problem->show();
            if (auto* line = findChild<QLineEdit*>(QString::fromStdString(field.info.name))) line->setFocus();
            return;
        }
        if (edited.contains(field.info.name) || *value != field.info.standard)
            edited[field.info.name] = std::move(*value);
    }
    m_parameters = std::move(edited);
    QDialog::accept();
}

}  // namespace rasoir::app
