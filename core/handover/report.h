// A report for the colleague who asks what was changed, and whether it mattered.
#pragma once
#include <filesystem>
#include <string>

#include "handover/check.h"
#include "handover/report_pictures.h"
#include "measure/effect.h"
#include "model/work.h"

namespace rasoir::handover {

struct ReportOptions {
    bool pictures = true;               ///< as received and now, and a close-up of each step that changed faces
    std::string author, checker, date;  ///< as they are to stand there; empty: not said
    std::vector<NamedSight> views;      ///< each in a picture as received and one as it is now
    bool mesh = false;                  ///< the trial mesh as received and now, measured
    std::vector<std::filesystem::path> exported{};  ///< files that are read again and held against the work
};

/// One page of HTML that needs nothing else: the file as received and as it is, in pictures and numbers; every step
/// with what it did and what it left, and why; groups with their sizes; parts with materials and masses; what the check
/// found. Nothing in it depends on when or where it is made: the same work and options give the same page.
/// `facts` measures what is not known yet. Refuses only when cancelled or where a part cannot be measured.
[[nodiscard]] Result<std::string> reportOf(const Work& work, const ReportOptions& options, measure::FactsCache& facts,
                                           Progress& progress);

}  // namespace rasoir::handover
