#include "bench/combine_pages.h"

#include <ElCLib.hxx>
#include <gp_Circ.hxx>
#include <QFormLayout>
#include <QRegularExpression>
#include <QVBoxLayout>

#include "divide/cutters.h"
#include "model/places.h"
#include "theme.h"
#include "words.h"

namespace rasoir::app {
namespace {

gp_Dir axisDirection(int axis) {
    return axis == 0 ? gp::DX() : axis == 1 ? gp::DY() : gp::DZ();
}

StageLine roundLine(const gp_Pnt& centre, const gp_Dir& axis, double radius) {
    StageLine line;
    line.closed = true;
    const gp_Circ circle(gp_Ax2(centre, axis), radius);
    for (int i = 0; i < 64; ++i) line.points.push_back(ElCLib::Value(2.0 * M_PI * i / 64, circle));
    return line;
}

}  // namespace

// --- unite, subtract, intersect

CombinePage::CombinePage(Way way, Session& session, QWidget* parent) : PickPage(session, parent), m_way(way) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    auto* hint = new QLabel(way == Way::Unite      ? "Pick the bodies; the first gives name and material."
                            : way == Way::Subtract ? "Pick the body first, then what is taken out of it."
                                                   : "Pick the bodies whose common volume is wanted.",
                            this);
    hint->setWordWrap(true);
    column->addWidget(hint);
    m_bodies = new QTreeWidget(this);
    m_bodies->setObjectName("bodies");
    m_bodies->setAccessibleName("Bodies, in the order they were picked");
    m_bodies->setColumnCount(1);
    m_bodies->setHeaderHidden(true);
    m_bodies->setRootIsDecorated(false);
    column->addWidget(m_bodies, 1);
    m_stay = new QCheckBox(way == Way::Subtract ? "the tools stay" : "the bodies stay besides", this);
    m_stay->setObjectName("bodiesStay");
    m_stay->setVisible(way != Way::Unite);
    column->addWidget(m_stay);
    connect(m_stay, &QCheckBox::toggled, this, &PickPage::changed);
}

void CombinePage::refresh() {
    const Model& model = m_session.model();
    m_bodies->clear();
    // In the order of the picks, since the first one leads; else as they stand in the list.
    std::vector<std::size_t> places;
    const auto take = [&places](std::size_t o) {
        if (std::find(places.begin(), places.end(), o) == places.end()) places.push_back(o);
    };
    for (const select::Pick& pick : m_picks) take(pick.occurrence);
    for (const std::size_t o : m_session.places().selected()) take(o);
    for (std::size_t i = 0; i < places.size(); ++i) {
        const QString name = text(placeName(model, places[i]));
        const QString before = m_way != Way::Subtract ? QString() : i == 0 ? "from  " : "take out  ";
        auto* item = new QTreeWidgetItem(m_bodies, {before + name});
        item->setData(0, Qt::UserRole, name);
    }
}

std::vector<std::string> CombinePage::chosen() const {
    std::vector<std::string> names;
    for (int r = 0; r < m_bodies->topLevelItemCount(); ++r)
        names.push_back(m_bodies->topLevelItem(r)->data(0, Qt::UserRole).toString().toStdString());
    return names;
}

std::optional<BenchStep> CombinePage::step() const {
    const std::vector<std::string> bodies = chosen();
    if (bodies.size() < 2) return std::nullopt;
    switch (m_way) {
        case Way::Unite:
            return BenchStep{"divide.unite", {{"places", bodies}}};
        case Way::Subtract:
            return BenchStep{"divide.subtract",
                             {{"from", {bodies.front()}},
                              {"tools", std::vector<std::string>(bodies.begin() + 1, bodies.end())},
                              {"keepTools", m_stay->isChecked()}}};
        case Way::Intersect:
            break;
    }
    return BenchStep{"divide.intersect", {{"places", bodies}, {"keep", m_stay->isChecked()}}};
}

QString CombinePage::words() const {
    const std::size_t count = chosen().size();
    if (m_way == Way::Subtract)
        return count < 2 ? QString("Pick a body and a tool") : "Subtract " + text(counted(count - 1, "body", "bodies"));
    if (count < 2) return "Pick two bodies";
    return (m_way == Way::Unite ? "Unite " : "Intersect ") + text(counted(count, "body", "bodies"));
}

// --- surround

