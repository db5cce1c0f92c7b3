// Our Progress as the kernel's translators want it.
#pragma once
#include <Message_ProgressIndicator.hxx>
#include <Message_ProgressScope.hxx>

#include "common/progress.h"

namespace rasoir::exchange {

class KernelProgress : public Message_ProgressIndicator {
public:
    KernelProgress(Progress& progress, std::string doing, double from, double to)
        : m_progress(progress), m_doing(std::move(doing)), m_from(from), m_to(to) {}

    Standard_Boolean UserBreak() override { return m_progress.cancelled(); }
    void Show(const Message_ProgressScope&, Standard_Boolean) override {
        m_progress.report(m_from + (m_to - m_from) * GetPosition(), m_doing);
    }

private:
    Progress& m_progress;
    std::string m_doing;
    double m_from, m_to;
};

}  // namespace rasoir::exchange
