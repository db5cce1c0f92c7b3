#include "bench/by_hand_page.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <QFormLayout>
#include <QVBoxLayout>
#include <TopoDS.hxx>

#include "divide/cutters.h"
#include "geometry/face_points.h"
#include "model/places.h"
#include "reduce/sheet_growth.h"
#include "stage/part_presentation.h"
#include "topology/edge_angle.h"
#include "words.h"

// What is picked says what is meant: edges alone go by a length; edges with a face of another body go to that face, a
// flat one without end; with an edge that ends no sheet, or a corner, they go as far as that.

namespace rasoir::app {

ByHandPage::ByHandPage(Session& session, QWidget* parent) : PickPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    auto* form = new QFormLayout;
    form->setSpacing(4);
    m_what = new QComboBox(this);
    m_what->setObjectName("byHandWhat");
    m_what->setAccessibleName("What is done to sheets");
    m_what->addItems({"carry edges on", "cut back at edges", "set thickness", "make a sheet of faces",
                      "draw sheets onto each other", "make sides alike", "make bends sharp"});
    form->addRow("Do", m_what);
    m_number = field(this, "byHandNumber", "Length", "5");
    m_numberLabel = new QLabel("By mm", this);
    form->addRow(m_numberLabel, m_number);
    m_position = new QComboBox(this);
    m_position->setObjectName("byHandPosition");
    m_position->setAccessibleName("Where the wall lies");
    m_positionLabel = new QLabel("Wall", this);
    form->addRow(m_positionLabel, m_position);
    column->addLayout(form);
    m_hint = new QLabel(this);
    m_hint->setWordWrap(true);
    column->addWidget(m_hint);
    column->addStretch(1);
    connect(m_what, &QComboBox::currentIndexChanged, this, [this] {
        offerPositions();
        refresh();
        emit changed();
    });
    connect(m_position, &QComboBox::activated, this, [this] {
        refresh();
        emit changed();
    });
    offerPositions();
    refresh();
}

void ByHandPage::offerPositions() {
    m_position->clear();
    if (current() == What::CarryOn) {
        m_position->addItems({"what is typed or picked", "the outline of the solid"});
        m_position->setToolTip("The solid that the sheet was made of");
    } else if (current() == What::CutBack) {
        m_position->addItems({"what is picked", "the outline of the solid", "the joint: whole lips go"});
        m_position->setToolTip("The solid that the sheet was made of; a lip hangs over beyond a joint");
    } else if (current() == What::SheetFrom) {
        m_position->addItems({"midway in the wall", "on the faces"});
        m_position->setToolTip("The wall lies behind the faces");
    } else {
        m_position->addItems({"as it is", "sheet midway", "above the sheet", "below the sheet"});
        m_position->setToolTip("As seen along the normal of the sheet's face");
    }
}

std::vector<select::Pick> ByHandPage::freeEdges() const {
    std::vector<select::Pick> edges = picked(select::PickKind::Edge);
    std::erase_if(edges, [this](const select::Pick& pick) {
        return partOf(pick).kind() != BodyKind::Sheet || partOf(pick).incidence().facesAt(pick.edge) != 1;
    });
    return edges;
}

std::optional<select::Pick> ByHandPage::target() const {
    const auto faces = picked(select::PickKind::Face);
    return faces.empty() ? std::nullopt : std::optional(faces.front());
}

bool ByHandPage::frameAtEdge(gp_Vec& out, gp_Vec& normal) const {
    const auto edges = freeEdges();
    if (edges.empty()) return false;
    const Incidence& topology = partOf(edges.front()).incidence();
    const TopoDS_Edge edge = topology.edge(edges.front().edge);
    const int face = topology.usesOf(edges.front().edge).front().face;
    const BRepAdaptor_Curve curve(edge);
    const double middle = 0.5 * (curve.FirstParameter() + curve.LastParameter());
    gp_Pnt at;
    out = reduce::outAlong(topology, face, edges.front().edge, middle, at).Transformed(placementOf(edges.front()));
    normal = outwardNormal(topology.face(face), edge, middle).Transformed(placementOf(edges.front()));
    return out.SquareMagnitude() > 0.5 && normal.SquareMagnitude() > 0.5;
}