SurroundPage::SurroundPage(Session& session, QWidget* parent) : PickPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    m_hint = new QLabel("Round what is selected, or round everything. Drag its sides, or type.", this);
    m_hint->setWordWrap(true);
    column->addWidget(m_hint);
    auto* form = new QFormLayout;
    form->setSpacing(4);
    m_by = new QComboBox(this);
    m_by->setObjectName("surroundBy");
    m_by->setAccessibleName("Shape of what goes round");
    m_by->addItems({"block", "cylinder along x", "cylinder along y", "cylinder along z", "ball"});
    form->addRow("Shape", m_by);
    m_clearance = field(this, "clearance", "Clearance on each side", "10");
    m_clearance->setToolTip("One number for all sides, or six: -x +x -y +y -z +z");
    form->addRow("Clearance mm", m_clearance);
    m_parting = new QComboBox(this);
    m_parting->setObjectName("partingBy");
    m_parting->setAccessibleName("Where it is parted in two halves");
    m_parting->addItems({"nowhere", "across x", "across y", "across z", "by the picked sheet"});
    form->addRow("Parted", m_parting);
    m_atLabel = new QLabel("At mm", this);
    m_at = field(this, "partedAt", "Where the parting plane lies", {});
    m_at->setPlaceholderText("the middle");
    form->addRow(m_atLabel, m_at);
    m_name = field(this, "surroundName", "Name of the new part", {});
    m_name->setPlaceholderText("as its shape says");
    form->addRow("Name", m_name);
    column->addLayout(form);
    m_without = new QCheckBox("less the bodies in it", this);
    m_without->setObjectName("lessBodies");
    column->addWidget(m_without);
    column->addStretch(1);
    for (QComboBox* box : {m_by, m_parting})
        connect(box, &QComboBox::activated, this, [this] {
            if (m_parting->currentIndex() > 0) m_without->setChecked(true);  // a mould is what is round the body
            refresh();
            emit changed();
        });
    connect(m_without, &QCheckBox::toggled, this, &PickPage::changed);
    refresh();
}

void SurroundPage::refresh() {
    const int across = m_parting->currentIndex();
    m_at->setVisible(across >= 1 && across <= 3);
    m_atLabel->setVisible(across >= 1 && across <= 3);
}

int SurroundPage::axis() const {
    return std::clamp(m_by->currentIndex() - 1, 0, 2);
}

std::optional<std::array<double, 6>> SurroundPage::clearances() const {
    std::array<double, 6> gaps{};
    const QStringList typed =
        m_clearance->text().remove(QChar(0x2009)).split(QRegularExpression("[\\s;]+"), Qt::SkipEmptyParts);
    if (typed.size() != 1 && typed.size() != 6) return std::nullopt;
    for (int i = 0; i < 6; ++i) {
        const QLineEdit one(typed[typed.size() == 1 ? 0 : i]);
        const auto gap = numberIn(&one);
        if (!gap) return std::nullopt;
        gaps[static_cast<std::size_t>(i)] = *gap;
    }
    return gaps;
}

std::optional<double> SurroundPage::partedAt() const {
    const int across = m_parting->currentIndex();
    if (across < 1 || across > 3) return std::nullopt;
    if (!m_at->text().trimmed().isEmpty()) return numberIn(m_at);
    const Bnd_Box box = boxOfPlaces();
    if (box.IsVoid()) return std::nullopt;
    return 0.5 * (box.CornerMin().Coord(across) + box.CornerMax().Coord(across));
}

std::optional<BenchStep> SurroundPage::step() const {
    const auto gaps = clearances();
    if (m_session.isEmpty() || !gaps) return std::nullopt;
    const int shape = m_by->currentIndex();
    const std::string by = shape == 0 ? "block" : shape == 4 ? "ball" : "cylinder";
    const std::string typed = m_name->text().trimmed().toStdString();
    const int across = m_parting->currentIndex();
    const std::string standard = across > 0 ? std::string("mould") : by + " round";
    Json parameters{{"by", by},
                    {"clearance", *gaps},
                    {"name", typed.empty() ? standard : typed},
                    {"without", m_without->isChecked()}};
    if (by == "cylinder" && axis() != 2) parameters["axis"] = std::string(1, "xyz"[axis()]);
    std::vector<std::string> places = m_places;
    if (across == 4) {
        // The sheet may be picked, and selected with it, but nothing goes round it.
        const auto sheet = std::find_if(m_picks.begin(), m_picks.end(), [this](const select::Pick& pick) {
            return partOf(pick).kind() == BodyKind::Sheet;
        });
        if (sheet == m_picks.end()) return std::nullopt;
        const std::string name = placeName(m_session.model(), sheet->occurrence);
        std::erase(places, name);
        parameters["partingBy"] = name;
    } else if (across > 0) {
        const auto at = partedAt();
        if (!at) return std::nullopt;
        std::array<double, 3> through{}, normal{};
        through[static_cast<std::size_t>(across - 1)] = *at;
        normal[static_cast<std::size_t>(across - 1)] = 1.0;
        parameters["parting"] = divide::Plane{through, normal};
    }
    if (!places.empty()) parameters["places"] = places;
    return BenchStep{"divide.surround", std::move(parameters)};
}

QString SurroundPage::words() const {
    if (!clearances()) return "One clearance, or six";
    if (m_parting->currentIndex() == 4 && !step()) return "Pick the sheet that parts it";
    const QString shape = m_by->currentText().section(' ', 0, 0);
    return QString("%1 round %2")
        .arg(m_parting->currentIndex() > 0 ? QString("Two halves") : "Put a " + shape,
             m_places.empty() ? QString("everything")
                              : text(counted(m_session.places().selected().size(), "body", "bodies")));
}

