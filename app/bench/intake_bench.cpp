#include "bench/intake_bench.h"

#include <QDrag>
#include <QHeaderView>
#include <QMimeData>
#include <QMouseEvent>
#include <QVBoxLayout>

#include "board/parts_board.h"
#include "glyphs.h"
#include "intake/aside.h"
#include "operations.h"
#include "theme.h"
#include "whole_surveys.h"
#include "words.h"

namespace rasoir::app {
IntakeBench::IntakeBench(Session& session, QWidget* parent)
    : Bench("Intake", "What did I receive?",
            "Takes stock: parts, copies, unit, materials, what is odd; sets aside what does not matter.", session,
            parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 14, 16, 16);
    column->setSpacing(4);
    auto* asked = new QLabel(question(), this);
    asked->setStyleSheet("font-size: 16px; font-weight: 600;");
    m_state = new QLabel(this);
    m_state->setObjectName("intakeState");
    m_state->setWordWrap(true);
    column->addWidget(asked);
    column->addWidget(m_state);
    m_facts = new QLabel(this);
    m_facts->setObjectName("intakeFacts");
    m_facts->setTextFormat(Qt::RichText);
    m_facts->setTextInteractionFlags(Qt::TextSelectableByMouse);
    m_facts->setAccessibleName("Facts");
    column->addWidget(m_facts);
    auto* materialRow = new QHBoxLayout;
    auto* materialLabel = new QLabel("⠿ Material", this);
    materialLabel->setObjectName("materialGrip");
    materialLabel->setCursor(Qt::OpenHandCursor);
    materialLabel->setToolTip("Drag it onto parts of the board to give them this material.");
    materialLabel->installEventFilter(this);
    m_material = new QComboBox(this);
    m_material->setObjectName("material");
    m_material->setAccessibleName("Material of the selected parts");
    m_material->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    materialRow->addWidget(materialLabel);
    materialRow->addWidget(m_material, 1);
    column->addLayout(materialRow);
    column->addSpacing(4);
    m_odd = new QTreeWidget(this);
    m_odd->setObjectName("oddities");
    m_odd->setAccessibleName("What is odd");
    m_odd->setColumnCount(1);
    m_odd->setHeaderHidden(true);
    m_odd->setRootIsDecorated(false);
    m_odd->setWordWrap(true);
    m_odd->setTextElideMode(Qt::ElideNone);
    m_odd->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    column->addWidget(m_odd, 1);
    m_mend = new QPushButton(this);
    m_mend->setObjectName("mendOddity");
    m_mend->hide();
    column->addWidget(m_mend);
    auto* asideRow = new QHBoxLayout;
    auto* asideLabel = new QLabel("Set aside by", this);
    asideLabel->setStyleSheet("font-weight: 600;");
    m_measure = new QComboBox(this);
    m_measure->setObjectName("asideBy");
    m_measure->setAccessibleName("Set parts aside by");
    m_measure->addItems({"volume", "longest side", "mass", "kind: fasteners", "place: inner parts"});
    asideRow->addWidget(asideLabel);
    asideRow->addWidget(m_measure, 1);
    column->addLayout(asideRow);
    m_cutBar = new CutBar("Parts up to", "", this);
    column->addWidget(m_cutBar);
    m_message = new QLabel(this);
    m_message->setObjectName("intakeMessage");
    m_message->setAccessibleName("Result");
    m_message->setWordWrap(true);
    m_message->hide();
    column->addWidget(m_message);
    m_effect = new QLabel(this);
    m_effect->setObjectName("intakeEffect");
    column->addWidget(m_effect);
    m_button = new QPushButton(this);
    m_button->setObjectName("primary");
    m_button->setFixedHeight(40);
    column->addWidget(m_button);

