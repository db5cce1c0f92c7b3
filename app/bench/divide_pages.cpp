#include "bench/divide_pages.h"

#include <Bnd_Box.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBndLib.hxx>
#include <ElCLib.hxx>
#include <gp_Circ.hxx>
#include <QFormLayout>
#include <QHeaderView>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "bench/bench.h"
#include "common/guard.h"
#include "divide/part_face.h"
#include "theme.h"
#include "words.h"

namespace rasoir::app {
namespace {

/// A wire or edge as lines on the stage.
std::vector<StageLine> sampled(const TopoDS_Shape& drawn, const gp_Trsf& placement) {
    std::vector<StageLine> lines;
    for (TopExp_Explorer it(drawn, TopAbs_EDGE); it.More(); it.Next()) {
        const BRepAdaptor_Curve curve(TopoDS::Edge(it.Current()));
        const int count = curve.GetType() == GeomAbs_Line ? 1 : 48;
        StageLine line;
        line.style = StageLine::Style::Brass;
        for (int i = 0; i <= count; ++i)
            line.points.push_back(
                curve.Value(curve.FirstParameter() + (curve.LastParameter() - curve.FirstParameter()) * i / count)
                    .Transformed(placement));
        lines.push_back(std::move(line));
    }
    return lines;
}

}  // namespace

// --- outlines

OutlinePage::OutlinePage(Session& session, QWidget* parent) : PickPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    m_hint = new QLabel(this);
    m_hint->setWordWrap(true);
    column->addWidget(m_hint);
    auto* form = new QFormLayout;
    form->setSpacing(4);
    m_way = new QComboBox(this);
    m_way->setObjectName("outlineWay");
    m_way->setAccessibleName("What is drawn");
    m_way->addItems({"line", "rectangle", "circle", "slot", "ring at a hole", "two edges", "thrown edge"});
    m_way->setToolTip(
        "A line beside an edge; an outline; a ring round a hole; between the middles of two edges; an edge "
        "thrown square onto the face");
    form->addRow("By", m_way);
    m_from = new QComboBox(this);
    m_from->setObjectName("outlineFrom");
    m_from->setAccessibleName("Where lengths along the edge begin");
    m_from->addItems({"its start", "its middle", "its end"});
    const auto row = [&](QLabel*& label, QWidget* edit) {
        label = new QLabel(this);
        form->addRow(label, edit);
    };
    m_y = field(this, "outlineY", "Distance from the edge", "7.5");
    m_x = field(this, "outlineX", "Distance along the edge", "10");
    m_a = field(this, "outlineA", "First size", "10");
    m_b = field(this, "outlineB", "Second size", "5");
    m_angle = field(this, "outlineAngle", "Angle from the edge", "0");
    m_depth = field(this, "outlineDepth", "Depth", "");
    m_depth->setPlaceholderText("all through");
    m_group = field(this, "outlineGroup", "Group of the piece within", "");
    m_group->setPlaceholderText("none");
    row(m_yLabel, m_y);
    row(m_xLabel, m_x);
    row(m_fromLabel, m_from);
    row(m_aLabel, m_a);
    row(m_bLabel, m_b);
    row(m_angleLabel, m_angle);
    m_does = new QComboBox(this);
    m_does->setObjectName("outlineDoes");
    m_does->setAccessibleName("What is done with it");
    m_does->addItems({"parts the face", "is cut out"});
    form->addRow("It", m_does);
    row(m_depthLabel, m_depth);
    row(m_groupLabel, m_group);
    column->addLayout(form);
    column->addStretch(1);
    for (QComboBox* box : {m_way, m_from, m_does})
        connect(box, &QComboBox::activated, this, [this] {
            refresh();
            emit changed();
        });
    refresh();
}

