#include "bench/divide_findings.h"

#include <BRepBndLib.hxx>
#include <QVBoxLayout>

#include "bench/bench_page.h"
#include "divide/as_one.h"
#include "divide/cutters.h"
#include "model/places.h"
#include "theme.h"
#include "whole_surveys.h"
#include "words.h"

namespace rasoir::app {
namespace {

/// The rim of a plane where it crosses a box, in model coordinates.
StageLine rimOf(const gp_Pln& plane, const Bnd_Box& box, const gp_Trsf& placement) {
    StageLine line;
    line.style = StageLine::Style::Brass;
    line.closed = true;
    const TopoDS_Face across = divide::faceAcross(plane, box, 0.0);
    if (across.IsNull()) return line;
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax(), middle(0.5 * (low.XYZ() + high.XYZ()));
    const double reach = 0.55 * low.Distance(high);
    const gp_Pnt foot = middle.Translated(gp_Vec(plane.Axis().Direction()) *
                                          gp_Vec(middle, plane.Location()).Dot(gp_Vec(plane.Axis().Direction())));
    const gp_Ax3 axes = plane.Position();
    for (const auto& [u, v] : {std::pair{-1.0, -1.0}, {1.0, -1.0}, {1.0, 1.0}, {-1.0, 1.0}})
        line.points.push_back(
            foot.Translated((gp_Vec(axes.XDirection()) * u + gp_Vec(axes.YDirection()) * v) * (0.7 * reach))
                .Transformed(placement));
    return line;
}

}  // namespace

DivideFindingsPage::DivideFindingsPage(Session& session, QWidget* parent) : PickPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    m_hint = new QLabel(this);
    m_hint->setWordWrap(true);
    column->addWidget(m_hint);
    m_list = twoColumns(this, "divideFindings", "What was found", {"Finding", "mm"});
    m_list->setWordWrap(true);
    column->addWidget(m_list, 1);
    m_picked = new QLabel(this);
    m_picked->setObjectName("aboutPicks");
    m_picked->setWordWrap(true);
    column->addWidget(m_picked);
    connect(m_list, &QTreeWidget::currentItemChanged, this, [this] {
        // What is spoken of is picked, so that it lights up and can be looked at.
        const auto [kind, index] = chosen();
        std::vector<select::Pick> picks;
        if (kind == Kind::Layers && m_session.surveys().layers.found()) {
            const divide::BodyLayers& one = (*m_session.surveys().layers.found())[index];
            if (const auto place = placeOf(one.part))
                for (const int face : one.way.forbidding) picks.push_back({*place, face, 0, 0, 0});
        } else if (kind == Kind::Beside && m_session.surveys().smallBeside.found()) {
            const divide::SmallBeside& one = (*m_session.surveys().smallBeside.found())[index];
            if (const auto place = placeOf(one.part)) {
                select::Pick pick{*place, 0, 0, 0, 0};
                (one.small.kind == EntityKind::Face ? pick.face : pick.edge) = one.small.number;
                picks.push_back(pick);
            }
        }
        if (!picks.empty()) emit picksWanted(picks);
        emit changed();
    });
    connect(m_list, &QTreeWidget::itemActivated, this, [this] {
        if (chosen().first == Kind::Symmetry) emit symmetriesWanted();
    });
    const auto renew = [this] {
        refresh();
        emit changed();
    };
    connect(&m_session.surveys().layers, &WholeSurveyBase::changed, this, renew);
    connect(&m_session.surveys().smallBeside, &WholeSurveyBase::changed, this, renew);
    connect(&m_session.surveys().symmetries, &WholeSurveyBase::changed, this, renew);
}

void DivideFindingsPage::showEvent(QShowEvent* event) {
    PickPage::showEvent(event);
    refresh();
}

std::optional<std::size_t> DivideFindingsPage::placeOf(std::size_t part) const {
    const Model& model = m_session.model();
    for (std::size_t o = 0; o < model.occurrences.size(); ++o)
        if (model.occurrences[o].part == part && !model.occurrences[o].aside) return o;
    return std::nullopt;
}

