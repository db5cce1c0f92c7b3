// A page of a bench that asks for things picked on the stage and a few fields, and makes a step of them.
#pragma once
#include <Bnd_Box.hxx>
#include <QLineEdit>
#include <QWidget>

#include "bench/action_foot.h"
#include "select/pick.h"
#include "stage/stage_overlay.h"

namespace rasoir::app {

class PickPage : public QWidget {
    Q_OBJECT
public:
    PickPage(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {}
    /// What is picked, and the places that are selected by name (empty: everything).
    void setPicks(const std::vector<select::Pick>& picks, std::vector<std::string> places);
    [[nodiscard]] virtual std::optional<BenchStep> step() const = 0;
    [[nodiscard]] virtual QString words() const = 0;  ///< on the button, also where there is no step yet
    [[nodiscard]] virtual std::vector<StageLine> lines() const { return {}; }
    [[nodiscard]] virtual std::vector<StageHandle> handles() const { return {}; }
    virtual void handleMoved(int, double) {}  ///< one of its handles was dragged [mm]
    virtual void triedOut(const Outcome*) {}  ///< see Bench
    virtual void clicked(const gp_Pnt&) {}    ///< on the stage, at that point of the model
    virtual void refresh() {}

signals:
    void changed();
    void lit();  ///< only what is drawn has changed, not the step
    void picksWanted(const std::vector<rasoir::select::Pick>& picks);

protected:
    [[nodiscard]] const Part& partOf(const select::Pick& pick) const;
    [[nodiscard]] const gp_Trsf& placementOf(const select::Pick& pick) const;
    [[nodiscard]] std::vector<select::Pick> picked(select::PickKind kind) const;
    [[nodiscard]] std::optional<double> numberIn(const QLineEdit* edit) const;  ///< [mm], may be negative
    /// What surrounds the places selected by name, or everything; void where nothing is shown.
    [[nodiscard]] Bnd_Box boxOfPlaces() const;
    QLineEdit* field(QWidget* parent, const char* name, const QString& spoken, const QString& start);

    Session& m_session;
    std::vector<select::Pick> m_picks;
    std::vector<std::string> m_places;
};

}  // namespace rasoir::app