void OutlinePage::refresh() {
    const Way way = current();
    const bool drawn = way <= Way::Slot, closed = drawn && way != Way::Line, ring = way == Way::Ring;
    m_hint->setText(ring                 ? "Pick the face, then the rim of the hole."
                    : way == Way::Points ? "Pick the face, then two of its edges."
                    : way == Way::Thrown
                        ? "Pick the face, then the edge that is thrown square onto it."
                        : "Pick a flat face, then the straight edge of it that is measured from; without one "
                          "its longest is taken.");
    m_yLabel->setText(closed ? "Middle off it mm" : "From the edge mm");
    m_xLabel->setText("Middle along it mm");
    m_fromLabel->setText("Along from");
    m_aLabel->setText(way == Way::Circle ? "Diameter mm" : ring ? "Ring width mm" : "Length mm");
    m_bLabel->setText("Width mm");
    m_angleLabel->setText("Turned °");
    m_depthLabel->setText("Depth mm");
    m_groupLabel->setText("Group within");
    const bool cutsOut = closed && m_does->currentIndex() == 1;
    const auto show = [](QLabel* label, QWidget* edit, bool on) {
        label->setVisible(on);
        edit->setVisible(on);
    };
    show(m_yLabel, m_y, drawn);
    show(m_xLabel, m_x, closed);
    show(m_fromLabel, m_from, closed);
    show(m_aLabel, m_a, closed || ring);
    show(m_bLabel, m_b, way == Way::Rectangle || way == Way::Slot);
    show(m_angleLabel, m_angle, drawn && way != Way::Circle);
    m_does->setEnabled(closed);
    if (!closed) m_does->setCurrentIndex(0);
    show(m_depthLabel, m_depth, cutsOut);
    show(m_groupLabel, m_group, !cutsOut && (drawn || ring));
    m_a->setPlaceholderText(ring ? "twice the hole" : QString());
}

std::optional<divide::Outline> OutlinePage::outline() const {
    const auto faces = picked(select::PickKind::Face);
    const auto edges = picked(select::PickKind::Edge);
    if (faces.empty() || current() > Way::Slot) return std::nullopt;
    divide::Outline outline;
    outline.shape = current() == Way::Line        ? "line"
                    : current() == Way::Rectangle ? "rectangle"
                    : current() == Way::Circle    ? "circle"
                                                  : "slot";
    if (!edges.empty() && edges.front().occurrence == faces.front().occurrence)
        outline.along = makeRef(partOf(edges.front()), {EntityKind::Edge, edges.front().edge});
    static const std::array<const char*, 3> from{"start", "middle", "end"};
    outline.from = from[static_cast<std::size_t>(m_from->currentIndex())];
    const auto x = current() == Way::Line ? std::optional(0.0) : numberIn(m_x), y = numberIn(m_y), a = numberIn(m_a),
               b = numberIn(m_b);
    bool fine = false;
    QString degrees = m_angle->text().trimmed();
    degrees.replace(QChar(0x2212), '-');
    outline.angle = degrees.toDouble(&fine);
    if (!x || !y || !fine || (current() != Way::Line && !a)) return std::nullopt;
    outline.at = {*x, *y};
    if (current() != Way::Line) outline.size = {*a, current() == Way::Circle ? 0.0 : b.value_or(0.0)};
    return outline;
}

