#include "bench/outline_page.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <ElCLib.hxx>
#include <gp_Circ.hxx>
#include <QFormLayout>
#include <QKeyEvent>
#include <QRegularExpression>
#include <QVBoxLayout>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "bench/bench_page.h"
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

/// Where a drawn point wants to be: the vertices of a face, the middles of its edges, the centres of its round ones.
std::vector<gp_Pnt> snapsOf(const TopoDS_Face& face) {
    std::vector<gp_Pnt> snaps;
    for (TopExp_Explorer it(face, TopAbs_EDGE); it.More(); it.Next()) {
        const TopoDS_Edge edge = TopoDS::Edge(it.Current());
        if (BRep_Tool::Degenerated(edge)) continue;
        const BRepAdaptor_Curve curve(edge);
        for (const double share : {0.0, 0.5, 1.0})
            snaps.push_back(
                curve.Value(curve.FirstParameter() + share * (curve.LastParameter() - curve.FirstParameter())));
        if (curve.GetType() == GeomAbs_Circle) snaps.push_back(curve.Circle().Location());
    }
    return snaps;
}

double degreesIn(const QLineEdit* edit, bool& fine) {
    QString typed = edit->text().trimmed().remove(QChar(0x00b0));
    typed.replace(QChar(0x2212), '-');
    return typed.toDouble(&fine);
}

/// A share typed in per cent; none where it is no number between 0 and 100.
std::optional<double> shareIn(const QLineEdit* edit) {
    bool fine = false;
    const double percent = edit->text().trimmed().remove('%').toDouble(&fine);
    if (!fine || percent < 0.0 || percent > 100.0) return std::nullopt;
    return 0.01 * percent;
}

}  // namespace

OutlinePage::OutlinePage(Session& session, QWidget* parent) : PickPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    m_hint = new QLabel(this);
    m_hint->setWordWrap(true);
    column->addWidget(m_hint);
    auto* form = new QFormLayout;
    form->setSpacing(4);
    const auto choice = [this](const char* name, const QString& spoken, const QStringList& items) {
        auto* box = new QComboBox(this);
        box->setObjectName(name);
        box->setAccessibleName(spoken);
        box->addItems(items);
        return box;
    };
    m_way = choice("outlineWay", "What is drawn",
                   {"line", "rectangle", "circle", "slot", "polyline", "ring at a hole", "two edges", "thrown edges",
                    "plane across x", "plane across y", "plane across z"});
    m_way->setToolTip(
        "A line beside an edge; an outline; a polyline drawn by clicks; a ring round a hole; between places on two "
        "edges; edges thrown square onto the face");
    form->addRow("By", m_way);
    m_from = choice("outlineFrom", "Where lengths along the edge begin",
                    {"its start", "its middle", "its end", "a picked vertex", "another picked edge"});
    const auto row = [&](QLabel*& label, QWidget* edit) {
        label = new QLabel(this);
        form->addRow(label, edit);
    };
    m_y = field(this, "outlineY", "Distance from the edge", "7.5");
    m_x = field(this, "outlineX", "Distance along the edge", "10");
    m_a = field(this, "outlineA", "First size", "10");
    m_b = field(this, "outlineB", "Second size", "5");
    m_angle = field(this, "outlineAngle", "Angle from the edge", "0");
    m_first = field(this, "outlineFirst", "Place on the first edge, per cent of its length", "50");
    m_second = field(this, "outlineSecond", "Place on the second edge, per cent of its length", "50");
    m_depth = field(this, "outlineDepth", "Depth", "10");
    m_group = field(this, "outlineGroup", "Group of the piece within", "");
    m_group->setPlaceholderText("none");
    row(m_yLabel, m_y);
    row(m_xLabel, m_x);
    row(m_fromLabel, m_from);
    row(m_aLabel, m_a);
    row(m_bLabel, m_b);
    row(m_angleLabel, m_angle);
    row(m_firstLabel, m_first);
    row(m_secondLabel, m_second);
    column->addLayout(form);
    m_points = twoColumns(this, "polyline", "Points of the polyline, along and off the edge", {"Along mm", "Off mm"});
    m_points->setMaximumHeight(120);
    m_points->setToolTip("Click on the face to add a point; Del takes one out; a number can be typed over");
    m_points->installEventFilter(this);
    column->addWidget(m_points);
    m_closed = new QCheckBox("closed", this);
    m_closed->setObjectName("polylineClosed");
    column->addWidget(m_closed);
    auto* below = new QFormLayout;
    below->setSpacing(4);
    m_does = choice("outlineDoes", "What is done with it", {"parts the face", "is cut out"});
    below->addRow("It", m_does);
    const auto rowBelow = [&](QLabel*& label, QWidget* edit, const QString& words) {
        label = new QLabel(words, this);
        below->addRow(label, edit);
    };
    m_deep = choice("outlineDeep", "How deep it is cut out", {"all through", "to a depth", "to another picked face"});
    rowBelow(m_deepLabel, m_deep, "How deep");
    rowBelow(m_depthLabel, m_depth, "Depth mm");
    rowBelow(m_groupLabel, m_group, "Group within");
    column->addLayout(below);
    column->addStretch(1);
    for (QComboBox* box : {m_way, m_from, m_does, m_deep})
        connect(box, &QComboBox::activated, this, [this] {
            refresh();
            m_skipClick = false;
            emit changed();
        });
    connect(m_closed, &QCheckBox::toggled, this, [this] {
        refresh();
        emit changed();
    });
    connect(m_points, &QTreeWidget::itemChanged, this, [this] { emit changed(); });
    connect(m_points, &QTreeWidget::currentItemChanged, this, [this] { emit changed(); });
    const auto forget = [this] {
        const QSignalBlocker quiet(m_points);
        m_points->clear();
        m_baseFace.reset();
        m_baseEdge.reset();
    };
    connect(&m_session, &Session::changed, this, forget);
    refresh();
}

