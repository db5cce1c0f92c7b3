#include "bench/attributes_page.h"

#include <QFormLayout>
#include <QVBoxLayout>

#include "bench/regions_page.h"
#include "model/attributes.h"
#include "session.h"
#include "theme.h"
#include "words.h"

namespace rasoir::app {
namespace {

/// The thicknesses of a sheet in words: "2", "2 to 3", "missing", "missing in part".
QString thicknessOf(const Part& part) {
    double least = 1e300, most = 0.0;
    int known = 0;
    for (int f = 1; f <= part.incidence().faceCount(); ++f)
        if (const auto own = part.known.thickness.find({EntityKind::Face, f}); own != part.known.thickness.end()) {
            least = std::min(least, own->second.at);
            most = std::max(most, own->second.at);
            ++known;
        }
    if (known == 0) return "missing";
    if (known < part.incidence().faceCount()) return "missing in part";
    return most - least < 1e-6 * most ? number(most) : number(least) + " to " + number(most);
}

QString sizeOf(const Part& part) {
    double least = 1e300;
    for (const auto& [thing, size] : part.known.sizes) least = std::min(least, size.mm);
    return part.known.sizes.empty() ? QString() : number(least);
}

/// Of a sheet nothing is said where nobody has said it.
QString regionOf(const Part& part) {
    return part.known.regions.empty() && part.kind() != BodyKind::Solid ? QString() : regionsOf(part);
}

}  // namespace

AttributesPage::AttributesPage(Session& session, QWidget* parent) : BenchPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    m_list = new QTreeWidget(this);
    m_list->setObjectName("attributes");
    m_list->setAccessibleName("Parts and what they are");
    m_list->setHeaderLabels({"Part", "Material", "Kind", "Thick", "Size", "kg"});
    m_list->setRootIsDecorated(false);
    m_list->setSelectionMode(QAbstractItemView::ExtendedSelection);
    m_list->header()->setStretchLastSection(false);
    m_list->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    for (int c = 1; c < 6; ++c) m_list->header()->setSectionResizeMode(c, QHeaderView::ResizeToContents);
    column->addWidget(m_list, 1);
    auto* form = new QFormLayout;
    form->setSpacing(4);
    m_what = new QComboBox(this);
    m_what->setObjectName("attributeWhat");
    m_what->setAccessibleName("What is set");
    m_what->addItems({"material", "kind of region", "thickness mm", "element size mm", "weighs in truth, kg",
                      "mass spread over it, kg", "weighs in truth, rest as a lump, kg"});
    m_what->setToolTip("What a part weighs in truth: the mass that it lacks is spread over its faces");
    m_value = new QComboBox(this);
    m_value->setObjectName("attributeValue");
    m_value->setAccessibleName("To what");
    m_value->setEditable(true);
    form->addRow("Set", m_what);
    form->addRow("To", m_value);
    column->addLayout(form);
    connect(m_what, &QComboBox::currentIndexChanged, this, [this] {
        offerValues();
        emit changed();
    });
    connect(m_value, &QComboBox::editTextChanged, this, &AttributesPage::changed);
    connect(&m_session.materials(), &MaterialShelf::changed, this, &AttributesPage::offerValues);
    connect(m_list, &QTreeWidget::itemSelectionChanged, this, &AttributesPage::changed);
    offerValues();
}

void AttributesPage::offerValues() {
    const QSignalBlocker quiet(m_value);
    m_value->clear();
    switch (current()) {
        case What::Material: {
            std::set<QString> names;
            for (const Material& material : m_session.materials().all()) names.insert(text(material.name));
            for (const Material& material : m_session.model().materials) names.insert(text(material.name));
            for (const QString& name : names) m_value->addItem(name);
            break;
        }
        case What::Region:
            m_value->addItems({"solid", "fluid", "porous", "void"});
            break;
        case What::Thickness:
        case What::Size:
        case What::Weighs:
        case What::Added:
        case What::Lumped:
            break;
    }
    m_value->setEditText(m_value->count() > 0 ? m_value->itemText(0) : QString());
}

bool AttributesPage::lacks(std::size_t p) const {
    const Part& part = *m_session.model().parts[p];
    return part.material.empty() || (part.kind() == BodyKind::Sheet && thicknessOf(part).startsWith("missing"));
}