void DivideFindingsPage::addHeading(const QString& what) {
    auto* item = new QTreeWidgetItem(m_list, {what, {}});
    item->setFlags(Qt::ItemIsEnabled);
    QFont bold = item->font(0);
    bold.setBold(true);
    item->setFont(0, bold);
    item->setData(0, Qt::UserRole, static_cast<int>(Kind::Heading));
}

void DivideFindingsPage::addRow(Kind kind, std::size_t index, const QString& what, const QString& number) {
    auto* item = new QTreeWidgetItem(m_list, {what, number});
    item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
    item->setData(0, Qt::UserRole, static_cast<int>(kind));
    item->setData(0, Qt::UserRole + 1, static_cast<qulonglong>(index));
    item->setToolTip(0, what);
}

std::pair<DivideFindingsPage::Kind, std::size_t> DivideFindingsPage::chosen() const {
    const QTreeWidgetItem* item = m_list->currentItem();
    if (item == nullptr) return {Kind::Heading, 0};
    return {static_cast<Kind>(item->data(0, Qt::UserRole).toInt()), item->data(0, Qt::UserRole + 1).toULongLong()};
}

std::optional<int> DivideFindingsPage::count() const {
    if (!m_session.surveys().layers.found() || !m_session.surveys().smallBeside.found()) return std::nullopt;
    const auto& layers = *m_session.surveys().layers.found();
    return static_cast<int>(m_session.surveys().smallBeside.found()->size()) +
           static_cast<int>(std::count_if(layers.begin(), layers.end(),
                                          [](const divide::BodyLayers& one) { return !one.way.works(); }));
}

void DivideFindingsPage::refresh() {
    if (isVisible() && !m_session.isEmpty()) {
        m_session.surveys().smallBeside.request();
        m_session.surveys().askSymmetries(
            {});  // choosing a row here picks parts; what is found must not change with that
        m_session.surveys().layers.request();
    }
    const Model& model = m_session.model();
    const auto before = chosen();
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    const auto& layers = m_session.surveys().layers.found();
    const auto& beside = m_session.surveys().smallBeside.found();
    const auto& symmetries = m_session.surveys().symmetries.found();
    m_hint->setText(m_session.isEmpty()  ? QString()
                    : !layers || !beside ? QString("Looking…")
                                         : QString("What a row speaks of lights up; its button does what would help."));
    if (m_session.isEmpty()) return;
    m_picked->setText(aboutPicks());
    std::vector<const Part*> parts;
    for (const auto& part : model.parts) parts.push_back(part.get());
    if (symmetries && parts != m_axisOf) {
        m_axisOf = std::move(parts);
        const auto axis = survey::commonAxis(model, {});
        m_axis = axis ? QString("%1 % of the round skin has one axis: Section cuts through it")
                            .arg(std::lround(100.0 * axis->share))
                      : QString();
    }
    if (!m_axis.isEmpty()) addHeading(m_axis);
    if (symmetries && !symmetries->empty()) {
        addHeading("Symmetries");
        for (std::size_t i = 0; i < symmetries->size(); ++i)
            addRow(Kind::Symmetry, i, text(survey::describe((*symmetries)[i])), {});
    }
    if (layers) {
        std::size_t fine = 0;
        bool heading = false;
        for (std::size_t i = 0; i < layers->size(); ++i) {
            const divide::BodyLayers& one = (*layers)[i];
            if (one.way.works()) {
                ++fine;
                continue;
            }
            if (!std::exchange(heading, true)) addHeading("Not to be meshed in layers");
            const Part& part = *model.parts[one.part];
            const QString which = part.incidence().bodyCount() > 1 ? QString(", body %1").arg(one.body) : QString();
            addRow(Kind::Layers, i, text(part.name) + which + ": " + text(one.told()).section(": ", 1), {});
        }
        if (fine > 0) addHeading(QString("%1 can be meshed in layers").arg(text(counted(fine, "body", "bodies"))));
    }
    if (beside && !beside->empty()) {
        addHeading("Better one with a neighbour");
        for (std::size_t i = 0; i < beside->size(); ++i) {
            const divide::SmallBeside& one = (*beside)[i];
            addRow(Kind::Beside, i,
                   QString("%1: %2 %3")
                       .arg(text(model.parts[one.part]->name), one.small.kind == EntityKind::Face ? "face" : "edge",
                            QString::number(one.small.number)),
                   text(readable(one.width)));
        }
    }
    for (int r = 0; r < m_list->topLevelItemCount() && before.first != Kind::Heading; ++r) {
        m_list->setCurrentItem(m_list->topLevelItem(r));
        if (chosen() == before) break;
        m_list->setCurrentItem(nullptr);
    }
    wrapRows(m_list, 0);
}

