#include "bench/variants_page.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QSignalBlocker>
#include <QVBoxLayout>

#include "handover/compare.h"
#include "session.h"
#include "theme.h"
#include "words.h"

namespace rasoir::app {

VariantsPage::VariantsPage(Session& session, QWidget* parent) : BenchPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    m_list = twoColumns(this, "variants", "Variants of this work", {"Variant", "Steps"});
    m_list->setEditTriggers(QAbstractItemView::NoEditTriggers);  // names alone are edited, not the count of steps
    connect(m_list, &QTreeWidget::itemDoubleClicked, this,
            [this](QTreeWidgetItem* item) { m_list->editItem(item, 0); });
    m_list->setToolTip("F2 or a double click renames, Del forgets");
    m_list->installEventFilter(this);
    column->addWidget(m_list, 1);
    auto* row = new QHBoxLayout;
    m_compare = new QPushButton("Compare", this);
    m_compare->setObjectName("compareVariants");
    m_compare->setToolTip("What differs between the chosen variant and the one in hand, part by part and face by face");
    m_beside = new QPushButton("Wipe", this);
    m_beside->setObjectName("wipeVariants");
    m_beside->setToolTip("The chosen variant left of a line on the stage, the one in hand right of it");
    row->addWidget(m_compare);
    row->addWidget(m_beside);
    column->addLayout(row);
    m_differences = new QTreeWidget(this);
    m_differences->setObjectName("differences");
    m_differences->setAccessibleName("What differs between two variants");
    m_differences->setHeaderHidden(true);
    m_differences->setRootIsDecorated(false);
    m_differences->setWordWrap(true);
    m_differences->setTextElideMode(Qt::ElideNone);
    m_differences->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_differences->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    column->addWidget(m_differences, 1);
    m_tones = new QCheckBox(this);
    m_tones->setObjectName("distanceTones");
    m_tones->setToolTip("Draws the variant in hand, the redder the farther its skin lies from that of the other one");
    m_tones->hide();
    column->addWidget(m_tones);
    connect(m_tones, &QCheckBox::toggled, this, &VariantsPage::changed);
    m_name = new QLineEdit(this);
    m_name->setObjectName("variantName");
    m_name->setAccessibleName("Name of a new variant");
    m_name->setPlaceholderText("name of a new variant, begun here");
    column->addWidget(m_name);
    connect(m_name, &QLineEdit::textChanged, this, &VariantsPage::changed);
    connect(m_name, &QLineEdit::returnPressed, this, [this] {
        if (acts()) act();
    });
    connect(m_list, &QTreeWidget::itemSelectionChanged, this, [this] {
        m_compare->setEnabled(other().has_value() && !m_session.isBusy());
        m_beside->setEnabled(other().has_value());
        emit changed();
    });
    connect(m_list, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* item) {
        m_session.renameVariant(static_cast<std::size_t>(m_list->indexOfTopLevelItem(item)), item->text(0).trimmed());
        afterwards(this, [this] { refresh(); });
    });
    connect(m_compare, &QPushButton::clicked, this, [this] {
        if (const auto chosen = other()) m_session.compareVariant(*chosen);
    });
    connect(m_beside, &QPushButton::clicked, this, [this] {
        if (const auto chosen = other()) m_session.showBeside(*chosen);
    });
    connect(&m_session, &Session::besideChanged, this, [this] {
        if (m_session.hasBeside()) emit wipeWanted(true);
    });
    connect(&m_session, &Session::variantsCompared, this, [this] {
        refresh();
        emit changed();
    });
}

std::optional<std::size_t> VariantsPage::other() const {
    const QList<QTreeWidgetItem*> chosen = m_list->selectedItems();
    if (chosen.size() != 1) return std::nullopt;
    const auto index = static_cast<std::size_t>(m_list->indexOfTopLevelItem(chosen.front()));
    if (index == m_session.work().variant()) return std::nullopt;
    return index;
}