void OutlinePage::takeBase() {
    if (current() != Way::Polyline) return;
    const auto faces = picked(select::PickKind::Face);
    const auto edges = picked(select::PickKind::Edge);
    if (m_points->topLevelItemCount() > 0 && edges.empty()) return;  // these picks come from drawing
    if (faces.empty()) {
        if (m_points->topLevelItemCount() == 0 && m_picks.empty()) m_baseFace.reset();
        return;
    }
    if (m_baseFace != faces.front()) m_skipClick = true;
    m_baseFace = faces.front();
    if (!edges.empty() && edges.front().occurrence == faces.front().occurrence) m_baseEdge = edges.front();
    if (m_baseEdge && m_baseEdge->occurrence != m_baseFace->occurrence) m_baseEdge.reset();
}

std::optional<select::Pick> OutlinePage::face() const {
    if (current() == Way::Polyline) return m_baseFace;
    const auto faces = picked(select::PickKind::Face);
    return faces.empty() ? std::nullopt : std::optional(faces.front());
}

std::optional<select::Pick> OutlinePage::edge() const {
    if (current() == Way::Polyline) return m_baseEdge;
    const auto edges = picked(select::PickKind::Edge);
    return edges.empty() ? std::nullopt : std::optional(edges.front());
}

void OutlinePage::refresh() {
    takeBase();
    const Way way = current();
    const bool polyline = way == Way::Polyline, ring = way == Way::Ring;
    const bool sized = way == Way::Rectangle || way == Way::Circle || way == Way::Slot;
    const bool closed = sized || (polyline && m_closed->isChecked());
    m_hint->setText(ring                 ? "Pick the face, then the rim of the hole."
                    : way == Way::Points ? "Pick the face, then two of its edges."
                    : way == Way::Plane  ? "Pick faces of any shape."
                    : way == Way::Thrown ? "Pick the face, then the edges that are thrown square onto it."
                    : polyline
                        ? "Pick a flat face, and an edge to measure from; then click on the face, point by point."
                        : "Pick a flat face, then the straight edge of it that is measured from; without one its "
                          "longest is taken.");
    m_yLabel->setText(closed ? "Middle off it mm" : "From the edge mm");
    m_xLabel->setText(way == Way::Plane ? QString("Position on %1 mm").arg(QChar("xyz"[planeAxis()]))
                                        : QString("Middle along it mm"));
    m_fromLabel->setText("Along from");
    m_aLabel->setText(way == Way::Circle ? "Diameter mm" : ring ? "Ring width mm" : "Length mm");
    m_bLabel->setText("Width mm");
    m_angleLabel->setText("Turned °");
    m_firstLabel->setText("First at %");
    m_secondLabel->setText("Second at %");
    for (QLineEdit* edit : {m_first, m_second}) edit->setToolTip("Per cent of the edge, or a length with its unit");
    const bool cutsOut = closed && m_does->currentIndex() == 1;
    const auto show = [](QLabel* label, QWidget* edit, bool on) {
        label->setVisible(on);
        edit->setVisible(on);
    };
    show(m_yLabel, m_y, sized || way == Way::Line);
    show(m_xLabel, m_x, sized || way == Way::Plane);
    show(m_fromLabel, m_from, sized || polyline);
    show(m_aLabel, m_a, sized || ring);
    show(m_bLabel, m_b, way == Way::Rectangle || way == Way::Slot);
    show(m_angleLabel, m_angle, isDrawn() && !polyline && way != Way::Circle);
    show(m_firstLabel, m_first, way == Way::Points);
    show(m_secondLabel, m_second, way == Way::Points);
    m_points->setVisible(polyline);
    m_closed->setVisible(polyline);
    m_does->setEnabled(closed);
    if (!closed) m_does->setCurrentIndex(0);
    show(m_deepLabel, m_deep, cutsOut);
    show(m_depthLabel, m_depth, cutsOut && m_deep->currentIndex() == 1);
    show(m_groupLabel, m_group, !cutsOut && (closed || way == Way::Line || ring));
    m_a->setPlaceholderText(ring ? "what lies on it" : QString());
    m_a->setToolTip(ring ? "Empty: to the head or washer that lies there, else to twice the hole" : QString());
}