std::optional<gp_Pln> ByHandPage::targetPlane() const {
    if (const auto face = target()) {
        const BRepAdaptor_Surface surface(partOf(*face).incidence().face(face->face));
        if (surface.GetType() != GeomAbs_Plane) return std::nullopt;
        return surface.Plane().Transformed(placementOf(*face));
    }
    gp_Vec out, normal;
    if (!frameAtEdge(out, normal)) return std::nullopt;
    const auto vertices = picked(select::PickKind::Vertex);
    if (!vertices.empty()) {
        const gp_Pnt at =
            BRep_Tool::Pnt(TopoDS::Vertex(partOf(vertices.front()).incidence().vertex(vertices.front().vertex)));
        return gp_Pln(at.Transformed(placementOf(vertices.front())), gp_Dir(out));
    }
    for (const select::Pick& pick : picked(select::PickKind::Edge)) {
        const Incidence& topology = partOf(pick).incidence();
        if (partOf(pick).kind() == BodyKind::Sheet && topology.facesAt(pick.edge) == 1) continue;
        const BRepAdaptor_Curve curve(topology.edge(pick.edge));
        gp_Pnt at;
        gp_Vec along;
        curve.D1(0.5 * (curve.FirstParameter() + curve.LastParameter()), at, along);
        at.Transform(placementOf(pick));
        along.Transform(placementOf(pick));
        const gp_Vec across = along.Crossed(normal);
        // An edge that runs up from the sheet is met as a point is.
        const bool runsUp = across.Magnitude() < 0.1 * along.Magnitude();
        return gp_Pln(at, gp_Dir(runsUp ? out : across));
    }
    return std::nullopt;
}

std::set<std::size_t> ByHandPage::sheetPlaces() const {
    std::set<std::size_t> places;
    for (const select::PickKind kind : {select::PickKind::Face, select::PickKind::Part})
        for (const select::Pick& pick : picked(kind))
            if (partOf(pick).kind() == BodyKind::Sheet) places.insert(pick.occurrence);
    return places;
}

std::vector<FaceRef> ByHandPage::sheetFaces() const {
    std::vector<FaceRef> faces;
    for (const select::Pick& pick : picked(select::PickKind::Face))
        if (partOf(pick).kind() == BodyKind::Sheet) faces.push_back(makeFaceRef(partOf(pick), pick.face));
    for (const select::Pick& pick : picked(select::PickKind::Part))
        if (partOf(pick).kind() == BodyKind::Sheet)
            for (int f = 1; f <= partOf(pick).incidence().faceCount(); ++f)
                faces.push_back(makeFaceRef(partOf(pick), f));
    return faces;
}

std::vector<FaceRef> ByHandPage::allFaces() const {
    std::vector<FaceRef> faces;
    for (const select::Pick& pick : picked(select::PickKind::Face))
        faces.push_back(makeFaceRef(partOf(pick), pick.face));
    return faces;
}

std::optional<BenchStep> ByHandPage::thicknessStep() const {
    const auto faces = sheetFaces();
    if (faces.empty()) return std::nullopt;
    Json parameters{{"faces", faces}};
    if (!m_number->text().trimmed().isEmpty()) {
        const auto thickness = numberIn(m_number);
        if (!thickness || *thickness <= 0.0) return std::nullopt;
        parameters["thickness"] = *thickness;
    }
    if (m_position->currentIndex() > 0)
        parameters["position"] =
            std::array{"", "middle", "above", "below"}[static_cast<std::size_t>(m_position->currentIndex())];
    return parameters.size() > 1 ? std::optional(BenchStep{"reduce.thickness", std::move(parameters)}) : std::nullopt;
}

std::optional<BenchStep> ByHandPage::sheetStep() const {
    const auto faces = allFaces();
    if (faces.empty()) return std::nullopt;
    Json parameters{{"faces", faces}};
    // With none typed it is measured straight through.
    if (!m_number->text().trimmed().isEmpty()) {
        const auto thickness = numberIn(m_number);
        if (!thickness || *thickness <= 0.0) return std::nullopt;
        parameters["thickness"] = *thickness;
    }
    if (m_position->currentIndex() == 1) parameters["position"] = "skin";
    return BenchStep{"reduce.sheetFrom", std::move(parameters)};
}

std::optional<BenchStep> ByHandPage::drawStep() const {
    const auto places = sheetPlaces();
    const auto within = numberIn(m_number);
    if (places.size() < 2 || !within || *within < 0.0) return std::nullopt;
    return BenchStep{"reduce.drawOnto",
                     {{"places", placeNames(m_session.model(), {places.begin(), places.end()})}, {"within", *within}}};
}

std::optional<BenchStep> ByHandPage::sidesStep() const {
    Json faces = Json::array();
    for (const select::Pick& pick : picked(select::PickKind::Face))
        if (partOf(pick).kind() == BodyKind::Sheet) faces.push_back(makeFaceRef(partOf(pick), pick.face));
    if (!faces.empty()) return BenchStep{"reduce.sides", {{"faces", std::move(faces)}}};
    std::set<std::string> names;
    for (const std::size_t place : sheetPlaces())
        names.insert(m_session.model().parts[m_session.model().occurrences[place].part]->name);
    if (!names.empty()) return BenchStep{"reduce.sides", {{"parts", names}}};
    const auto& parts = m_session.model().parts;
    const bool some =
        std::any_of(parts.begin(), parts.end(), [](const auto& part) { return part->kind() == BodyKind::Sheet; });
    return some ? std::optional(BenchStep{"reduce.sides", Json::object()}) : std::nullopt;
}