void VariantsPage::refresh() {
    const QSignalBlocker quiet(m_list);
    const int chosen = m_list->indexOfTopLevelItem(m_list->currentItem());
    m_list->clear();
    m_differences->clear();
    m_name->setEnabled(!m_session.isEmpty());
    if (m_session.isEmpty()) return;
    const Work& work = m_session.work();
    const std::vector<std::string> names = work.variantNames();
    for (std::size_t v = 0; v < names.size(); ++v) {
        const Variant variant = work.variantAt(v);
        auto* item = new QTreeWidgetItem(m_list, {text(names[v]), QString::number(variant.ledger.steps.size())});
        item->setFlags(item->flags() | Qt::ItemIsEditable);
        item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
        QFont font = item->font(0);
        font.setBold(v == work.variant());
        item->setFont(0, font);
        item->setToolTip(0, v == work.variant() ? "In hand" : "Choose it to take it in hand, compare or wipe");
    }
    if (chosen >= 0 && chosen < m_list->topLevelItemCount()) m_list->setCurrentItem(m_list->topLevelItem(chosen));
    m_compare->setEnabled(other().has_value() && !m_session.isBusy());
    m_beside->setEnabled(other().has_value());
    const auto& compared = m_session.comparedVariants();
    m_differences->setVisible(compared.has_value());
    m_tones->setVisible(compared && compared->skins != nullptr && compared->skins->most > 0.0);
    if (compared && compared->skins != nullptr)
        m_tones->setText(QString("coloured by distance, red is %1 mm").arg(number(compared->skins->most)));
    if (!compared) return;
    const Palette& p = colours();
    const auto line = [&](const QString& what, const QColor& colour) {
        auto* item = new QTreeWidgetItem(m_differences, {what});
        item->setForeground(0, colour);
        item->setToolTip(0, what);
    };
    line(QString("From \"%1\" to \"%2\":").arg(text(compared->from), text(compared->to)), p.second);
    for (const handover::PartChange& part : compared->changes.parts)
        for (const std::string& told : handover::told(part)) line(text(told), told.starts_with(" ") ? p.second : p.ink);
    if (compared->changes.same()) line("The geometry is the same.", p.ink);
    wrapRows(m_differences, 0);
}

void VariantsPage::addTo(BenchPreview& preview) const {
    const auto& compared = m_session.comparedVariants();
    if (!m_tones->isVisible() || !m_tones->isChecked() || !compared || compared->skins == nullptr) return;
    const handover::SkinDistances& skins = *compared->skins;
    auto drawn = std::make_shared<StageMesh>();
    drawn->mesh.points = skins.points;
    drawn->mesh.triangles = skins.triangles;
    for (const double off : skins.off) drawn->shades.push_back(off / skins.most);
    preview.mesh = std::move(drawn);
}

QString VariantsPage::answer() const {
    if (m_session.isEmpty()) return "Open a file; it can be prepared in several ways side by side.";
    const Work& work = m_session.work();
    if (work.variantNames().size() == 1)
        return "One way so far. A variant begins with the steps done up to here, and goes its own way from then on.";
    return QString("\"%1\" is in hand, one of %2.")
        .arg(text(work.variantNames()[work.variant()]), text(counted(work.variantNames().size(), "variant")));
}

QString VariantsPage::words() const {
    if (const QString name = m_name->text().trimmed(); !name.isEmpty()) return QString("Begin \"%1\" here").arg(name);
    if (const auto chosen = other())
        return QString("Take \"%1\" in hand").arg(text(m_session.work().variantNames()[*chosen]));
    return "Type a name, or choose a variant";
}

std::optional<int> VariantsPage::count() const {
    if (m_session.isEmpty()) return std::nullopt;
    return static_cast<int>(m_session.work().variantNames().size());
}

bool VariantsPage::acts() const {
    return !m_session.isEmpty() && (!m_name->text().trimmed().isEmpty() || other().has_value());
}

void VariantsPage::act() {
    if (const QString name = m_name->text().trimmed(); !name.isEmpty()) {
        if (m_session.beginVariant(name)) m_name->clear();
    } else if (const auto chosen = other()) {
        m_session.takeVariant(*chosen);
    }
}

bool VariantsPage::eventFilter(QObject* watched, QEvent* event) {
    const bool key = event->type() == QEvent::KeyPress || event->type() == QEvent::ShortcutOverride;
    if (watched == m_list && event->type() == QEvent::KeyPress && static_cast<QKeyEvent*>(event)->key() == Qt::Key_F2 &&
        m_list->currentItem() != nullptr) {
        m_list->editItem(m_list->currentItem(), 0);
        return true;
    }
    if (watched == m_list && key && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Delete) {
        event->accept();
        if (event->type() == QEvent::KeyPress && m_list->currentItem() != nullptr)
            m_session.dropVariant(static_cast<std::size_t>(m_list->indexOfTopLevelItem(m_list->currentItem())));
        return true;
    }
    return BenchPage::eventFilter(watched, event);
}

}  // namespace rasoir::app