std::vector<std::array<double, 2>> OutlinePage::drawnPoints() const {
    std::vector<std::array<double, 2>> points;
    for (int r = 0; r < m_points->topLevelItemCount(); ++r) {
        std::array<double, 2> point{};
        for (int c = 0; c < 2; ++c) {
            const QLineEdit typed(m_points->topLevelItem(r)->text(c));
            const auto value = numberIn(&typed);
            if (!value) return {};
            point[static_cast<std::size_t>(c)] = *value;
        }
        points.push_back(point);
    }
    return points;
}

void OutlinePage::showPoint(QTreeWidgetItem* item, double x, double y) {
    item->setText(0, text(readable(x)));
    item->setText(1, text(readable(y)));
}

std::optional<divide::Outline> OutlinePage::outline() const {
    const auto on = face();
    if (!on || !isDrawn()) return std::nullopt;
    static const std::array<const char*, 5> shapes{"line", "rectangle", "circle", "slot", "polyline"};
    divide::Outline outline;
    outline.shape = shapes[static_cast<std::size_t>(current())];
    if (const auto along = edge(); along && along->occurrence == on->occurrence)
        outline.along = makeRef(partOf(*along), {EntityKind::Edge, along->edge});
    static const std::array<const char*, 5> from{"start", "middle", "end", "start", "start"};
    const int origin = m_from->isVisibleTo(this) ? m_from->currentIndex() : 0;
    outline.from = from[static_cast<std::size_t>(origin)];
    if (origin == 3) {
        const auto vertices = picked(select::PickKind::Vertex);
        if (vertices.empty() || vertices.front().occurrence != on->occurrence) return std::nullopt;
        outline.origin = makeRef(partOf(*on), {EntityKind::Vertex, vertices.front().vertex});
    } else if (origin == 4) {
        const auto edges = picked(select::PickKind::Edge);
        if (edges.size() < 2 || edges[1].occurrence != on->occurrence) return std::nullopt;
        outline.origin = makeRef(partOf(*on), {EntityKind::Edge, edges[1].edge});
    }
    if (current() == Way::Polyline) {
        if (m_closed->isChecked()) outline.shape = "closedPolyline";
        outline.points = drawnPoints();
        return outline;
    }
    const auto x = current() == Way::Line ? std::optional(0.0) : numberIn(m_x), y = numberIn(m_y), a = numberIn(m_a),
               b = numberIn(m_b);
    bool fine = false;
    outline.angle = degreesIn(m_angle, fine);
    if (!x || !y || !fine || (current() != Way::Line && !a)) return std::nullopt;
    outline.at = {*x, *y};
    if (current() != Way::Line) outline.size = {*a, current() == Way::Circle ? 0.0 : b.value_or(0.0)};
    return outline;
}

