#include "common/guard.h"

#include <csignal>
#include <OSD.hxx>

namespace rasoir {

void catchKernelSignals() {
    static thread_local bool done = false;
    if (done) return;
    done = true;
    // The kernel's handler takes SIGINT too, which belongs to the user.
    struct sigaction interrupt {};
    sigaction(SIGINT, nullptr, &interrupt);
    OSD::SetSignal(false);
    sigaction(SIGINT, &interrupt, nullptr);
}

}  // namespace rasoir