void AttributesPage::refresh() {
    const Model& model = m_session.model();
    std::set<std::string> kept;
    for (const std::string& name : chosen()) kept.insert(name);
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    const Palette& p = colours();
    bool anySheet = false, anySize = false;
    for (std::size_t i = 0; i < model.parts.size(); ++i) {
        if (model.isAside(i)) continue;
        const Part& part = *model.parts[i];
        const bool sheet = part.kind() == BodyKind::Sheet;
        const QString material = part.material.empty() ? "missing" : text(part.material),
                      thickness = sheet ? thicknessOf(part) : QString();
        auto* item =
            new QTreeWidgetItem(m_list, {text(part.name), material, part.lump ? QString("lump") : regionOf(part),
                                         thickness, sizeOf(part), massOf(i)});
        item->setData(0, Qt::UserRole, static_cast<qulonglong>(i));
        if (part.material.empty()) item->setForeground(1, p.vermilionText);
        if (thickness.startsWith("missing")) item->setForeground(3, p.vermilionText);
        item->setToolTip(0, item->text(0));
        item->setSelected(kept.contains(part.name));
        anySheet = anySheet || sheet;
        anySize = anySize || !part.known.sizes.empty();
    }
    // Room for the names: a column that says nothing of anything is left out.
    m_list->setColumnHidden(3, !anySheet);
    m_list->setColumnHidden(4, !anySize);
}

QString AttributesPage::massOf(std::size_t p) const {
    const Model& model = m_session.model();
    const PartKnowledge* known = m_session.knowledge(p);
    if (known == nullptr || !known->facts) return {};
    QString told = number(measure::massOf(model, *model.parts[p], *known->facts).mass);
    if (!model.parts[p]->known.added.empty())
        told += QString(" (%1 spread)").arg(number(measure::addedMassOf(*model.parts[p])));
    return told;
}

std::vector<std::string> AttributesPage::chosen() const {
    std::vector<std::string> names;
    for (int r = 0; r < m_list->topLevelItemCount(); ++r)
        if (m_list->topLevelItem(r)->isSelected()) names.push_back(m_list->topLevelItem(r)->text(0).toStdString());
    return names;
}

std::optional<int> AttributesPage::count() const {
    int lacking = 0;
    const Model& model = m_session.model();
    for (std::size_t p = 0; p < model.parts.size(); ++p) lacking += !model.isAside(p) && lacks(p);
    return lacking;
}

QString AttributesPage::answer() const {
    if (m_session.isEmpty()) return "Open a file; what its parts are made of will be listed here.";
    const int lacking = count().value_or(0);
    return lacking == 0 ? QString("Every part says what it is.")
                        : QString("Of %1 something is missing. Choose rows, then say what they are.")
                              .arg(text(counted(static_cast<std::size_t>(lacking), "part")));
}

std::optional<BenchStep> AttributesPage::step() const {
    const auto parts = chosen();
    const QString typed = m_value->currentText().trimmed();
    if (parts.empty() || typed.isEmpty()) return std::nullopt;
    if (current() == What::Material) {
        Json parameters = m_session.assigning(typed);
        if (parameters.is_null()) return std::nullopt;  // a material of no density is none
        parameters["parts"] = parts;
        return BenchStep{"intake.assignMaterial", std::move(parameters)};
    }
    if (current() == What::Region) {
        if (!regionKindFromName(typed.toStdString())) return std::nullopt;
        return BenchStep{"handover.attribute",
                         {{"attribute", "region"}, {"value", typed.toStdString()}, {"parts", parts}}};
    }
    if (current() == What::Weighs || current() == What::Added || current() == What::Lumped) {
        bool fine = false;
        const double mass = QString(typed).remove("kg").trimmed().toDouble(&fine);
        if (!fine || !(mass > 0.0)) return std::nullopt;
        Json parameters{{"parts", parts}, {current() == What::Added ? "mass" : "stated", mass}};
        if (current() == What::Lumped) parameters["asLump"] = true;
        return BenchStep{"handover.spreadMass", std::move(parameters)};
    }
    const auto length = parseLength(typed.toStdString(), Unit::Millimetre, m_session.model().targetSize);
    if (!length || *length <= 0.0) return std::nullopt;
    return BenchStep{
        "handover.attribute",
        {{"attribute", current() == What::Thickness ? "thickness" : "size"}, {"value", *length}, {"parts", parts}}};
}

QString AttributesPage::words() const {
    const std::size_t parts = chosen().size();
    if (parts == 0) return "Choose parts";
    if (!step()) return current() == What::Material ? "That material is not known" : "Say to what";
    if (current() == What::Weighs) return QString("Spread what %1 lacks").arg(text(counted(parts, "part")));
    if (current() == What::Lumped) return QString("A lump for what %1 lacks").arg(text(counted(parts, "part")));
    if (current() == What::Added) return QString("Spread it over %1").arg(text(counted(parts, "part")));
    return QString("Set %1 of %2").arg(m_what->currentText().section(' ', 0, 0), text(counted(parts, "part")));
}

}  // namespace rasoir::app
