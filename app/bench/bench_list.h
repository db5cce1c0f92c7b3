// The benches of the window, in the order people work. A new bench is a class and a line in bench_list.cpp.
#pragma once
#include <vector>

#include "bench/bench.h"

namespace rasoir::app {

class Selection;

/// All benches, made as children of `parent`.
[[nodiscard]] std::vector<Bench*> makeBenches(Session& session, Selection& selection, QWidget* parent);

}  // namespace rasoir::app