std::optional<BenchStep> ByHandPage::bendsStep() const {
    const auto radius = numberIn(m_number);
    if (!radius || *radius <= 0.0) return std::nullopt;
    Json parameters{{"upTo", *radius}};
    std::set<std::string> names;
    for (const std::size_t place : sheetPlaces())
        names.insert(m_session.model().parts[m_session.model().occurrences[place].part]->name);
    if (!names.empty()) parameters["parts"] = names;
    return BenchStep{"reduce.sharpBends", std::move(parameters)};
}

std::optional<BenchStep> ByHandPage::step() const {
    switch (current()) {
        case What::Thickness:
            return thicknessStep();
        case What::SheetFrom:
            return sheetStep();
        case What::DrawOnto:
            return drawStep();
        case What::Sides:
            return sidesStep();
        case What::SharpBends:
            return bendsStep();
        default:
            return edgesStep();
    }
}

std::optional<BenchStep> ByHandPage::edgesStep() const {
    Json refs = Json::array();
    for (const select::Pick& pick : freeEdges()) refs.push_back(makeRef(partOf(pick), {EntityKind::Edge, pick.edge}));
    if (refs.empty()) return std::nullopt;
    const bool carries = current() == What::CarryOn;
    Json parameters{{"edges", std::move(refs)}};
    if (m_position->currentIndex() == 1) {
        parameters["outline"] = true;
    } else if (m_position->currentIndex() == 2) {
        parameters["lips"] = true;
    } else if (const auto plane = targetPlane()) {
        const gp_Pnt& through = plane->Location();
        const gp_Dir& normal = plane->Axis().Direction();
        parameters["plane"] = {{"through", {through.X(), through.Y(), through.Z()}},
                               {"normal", {normal.X(), normal.Y(), normal.Z()}}};
    } else if (const auto face = target()) {
        parameters[carries ? "to" : "at"] = {placeName(m_session.model(), face->occurrence)};
    } else if (carries) {
        const auto length = numberIn(m_number);
        if (!length || *length <= 0.0) return std::nullopt;
        parameters["by"] = *length;
    } else {
        return std::nullopt;
    }
    return BenchStep{carries ? "reduce.carryOn" : "reduce.cutBack", std::move(parameters)};
}

QString ByHandPage::words() const {
    if (current() == What::DrawOnto) {
        const std::size_t places = sheetPlaces().size();
        if (places < 2) return "Pick two sheets or more";
        return step() ? "Draw " + text(counted(places, "sheet")) + " onto each other" : QString("A number is missing");
    }
    if (current() == What::SharpBends) return step() ? QString("Make bends sharp") : QString("A number is missing");
    if (current() == What::Sides) {
        const std::size_t faces = picked(select::PickKind::Face).size();
        if (!step()) return "There are no sheets";
        return faces > 0 ? QString("Turn over what is picked") : QString("Make sides alike");
    }
    if (current() == What::SheetFrom) {
        const std::size_t faces = allFaces().size();
        if (faces == 0) return "Pick one side of a wall";
        return step() ? "Make a sheet of " + text(counted(faces, "face")) : QString("A number is missing");
    }
    if (current() == What::Thickness) {
        const std::size_t faces = sheetFaces().size();
        if (faces == 0) return "Pick faces of sheets";
        return step() ? "Set thickness of " + text(counted(faces, "face")) : QString("A number is missing");
    }
    const std::size_t edges = freeEdges().size();
    if (edges == 0) return "Pick free edges of a sheet";
    if (m_position->currentIndex() == 1)
        return (current() == What::CutBack ? "Cut " : "Carry ") + text(counted(edges, "edge")) +
               (current() == What::CutBack ? " back at the solid" : " on to the solid");
    if (m_position->currentIndex() == 2) return "Cut off lips at " + text(counted(edges, "edge"));
    if (current() == What::CutBack)
        return target() || targetPlane() ? "Cut back at " + text(counted(edges, "edge"))
                                         : QString("Pick a face to cut at too");
    if (target()) return "Carry " + text(counted(edges, "edge")) + " on to the face";
    if (targetPlane()) return "Carry " + text(counted(edges, "edge")) + " on to what is picked";
    return step() ? "Carry " + text(counted(edges, "edge")) + " on" : QString("A number is missing");
}

