#include "materials_dialog.h"

#include <QDialogButtonBox>
#include <QDir>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPushButton>
#include <QVBoxLayout>

#include "theme.h"
#include "words.h"

namespace rasoir::app {
namespace {

enum Column { Name, Density, Stiffness, Poisson };

/// A number as people type it, with a comma too.
std::optional<double> numberIn(const QString& typed) {
    bool fine = false;
    const double value = QString(typed).remove(QChar(0x2009)).remove(' ').replace(',', '.').toDouble(&fine);
    return fine ? std::optional(value) : std::nullopt;
}

QString plain(double value) {
    return QString::number(value, 'g', 7);
}

}  // namespace

MaterialsDialog::MaterialsDialog(const std::vector<Material>& own, QString file, QWidget* parent)
    : QDialog(parent), m_file(std::move(file)) {
    setObjectName("materialsDialog");
    setWindowTitle("Materials");
    resize(620, 460);
    auto* column = new QVBoxLayout(this);
    auto* units = new QHBoxLayout;
    const auto unit = [&](const char* name, const QString& label,
                          const std::vector<std::pair<const char*, double>>& all) {
        units->addWidget(new QLabel(label, this));
        auto* box = new QComboBox(this);
        box->setObjectName(name);
        box->setAccessibleName(label);
        for (const auto& [words, value] : all) box->addItem(words, value);
        units->addWidget(box);
        connect(box, &QComboBox::currentIndexChanged, this, &MaterialsDialog::unitsChanged);
        return box;
    };
    m_density = unit("densityUnit", "Density in", {{"kg/m³", 1.0}, {"g/cm³", 1e3}, {"t/mm³", 1e12}});
    m_stiffness = unit("stiffnessUnit", "Stiffness in", {{"MPa", 1.0}, {"GPa", 1e3}, {"Pa", 1e-6}});
    units->addStretch(1);
    column->addLayout(units);
    m_table = new QTableWidget(0, 4, this);
    m_table->setObjectName("materials");
    m_table->setAccessibleName("Materials");
    m_table->setHorizontalHeaderLabels({"Name", "Density", "Young's modulus", "Poisson's ratio"});
    m_table->horizontalHeader()->setSectionResizeMode(Name, QHeaderView::Stretch);
    m_table->verticalHeader()->hide();
    m_table->setSelectionBehavior(QAbstractItemView::SelectRows);
    column->addWidget(m_table, 1);
    m_message = new QLabel(this);
    m_message->setObjectName("materialsMessage");
    m_message->setWordWrap(true);
    m_message->setStyleSheet(QString("color: %1").arg(colours().vermilionText.name()));
    column->addWidget(m_message);
    auto* hint = new QLabel(
        "Your own come first; one with the name of a standard material replaces it. A step keeps the "
        "values it assigned.",
        this);
    hint->setWordWrap(true);
    column->addWidget(hint);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Save | QDialogButtonBox::Cancel, this);
    auto* add = buttons->addButton("Add", QDialogButtonBox::ActionRole);
    add->setObjectName("addMaterial");
    auto* remove = buttons->addButton("Remove", QDialogButtonBox::ActionRole);
    remove->setObjectName("removeMaterial");
    column->addWidget(buttons);
    connect(add, &QPushButton::clicked, this, &MaterialsDialog::addRow);
    connect(remove, &QPushButton::clicked, this, &MaterialsDialog::removeChosen);
    connect(buttons, &QDialogButtonBox::accepted, this, &MaterialsDialog::save);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    m_own = static_cast<int>(own.size());
    m_table->setRowCount(m_own + static_cast<int>(standardMaterials().size()));
    int row = 0;
    for (const Material& material : own) setRow(row++, material, false);
    for (const Material& material : standardMaterials()) setRow(row++, material, true);
}

void MaterialsDialog::setRow(int row, const Material& material, bool standard) {
    const QStringList texts{text(material.name), plain(material.density / m_densityIn),
                            material.youngsModulus > 0.0 ? plain(material.youngsModulus / m_stiffnessIn) : QString(),
                            plain(material.poissonsRatio)};
    for (int c = 0; c < texts.size(); ++c) {
        auto* item = new QTableWidgetItem(texts[c]);
        if (c > Name) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        if (standard) {
            item->setFlags(item->flags() & ~Qt::ItemIsEditable);
            item->setForeground(colours().second);
        }
        m_table->setItem(row, c, item);
    }
}

Result<Material> MaterialsDialog::materialIn(int row) const {
    const auto cell = [&](Column column) {
        const QTableWidgetItem* item = m_table->item(row, column);
        return item == nullptr ? QString() : item->text().trimmed();
    };
    Material material;
    material.name = cell(Name).toStdString();
    const auto density = numberIn(cell(Density));
    const auto stiffness = cell(Stiffness).isEmpty() ? std::optional(0.0) : numberIn(cell(Stiffness));
    const auto poisson = cell(Poisson).isEmpty() ? std::optional(0.3) : numberIn(cell(Poisson));
    for (const auto& [value, words] :
         {std::pair{density, "density"}, {stiffness, "Young's modulus"}, {poisson, "Poisson's ratio"}})
        if (!value)
            return fail(ProblemKind::BadInput,
                        "The " + std::string(words) + " of \"" + material.name + "\" is no number.",
                        "Type it as 7850 or 7.85e3.");
    material.density = *density * m_densityIn;
    material.youngsModulus = *stiffness * m_stiffnessIn;
    material.poissonsRatio = *poisson;
    if (auto sound = checkMaterial(material); !sound) return tl::unexpected(sound.error());
    return material;
}

void MaterialsDialog::unitsChanged() {
    const double density = m_density->currentData().toDouble(), stiffness = m_stiffness->currentData().toDouble();
    for (int row = 0; row < m_table->rowCount(); ++row)
        for (const auto& [column, factor] :
             {std::pair{Density, m_densityIn / density}, {Stiffness, m_stiffnessIn / stiffness}}) {
            QTableWidgetItem* item = m_table->item(row, column);
            // What is no number yet stays as it was typed.
            if (const auto value = numberIn(item->text())) item->setText(plain(*value * factor));
        }
    m_densityIn = density;
    m_stiffnessIn = stiffness;
}

void MaterialsDialog::addRow() {
    m_table->insertRow(m_own);
    setRow(m_own, {"", 7850.0, 0.0, 0.3}, false);
    m_table->setCurrentCell(m_own, Name);
    m_table->editItem(m_table->item(m_own, Name));
    ++m_own;
}

void MaterialsDialog::removeChosen() {
    const int row = m_table->currentRow();
    if (row < 0) return;
    if (row >= m_own) {
        m_message->setText("Standard materials stay; one of your own with the same name replaces them.");
        return;
    }
    m_table->removeRow(row);
    --m_own;
}

void MaterialsDialog::save() {
    std::vector<Material> own;
    std::set<QString> names;
    for (int row = 0; row < m_own; ++row) {
        const auto material = materialIn(row);
        const bool twice = material && !names.insert(text(material->name).toLower()).second;
        if (!material || twice) {
            m_message->setText(twice ? QString("\"%1\" stands there twice.").arg(text(material->name))
                                     : text(sentence(material.error())));
            m_table->setCurrentCell(row, Name);
            return;
        }
        own.push_back(*material);
    }
    QDir().mkpath(QFileInfo(m_file).path());
    if (auto saved = saveMaterials(own, m_file.toStdString()); !saved) {
        m_message->setText(text(sentence(saved.error())));
        return;
    }
    accept();
}

}  // namespace rasoir::app
