#include "bench/divide_bench.h"

#include <QHBoxLayout>
#include <QHeaderView>

#include "model/places.h"
#include "model/reference.h"
#include "theme.h"
#include "words.h"

namespace rasoir::app {
namespace {

/// A length that may be negative: "-12.5", "3 in".
std::optional<double> signedLength(QString typed, double targetSize) {
    typed = typed.trimmed();
    typed.replace(QChar(0x2212), '-');  // the true minus that is shown
    typed.remove(QChar(0x2009));
    const bool negative = typed.startsWith('-');
    if (negative) typed.remove(0, 1);
    const auto length = parseLength(typed.toStdString(), Unit::Millimetre, targetSize);
    if (!length) return std::nullopt;
    return negative ? -*length : *length;
}

QLineEdit* field(const char* name, const char* spoken, QWidget* parent) {
    auto* edit = new QLineEdit(parent);
    edit->setObjectName(name);
    edit->setAccessibleName(spoken);
    return edit;
}

}  // namespace

DivideBench::DivideBench(Session& session, Selection& selection, QWidget* parent)
    : LaidOutBench("Divide", "Where do loads and materials change?",
                   "Cuts bodies, parts faces and edges, unites, subtracts; cross-sections and symmetry.", session,
                   parent),
      m_selection(selection) {
    QVBoxLayout* column = lay({{"Cut", Glyph::Cut},
                               {"Unite", Glyph::Unite},
                               {"Subtract", Glyph::Subtract},
                               {"Intersect", Glyph::Intersect},
                               {"Block round", Glyph::Surround},
                               {"Part face", Glyph::PartFace},
                               {"Part edge", Glyph::PartEdge},
                               {"Section", Glyph::Section},
                               {"Symmetry", Glyph::Symmetry}});

    m_bodyPage = new QWidget(this);
    auto* body = new QVBoxLayout(m_bodyPage);
    body->setContentsMargins(0, 0, 0, 0);
    body->setSpacing(4);
    m_bodyHint = new QLabel(m_bodyPage);
    m_bodyHint->setWordWrap(true);
    body->addWidget(m_bodyHint);
    m_bodies = new QTreeWidget(m_bodyPage);
    m_bodies->setObjectName("bodies");
    m_bodies->setAccessibleName("Bodies, in the order they were picked");
    m_bodies->setColumnCount(1);
    m_bodies->setHeaderHidden(true);
    m_bodies->setRootIsDecorated(false);
    body->addWidget(m_bodies, 1);
    auto* round = new QHBoxLayout;
    m_by = new QComboBox(m_bodyPage);
    m_by->setObjectName("surroundBy");
    m_by->setAccessibleName("Shape of what goes round");
    m_by->addItems({"block", "cylinder", "ball"});
    m_clearanceLabel = new QLabel("Clearance mm", m_bodyPage);
    m_clearance = field("clearance", "Clearance on each side", m_bodyPage);
    m_clearance->setText("10");
    m_clearance->setToolTip("One number for all sides, or six: -x +x -y +y -z +z");
    round->addWidget(m_by);
    round->addWidget(m_clearanceLabel);
    round->addWidget(m_clearance, 1);
    body->addLayout(round);
    m_option = new QCheckBox(m_bodyPage);
    m_option->setObjectName("bodyOption");
    body->addWidget(m_option);
    column->addWidget(m_bodyPage, 1);

    m_outline = new OutlinePage(session, this);
    m_symmetry = new SymmetryPage(session, this);
    m_cut = new CutPage(session, this);
    connect(m_cut, &CutPage::told, this, &DivideBench::showMessage);
    m_pages = {{DivideKind::Cut, m_cut},
               {DivideKind::PartFace, m_outline},
               {DivideKind::PartEdge, new PartEdgePage(session, this)},
               {DivideKind::Section, new SectionPage(session, this)},
               {DivideKind::Symmetry, m_symmetry}};
    for (const auto& [kind, page] : m_pages) {
        page->hide();
        column->addWidget(page, 1);
        connect(page, &PickPage::changed, this, [this] {
            refresh();
            emit previewChanged();
        });
    }

    connect(m_clearance, &QLineEdit::editingFinished, this, [this] {
        refresh();
        emit previewChanged();
    });
    connect(m_by, &QComboBox::activated, this, [this] {
        refresh();
        emit previewChanged();
    });
    connect(m_option, &QCheckBox::toggled, this, [this] {
        refresh();
        emit previewChanged();
    });
    connect(m_kinds, &KindGrid::chosen, this, [this] { m_option->setChecked(false); });
    m_foot->resultSwitch()->setChecked(true);  // pieces are looked at before they are made
    refresh();
}

QString DivideBench::state() const {
    return stateOr(true,
                   m_cut->cutters().empty() ? QString("ready") : text(counted(m_cut->cutters().size(), "cutter")));
}

std::vector<BenchDeed> DivideBench::deeds() {
    std::vector<BenchDeed> all;
    for (const int axis : {0, 1, 2})
        all.push_back({QString("Cut across %1").arg(QChar("xyz"[axis])), {}, [this, axis](const auto&) {
                           showKind(DivideKind::Cut);
                           m_cut->addAcross(axis);
                       }});
    all.push_back({"Cut along what is picked", {}, [this](const auto& picks) {
                       showKind(DivideKind::Cut);
                       picksChanged(picks);
                       m_cut->addFromPicks();
                   }});
    for (const auto& [name, kind] : {std::pair{"Unite bodies", DivideKind::Unite},
                                     {"Subtract bodies", DivideKind::Subtract},
                                     {"Intersect bodies", DivideKind::Intersect},
                                     {"Put a block round bodies", DivideKind::Surround},
                                     {"Part a face", DivideKind::PartFace},
                                     {"Part edges", DivideKind::PartEdge},
                                     {"Make a cross-section", DivideKind::Section},
                                     {"Look for symmetries", DivideKind::Symmetry}})
        all.push_back({name, {}, [this, kind = kind](const auto&) { showKind(kind); }});
    for (const bool apart : {false, true})
        all.push_back({apart ? "Mesh what is picked apart again" : "Mesh what is picked as one",
                       {},
                       [this, apart](const std::vector<select::Pick>& picks) { meshAsOne(picks, apart); }});
    return all;
}

void DivideBench::meshAsOne(const std::vector<select::Pick>& picks, bool apart) {
    const Model& model = m_session.model();
    Json things = Json::array();
    for (const select::Pick& pick : picks) {
        const Part& part = *model.parts[model.occurrences[pick.occurrence].part];
        if (pick.face > 0) things.push_back(makeRef(part, {EntityKind::Face, pick.face}));
        if (pick.edge > 0) things.push_back(makeRef(part, {EntityKind::Edge, pick.edge}));
    }
    Json parameters{{"things", std::move(things)}};
    if (apart) parameters["apart"] = true;
    m_session.apply("divide.asOne", parameters);
}

void DivideBench::showKind(DivideKind kind) {
    m_kinds->setCurrent(static_cast<int>(kind));
    emit m_kinds->chosen(static_cast<int>(kind));
}

std::vector<std::string> DivideBench::names() const {
    const auto& selected = m_session.selectedOccurrences();
    if (selected.empty()) return {};
    return placeNames(m_session.model(), {selected.begin(), selected.end()});
}

void DivideBench::handleMoved(int handle, double by) {
    if (page() != nullptr) page()->handleMoved(handle, by);
}

void DivideBench::triedOut(const Outcome* outcome) {
    if (page() != nullptr) page()->triedOut(outcome);
}

void DivideBench::picksChanged(const std::vector<select::Pick>& picks) {
    m_picks = picks;
    refresh();
    emit previewChanged();
}

void DivideBench::refreshBodies() {
    const Model& model = m_session.model();
    m_bodies->clear();
    // In the order of the picks, since the first one leads; else as they stand in the list.
    std::vector<std::size_t> places;
    for (const select::Pick& pick : m_picks)
        if (pick.occurrence < model.occurrences.size() &&
            std::find(places.begin(), places.end(), pick.occurrence) == places.end())
            places.push_back(pick.occurrence);
    for (const std::size_t o : m_session.selectedOccurrences())
        if (std::find(places.begin(), places.end(), o) == places.end()) places.push_back(o);
    for (std::size_t i = 0; i < places.size(); ++i) {
        auto* item = new QTreeWidgetItem(m_bodies, {text(placeName(model, places[i]))});
        if (kind() == DivideKind::Subtract) item->setText(0, (i == 0 ? "from  " : "take out  ") + item->text(0));
        item->setData(0, Qt::UserRole, text(placeName(model, places[i])));
    }
}

PickPage* DivideBench::page() const {
    const auto own = m_pages.find(kind());
    return own == m_pages.end() ? nullptr : own->second;
}

void DivideBench::refresh() {
    m_bodyPage->setVisible(page() == nullptr);
    for (const auto& [own, one] : m_pages) one->setVisible(own == kind());
    if (page() != nullptr) {
        setAnswer(m_session.isEmpty() ? "Open a file; then cut it where loads and materials change." : QString());
        page()->setPicks(m_picks, names());
        button()->setText(page()->words());
        button()->setEnabled(step().has_value() && !m_session.isBusy());
        emit stateChanged();
        return;
    }
    refreshBodies();
    const bool round = kind() == DivideKind::Surround;
    m_by->setVisible(round);
    m_clearance->setVisible(round);
    m_clearanceLabel->setVisible(round);
    m_option->setVisible(round || kind() == DivideKind::Subtract || kind() == DivideKind::Intersect);
    m_option->setText(round                            ? "less the bodies in it"
                      : kind() == DivideKind::Subtract ? "the tools stay"
                                                       : "the bodies stay besides");
    m_bodyHint->setText(kind() == DivideKind::Unite       ? "Pick the bodies; the first gives name and material."
                        : kind() == DivideKind::Subtract  ? "Pick the body first, then what is taken out of it."
                        : kind() == DivideKind::Intersect ? "Pick the bodies whose common volume is wanted."
                                                          : "Round what is selected, or round everything.");
    setAnswer(m_session.isEmpty() ? "Open a file; then cut it where loads and materials change." : QString());
    const auto wanted = step();
    QString words;
    const auto chosen = static_cast<std::size_t>(m_bodies->topLevelItemCount());
    switch (kind()) {
        case DivideKind::Unite:
            words = chosen < 2 ? QString("Pick two bodies") : "Unite " + text(counted(chosen, "body", "bodies"));
            break;
        case DivideKind::Subtract:
            words = chosen < 2 ? QString("Pick a body and a tool")
                               : QString("Subtract %1").arg(text(counted(chosen - 1, "body", "bodies")));
            break;
        case DivideKind::Intersect:
            words = chosen < 2 ? QString("Pick two bodies") : "Intersect " + text(counted(chosen, "body", "bodies"));
            break;
        case DivideKind::Surround:
            words = QString("Put a %1 round %2")
                        .arg(m_by->currentText(),
                             chosen == 0 ? QString("everything") : text(counted(chosen, "body", "bodies")));
            break;
        default:
            break;
    }
    button()->setText(words);
    button()->setEnabled(wanted.has_value() && !m_session.isBusy());
    emit stateChanged();
}

std::optional<BenchStep> DivideBench::step() const {
    if (m_session.isEmpty()) return std::nullopt;
    if (page() != nullptr) return page()->step();
    std::vector<std::string> bodies;
    for (int r = 0; r < m_bodies->topLevelItemCount(); ++r)
        bodies.push_back(m_bodies->topLevelItem(r)->data(0, Qt::UserRole).toString().toStdString());
    switch (kind()) {
        case DivideKind::Unite:
            if (bodies.size() < 2) return std::nullopt;
            return BenchStep{"divide.unite", {{"places", bodies}}};
        case DivideKind::Subtract: {
            if (bodies.size() < 2) return std::nullopt;
            const std::vector<std::string> tools(bodies.begin() + 1, bodies.end());
            return BenchStep{"divide.subtract",
                             {{"from", {bodies.front()}}, {"tools", tools}, {"keepTools", m_option->isChecked()}}};
        }
        case DivideKind::Intersect:
            if (bodies.size() < 2) return std::nullopt;
            return BenchStep{"divide.intersect", {{"places", bodies}, {"keep", m_option->isChecked()}}};
        case DivideKind::Surround: {
            std::array<double, 6> clearance{};
            const QStringList typed = m_clearance->text().split(QRegularExpression("[\\s;]+"), Qt::SkipEmptyParts);
            if (typed.size() != 1 && typed.size() != 6) return std::nullopt;
            for (int i = 0; i < 6; ++i) {
                const auto gap = signedLength(typed[typed.size() == 1 ? 0 : i], m_session.model().targetSize);
                if (!gap) return std::nullopt;
                clearance[static_cast<std::size_t>(i)] = *gap;
            }
            Json parameters{{"by", m_by->currentText().toStdString()},
                            {"clearance", clearance},
                            {"name", m_by->currentText().toStdString() + " round"},
                            {"without", m_option->isChecked()}};
            if (!bodies.empty()) parameters["places"] = bodies;
            return BenchStep{"divide.surround", std::move(parameters)};
        }
        default:
            break;  // the others have pages
    }
    return std::nullopt;
}

BenchPreview DivideBench::preview() const {
    BenchPreview preview;
    if (page() != nullptr) {
        preview.lines = page()->lines();
        preview.handles = page()->handles();
    }
    return preview;
}

}  // namespace rasoir::app