std::optional<BenchStep> OutlinePage::step() const {
    const auto faces = picked(select::PickKind::Face);
    const auto edges = picked(select::PickKind::Edge);
    if (faces.empty()) return std::nullopt;
    const FaceRef face = makeFaceRef(partOf(faces.front()), faces.front().face);
    const auto refOf = [&](const select::Pick& pick) { return makeRef(partOf(pick), {EntityKind::Edge, pick.edge}); };
    Json parameters{{"faces", {face}}};
    switch (current()) {
        case Way::Ring: {
            if (edges.empty()) return std::nullopt;
            parameters["ring"] = Json{{"rim", refOf(edges.front())}};
            if (!m_a->text().trimmed().isEmpty()) {
                const auto width = numberIn(m_a);
                if (!width) return std::nullopt;
                parameters["ring"]["offset"] = *width;
            }
            break;
        }
        case Way::Points:
            if (edges.size() < 2) return std::nullopt;
            parameters["points"] =
                Json::array({divide::OnEdge{refOf(edges[0]), 0.5, true}, divide::OnEdge{refOf(edges[1]), 0.5, true}});
            break;
        case Way::Thrown:
            if (edges.empty()) return std::nullopt;
            parameters["thrown"] = refOf(edges.front());
            break;
        default: {
            const auto drawn = outline();
            if (!drawn) return std::nullopt;
            if (drawn->closed() && m_does->currentIndex() == 1) {
                double depth = 0.0;
                if (!m_depth->text().trimmed().isEmpty()) {
                    const auto typed = numberIn(m_depth);
                    if (!typed) return std::nullopt;
                    depth = *typed;
                }
                return BenchStep{"divide.cutOut", {{"face", face}, {"outline", *drawn}, {"depth", depth}}};
            }
            parameters["outline"] = *drawn;
        }
    }
    if (const QString group = m_group->text().trimmed(); !group.isEmpty() && m_group->isVisibleTo(this))
        parameters["group"] = group.toStdString();
    return BenchStep{"divide.partFace", std::move(parameters)};
}

QString OutlinePage::words() const {
    if (picked(select::PickKind::Face).empty()) return "Pick a face";
    if (current() == Way::Ring && picked(select::PickKind::Edge).empty()) return "Pick the rim of a hole";
    if (current() == Way::Points && picked(select::PickKind::Edge).size() < 2) return "Pick two edges of the face";
    if (current() == Way::Thrown && picked(select::PickKind::Edge).empty()) return "Pick an edge";
    if (!step()) return "A number is missing";
    return m_does->currentIndex() == 1 && m_does->isEnabled() ? "Cut it out of the body" : "Part the face";
}

std::vector<StageLine> OutlinePage::lines() const {
    const auto faces = picked(select::PickKind::Face);
    if (faces.empty()) return {};
    // What is shown is what the step would draw; where it would refuse, nothing is.
    const auto shown = guarded("Drawing", [&]() -> Result<std::vector<StageLine>> {
        if (current() == Way::Ring) {
            const auto edges = picked(select::PickKind::Edge);
            if (edges.empty()) return std::vector<StageLine>{};
            const BRepAdaptor_Curve curve(partOf(edges.front()).incidence().edge(edges.front().edge));
            if (curve.GetType() != GeomAbs_Circle) return std::vector<StageLine>{};
            const double width =
                m_a->text().trimmed().isEmpty() ? curve.Circle().Radius() : numberIn(m_a).value_or(0.0);
            StageLine line;
            line.style = StageLine::Style::Brass;
            line.closed = true;
            const gp_Circ circle(curve.Circle().Position(), curve.Circle().Radius() + width);
            for (int i = 0; i < 64; ++i)
                line.points.push_back(
                    ElCLib::Value(2.0 * M_PI * i / 64, circle).Transformed(placementOf(edges.front())));
            return std::vector<StageLine>{std::move(line)};
        }
        const auto drawn = outline();
        if (!drawn) return std::vector<StageLine>{};
        const auto there = seen(*drawn);
        if (!there) return std::vector<StageLine>{};
        const gp_Ax3& frame = there->frame;
        divide::Outline drawnHere = *drawn;
        // Of a line without end, the part along the face.
        if (drawnHere.shape == "line") drawnHere.at[0] = 0.5 * (there->low + there->high);
        const auto wire = divide::drawn(drawnHere, frame, 0.5 * (there->high - there->low));
        if (!wire) return std::vector<StageLine>{};
        auto lines = sampled(*wire, placementOf(faces.front()));
        // Where it is measured from: along the edge, then square to it.
        StageLine datum;
        const gp_Pnt foot = frame.Location().Translated(gp_Vec(frame.XDirection()) * drawnHere.at[0]);
        for (const gp_Pnt& point :
             {frame.Location(), foot, foot.Translated(gp_Vec(frame.YDirection()) * drawnHere.at[1])})
            datum.points.push_back(point.Transformed(placementOf(faces.front())));
        lines.push_back(std::move(datum));
        return lines;
    });
    return shown ? *shown : std::vector<StageLine>{};
}

