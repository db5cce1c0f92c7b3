#include "thickness_panel.h"

#include <QVBoxLayout>

#include "stage/stage.h"

namespace rasoir::app {

ThicknessPanel::ThicknessPanel(Session& session, Stage& stage, QWidget* parent)
    : QDialog(parent), m_session(session), m_stage(stage) {
    setWindowTitle("Wall thickness");
    setModal(false);
    setMinimumWidth(300);
    auto* column = new QVBoxLayout(this);
    m_summary = new QLabel(this);
    m_summary->setObjectName("thicknessSummary");
    m_summary->setWordWrap(true);
    m_cutBar = new CutBar("Walls up to", "", this);
    m_cutBar->setMinimumHeight(190);
    m_summary->setMinimumHeight(56);
    column->addWidget(m_cutBar, 1);
    column->addWidget(m_summary);
    resize(320, 290);
    m_cutBar->setMeasure("mm", true, "thin");
    connect(m_cutBar, &CutBar::limitChanged, this, [this](double limit) {
        m_limitChosen = true;
        m_stage.setThicknessLimit(limit);
        refresh();
    });
    connect(&session, &Session::knowledgeChanged, this, [this] {
        if (isVisible()) refresh();
    });
    connect(&session, &Session::opened, this, [this] {
        m_limitChosen = false;
        hide();
    });
    connect(&session, &Session::changed, this, [this] {
        if (isVisible()) m_session.requestThickness(m_session.places().selectedParts());
    });
}

void ThicknessPanel::showEvent(QShowEvent* event) {
    QDialog::showEvent(event);
    m_session.requestThickness(m_session.places().selectedParts());
    m_stage.setColourBy(ColourBy::Thickness);
    refresh();
    emit shownChanged();
}

void ThicknessPanel::hideEvent(QHideEvent* event) {
    QDialog::hideEvent(event);
    if (m_stage.colourBy() == ColourBy::Thickness) m_stage.setColourBy(ColourBy::Bone);
    emit shownChanged();
}

void ThicknessPanel::refresh() {
    std::vector<CutItem> items;
    double least = 0.0, thinArea = 0.0, area = 0.0;
    const Model& model = m_session.model();
    const auto selected = m_session.places().selectedParts();
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const PartKnowledge* known = m_session.knowledge(p);
        if (known == nullptr || !known->thickness || model.isAside(p) || (!selected.empty() && !selected.contains(p)))
            continue;
        for (const double thickness : known->thickness->thicknessOfFace)
            if (thickness > 0.0) items.push_back({thickness, false});
        for (const auto& sample : known->thickness->samples) {
            if (sample.thickness <= 0.0) continue;
            least = least == 0.0 ? sample.thickness : std::min(least, sample.thickness);
            area += sample.area;
            thinArea += sample.thickness <= m_cutBar->limit() * (1.0 + 1e-6) ? sample.area : 0.0;
        }
    }
    const std::size_t faces = items.size();
    m_cutBar->setTargetSize(model.targetSize);
    m_cutBar->setItems(std::move(items));
    if (!m_limitChosen) {
        m_cutBar->setLimit(2.0 * model.targetSize);
        m_stage.setThicknessLimit(m_cutBar->limit());
    }
    m_summary->setText(faces == 0 ? QString("Measuring…")
                                  : QString("%1 faces measured, thinnest wall %2 mm. %3 % of the skin is thinner than "
                                            "the blade: brass, the thinner the deeper.")
                                        .arg(QString::fromStdString(readable(static_cast<double>(faces), 0)),
                                             QString::fromStdString(readable(least)))
                                        .arg(area > 0.0 ? 100.0 * thinArea / area : 0.0, 0, 'f', 1));
}

}  // namespace rasoir::app
