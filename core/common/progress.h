// Progress and cancellation of long work, shared between the thread that works and the one that watches.
#pragma once
#include <atomic>
#include <functional>
#include <string>
#include <utility>

namespace rasoir {

/// One per piece of work. The worker calls report() and looks at cancelled(); any thread may call cancel().
class Progress {
public:
    using Listener = std::function<void(double fraction, const std::string& doing)>;  ///< called on the worker's thread

    Progress() = default;
    explicit Progress(Listener listener) : m_listener(std::move(listener)) {}

    void report(double fraction, const std::string& doing) const {
        if (m_listener) m_listener(fraction, doing);
    }
    void cancel() { m_cancelled = true; }
    [[nodiscard]] bool cancelled() const { return m_cancelled; }

private:
    Listener m_listener;
    std::atomic<bool> m_cancelled{false};
};

}  // namespace rasoir
