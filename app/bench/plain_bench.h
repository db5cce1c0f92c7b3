// The panel of Intake, and of benches that are not built yet: the question, and what there is to say.
#pragma once
#include <QLabel>
#include <QWidget>

#include "bench/bench_list.h"
#include "session.h"

namespace rasoir::app {

class PlainBench : public QWidget {
    Q_OBJECT
public:
    PlainBench(Session& session, const BenchInfo& info, QWidget* parent = nullptr);

private:
    void refresh();
    Session& m_session;
    BenchInfo m_info;
    QLabel *m_state, *m_facts;
};

}  // namespace rasoir::app