QString DivideFindingsPage::aboutPicks() const {
    const std::size_t faces = picked(select::PickKind::Face).size(), edges = picked(select::PickKind::Edge).size(),
                      vertices = picked(select::PickKind::Vertex).size(),
                      bodies = picked(select::PickKind::Part).size() + picked(select::PickKind::Body).size();
    QStringList said;
    if (faces > 0)
        said << text(counted(faces, "face")) + ": cuts bodies along it (Cut), or is parted (Part face)" +
                    (faces > 1 ? "; several can be meshed as one" : "");
    if (edges > 0)
        said << text(counted(edges, "edge")) + ": is parted (Part edge), is measured from, or holds a point (Points)";
    if (vertices > 0)
        said << text(counted(vertices, "vertex", "vertices")) + ": hold points" +
                    (vertices > 2 ? "; three cut by their plane" : "");
    if (bodies > 0)
        said << text(counted(bodies, "body", "bodies")) +
                    (bodies > 1 ? ": united, subtracted, intersected" : ": cut, or cuts others with its skin");
    return said.isEmpty() ? QString() : "Picked: " + said.join(". ") + ".";
}

std::optional<BenchStep> DivideFindingsPage::step() const {
    const auto [kind, index] = chosen();
    const Model& model = m_session.model();
    if (kind == Kind::Layers && m_session.surveys().layers.found()) {
        const divide::BodyLayers& one = (*m_session.surveys().layers.found())[index];
        const auto place = placeOf(one.part);
        if (one.cuts.empty() || !place) return std::nullopt;
        Json planes = Json::array();
        for (const gp_Pln& cut : one.cuts) {
            const gp_Ax1 axis = cut.Axis().Transformed(model.occurrences[*place].placement);
            const gp_XYZ at = axis.Location().XYZ(), normal = axis.Direction().XYZ();
            planes.push_back(divide::Plane{{at.X(), at.Y(), at.Z()}, {normal.X(), normal.Y(), normal.Z()}});
        }
        return BenchStep{"divide.cut", {{"parts", {placeName(model, *place)}}, {"planes", std::move(planes)}}};
    }
    if (kind == Kind::Beside && m_session.surveys().smallBeside.found()) {
        const divide::SmallBeside& one = (*m_session.surveys().smallBeside.found())[index];
        const Part& part = *model.parts[one.part];
        return BenchStep{"divide.asOne", {{"things", {makeRef(part, one.small), makeRef(part, one.with)}}}};
    }
    return std::nullopt;
}

QString DivideFindingsPage::words() const {
    const auto [kind, index] = chosen();
    if (kind == Kind::Layers && m_session.surveys().layers.found()) {
        const divide::BodyLayers& one = (*m_session.surveys().layers.found())[index];
        return one.cuts.empty() ? QString("No cut frees it") : "Cut it by " + text(counted(one.cuts.size(), "plane"));
    }
    if (kind == Kind::Beside) return "Mesh it as one with its neighbour";
    if (kind == Kind::Symmetry) return "See it under Symmetry";
    return "Choose a finding";
}

std::vector<StageLine> DivideFindingsPage::lines() const {
    const auto [kind, index] = chosen();
    if (kind != Kind::Layers || !m_session.surveys().layers.found()) return {};
    const divide::BodyLayers& one = (*m_session.surveys().layers.found())[index];
    const auto place = placeOf(one.part);
    if (!place) return {};
    const Model& model = m_session.model();
    Bnd_Box box;
    BRepBndLib::Add(model.parts[one.part]->incidence().body(one.body), box, true);
    std::vector<StageLine> all;
    for (const gp_Pln& cut : one.cuts) {
        StageLine line = rimOf(cut, box, model.occurrences[*place].placement);
        if (!line.points.empty()) all.push_back(std::move(line));
    }
    return all;
}

}  // namespace rasoir::app
