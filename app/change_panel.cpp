#include "change_panel.h"

#include <QFormLayout>
#include <set>

#include "common/text.h"
#include "geometry/edge_probe.h"
#include "measure/between.h"
#include "shave/change.h"
#include "shave/openings.h"
#include "theme.h"

namespace rasoir::app {
namespace {

using select::kindOf;

tl::unexpected<Problem> lacking(const char* what) {
    return fail(ProblemKind::BadInput, what);
}

}  // namespace

ChangePanel::ChangePanel(Session& session, Selection& selection, QWidget* parent)
    : QDialog(parent), m_session(session), m_selection(selection) {
    setWindowTitle("Change");
    setModal(false);
    setMinimumWidth(340);
    m_form = new QFormLayout(this);
    m_way = new QComboBox(this);
    m_way->addItems({"Move faces by a distance", "Move faces through a point", "Move faces onto the last picked",
                     "Set the diameter of holes", "One clean hole for an opening", "Set the radius of rounds",
                     "Round edges", "Make freeform faces simple", "Put rounds back"});
    m_way->setAccessibleName("What to change");
    m_of = new QLabel(this);
    m_of->setWordWrap(true);
    m_amountName = new QLabel(this);
    m_amount = new QLineEdit(this);
    m_amount->setObjectName("changeAmount");
    m_amountName->setBuddy(m_amount);
    m_result = new QCheckBox("Show what would be left (R)", this);
    m_result->setChecked(true);
    m_message = new QLabel(this);
    m_message->setObjectName("changeMessage");
    m_message->setWordWrap(true);
    m_message->setMinimumHeight(2 * fontMetrics().lineSpacing());
    m_message->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    m_button = new QPushButton("Change", this);
    m_button->setObjectName("primary");
    m_button->setDefault(true);
    m_form->addRow(m_way);
    m_form->addRow("What", m_of);
    m_form->addRow(m_amountName, m_amount);
    m_form->addRow(m_message);
    m_form->addRow(m_result);
    m_form->addRow(m_button);
    connect(m_way, &QComboBox::activated, this, [this] {
        m_chosen = true;
        m_amount->clear();
        refresh();
        m_amount->selectAll();
    });
    connect(m_amount, &QLineEdit::textEdited, this, &ChangePanel::refresh);
    connect(m_result, &QCheckBox::toggled, this, &ChangePanel::stepChanged);
    connect(m_button, &QPushButton::clicked, this, &ChangePanel::apply);
    connect(&selection, &Selection::changed, this, [this] {
        if (isVisible()) takePicks();
    });
    connect(&session, &Session::changed, this, [this] {
        if (!isVisible()) return;
        takePicks();
        if (const QString left = leftByLastStep(m_session, "not changed"); !left.isEmpty()) m_message->setText(left);
    });
    connect(&session, &Session::failed, this, [this](const Problem& problem) {
        if (isVisible()) m_message->setText(troubleText(problem));
    });
    connect(&session, &Session::opened, this, &QDialog::hide);
}

void ChangePanel::showEvent(QShowEvent* event) {
    QDialog::showEvent(event);
    m_chosen = false;
    m_amount->clear();
    takePicks();
    m_amount->setFocus();
    m_amount->selectAll();
}

void ChangePanel::hideEvent(QHideEvent* event) {
    QDialog::hideEvent(event);
    m_step.reset();
    emit stepChanged();
}

std::vector<Pick> ChangePanel::picked(PickKind kind) const {
    std::vector<Pick> some;
    for (const Pick& pick : m_selection.picks())
        if (kindOf(pick) == kind && pick.occurrence < m_session.model().occurrences.size()) some.push_back(pick);
    return some;
}

void ChangePanel::takePicks() {
    const auto faces = picked(PickKind::Face), edges = picked(PickKind::Edge), vertices = picked(PickKind::Vertex);
    Way suits = static_cast<Way>(m_way->currentIndex());
    const auto isRound = [&](const Pick& pick) {  // a fillet, not the wall of a hole or a pin
        const PartKnowledge* known = m_session.knowledge(m_session.model().occurrences[pick.occurrence].part);
        return known != nullptr && known->strips &&
               std::any_of(known->strips->begin(), known->strips->end(), [&](const survey::StripChain& chain) {
                   return chain.kind == survey::StripKind::Round &&
                          std::binary_search(chain.faces.begin(), chain.faces.end(), pick.face);
               });
    };
    const auto isHole = [&](const Pick& pick) {
        const Model& model = m_session.model();
        return makeFaceRef(*model.parts[model.occurrences[pick.occurrence].part], pick.face).surface == "cylinder";
    };
    if (faces.empty() && !edges.empty())
        suits = Round;
    else if (!faces.empty() && (!vertices.empty() || !edges.empty()))
        suits = MoveThrough;
    else if (!faces.empty() && std::all_of(faces.begin(), faces.end(), isRound))
        suits = Radius;
    else if (!faces.empty() && std::all_of(faces.begin(), faces.end(), isHole))
        suits = Diameter;
    else if (!faces.empty())
        suits = MoveBy;
    // What was chosen by hand stays as long as the picks can serve it.
    const auto serves = [&](Way way) {
        switch (way) {
            case Round:
                return faces.empty();
            case MoveBy:
            case MoveThrough:
            case MoveOnto:
            case Diameter:
            case OneHole:
            case Radius:
                return edges.empty() || !faces.empty();
            default:
                return true;
        }
    };
    if (!m_chosen || !serves(static_cast<Way>(m_way->currentIndex()))) {
        m_chosen = false;
        if (m_way->currentIndex() != suits) m_amount->clear();
        m_way->setCurrentIndex(suits);
    }
    refresh();
}

void ChangePanel::refresh() {
    const auto way = static_cast<Way>(m_way->currentIndex());
    const Model& model = m_session.model();
    m_of->setText(
        way == Simplify || way == Restore
            ? (m_session.places().selectedParts().empty() ? QString("all parts") : QString("the selected parts"))
        : m_selection.picks().empty() ? QString("nothing is picked yet")
                                      : describeSelection(m_selection.picks()));
    const char* names[] = {"By, mm outwards", "Point, mm",        "",
                           "Diameter, mm",    "Diameter, mm",     "Radius, mm",
                           "Radius, mm",      "Off by up to, mm", "From R, mm"};
    m_amountName->setText(names[way]);
    m_form->setRowVisible(m_amount, way != MoveOnto);
    if (m_amount->text().isEmpty()) {
        const auto faces = picked(PickKind::Face);
        double size = 0.0;
        if ((way == Diameter || way == Radius) && !faces.empty())
            size = (way == Diameter ? 2.0 : 1.0) *
                   makeFaceRef(*model.parts[model.occurrences[faces.front().occurrence].part], faces.front().face).size;
        if (way == MoveBy || way == Round) size = way == MoveBy ? 1.0 : 0.5 * model.targetSize;
        if (way == Simplify) size = 1e-3 * model.targetSize;
        if (size > 0.0) m_amount->setText(QString::fromStdString(readable(size)));
        if (way == Restore) m_amount->setText("0");
    }
    m_amount->setPlaceholderText(way == MoveThrough ? "a picked vertex or edge, or x, y, z"
                                 : way == OneHole   ? "empty: of the opening's own area"
                                                    : QString());
    const auto made = wanted();
    m_step = made ? std::optional(*made) : std::nullopt;
    m_message->setText(made ? QString() : QString::fromStdString(sentence(made.error())));
    m_button->setEnabled(m_step.has_value());
    m_button->setText(way == Round      ? "Round them"
                      : way == Diameter ? "Set the diameter"
                      : way == OneHole  ? "Make it round"
                      : way == Radius   ? "Set the radius"
                      : way == Simplify ? "Make simple"
                      : way == Restore  ? "Put back"
                                        : "Move");
    emit stepChanged();
}

Result<double> ChangePanel::length(bool signedToo) const {
    QString typed = m_amount->text().trimmed();
    typed.replace(QChar(0x2212), '-').remove(QChar(0x2009));
    const bool minus = signedToo && typed.startsWith('-');
    auto made = parseLength(typed.mid(minus ? 1 : 0).toStdString(), Unit::Millimetre, m_session.model().targetSize);
    if (made && minus) *made = -*made;
    return made;
}

Result<BenchStep> ChangePanel::wanted() const {
    const auto way = static_cast<Way>(m_way->currentIndex());
    const Model& model = m_session.model();
    if (model.parts.empty()) return lacking("Open a file first.");
    const auto partOf = [&](const Pick& pick) { return model.occurrences[pick.occurrence].part; };
    std::vector<FaceRef> faces;
    std::set<std::pair<std::size_t, int>> seen;
    const std::vector<Pick> facePicks = picked(PickKind::Face);
    for (const Pick& pick : facePicks)
        if (seen.insert({partOf(pick), pick.face}).second)
            faces.push_back(makeFaceRef(*model.parts[partOf(pick)], pick.face));
    std::vector<std::string> parts;
    for (const std::size_t part : m_session.places().selectedParts()) parts.push_back(model.parts[part]->name);
    const auto step = [](const char* operation, const auto& parameters) {
        return BenchStep{operation, Json(parameters)};
    };
    switch (way) {
        case MoveBy: {
            if (faces.empty()) return lacking("Pick the faces to move.");
            const auto by = length(true);
            if (!by) return tl::unexpected(by.error());
            if (*by == 0.0) return lacking("Say by how much: outwards, or with a minus inwards.");
            return step("shave.moveFaces", shave::MoveFaces{faces, *by, {}, {}});
        }
        case MoveThrough: {
            if (faces.empty()) return lacking("Pick the faces to move.");
            // Told in the coordinates of the part of the first face.
            const gp_Trsf& placement = model.occurrences[facePicks.front().occurrence].placement;
            gp_Pnt point;
            bool known = false;
            for (const PickKind kind : {PickKind::Vertex, PickKind::Edge})
                for (const Pick& pick : picked(kind))
                    if (const auto read = measure::readingOf(model, pick); read.centre) {
                        point = *read.centre;
                        known = true;
                    }
            if (const QStringList typed = m_amount->text().split(',', Qt::SkipEmptyParts); typed.size() == 3) {
                std::array<bool, 3> fine{};
                std::array<double, 3> at{};
                for (int i = 0; i < 3; ++i) at[i] = typed[i].trimmed().replace(QChar(0x2212), '-').toDouble(&fine[i]);
                if (!fine[0] || !fine[1] || !fine[2])
                    return lacking("A point is three numbers with commas between them.");
                point = gp_Pnt(at[0], at[1], at[2]);
                known = true;
            } else if (!m_amount->text().trimmed().isEmpty()) {
                return lacking("A point is three numbers with commas between them.");
            }
            if (!known) return lacking("Pick a vertex or an edge too, or type a point: x, y, z.");
            point.Transform(placement.Inverted());
            return step("shave.moveFaces",
                        shave::MoveFaces{faces, 0.0, std::array{point.X(), point.Y(), point.Z()}, {}});
        }
        case MoveOnto: {
            if (faces.size() < 2) return lacking("Pick the faces to move, and last the one that they are to lie on.");
            const FaceRef onto = faces.back();
            faces.pop_back();
            return step("shave.moveFaces", shave::MoveFaces{faces, 0.0, {}, onto});
        }
        case Diameter: {
            if (faces.empty()) return lacking("Pick a wall of each hole.");
            const auto diameter = length(false);
            if (!diameter) return tl::unexpected(diameter.error());
            if (*diameter <= 0.0) return lacking("A diameter is more than nothing.");
            return step("shave.resizeHoles", shave::ResizeHoles{faces, *diameter});
        }
        case OneHole: {
            if (faces.empty()) return lacking("Pick a wall of each opening.");
            if (m_amount->text().trimmed().isEmpty())
                return step("shave.roundOpenings", shave::RoundOpenings{faces, 0.0});
            const auto diameter = length(false);
            if (!diameter) return tl::unexpected(diameter.error());
            return step("shave.roundOpenings", shave::RoundOpenings{faces, *diameter});
        }
        case Radius: {
            if (faces.empty()) return lacking("Pick a face of each round.");
            const auto radius = length(false);
            if (!radius) return tl::unexpected(radius.error());
            if (*radius <= 0.0) return lacking("A radius is more than nothing.");
            return step("shave.resizeRounds", shave::ResizeRounds{faces, *radius});
        }
        case Round: {
            const auto edges = picked(PickKind::Edge);
            if (edges.empty()) return lacking("Pick the edges to round.");
            shave::AddRounds rounds;
            rounds.part = model.parts[partOf(edges.front())]->name;
            std::set<int> done;
            for (const Pick& pick : edges) {
                if (partOf(pick) != partOf(edges.front()))
                    return lacking("The edges belong to several parts: take one part at a time.");
                const auto read = measure::readingOf(model, pick);
                if (!done.insert(pick.edge).second || !read.centre) continue;
                const EdgeProbe probe(model.parts[partOf(pick)]->incidence().edge(pick.edge));
                const gp_Pnt at = probe.value(0.5 * (probe.first() + probe.last()));
                rounds.edges.push_back({at.X(), at.Y(), at.Z()});
            }
            const auto radius = length(false);
            if (!radius) return tl::unexpected(radius.error());
            if (*radius <= 0.0) return lacking("A radius is more than nothing.");
            rounds.radius = *radius;
            return step("shave.addRounds", rounds);
        }
        case Simplify: {
            const auto upTo = length(false);
            if (!upTo) return tl::unexpected(upTo.error());
            return step("shave.simplifyFaces", shave::SimplifyFaces{parts, *upTo});
        }
        case Restore: {
            const auto from = length(false);
            if (!from) return tl::unexpected(from.error());
            return step("shave.restoreRounds", shave::RestoreRounds{parts, *from});
        }
    }
    return lacking("Choose what to change.");
}

void ChangePanel::tell(const QStringList& reasons, bool nothing) {
    if (m_step && !reasons.isEmpty()) m_message->setText(reasons.join('\n'));
    m_button->setEnabled(m_step && !nothing);
    adjustSize();
}

void ChangePanel::apply() {
    if (!m_step) return;
    const BenchStep taken = *m_step;
    m_message->clear();
    m_session.apply(taken.operation, taken.parameters);
}

}  // namespace rasoir::app
