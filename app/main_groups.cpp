// Groups from any bench: what is picked, what a list has chosen and what a step made get a name, and are picked again
// by it. A group is a step of the ledger like any other, so that it replays.
#include <QtWidgets>

#include "bench/bench_bar.h"
#include "main_window.h"
#include "select/members.h"
#include "selection.h"

namespace rasoir::app {

void MainWindow::askGroup() {
    if (m_selection->picks().empty() && currentBench()->chosenThings().empty()) {
        say(fail(ProblemKind::NotPossible, "Nothing is picked, and nothing is chosen in the list.",
                 "Pick what belongs together."));
        return;
    }
    bool fine = false;
    const QString name = QInputDialog::getText(this, "Keep the selection", "Name of the group:", QLineEdit::Normal,
                                               QString("group %1").arg(m_session->model().groups.size() + 1), &fine)
                             .trimmed();
    if (fine && !name.isEmpty()) keepGroup(name);
}

void MainWindow::keepGroup(const QString& name) {
    const auto& picked = m_selection->picks();
    const bool listed = picked.empty();  // what a survey found is named instead of removed
    const auto things = select::thingsOf(m_session->model(), listed ? currentBench()->chosenThings() : picked);
    Json parameters{{"name", name.toStdString()}, {"things", things}};
    if (listed) parameters["purpose"] = "kept";
    if (!things.empty()) m_session->apply("handover.group", std::move(parameters));
}

void MainWindow::recallGroup(const QString& name) {
    const auto& groups = m_session->model().groups;
    const auto group =
        std::find_if(groups.begin(), groups.end(), [&](const Group& one) { return one.name == name.toStdString(); });
    if (group != groups.end()) m_selection->set(select::picksOf(m_session->model(), group->members));
}

void MainWindow::selectMade() {
    const std::size_t steps = m_session->marker();
    const auto* lineage = steps == 0 ? nullptr : m_session->work().lineageOfStep(steps - 1);
    const std::set<Member> made =
        lineage == nullptr ? std::set<Member>() : select::facesMade(m_session->model(), *lineage);
    if (made.empty())
        say(fail(ProblemKind::NotPossible, "The step before the marker made no new face."));
    else
        m_selection->set(select::picksOf(m_session->model(), made));
}

}  // namespace rasoir::app