std::vector<StageLine> ByHandPage::lines() const {
    std::vector<StageLine> lines;
    if (current() == What::Sides) addArrows(lines);
    if (current() != What::CarryOn && current() != What::CutBack) return lines;
    const bool byLength = m_position->currentIndex() == 0 && !target() && !targetPlane();
    const double by = current() == What::CarryOn && byLength ? numberIn(m_number).value_or(0.0) : 0.0;
    for (const select::Pick& pick : freeEdges()) {
        const Incidence& topology = partOf(pick).incidence();
        std::vector<gp_Pnt> points = edgePoints(topology, pick.edge);
        if (points.empty()) continue;
        for (gp_Pnt& point : points) point.Transform(placementOf(pick));
        lines.push_back({points, false, StageLine::Style::Brass});
        if (by <= 0.0) continue;
        // Where the edge will be, as far as a straight way along the sheet tells.
        const BRepAdaptor_Curve curve(topology.edge(pick.edge));
        gp_Pnt middle;
        const gp_Vec out = reduce::outAlong(topology, topology.usesOf(pick.edge).front().face, pick.edge,
                                            0.5 * (curve.FirstParameter() + curve.LastParameter()), middle);
        std::vector<gp_Pnt> there = points;
        for (gp_Pnt& point : there) point.Translate(out.Transformed(placementOf(pick)) * by);
        lines.push_back({{points.front(), there.front()}, false, StageLine::Style::Brass});
        lines.push_back({{points.back(), there.back()}, false, StageLine::Style::Brass});
        lines.push_back({std::move(there), false, StageLine::Style::Brass});
    }
    return lines;
}

void ByHandPage::addArrows(std::vector<StageLine>& lines) const {
    constexpr std::size_t most = 1500;  // more would hide the sheets
    const Model& model = m_session.model();
    const double length = 1.5 * model.targetSize;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const Part& part = *model.parts[model.occurrences[o].part];
        if (part.kind() != BodyKind::Sheet || m_session.places().isHidden(o)) continue;
        for (int f = 1; f <= part.incidence().faceCount() && lines.size() < most; ++f) {
            const auto samples = skinSamples(part.incidence().face(f), 3);
            if (samples.empty()) continue;
            const SkinSample& middle = samples[samples.size() / 2];
            const gp_Pnt from = middle.at.Transformed(model.occurrences[o].placement);
            const gp_Vec out = middle.out.Transformed(model.occurrences[o].placement);
            const gp_Vec aside = gp_Vec(gp_Ax2(from, gp_Dir(out)).XDirection()) * (0.15 * length);
            const gp_Pnt tip = from.Translated(out * length), neck = from.Translated(out * (0.7 * length));
            lines.push_back({{from, tip}, false, StageLine::Style::Brass});
            lines.push_back({{neck.Translated(aside), tip, neck.Translated(-aside)}, false, StageLine::Style::Brass});
        }
    }
}

void ByHandPage::refresh() {
    const bool thickness = current() == What::Thickness || current() == What::SheetFrom;
    const bool edges = current() == What::CarryOn || current() == What::CutBack;
    const bool drawn = current() == What::DrawOnto, bends = current() == What::SharpBends;
    const bool asksForLength =
        thickness || drawn || bends ||
        (current() == What::CarryOn && m_position->currentIndex() == 0 && !target() && !targetPlane());
    m_number->setVisible(asksForLength);
    m_numberLabel->setVisible(asksForLength);
    m_numberLabel->setText(thickness ? "Thick mm" : drawn ? "Within mm" : bends ? "Radius up to mm" : "By mm");
    m_position->setVisible(thickness || edges);
    m_positionLabel->setVisible(thickness || edges);
    m_positionLabel->setText(current() == What::SheetFrom ? "Sheet"
                             : current() == What::CarryOn ? "To"
                             : current() == What::CutBack ? "At"
                                                          : "Wall");
    switch (current()) {
        case What::CarryOn:
            m_hint->setText(
                "Pick free edges of a sheet; with them, a face, an edge or a corner that they shall be carried on to. "
                "Two edges of one corner fill it. The end of a slit, carried on, closes it.");
            break;
        case What::CutBack:
            m_hint->setText(
                "Pick free edges of what sticks out, and a face, an edge or a corner to cut at: a flat cut goes on "
                "without end.");
            break;
        case What::SharpBends:
            m_hint->setText(
                "Bends between two flats become the line in which these meet. Pick sheets, or none for all of them.");
            break;
        case What::DrawOnto:
            m_hint->setText(
                "Pick sheets that lie on each other, or so near. The smaller one moves, its wall stays where it is, "
                "and what both cover counts once.");
            break;
        case What::Sides:
            m_hint->setText(
                "Arrows show which way faces look. Pick a face to turn over all that hangs together with it, or "
                "none to make each set alike.");
            break;
        case What::Thickness:
            m_hint->setText("Pick faces of sheets, or whole sheets.");
            break;
        case What::SheetFrom:
            m_hint->setText(
                "Pick the faces on one side of a wall that was not found; with no number, its thickness is measured. "
                "The body stays beside its sheet; set it "
                "aside when all its walls are there.");
            break;
    }
}

}  // namespace rasoir::app
