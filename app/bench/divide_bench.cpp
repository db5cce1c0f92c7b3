#include "bench/divide_bench.h"

#include "model/places.h"
#include "model/reference.h"
#include "theme.h"
#include "words.h"

namespace rasoir::app {

DivideBench::DivideBench(Session& session, Selection& selection, QWidget* parent)
    : LaidOutBench("Divide", "Where do loads and materials change?",
                   "Cuts bodies, parts faces and edges, unites, subtracts; cross-sections and symmetry.", session,
                   parent),
      m_selection(selection) {
    QVBoxLayout* column = lay({{"Cut", Glyph::Cut},
                               {"Findings", Glyph::Findings},
                               {"Unite", Glyph::Unite},
                               {"Subtract", Glyph::Subtract},
                               {"Intersect", Glyph::Intersect},
                               {"Block round", Glyph::Surround},
                               {"Part face", Glyph::PartFace},
                               {"Part edge", Glyph::PartEdge},
                               {"Points", Glyph::Point},
                               {"Section", Glyph::Section},
                               {"Symmetry", Glyph::Symmetry}});
    m_cut = new CutPage(session, this);
    m_findings = new DivideFindingsPage(session, this);
    m_surround = new SurroundPage(session, this);
    m_outline = new OutlinePage(session, this);
    m_symmetry = new SymmetryPage(session, this);
    m_pages = {m_cut,
               m_findings,
               new CombinePage(CombinePage::Way::Unite, session, this),
               new CombinePage(CombinePage::Way::Subtract, session, this),
               new CombinePage(CombinePage::Way::Intersect, session, this),
               m_surround,
               m_outline,
               new PartEdgePage(session, this),
               new PointsPage(session, this),
               new SectionPage(session, this),
               m_symmetry};
    for (PickPage* page : m_pages) {
        page->hide();
        column->addWidget(page, 1);
        connect(page, &PickPage::changed, this, [this] {
            refresh();
            emit previewChanged();
        });
        connect(page, &PickPage::picksWanted, this, &Bench::picksWanted);
        connect(page, &PickPage::lit, this, &Bench::previewChanged);
    }
    connect(m_cut, &CutPage::told, this, &DivideBench::showMessage);
    connect(m_findings, &DivideFindingsPage::symmetriesWanted, this, [this] { showKind(DivideKind::Symmetry); });
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
                                     {"Set points", DivideKind::Points},
                                     {"What would help before meshing", DivideKind::Findings},
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
    const auto& selected = m_session.places().selected();
    if (selected.empty()) return {};
    return placeNames(m_session.model(), {selected.begin(), selected.end()});
}

void DivideBench::handleMoved(int handle, double by) {
    page()->handleMoved(handle, by);
}

void DivideBench::clicked(const gp_Pnt& point) {
    page()->clicked(point);
}

void DivideBench::triedOut(const Outcome* outcome) {
    page()->triedOut(outcome);
}

void DivideBench::picksChanged(const std::vector<select::Pick>& picks) {
    m_picks = picks;
    refresh();
    emit previewChanged();
}

void DivideBench::refresh() {
    for (PickPage* one : m_pages) one->setVisible(one == page());
    setAnswer(m_session.isEmpty() ? "Open a file; then cut it where loads and materials change." : QString());
    page()->setPicks(m_picks, names());
    m_kinds->setCount(static_cast<int>(DivideKind::Findings), m_findings->count());
    button()->setText(page()->words());
    const bool leads = kind() == DivideKind::Findings && m_findings->leadsToSymmetry();
    button()->setEnabled((leads || step().has_value()) && !m_session.isBusy());
    emit stateChanged();
}

void DivideBench::apply() {
    if (kind() == DivideKind::Findings && m_findings->leadsToSymmetry())
        showKind(DivideKind::Symmetry);
    else
        LaidOutBench::apply();
}

std::optional<BenchStep> DivideBench::step() const {
    if (m_session.isEmpty()) return std::nullopt;
    return page()->step();
}

BenchPreview DivideBench::preview() const {
    BenchPreview preview;
    preview.lines = page()->lines();
    preview.handles = page()->handles();
    return preview;
}

}  // namespace rasoir::app
