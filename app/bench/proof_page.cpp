#include "bench/proof_page.h"

#include <QHeaderView>
#include <QVBoxLayout>

#include "bench/bench_page.h"
#include "stage/part_presentation.h"
#include "whole_surveys.h"
#include "words.h"

namespace rasoir::app {

ProofPage::ProofPage(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    m_list = twoColumns(this, "proofs", "Sheets and beams against their solids", {"What stands for a solid", "Volume"});
    m_list->setRootIsDecorated(true);
    m_list->setWordWrap(true);
    m_list->setUniformRowHeights(false);
    column->addWidget(m_list, 1);
    connect(m_list, &QTreeWidget::currentItemChanged, this, [this] { emit changed(); });
    connect(m_list, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
        const QVariant place = item->data(0, Qt::UserRole + 1);
        if (!place.isValid()) return;
        const QVariantList at = place.toList();
        emit closerWanted(gp_Pnt(at[0].toDouble(), at[1].toDouble(), at[2].toDouble()),
                          6.0 * m_session.model().targetSize);
    });
    connect(&m_session.surveys().proofs, &WholeSurveyBase::changed, this, [this] {
        m_stale = true;
        refresh();
        emit changed();
    });
}

std::optional<std::size_t> ProofPage::chosen() const {
    const QTreeWidgetItem* item = m_list->currentItem();
    if (item == nullptr) return std::nullopt;
    while (item->parent() != nullptr) item = item->parent();
    return item->data(0, Qt::UserRole).toULongLong();
}

void ProofPage::refresh() {
    if (isVisible()) m_session.surveys().proofs.request();
    const auto was = chosen();
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    if (!m_session.surveys().proofs.found()) return;
    const Model& model = m_session.model();
    for (std::size_t i = 0; i < m_session.surveys().proofs.found()->size(); ++i) {
        const Proven& one = (*m_session.surveys().proofs.found())[i];
        const std::size_t first = one.standIn.parts.front();
        if (first >= model.parts.size()) continue;
        gp_Trsf placed;
        for (const Occurrence& place : model.occurrences)
            if (place.part == first) {
                placed = place.placement;
                break;
            }
        auto* item = new QTreeWidgetItem(m_list, {text(model.parts[first]->name), QString()});
        item->setData(0, Qt::UserRole, static_cast<qulonglong>(i));
        if (!one.proof) {
            auto* why = new QTreeWidgetItem(item, {text(sentence(one.proof.error())), QString()});
            why->setFirstColumnSpanned(true);
            continue;
        }
        const reduce::Proof& proof = *one.proof;
        item->setText(1, number(100.0 * proof.drawnVolume / std::max(proof.solidVolume, 1e-300)) + " %");
        item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
        const auto lines = reduce::proofLines(proof);
        // Those that tell of a place lead there.
        std::map<std::size_t, reduce::Worst> places{{3, proof.left}, {4, proof.beyond}};
        if (proof.sheets) places.emplace(5, proof.thickness);
        for (std::size_t line = 0; line < lines.size(); ++line) {
            auto* row = new QTreeWidgetItem(item, {text(lines[line]), QString()});
            row->setFirstColumnSpanned(true);
            if (const auto place = places.find(line); place != places.end() && place->second.by > 0.0) {
                const gp_Pnt at = place->second.at.Transformed(placed);
                row->setData(0, Qt::UserRole + 1, QVariantList{at.X(), at.Y(), at.Z()});
                row->setToolTip(0, "Enter or a double click goes there");
            }
        }
        if (const auto walls = reduce::wallLines(proof); !walls.empty()) {
            auto* all =
                new QTreeWidgetItem(item, {text(counted(walls.size(), "wall")) + ", the least covered first", {}});
            all->setFirstColumnSpanned(true);
            for (std::size_t w = 0; w < walls.size(); ++w) {
                auto* row = new QTreeWidgetItem(all, {text(walls[w]), QString()});
                row->setFirstColumnSpanned(true);
                const gp_Pnt at = proof.walls[w].where.Transformed(placed);
                row->setData(0, Qt::UserRole + 1, QVariantList{at.X(), at.Y(), at.Z()});
                row->setToolTip(0, "Enter or a double click goes there");
            }
        }
        item->setExpanded(m_session.surveys().proofs.found()->size() <= 3 || was == i);
        if (was == i) m_list->setCurrentItem(item);
    }
    wrapRows(m_list, 0);
}

void ProofPage::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    wrapRows(m_list, 0);
}

QString ProofPage::answer() const {
    if (m_session.isEmpty()) return "Open a file; what has become of its solids will be shown here.";
    if (!m_session.surveys().proofs.found()) return "Holding sheets against their solids…";
    if (m_session.surveys().proofs.found()->empty()) return "Nothing has been reduced yet. Make sheets or beams first.";
    return "As thick as they say they are, over the edges of the solids. Brass: what reaches out of them, and free "
           "edges.";
}

BenchPreview ProofPage::preview() const {
    BenchPreview preview;
    if (!m_session.surveys().proofs.found()) return preview;
    const auto only = chosen();
    const Model& model = m_session.model();
    auto drawn = std::make_shared<StageMesh>();
    drawn->plain = true;
    constexpr std::size_t manyPoints = 20000;
    std::size_t points = 0;
    for (std::size_t i = 0; i < m_session.surveys().proofs.found()->size(); ++i) {
        if (only && *only != i) continue;
        const Proven& one = (*m_session.surveys().proofs.found())[i];
        for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
            if (model.occurrences[o].part != one.standIn.parts.front() || m_session.places().isHidden(o)) continue;
            const gp_Trsf& placement = model.occurrences[o].placement;
            const int first = static_cast<int>(drawn->mesh.points.size());
            for (const gp_Pnt& point : one.drawn->points) drawn->mesh.points.push_back(point.Transformed(placement));
            for (std::size_t t = 0; t < one.drawn->triangles.size(); ++t) {
                const auto& corners = one.drawn->triangles[t];
                drawn->mesh.triangles.push_back({first + corners[0], first + corners[1], first + corners[2]});
                drawn->bad.push_back(one.proof && t < one.proof->reachesOut.size() && one.proof->reachesOut[t]);
            }
            // Where sheets end: in the open, or at what they should meet.
            for (const std::size_t p : one.standIn.parts) {
                const Incidence& sheet = model.parts[p]->incidence();
                for (int e = 1;
                     model.parts[p]->kind() == BodyKind::Sheet && e <= sheet.edgeCount() && points < manyPoints; ++e) {
                    if (sheet.facesAt(e) != 1) continue;
                    StageLine line;
                    line.style = StageLine::Style::Brass;
                    line.points = edgePoints(sheet, e);
                    points += line.points.size();
                    for (gp_Pnt& point : line.points) point.Transform(placement);
                    if (line.points.size() > 1) preview.lines.push_back(std::move(line));
                }
            }
            const Incidence& solid = one.standIn.solid->incidence();
            for (int e = 1; e <= solid.edgeCount() && points < manyPoints; ++e) {
                StageLine line;
                line.style = StageLine::Style::Ghost;
                line.points = edgePoints(solid, e);
                points += line.points.size();
                for (gp_Pnt& point : line.points) point.Transform(placement);
                if (line.points.size() > 1) preview.lines.push_back(std::move(line));
            }
        }
    }
    if (drawn->mesh.triangles.empty()) return preview;
    if (m_stale || m_of != only || !m_drawn) {
        m_drawn = std::move(drawn);
        m_of = only;
        m_stale = false;
    }
    preview.mesh = m_drawn;
    return preview;
}

}  // namespace rasoir::app