    connect(&m_session.materials(), &MaterialShelf::changed, this, [this] {
        showMessage(m_session.materials().problem());
        refresh();
    });
    connect(m_button, &QPushButton::clicked, this, &IntakeBench::apply);
    connect(m_mend, &QPushButton::clicked, this, &IntakeBench::mendChosen);
    connect(m_material, &QComboBox::textActivated, this, &IntakeBench::assignMaterial);
    connect(m_measure, &QComboBox::currentIndexChanged, this, [this] { refreshAside(); });
    connect(m_cutBar, &CutBar::limitChanged, this, [this](double limit) {
        m_limits[by()] = limit;
        recount();
    });
    connect(m_odd, &QTreeWidget::itemActivated, this, [this] { mendChosen(); });
    connect(m_odd, &QTreeWidget::currentItemChanged, this, [this](QTreeWidgetItem* item) {
        m_mend->hide();
        const auto& report = m_session.report();
        if (item == nullptr || !report) return;
        const auto index = item->data(0, Qt::UserRole).toULongLong();
        if (index >= report->odd.size()) return;
        const survey::OddFinding& finding = report->odd[index];
        emit placesChosen(finding.occurrences);
        if (finding.point) emit selectionCloserWanted();
        if (!finding.operation.empty()) {
            const Operation* operation = findOperation(finding.operation);
            m_mend->setText(operation != nullptr ? text(operation->title) : QString("Do it"));
            m_mend->setToolTip(text(finding.remedy));
            m_mend->show();
        }
    });
    connect(&m_session, &Session::opened, this, [this] {
        m_limits.clear();
        showMessage(m_session.materials().problem());  // empty, unless the user's own materials cannot be used
    });
    connect(&m_session, &Session::changed, this, &IntakeBench::refresh);
    connect(&m_session, &Session::knowledgeChanged, this, &IntakeBench::refresh);
    connect(&m_session.surveys().inner, &WholeSurveyBase::changed, this, &IntakeBench::refresh);
    connect(&m_session, &Session::reportChanged, this, [this] {
        refreshOddities();
        emit stateChanged();
    });
    connect(&m_session.places(), &PlaceView::selectionChanged, this, &IntakeBench::refreshFacts);
    connect(&m_session, &Session::failed, this,
            [this](const Problem& problem) { showMessage("▲ " + text(sentence(problem))); });
    connect(&m_session, &Session::started, this, [this] { m_button->setEnabled(false); });
    connect(&m_session, &Session::finished, this, &IntakeBench::recount);
    connect(&Theme::instance(), &Theme::changed, this, &IntakeBench::refresh);
    refresh();
}

void IntakeBench::showMessage(const QString& message) {
    m_message->setText(message);
    m_message->setStyleSheet(message.startsWith("▲") ? QString("color: %1;").arg(colours().vermilionText.name())
                                                     : QString());
    m_message->setVisible(!message.isEmpty());
}

void IntakeBench::refresh() {
    refreshFacts();
    refreshOddities();
    refreshAside();
}