std::optional<BenchStep> OutlinePage::step() const {
    const auto on = face();
    const auto edges = picked(select::PickKind::Edge);
    if (!on) return std::nullopt;
    const FaceRef own = makeFaceRef(partOf(*on), on->face);
    const auto refOf = [&](const select::Pick& pick) { return makeRef(partOf(pick), {EntityKind::Edge, pick.edge}); };
    Json parameters{{"faces", {own}}};
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
        case Way::Points: {
            if (edges.size() < 2) return std::nullopt;
            parameters["points"] = Json::array();
            for (const auto& [edit, edge] : {std::pair(m_first, &edges[0]), std::pair(m_second, &edges[1])}) {
                // With a unit it is a length from the edge's start, else a share of it.
                const bool length = edit->text().contains(QRegularExpression("[a-z]"));
                const auto at = length ? numberIn(edit) : shareIn(edit);
                if (!at) return std::nullopt;
                parameters["points"].push_back(divide::OnEdge{refOf(*edge), *at, !length});
            }
            break;
        }
        case Way::Plane: {
            const auto at = numberIn(m_x);
            if (!at) return std::nullopt;
            std::array<double, 3> through{}, normal{};
            through[static_cast<std::size_t>(planeAxis())] = *at;
            normal[static_cast<std::size_t>(planeAxis())] = 1.0;
            parameters["plane"] = divide::Plane{through, normal};
            parameters["faces"] = Json::array();
            for (const select::Pick& pick : picked(select::PickKind::Face))
                parameters["faces"].push_back(makeFaceRef(partOf(pick), pick.face));
            break;
        }
        case Way::Thrown:
            if (edges.empty()) return std::nullopt;
            parameters["thrown"] = Json::array();
            for (const select::Pick& pick : edges) parameters["thrown"].push_back(refOf(pick));
            break;
        default: {
            const auto drawn = outline();
            if (!drawn) return std::nullopt;
            if (current() == Way::Polyline && drawn->points.size() < (drawn->closed() ? 3U : 2U)) return std::nullopt;
            if (drawn->closed() && m_does->currentIndex() == 1) {
                Json out{{"face", own}, {"outline", *drawn}};
                if (m_deep->currentIndex() == 1) {
                    const auto depth = numberIn(m_depth);
                    if (!depth || !(*depth > 0.0)) return std::nullopt;
                    out["depth"] = *depth;
                } else if (m_deep->currentIndex() == 2) {
                    const auto faces = picked(select::PickKind::Face);
                    const auto other = std::find_if(faces.begin(), faces.end(), [&](const select::Pick& pick) {
                        return pick != *on && pick.occurrence == on->occurrence;
                    });
                    if (other == faces.end()) return std::nullopt;
                    out["to"] = makeFaceRef(partOf(*other), other->face);
                }
                return BenchStep{"divide.cutOut", std::move(out)};
            }
            parameters["outline"] = *drawn;
        }
    }
    if (const QString group = m_group->text().trimmed(); !group.isEmpty() && m_group->isVisibleTo(this))
        parameters["group"] = group.toStdString();
    return BenchStep{"divide.partFace", std::move(parameters)};
}

QString OutlinePage::words() const {
    const std::size_t edges = picked(select::PickKind::Edge).size();
    if (!face()) return "Pick a face";
    if (current() == Way::Ring && edges == 0) return "Pick the rim of a hole";
    if (current() == Way::Points && edges < 2) return "Pick two edges of the face";
    if (current() == Way::Thrown && edges == 0) return "Pick an edge";
    if (step()) return m_does->currentIndex() == 1 && m_does->isEnabled() ? "Cut it out of the body" : "Part the face";
    if (current() == Way::Polyline && m_points->topLevelItemCount() < (m_closed->isChecked() ? 3 : 2))
        return "Click points on the face";
    if (m_from->isVisibleTo(this) && m_from->currentIndex() == 3 && picked(select::PickKind::Vertex).empty())
        return "Pick the vertex to begin at";
    if (m_from->isVisibleTo(this) && m_from->currentIndex() == 4 && edges < 2) return "Pick both edges";
    if (m_deep->isVisibleTo(this) && m_deep->currentIndex() == 2) return "Pick the face it goes down to";
    return "A number is missing";
}

