// The panel of benches that are not built yet: the question, and what will be done there.
#pragma once
#include "bench/bench.h"

namespace rasoir::app {

class PlainBench : public Bench {
    Q_OBJECT
public:
    PlainBench(QString name, QString question, QString does, Session& session, QWidget* parent);
    [[nodiscard]] QString state() const override { return "not yet built"; }
};

}  // namespace rasoir::app
