// The panel of benches that are not built yet: the question, and what will be done there.
#pragma once
#include <QWidget>

#include "bench/bench_list.h"

namespace rasoir::app {

class PlainBench : public QWidget {
    Q_OBJECT
public:
    explicit PlainBench(const BenchInfo& info, QWidget* parent = nullptr);
};

}  // namespace rasoir::app