void IntakeBench::refreshFacts() {
    const Model& model = m_session.model();
    const bool empty = m_session.isEmpty();
    for (QWidget* widget : std::initializer_list<QWidget*>{m_material, m_measure, m_cutBar, m_odd})
        widget->setEnabled(!empty);
    if (empty) {
        m_state->setText("Open a file; what came in will be told here.");
        m_facts->clear();
        return;
    }
    std::size_t aside = 0;
    for (const Occurrence& o : model.occurrences) aside += o.aside;
    const std::size_t copies = model.occurrences.size() - std::min(model.occurrences.size(), model.parts.size());
    m_state->setText(QString("%1 in %2%3%4")
                         .arg(text(counted(model.parts.size(), "part")),
                              text(counted(model.occurrences.size(), "place")),
                              copies > 0 ? QString(", %1").arg(text(counted(copies, "copy", "copies"))) : QString(),
                              aside > 0 ? QString(", %1 aside").arg(aside) : QString()));
    const auto known = m_session.facts();
    if (!known) {
        m_facts->setText("Measuring…");
        return;
    }
    const auto& selected = m_session.places().selected();
    Model shown = model;
    if (!selected.empty()) {
        shown.occurrences.clear();
        for (const std::size_t o : selected) {
            shown.occurrences.push_back(model.occurrences[o]);
            shown.occurrences.changeLast().aside = false;
        }
    }
    const measure::Facts facts = measure::factsOf(shown, *known);
    const measure::MassProperties mass = measure::massOf(shown, *known);
    const QString quiet = colours().quiet.name();
    QString rows;
    const auto row = [&](const QString& name, const QString& value) {
        rows +=
            QString("<tr><td style='color:%1; padding:2px 10px 2px 0'>%2</td><td style='padding:2px 0'>%3</td></tr>")
                .arg(quiet, name, value.toHtmlEscaped());
    };
    const auto parts = m_session.places().selectedParts();
    if (selected.empty())
        row("Unit", model.fileUnit ? text(unitName(*model.fileUnit)) + " in the file, mm here" : "not stated");
    else
        row("Selected", parts.size() == 1 ? text(model.parts[*parts.begin()]->name) +
                                                (selected.size() > 1 ? QString(" ×%1").arg(selected.size()) : QString())
                                          : QString("%1 places of %2 parts").arg(selected.size()).arg(parts.size()));
    row("Size", QString("%1 × %2 × %3 mm")
                    .arg(number(facts.high[0] - facts.low[0]), number(facts.high[1] - facts.low[1]),
                         number(facts.high[2] - facts.low[2])));
    row("Mass", QString("%1, %2 cm³").arg(text(measure::massText(mass.mass, facts)), number(facts.volume / 1000.0)));
    row("Centre",
        QString("%1, %2, %3 mm").arg(number(mass.centre.X()), number(mass.centre.Y()), number(mass.centre.Z())));
    const auto principal = mass.principal();
    // Three figures are enough to look at; the report has them all.
    row("Inertia", QString("%1, %2, %3 kg m²")
                       .arg(1e-6 * principal[0], 0, 'g', 3)
                       .arg(1e-6 * principal[1], 0, 'g', 3)
                       .arg(1e-6 * principal[2], 0, 'g', 3));
    QStringList bodies;
    if (facts.solids > 0) bodies << text(counted(static_cast<std::size_t>(facts.solids), "solid"));
    if (facts.sheets > 0) bodies << text(counted(static_cast<std::size_t>(facts.sheets), "sheet"));
    if (facts.wires > 0) bodies << text(counted(static_cast<std::size_t>(facts.wires), "wire"));
    row("Bodies", QString("%1, %2 faces%3")
                      .arg(bodies.join(", "), number(facts.faces),
                           facts.closed          ? QString(", watertight")
                           : facts.openEdges > 0 ? QString(", %1 open edges").arg(facts.openEdges)
                                                 : QString()));
    m_facts->setText("<table cellspacing='0' width='100%'>" + rows + "</table>");

    // The material all of the selection has, or none.
    std::set<std::string> used;
    for (const Occurrence& o : shown.occurrences) used.insert(model.parts[o.part]->material);
    const QSignalBlocker block(m_material);
    m_material->clear();
    const QString none = QString("none, %1 kg/m³").arg(number(model.density));
    if (used.size() != 1)
        m_material->addItem(used.empty() ? none : QString("several"));
    else if (used.begin()->empty())
        m_material->addItem(none);
    for (const Material& material : m_session.materials().all()) m_material->addItem(text(material.name));
    if (used.size() == 1 && !used.begin()->empty()) {
        int at = m_material->findText(text(*used.begin()));
        if (at < 0) {
            m_material->insertItem(0, text(*used.begin()));
            at = 0;
        }
        m_material->setCurrentIndex(at);
    } else {
        m_material->setCurrentIndex(0);
    }
    m_material->setToolTip(selected.empty() ? "Of all parts. Select parts to give them another."
                                            : "Of the selected parts.");
}