std::vector<StageLine> OutlinePage::ringLines() const {
    const auto edges = picked(select::PickKind::Edge);
    if (edges.empty()) return {};
    const BRepAdaptor_Curve curve(partOf(edges.front()).incidence().edge(edges.front().edge));
    if (curve.GetType() != GeomAbs_Circle) return {};
    const double width = m_a->text().trimmed().isEmpty() ? curve.Circle().Radius() : numberIn(m_a).value_or(0.0);
    StageLine line;
    line.style = StageLine::Style::Brass;
    line.closed = true;
    const gp_Circ circle(curve.Circle().Position(), curve.Circle().Radius() + width);
    for (int i = 0; i < 64; ++i)
        line.points.push_back(ElCLib::Value(2.0 * M_PI * i / 64, circle).Transformed(placementOf(edges.front())));
    return {std::move(line)};
}

std::vector<StageLine> OutlinePage::lines() const {
    const auto on = face();
    if (!on) return {};
    // What is shown is what the step would draw; where it would refuse, nothing is.
    const auto shown = guarded("Drawing", [&]() -> Result<std::vector<StageLine>> {
        if (current() == Way::Ring) return ringLines();
        if (current() == Way::Plane) return planeLines();
        const auto drawn = outline();
        if (!drawn) return std::vector<StageLine>{};
        const auto there = seen(*drawn);
        if (!there) return std::vector<StageLine>{};
        const gp_Ax3& frame = there->frame;
        divide::Outline drawnHere = *drawn;
        // Of a line without end, the part along the face.
        if (drawnHere.shape == "line") drawnHere.at[0] = 0.5 * (there->low + there->high);
        if (drawnHere.shape == "closedPolyline" && drawnHere.points.size() < 3) drawnHere.shape = "polyline";
        std::vector<StageLine> lines;
        if (const auto wire = divide::drawn(drawnHere, frame, 0.5 * (there->high - there->low)))
            lines = sampled(*wire, placementOf(*on));
        // Where it is measured from: along the edge, then square to it.
        StageLine datum;
        const std::array<double, 2> at = drawn->points.empty() ? drawnHere.at : drawn->points.back();
        const gp_Pnt foot = frame.Location().Translated(gp_Vec(frame.XDirection()) * at[0]);
        for (const gp_Pnt& point : {frame.Location(), foot, foot.Translated(gp_Vec(frame.YDirection()) * at[1])})
            datum.points.push_back(point.Transformed(placementOf(*on)));
        lines.push_back(std::move(datum));
        return lines;
    });
    return shown ? *shown : std::vector<StageLine>{};
}

std::vector<StageLine> OutlinePage::planeLines() const {
    const auto at = numberIn(m_x);
    const Bnd_Box box = boxOfPlaces();
    if (!at || box.IsVoid()) return {};
    const int axis = planeAxis() + 1, first = axis % 3 + 1, second = first % 3 + 1;
    StageLine frame;
    frame.closed = true;
    for (const auto& [u, v] : {std::pair{false, false}, {true, false}, {true, true}, {false, true}}) {
        gp_Pnt corner;
        corner.SetCoord(axis, *at);
        corner.SetCoord(first, (u ? box.CornerMax() : box.CornerMin()).Coord(first));
        corner.SetCoord(second, (v ? box.CornerMax() : box.CornerMin()).Coord(second));
        frame.points.push_back(corner);
    }
    return {std::move(frame)};
}