std::vector<StageLine> SurroundPage::lines() const {
    const Bnd_Box box = boxOfPlaces();
    const auto gaps = clearances();
    if (box.IsVoid() || !gaps) return {};
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax(), middle(0.5 * (low.XYZ() + high.XYZ()));
    const gp_Pnt from(low.X() - (*gaps)[0], low.Y() - (*gaps)[2], low.Z() - (*gaps)[4]),
        to(high.X() + (*gaps)[1], high.Y() + (*gaps)[3], high.Z() + (*gaps)[5]);
    std::vector<StageLine> all;
    const int shape = m_by->currentIndex();
    if (shape == 0) {
        const auto corner = [&](int i) {
            return gp_Pnt(i & 1 ? to.X() : from.X(), i & 2 ? to.Y() : from.Y(), i & 4 ? to.Z() : from.Z());
        };
        for (int i = 0; i < 8; ++i)
            for (const int bit : {1, 2, 4})
                if ((i & bit) == 0) {
                    StageLine line;
                    line.points = {corner(i), corner(i | bit)};
                    all.push_back(std::move(line));
                }
    } else if (shape == 4) {
        const double radius = 0.5 * low.Distance(high) + (*gaps)[0];
        if (radius > 0.0)
            for (int a = 0; a < 3; ++a) all.push_back(roundLine(middle, axisDirection(a), radius));
    } else {
        const int a = axis(), first = (a + 1) % 3 + 1, second = (a + 2) % 3 + 1;
        const double radius =
            0.5 * std::hypot(high.Coord(first) - low.Coord(first), high.Coord(second) - low.Coord(second)) +
            (*gaps)[a == 0 ? 2 : 0];
        if (radius > 0.0)
            for (const gp_Pnt& end : {from, to}) {
                gp_Pnt centre = middle;
                centre.SetCoord(a + 1, end.Coord(a + 1));
                all.push_back(roundLine(centre, axisDirection(a), radius));
            }
    }
    if (const auto at = partedAt()) {
        const int across = m_parting->currentIndex();
        StageLine frame;
        frame.style = StageLine::Style::Brass;
        frame.closed = true;
        const int first = across % 3 + 1, second = first % 3 + 1;
        for (const auto& [u, v] : {std::pair{false, false}, {true, false}, {true, true}, {false, true}}) {
            gp_Pnt corner;
            corner.SetCoord(across, *at);
            corner.SetCoord(first, u ? to.Coord(first) : from.Coord(first));
            corner.SetCoord(second, v ? to.Coord(second) : from.Coord(second));
            frame.points.push_back(corner);
        }
        all.push_back(std::move(frame));
    }
    return all;
}

std::vector<StageHandle> SurroundPage::handles() const {
    const Bnd_Box box = boxOfPlaces();
    const auto gaps = clearances();
    if (box.IsVoid() || !gaps) return {};
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax(), middle(0.5 * (low.XYZ() + high.XYZ()));
    std::vector<StageHandle> all;
    const int shape = m_by->currentIndex();
    for (int side = 0; side < 6; ++side) {
        const int a = side / 2;
        const bool upper = side % 2 == 1;
        double reach = (upper ? high.Coord(a + 1) : low.Coord(a + 1)) - middle.Coord(a + 1);
        double gap = (*gaps)[static_cast<std::size_t>(side)];
        if (shape == 4) {
            if (side != 0) continue;  // one number says how large a ball is
            reach = -0.5 * low.Distance(high);
        } else if (shape > 0 && a != axis()) {
            if (side != (axis() == 0 ? 2 : 0)) continue;
            const int first = (axis() + 1) % 3 + 1, second = (axis() + 2) % 3 + 1;
            reach = -0.5 * std::hypot(high.Coord(first) - low.Coord(first), high.Coord(second) - low.Coord(second));
        }
        const double outwards = upper ? 1.0 : -1.0;
        gp_Pnt at = middle;
        at.SetCoord(a + 1, middle.Coord(a + 1) + reach + outwards * gap);
        const gp_Dir along = upper ? axisDirection(a) : axisDirection(a).Reversed();
        all.push_back({side, at, along, text(readable(gap))});
    }
    if (const auto at = partedAt()) {
        const int across = m_parting->currentIndex();
        gp_Pnt place = middle;
        place.SetCoord(across, *at);
        all.push_back({6, place, axisDirection(across - 1), text(readable(*at))});
    }
    return all;
}

void SurroundPage::handleMoved(int handle, double by) {
    if (handle == 6) {
        if (const auto at = partedAt()) m_at->setText(text(readable(*at + by)));
    } else if (auto gaps = clearances(); gaps && handle >= 0 && handle < 6) {
        (*gaps)[static_cast<std::size_t>(handle)] += by;
        QStringList typed;
        for (const double gap : *gaps) typed << text(readable(gap)).remove(QChar(0x2009));
        m_clearance->setText(typed.join(' '));
    }
    emit changed();
}

}  // namespace rasoir::app