void IntakeBench::refreshOddities() {
    const auto& report = m_session.report();
    m_odd->clear();
    m_mend->hide();
    if (!report || m_session.isEmpty()) return;
    if (report->odd.empty()) {
        auto* item = new QTreeWidgetItem(m_odd, {"Nothing odd."});
        item->setFlags(Qt::ItemIsEnabled);
        item->setIcon(0, glyphIcon(Glyph::Tick, colours().second));
        item->setData(0, Qt::UserRole, static_cast<qulonglong>(-1));
        return;
    }
    for (std::size_t i = 0; i < report->odd.size(); ++i) {
        const survey::OddFinding& finding = report->odd[i];
        auto* item = new QTreeWidgetItem(
            m_odd, {text(finding.what) + (finding.remedy.empty() ? "" : "\n" + text(finding.remedy))});
        item->setData(0, Qt::UserRole, static_cast<qulonglong>(i));
        item->setToolTip(0, text(finding.what));
        // As high as its sentences are: what is odd is read, not guessed from half of it.
        const int width = std::max(160, m_odd->viewport()->width() - 34);
        item->setSizeHint(
            0,
            QSize(0,
                  m_odd->fontMetrics().boundingRect(QRect(0, 0, width, 400), Qt::TextWordWrap, item->text(0)).height() +
                      10));
        const bool trouble = finding.kind != survey::Oddity::SameShape && finding.kind != survey::Oddity::Note;
        item->setIcon(
            0, glyphIcon(trouble ? Glyph::Trouble : Glyph::Lens, trouble ? colours().vermilionText : colours().second));
    }
}

int IntakeBench::openFindings() const {
    const auto& report = m_session.report();
    if (!report) return 0;
    return static_cast<int>(std::count_if(report->odd.begin(), report->odd.end(),
                                          [](const survey::OddFinding& f) { return f.kind != survey::Oddity::Note; }));
}

QString IntakeBench::state() const {
    const int odd = openFindings();
    return stateOr(true, odd > 0 ? QString("%1 odd").arg(odd)
                                 : QString::fromStdString(counted(m_session.model().parts.size(), "part")));
}

BenchPreview IntakeBench::preview() const {
    BenchPreview preview;
    preview.going = m_going;
    return preview;
}

bool IntakeBench::takeLimit(double millimetres) {
    setMeasure(AsideBy::LongestSide);
    return Bench::takeLimit(millimetres);
}

void IntakeBench::mendChosen() {
    const auto& report = m_session.report();
    const QTreeWidgetItem* item = m_odd->currentItem();
    if (!report || item == nullptr) return;
    const auto index = item->data(0, Qt::UserRole).toULongLong();
    if (index >= report->odd.size() || report->odd[index].operation.empty()) return;
    showMessage({});
    m_session.apply(report->odd[index].operation, report->odd[index].parameters);
}

bool IntakeBench::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::MouseMove && watched->objectName() == "materialGrip" &&
        (static_cast<QMouseEvent*>(event)->buttons() & Qt::LeftButton) != 0 &&
        !m_session.assigning(m_material->currentText()).is_null()) {
        auto* carried = new QMimeData;
        carried->setData(PartsBoard::materialMime, m_material->currentText().toUtf8());
        auto* drag = new QDrag(this);  // the platform's drag owns and frees it
        drag->setMimeData(carried);
        drag->exec(Qt::CopyAction);
        return true;
    }
    return QWidget::eventFilter(watched, event);
}

void IntakeBench::assignMaterial(const QString& name) {
    assignMaterialTo(name, {});
}

void IntakeBench::assignMaterialTo(const QString& name, const std::vector<std::string>& parts) {
    Json parameters = m_session.assigning(name);
    if (parameters.is_null() || m_session.isEmpty()) return;
    if (!parts.empty())
        parameters["parts"] = parts;
    else
        for (const std::size_t part : m_session.places().selectedParts())
            parameters["parts"].push_back(m_session.model().parts[part]->name);
    m_session.apply("intake.assignMaterial", parameters);
}

void IntakeBench::setMeasure(AsideBy by) {
    m_measure->setCurrentIndex(static_cast<int>(by));
}

void IntakeBench::refreshAside() {
    const bool sized = by() == AsideBy::Volume || by() == AsideBy::LongestSide || by() == AsideBy::Mass;
    m_cutBar->setVisible(sized);
    const auto facts = m_session.facts();
    const Model& model = m_session.model();
    if (by() == AsideBy::Inner) m_session.surveys().inner.request();
    if (sized && facts) {
        m_cutBar->setMeasure(by() == AsideBy::Volume ? "mm³"
                             : by() == AsideBy::Mass ? "kg"
                                                     : "mm",
                             by() == AsideBy::LongestSide, "aside");
        m_cutBar->setTargetSize(model.targetSize);
        std::vector<CutItem> items;
        double smallest = 0.0;
        for (const Occurrence& o : model.occurrences) {
            const measure::Facts& f = (*facts)[o.part];
            const double size = by() == AsideBy::Volume ? f.volume
                                : by() == AsideBy::Mass
                                    ? measure::massOf(model, *model.parts[o.part], f).mass
                                    : std::max({f.high[0] - f.low[0], f.high[1] - f.low[1], f.high[2] - f.low[2]});
            if (size <= 0.0) continue;
            if (!o.aside) smallest = smallest == 0.0 ? size : std::min(smallest, size);
            items.push_back({size, o.aside});
        }
        m_cutBar->setItems(std::move(items));
        // Left of everything until somebody moves it.
        m_cutBar->setLimit(m_limits.contains(by()) ? m_limits[by()] : 0.0);
    }
    recount();
}