std::optional<OutlinePage::Seen> OutlinePage::seen(const divide::Outline& outline) const {
    const auto on = face();
    if (!on) return std::nullopt;
    const Part& part = partOf(*on);
    const auto frame = divide::frameOf(part, on->face, outline);
    if (!frame) return std::nullopt;
    Seen seen{*frame, 1e300, -1e300};
    for (TopExp_Explorer it(part.incidence().face(on->face), TopAbs_EDGE); it.More(); it.Next()) {
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

// Handle 0 moves away from the edge; 1 stands on the edge and moves along it. Of a polyline they move its chosen point.
std::vector<StageHandle> OutlinePage::handles() const {
    const auto drawn = outline();
    const auto there = drawn ? seen(*drawn) : std::nullopt;
    if (!there) return {};
    const gp_Trsf& placement = placementOf(*face());
    std::array<double, 2> at = drawn->at;
    if (current() == Way::Polyline) {
        const int row = m_points->indexOfTopLevelItem(m_points->currentItem());
        if (row < 0 || row >= static_cast<int>(drawn->points.size())) return {};
        at = drawn->points[static_cast<std::size_t>(row)];
    } else if (current() == Way::Line) {
        at[0] = 0.5 * (there->low + there->high);
    }
    const gp_Dir x = there->frame.XDirection(), y = there->frame.YDirection();
    const gp_Pnt point =
        there->frame.Location().Translated(gp_Vec(x) * at[0] + gp_Vec(y) * at[1]).Transformed(placement);
    std::vector<StageHandle> handles{{0, point, y.Transformed(placement), text(readable(at[1]))}};
    if (current() != Way::Line) {
        const gp_Pnt foot = there->frame.Location().Translated(gp_Vec(x) * at[0]);
        handles.push_back({1, foot.Transformed(placement), x.Transformed(placement), text(readable(at[0]))});
    }
    return handles;
}

void OutlinePage::handleMoved(int handle, double by) {
    const auto drawn = outline();
    if (!drawn) return;
    if (current() == Way::Polyline) {
        QTreeWidgetItem* item = m_points->currentItem();
        const int row = m_points->indexOfTopLevelItem(item);
        if (row < 0 || row >= static_cast<int>(drawn->points.size())) return;
        auto [x, y] = drawn->points[static_cast<std::size_t>(row)];
        (handle == 0 ? y : x) += by;
        const QSignalBlocker quiet(m_points);
        showPoint(item, x, y);
    } else if (handle == 0) {
        m_y->setText(text(readable(drawn->at[1] + by)));
    } else {
        m_x->setText(text(readable(drawn->at[0] + by)));
    }
    emit changed();
}

void OutlinePage::clicked(const gp_Pnt& point) {
    if (current() != Way::Polyline || !m_baseFace) return;
    if (std::exchange(m_skipClick, false)) return;
    const auto drawn = outline();
    const auto there = drawn ? seen(*drawn) : std::nullopt;
    if (!there) return;
    const TopoDS_Face on = partOf(*m_baseFace).incidence().face(m_baseFace->face);
    gp_Pnt own = point.Transformed(placementOf(*m_baseFace).Inverted());
    const double reach = there->high - there->low;
    const gp_Vec off(there->frame.Location(), own);
    if (std::abs(off.Dot(gp_Vec(there->frame.Direction()))) > 1e-3 * reach) return;  // beside the face drawn on
    std::optional<gp_Pnt> snap;
    for (const gp_Pnt& one : snapsOf(on))
        if (one.Distance(own) < 0.02 * reach && (!snap || one.Distance(own) < snap->Distance(own))) snap = one;
    if (snap) own = *snap;
    gp_Vec at(there->frame.Location(), own);
    double x = at.Dot(gp_Vec(there->frame.XDirection())), y = at.Dot(gp_Vec(there->frame.YDirection()));
    if (!snap) {
        // On a round number: nobody means 37.4183.
        const double step = std::pow(10.0, std::floor(std::log10(reach / 50.0)));
        x = step * std::round(x / step);
        y = step * std::round(y / step);
    }
    {
        const QSignalBlocker quiet(m_points);
        auto* item = new QTreeWidgetItem(m_points);
        item->setFlags(item->flags() | Qt::ItemIsEditable);
        showPoint(item, x, y);
        m_points->setCurrentItem(item);
    }
    emit changed();
}

bool OutlinePage::eventFilter(QObject* watched, QEvent* event) {
    const bool key = event->type() == QEvent::KeyPress || event->type() == QEvent::ShortcutOverride;
    if (watched != m_points || !key) return PickPage::eventFilter(watched, event);
    const int pressed = static_cast<QKeyEvent*>(event)->key();
    if (pressed != Qt::Key_Delete && pressed != Qt::Key_Backspace) return PickPage::eventFilter(watched, event);
    event->accept();  // the window's own Del must not set a part aside while a point is chosen
    if (event->type() == QEvent::KeyPress) {
        delete m_points->currentItem();
        emit changed();
    }
    return true;
}

}  // namespace rasoir::app
