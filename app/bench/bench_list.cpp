#include "bench/bench_list.h"

#include "bench/divide_bench.h"
#include "bench/handover_bench.h"
#include "bench/intake_bench.h"
#include "bench/join_bench.h"
#include "bench/mend_bench.h"
#include "bench/reduce_bench.h"
#include "bench/shave_bench.h"
#include "bench/wrapped_rows.h"

namespace rasoir::app {

std::vector<Bench*> makeBenches(Session& session, Selection& selection, QWidget* parent) {
    std::vector<Bench*> benches{
        new IntakeBench(session, parent),
        new MendBench(session, parent),
        new ShaveBench(session, parent),
        new ReduceBench(session, parent),
        new DivideBench(session, selection, parent),
        new JoinBench(session, parent),
        new HandoverBench(session, parent),
    };
    for (Bench* bench : benches) wrapLists(bench);
    return benches;
}

}  // namespace rasoir::app