void IntakeBench::recount() {
    const Model& model = m_session.model();
    const auto facts = m_session.facts();
    m_going.clear();
    std::set<std::size_t> fasteners;
    if (by() == AsideBy::Fasteners)
        for (std::size_t p = 0; p < model.parts.size(); ++p)
            if (const PartKnowledge* known = m_session.knowledge(p); known != nullptr && known->fastener)
                fasteners.insert(p);
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const Occurrence& occurrence = model.occurrences[o];
        if (occurrence.aside) continue;
        bool goes = false;
        if (by() == AsideBy::Fasteners) {
            goes = fasteners.contains(occurrence.part);
        } else if (by() == AsideBy::Inner) {
            const auto& inner = m_session.surveys().inner.found();
            goes = inner && std::binary_search(inner->begin(), inner->end(), o);
        } else if (facts && m_limits.contains(by())) {
            const measure::Facts& f = (*facts)[occurrence.part];
            const double size = by() == AsideBy::Volume ? f.volume
                                : by() == AsideBy::Mass
                                    ? measure::massOf(model, *model.parts[occurrence.part], f).mass
                                    : std::max({f.high[0] - f.low[0], f.high[1] - f.low[1], f.high[2] - f.low[2]});
            goes = size > 0.0 && size <= m_cutBar->limit() * (1.0 + 1e-9);
        }
        if (goes) m_going.push_back(o);
    }
    double elements = 0.0, mass = 0.0;
    if (facts) {
        for (const std::size_t o : m_going) elements += (*facts)[model.occurrences[o].part].elements;
        mass = measure::massOf(model, *facts, m_going).mass;
    }
    const QString what = by() == AsideBy::Fasteners ? "fastener" : by() == AsideBy::Inner ? "inner part" : "part";
    if (!m_going.empty()) {
        m_button->setText(QString("Set %1 %2%3 aside").arg(m_going.size()).arg(what, m_going.size() == 1 ? "" : "s"));
        m_effect->setText(QString("less %1 elements, %2 kg").arg(number(std::round(elements)), number(mass)));
    } else {
        const bool sized = by() != AsideBy::Fasteners && by() != AsideBy::Inner;
        m_button->setText(m_session.isEmpty() ? "Nothing to set aside"
                          : sized             ? "Move the blade to set parts aside"
                          : by() == AsideBy::Inner && !m_session.surveys().inner.found()
                              ? QString("Looking for inner parts…")
                              : QString("No %1s here").arg(what));
        m_effect->setText({});
    }
    m_effect->setVisible(!m_going.empty());
    m_button->setEnabled(!m_going.empty() && !m_session.isBusy());
    emit previewChanged();
    emit stateChanged();
}

void IntakeBench::apply() {
    intake::SetAside step;
    switch (by()) {
        case AsideBy::Volume:
            step.measure = "volume";
            break;
        case AsideBy::LongestSide:
            step.measure = "longest side";
            break;
        case AsideBy::Mass:
            step.measure = "mass";
            break;
        case AsideBy::Fasteners:
            step.kinds = {"bolt", "nut", "washer", "pin"};
            break;
        case AsideBy::Inner:
            step.hidden = true;
            break;
    }
    if (!step.measure.empty()) step.upTo = m_cutBar->limit();
    Json parameters;
    to_json(parameters, step);
    showMessage({});
    m_odd->setFocus();  // the button goes dead while it works
    m_session.apply("intake.setAside", parameters);
}

}  // namespace rasoir::app
