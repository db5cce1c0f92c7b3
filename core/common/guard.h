// The one place where kernel exceptions and signals raised by bad data become Problems.
#pragma once
#include <new>
#include <Standard_ErrorHandler.hxx>
#include <Standard_Failure.hxx>
#include <stdexcept>

#include "common/problem.h"

namespace rasoir {

/// Makes the kernel turn SIGSEGV, SIGFPE and the like, raised inside `guarded`, into exceptions. Call once per thread
/// that runs core work; calling it again is cheap. Pressing Ctrl+C keeps its usual meaning.
void catchKernelSignals();

/// Runs `work` (returning Result<T>); whatever it throws comes back as a Problem of kind Internal whose sentence begins
/// with `doing`. Memory held by kernel frames that a signal jumped over is lost, the caller's model is not.
template <class Work>
auto guarded(const std::string& doing, Work&& work) -> decltype(work()) {
    catchKernelSignals();
    try {
        OCC_CATCH_SIGNALS
        return work();
    } catch (const Standard_Failure& failure) {
        return fail(
            ProblemKind::Internal,
            doing + " stopped inside the geometry library (" + std::string(failure.DynamicType()->Name()) + ").",
            "The data may be damaged; nothing was changed.");
    } catch (const std::bad_alloc&) {
        return fail(ProblemKind::Internal, doing + " ran out of memory.", "Close other models and try again.");
    } catch (const std::exception& exception) {
        return fail(ProblemKind::Internal, doing + " stopped: " + exception.what() + ".", "Nothing was changed.");
    }
}

}  // namespace rasoir