std::optional<OutlinePage::Seen> OutlinePage::seen(const divide::Outline& outline) const {
    const auto faces = picked(select::PickKind::Face);
    if (faces.empty()) return std::nullopt;
    const Part& part = partOf(faces.front());
    const auto frame = divide::frameOf(part, faces.front().face, outline);
    if (!frame) return std::nullopt;
    Seen seen{*frame, 1e300, -1e300};
    for (TopExp_Explorer it(part.incidence().face(faces.front().face), TopAbs_EDGE); it.More(); it.Next()) {
        const BRepAdaptor_Curve curve(TopoDS::Edge(it.Current()));
        for (const double share : {0.0, 0.25, 0.5, 0.75, 1.0}) {
            const gp_Pnt point =
                curve.Value(curve.FirstParameter() + share * (curve.LastParameter() - curve.FirstParameter()));
            const double x = gp_Vec(frame->Location(), point).Dot(gp_Vec(frame->XDirection()));
            seen.low = std::min(seen.low, x);
            seen.high = std::max(seen.high, x);
        }
    }
    return seen;
}

std::vector<StageHandle> OutlinePage::handles() const {
    const auto drawn = outline();
    const auto there = drawn ? seen(*drawn) : std::nullopt;
    if (!there) return {};
    const gp_Trsf& placement = placementOf(picked(select::PickKind::Face).front());
    const double x = drawn->shape == "line" ? 0.5 * (there->low + there->high) : drawn->at[0];
    const gp_Pnt at = there->frame.Location().Translated(gp_Vec(there->frame.XDirection()) * x +
                                                         gp_Vec(there->frame.YDirection()) * drawn->at[1]);
    return {
        {0, at.Transformed(placement), there->frame.YDirection().Transformed(placement), text(readable(drawn->at[1]))}};
}

void OutlinePage::handleMoved(int, double by) {
    const auto drawn = outline();
    if (!drawn) return;
    m_y->setText(text(readable(drawn->at[1] + by)));
    emit changed();
}

// --- edges

PartEdgePage::PartEdgePage(Session& session, QWidget* parent) : PickPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    auto* hint = new QLabel("Pick edges.", this);
    column->addWidget(hint);
    auto* form = new QFormLayout;
    m_how = new QComboBox(this);
    m_how->setObjectName("edgeHow");
    m_how->setAccessibleName("Where edges are parted");
    m_how->addItems({"into equal pieces", "mm from the start", "mm from the end", "% of the length"});
    m_number = field(this, "edgeNumber", "Number", "2");
    form->addRow("Part", m_how);
    form->addRow("Number", m_number);
    column->addLayout(form);
    column->addStretch(1);
    connect(m_how, &QComboBox::activated, this, &PickPage::changed);
}

std::optional<BenchStep> PartEdgePage::step() const {
    const auto edges = picked(select::PickKind::Edge);
    if (edges.empty()) return std::nullopt;
    Json refs = Json::array();
    for (const select::Pick& pick : edges) refs.push_back(makeRef(partOf(pick), {EntityKind::Edge, pick.edge}));
    Json parameters{{"edges", std::move(refs)}};
    bool fine = false;
    switch (m_how->currentIndex()) {
        case 0: {
            const int pieces = m_number->text().trimmed().toInt(&fine);
            if (!fine || pieces < 2 || pieces > 1000) return std::nullopt;
            parameters["into"] = pieces;
            break;
        }
        case 3: {
            const double percent = m_number->text().trimmed().remove('%').toDouble(&fine);
            if (!fine) return std::nullopt;
            parameters["share"] = {0.01 * percent};
            break;
        }
        default: {
            const auto at = numberIn(m_number);
            if (!at) return std::nullopt;
            parameters["at"] = {*at};
            if (m_how->currentIndex() == 2) parameters["fromEnd"] = true;
        }
    }
    return BenchStep{"divide.partEdge", std::move(parameters)};
}

