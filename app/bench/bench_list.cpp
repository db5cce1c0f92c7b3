#include "bench/bench_list.h"

#include "bench/divide_bench.h"
#include "bench/intake_bench.h"
#include "bench/join_bench.h"
#include "bench/mend_bench.h"
#include "bench/plain_bench.h"
#include "bench/shave_bench.h"

namespace rasoir::app {

std::vector<Bench*> makeBenches(Session& session, Selection& selection, QWidget* parent) {
    return {
        new IntakeBench(session, parent),
        new MendBench(session, parent),
        new ShaveBench(session, parent),
        new PlainBench("Reduce", "What is thin, what is slender?",
                       "Will make midsurfaces with thickness, beams with sections, and lumps of parts.", session,
                       parent),
        new DivideBench(session, selection, parent),
        new JoinBench(session, parent),
        new PlainBench("Hand over", "Can the next program use it?",
                       "Will group, check and export; until then, File > Export writes STEP and BREP.", session,
                       parent),
    };
}

}  // namespace rasoir::app
