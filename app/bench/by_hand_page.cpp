#include "bench/by_hand_page.h"

#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <QFormLayout>
#include <QVBoxLayout>

#include "divide/cutters.h"
#include "model/places.h"
#include "reduce/sheet_growth.h"
#include "stage/part_presentation.h"
#include "words.h"

// What is picked says what is meant: edges alone go by a length; edges with a face of another body go to that face, a
// flat one without end.

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
    m_what->addItems({"carry edges on", "cut back at edges", "set thickness", "make a sheet of faces"});
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
    connect(m_position, &QComboBox::activated, this, &PickPage::changed);
    offerPositions();
    refresh();
}

void ByHandPage::offerPositions() {
    m_position->clear();
    if (current() == What::SheetFrom) {
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
    const auto thickness = numberIn(m_number);
    if (faces.empty() || !thickness || *thickness <= 0.0) return std::nullopt;
    Json parameters{{"faces", faces}, {"thickness", *thickness}};
    if (m_position->currentIndex() == 1) parameters["position"] = "skin";
    return BenchStep{"reduce.sheetFrom", std::move(parameters)};
}

std::optional<BenchStep> ByHandPage::step() const {
    if (current() == What::Thickness) return thicknessStep();
    if (current() == What::SheetFrom) return sheetStep();
    Json refs = Json::array();
    for (const select::Pick& pick : freeEdges()) refs.push_back(makeRef(partOf(pick), {EntityKind::Edge, pick.edge}));
    if (refs.empty()) return std::nullopt;
    const bool carries = current() == What::CarryOn;
    Json parameters{{"edges", std::move(refs)}};
    if (const auto face = target()) {
        const BRepAdaptor_Surface surface(partOf(*face).incidence().face(face->face));
        if (surface.GetType() == GeomAbs_Plane) {
            const gp_Pln plane = surface.Plane().Transformed(placementOf(*face));
            const gp_Pnt& through = plane.Location();
            const gp_Dir& normal = plane.Axis().Direction();
            parameters["plane"] = {{"through", {through.X(), through.Y(), through.Z()}},
                                   {"normal", {normal.X(), normal.Y(), normal.Z()}}};
        } else {
            parameters[carries ? "to" : "at"] = {placeName(m_session.model(), face->occurrence)};
        }
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
    if (current() == What::CutBack)
        return target() ? "Cut back at " + text(counted(edges, "edge")) : QString("Pick a face to cut at too");
    if (target()) return "Carry " + text(counted(edges, "edge")) + " on to the face";
    return step() ? "Carry " + text(counted(edges, "edge")) + " on" : QString("A number is missing");
}

std::vector<StageLine> ByHandPage::lines() const {
    std::vector<StageLine> lines;
    if (current() == What::Thickness || current() == What::SheetFrom) return lines;
    const double by = current() == What::CarryOn && !target() ? numberIn(m_number).value_or(0.0) : 0.0;
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

void ByHandPage::refresh() {
    const bool thickness = current() == What::Thickness || current() == What::SheetFrom;
    const bool asksForLength = thickness || (current() == What::CarryOn && !target());
    m_number->setVisible(asksForLength);
    m_numberLabel->setVisible(asksForLength);
    m_numberLabel->setText(thickness ? "Thick mm" : "By mm");
    m_position->setVisible(thickness);
    m_positionLabel->setVisible(thickness);
    m_positionLabel->setText(current() == What::SheetFrom ? "Sheet" : "Wall");
    switch (current()) {
        case What::CarryOn:
            m_hint->setText(
                "Pick free edges of a sheet; with them, a face that they shall be carried on to. Two edges of one "
                "corner fill it.");
            break;
        case What::CutBack:
            m_hint->setText("Pick free edges of what sticks out, and a face to cut at: a flat one cuts without end.");
            break;
        case What::Thickness:
            m_hint->setText("Pick faces of sheets, or whole sheets.");
            break;
        case What::SheetFrom:
            m_hint->setText(
                "Pick the faces on one side of a wall that was not found. The body stays beside its sheet; set it "
                "aside when all its walls are there.");
            break;
    }
}

}  // namespace rasoir::app