QString PartEdgePage::words() const {
    const auto edges = picked(select::PickKind::Edge);
    if (edges.empty()) return "Pick edges";
    return step() ? "Part " + text(counted(edges.size(), "edge")) : QString("A number is missing");
}

// --- cross-sections

SectionPage::SectionPage(Session& session, QWidget* parent) : PickPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    auto* hint = new QLabel(
        "Of what is selected, or of everything: one planar sheet for each body, with common edges where bodies "
        "touch. What is missed is set aside.",
        this);
    hint->setWordWrap(true);
    column->addWidget(hint);
    auto* form = new QFormLayout;
    m_through = new QComboBox(this);
    m_through->setObjectName("sectionThrough");
    m_through->setAccessibleName("Where the section runs");
    m_through->addItems({"the common axis", "a plane across x", "a plane across y", "a plane across z"});
    form->addRow("Through", m_through);
    m_numberLabel = new QLabel(this);
    m_number = field(this, "sectionNumber", "Position or angle", "0");
    form->addRow(m_numberLabel, m_number);
    column->addLayout(form);
    m_half = new QCheckBox("one side of it, brought to XY", this);
    m_half->setObjectName("sectionHalf");
    m_half->setToolTip("Only what lies on one side of the axis, the axis on Y and the sheets at x above 0");
    m_half->setChecked(true);
    column->addWidget(m_half);
    column->addStretch(1);
    connect(m_through, &QComboBox::activated, this, [this] {
        refresh();
        emit changed();
    });
    connect(m_half, &QCheckBox::toggled, this, &PickPage::changed);
    refresh();
}

void SectionPage::refresh() {
    const bool axis = m_through->currentIndex() == 0;
    m_numberLabel->setText(axis ? "Angle about it °"
                                : QString("Position on %1 mm").arg(QChar("xyz"[m_through->currentIndex() - 1])));
    m_half->setVisible(axis);
}

std::optional<BenchStep> SectionPage::step() const {
    if (m_session.isEmpty()) return std::nullopt;
    Json parameters = Json::object();
    if (!m_places.empty()) parameters["places"] = m_places;
    const int across = m_through->currentIndex() - 1;
    if (across < 0) {
        bool fine = false;
        const double angle = m_number->text().trimmed().replace(QChar(0x2212), '-').toDouble(&fine);
        if (!fine) return std::nullopt;
        if (angle != 0.0) parameters["angle"] = angle;
        if (!m_half->isChecked()) parameters["half"] = parameters["flat"] = false;
    } else {
        const auto at = numberIn(m_number);
        if (!at) return std::nullopt;
        std::array<double, 3> through{}, normal{};
        through[static_cast<std::size_t>(across)] = *at;
        normal[static_cast<std::size_t>(across)] = 1.0;
        parameters["plane"] = Json{{"through", through}, {"normal", normal}};
    }
    return BenchStep{"divide.crossSection", std::move(parameters)};
}

QString SectionPage::words() const {
    return step() ? QString(m_places.empty() ? "Cross-section of everything" : "Make the cross-section")
                  : QString("A number is missing");
}

// --- symmetries

SymmetryPage::SymmetryPage(Session& session, QWidget* parent) : PickPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    m_hint = new QLabel(this);
    m_hint->setWordWrap(true);
    column->addWidget(m_hint);
    m_list = new QTreeWidget(this);
    m_list->setObjectName("symmetries");
    m_list->setAccessibleName("Symmetries found");
    m_list->setColumnCount(1);
    m_list->setHeaderHidden(true);
    m_list->setRootIsDecorated(false);
    m_list->setWordWrap(true);
    column->addWidget(m_list, 1);
    m_other = new QCheckBox("keep the other side", this);
    m_other->setObjectName("otherSide");
    column->addWidget(m_other);
    connect(m_list, &QTreeWidget::currentItemChanged, this, &PickPage::changed);
    connect(m_other, &QCheckBox::toggled, this, &PickPage::changed);
    connect(&m_session, &Session::symmetriesChanged, this, [this] {
        refresh();
        emit changed();
    });
}

