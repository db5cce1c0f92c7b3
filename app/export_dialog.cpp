#include "export_dialog.h"

#include <QDialogButtonBox>
#include <QFileInfo>
#include <QFormLayout>
#include <QPushButton>

#include "measure/frames.h"
#include "model/places.h"
#include "words.h"

namespace rasoir::app {

ExportDialog::ExportDialog(const Session& session, const QString& path, QWidget* parent)
    : QDialog(parent), m_session(session), m_path(path) {
    setObjectName("exportDialog");
    setWindowTitle("Export " + QFileInfo(path).fileName());
    const Model& model = session.model();
    auto* form = new QFormLayout(this);
    const auto choice = [this, form](const char* name, const QString& label) {
        auto* box = new QComboBox(this);
        box->setObjectName(name);
        box->setAccessibleName(label);
        form->addRow(label, box);
        return box;
    };
    m_what = choice("exportWhat", "What");
    m_what->addItem("everything that is not set aside");
    if (const auto selected = session.places().selected().size(); selected > 0)
        m_what->addItem(QString("only what is selected (%1)").arg(text(counted(selected, "place"))));
    const bool step = path.endsWith(".step", Qt::CaseInsensitive) || path.endsWith(".stp", Qt::CaseInsensitive);
    const bool drawing = path.endsWith(".dxf", Qt::CaseInsensitive);
    m_unit = choice("exportUnit", "Length unit");
    m_unit->addItem(model.fileUnit ? QString("as it came (%1)").arg(text(unitName(*model.fileUnit))) : QString("mm"),
                    "");
    for (const char* unit : {"mm", "cm", "m", "um", "in", "ft"}) m_unit->addItem(unit, unit);
    m_schema = choice("exportSchema", "Schema");
    m_schema->addItem("AP214", "ap214");
    m_schema->addItem("AP242, with groups as shape aspects", "ap242");
    m_schema->addItem("AP203", "ap203");
    m_axes = choice("exportAxes", "Coordinate system");
    m_axes->addItem("the model's own", "");
    for (const measure::Frame& frame : measure::framesOf(model)) m_axes->addItem(text(frame.name), text(frame.name));
    m_each = new QCheckBox("One file for each part", this);
    m_each->setObjectName("exportEach");
    m_proved = new QCheckBox("Read it back and compare before it replaces what was there", this);
    m_proved->setObjectName("exportProved");
    m_proved->setChecked(true);
    form->addRow(m_each);
    form->addRow(m_proved);
    form->setRowVisible(m_unit, step);
    form->setRowVisible(m_schema, step);
    form->setRowVisible(m_axes, m_axes->count() > 1);
    form->setRowVisible(m_each, model.parts.size() > 1);
    form->setRowVisible(m_proved, !drawing);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel, this);
    buttons->button(QDialogButtonBox::Ok)->setText("Export");
    form->addRow(buttons);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
}

handover::ExportWanted ExportDialog::wanted() const {
    handover::ExportWanted wanted;
    wanted.path = m_path.toStdString();
    const Model& model = m_session.model();
    const auto& selected = m_session.places().selected();
    for (std::size_t o = 0; o < model.occurrences.size(); ++o)
        if (!model.occurrences[o].aside && (m_what->currentIndex() == 0 || selected.contains(o)))
            wanted.places.push_back(o);
    wanted.each = m_each->isChecked();
    wanted.unproven = !m_proved->isChecked();
    wanted.axes = m_axes->currentData().toString().toStdString();
    wanted.options.unit = unitFromName(m_unit->currentData().toString().toStdString());
    const QString schema = m_schema->currentData().toString();
    wanted.options.schema = schema == "ap242"   ? exchange::StepSchema::Ap242
                            : schema == "ap203" ? exchange::StepSchema::Ap203
                                                : exchange::StepSchema::Ap214;
    return wanted;
}

}  // namespace rasoir::app
