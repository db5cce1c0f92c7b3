// The page of the Hand over bench that makes a trial mesh and measures it.
#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QTimer>
#include <QTreeWidget>

#include "bench/bench.h"
#include "bench/cut_bar.h"
#include "stage/mesh_presentation.h"
#include "whole_surveys.h"

namespace rasoir::app {

class MeshPage : public QWidget {
    Q_OBJECT
public:
    MeshPage(Session& session, QWidget* parent);

    void refresh();
    /// What is meshed and how good it is, in words.
    [[nodiscard]] QString answer() const;
    /// The mesh as it is to be drawn, and that of the model as received; null where there is none.
    void addTo(BenchPreview& preview) const;
    [[nodiscard]] bool isMade() const { return m_session.surveys().trialMesh() != nullptr; }
    /// Elements that fall short of the limit; none while there is no mesh.
    [[nodiscard]] std::optional<int> bad() const;
    [[nodiscard]] QTreeWidget* list() const { return m_list; }
    [[nodiscard]] QComboBox* measure() const { return m_measure; }
    [[nodiscard]] QCheckBox* besides() const { return m_besides; }
    [[nodiscard]] CutBar* blade() const { return m_blade; }

signals:
    void changed();
    void wipeWanted(bool on);
    void closerWanted(const gp_Pnt& point, double size);
    void facesWanted(std::size_t part, const std::vector<int>& faces);

private:
    void measureAnew();
    void openRow(int row);
    [[nodiscard]] mesh::Measure chosen() const {
        return mesh::measures[static_cast<std::size_t>(m_measure->currentIndex())];
    }

    Session& m_session;
    QComboBox* m_measure;
    QCheckBox* m_besides;
    CutBar* m_blade;
    QTreeWidget* m_list;
    std::optional<mesh::QualityFigures> m_figures;
    std::shared_ptr<const StageMesh> m_drawn, m_received;
    QTimer m_delay;  // while the blade is dragged, the elements wait until it rests
};

}  // namespace rasoir::app