void SymmetryPage::showEvent(QShowEvent* event) {
    PickPage::showEvent(event);
    m_session.requestSymmetries();
    refresh();
}

void SymmetryPage::refresh() {
    if (isVisible()) m_session.requestSymmetries();
    const auto& found = m_session.symmetries();
    const int row = m_list->indexOfTopLevelItem(m_list->currentItem());
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    m_hint->setText(m_session.isEmpty() ? QString()
                    : !found            ? QString("Looking…")
                    : found->empty()
                        ? QString("No symmetry: no plane or turn carries nine tenths of the faces onto others like "
                                  "them within a hundredth of the target size.")
                        : QString("Of everything that is not set aside:"));
    if (!found) return;
    for (const survey::Symmetry& one : *found) new QTreeWidgetItem(m_list, {text(survey::describe(one))});
    if (!found->empty())
        m_list->setCurrentItem(m_list->topLevelItem(std::clamp(row, 0, static_cast<int>(found->size()) - 1)));
    wrapRows(m_list, 0);
}

const survey::Symmetry* SymmetryPage::chosen() const {
    const auto& found = m_session.symmetries();
    const int row = m_list->indexOfTopLevelItem(m_list->currentItem());
    if (!found || row < 0 || row >= static_cast<int>(found->size())) return nullptr;
    return &(*found)[static_cast<std::size_t>(row)];
}

std::optional<BenchStep> SymmetryPage::step() const {
    const survey::Symmetry* one = chosen();
    if (one == nullptr) return std::nullopt;
    const gp_Ax1 axis = one->mirror ? one->plane.Axis() : one->axis;
    const gp_XYZ at = axis.Location().XYZ(), along = axis.Direction().XYZ() * (m_other->isChecked() ? -1.0 : 1.0);
    const std::array<double, 3> through{at.X(), at.Y(), at.Z()}, direction{along.X(), along.Y(), along.Z()};
    if (one->mirror)
        return BenchStep{"divide.keepSector", {{"planes", {{{"through", through}, {"normal", direction}}}}}};
    // Of what is round at any angle a quarter is usual.
    return BenchStep{
        "divide.keepSector",
        {{"turn", {{"through", through}, {"direction", direction}, {"count", one->order == 0 ? 4 : one->order}}}}};
}

QString SymmetryPage::words() const {
    const survey::Symmetry* one = chosen();
    if (one == nullptr) return "No symmetry";
    if (one->mirror) return one->whole() ? "Keep one half" : "Keep one half all the same";
    return QString("Keep one of %1 sectors").arg(one->order == 0 ? 4 : one->order);
}

std::vector<StageLine> SymmetryPage::lines() const {
    const survey::Symmetry* one = chosen();
    if (one == nullptr) return {};
    Bnd_Box box;
    const Model& model = m_session.model();
    for (const Occurrence& place : model.occurrences)
        if (!place.aside && !model.parts[place.part]->shape.IsNull())
            BRepBndLib::Add(model.parts[place.part]->shape.Moved(TopLoc_Location(place.placement)), box, true);
    if (box.IsVoid()) return {};
    const double reach = 0.55 * std::sqrt(box.SquareExtent());
    StageLine line;
    line.style = StageLine::Style::Brass;
    if (one->mirror) {
        const gp_Ax3 frame = one->plane.Position();
        for (const auto& [u, v] : {std::pair{-1.0, -1.0}, {1.0, -1.0}, {1.0, 1.0}, {-1.0, 1.0}})
            line.points.push_back(frame.Location().Translated(
                (gp_Vec(frame.XDirection()) * u + gp_Vec(frame.YDirection()) * v) * (0.8 * reach)));
        line.closed = true;
    } else {
        for (const double t : {-1.0, 1.0})
            line.points.push_back(one->axis.Location().Translated(gp_Vec(one->axis.Direction()) * (t * reach)));
    }
    return {line};
}

}  // namespace rasoir::app
