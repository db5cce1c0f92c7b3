// Can the next program use it? What it would choke on, by severity, with the place and the reason.
#pragma once
#include "common/problem.h"
#include "common/progress.h"
#include "model/model.h"

namespace rasoir::handover {

enum class Severity { Note, Warning, Error };
const char* severityName(Severity severity);

struct CheckFinding {
    Severity severity = Severity::Note;
    std::string what;   ///< a sentence
    std::string why;    ///< why it matters to the next program
    std::string bench;  ///< where it is mended: "Mend", "Shave", "Join", ...; empty: nowhere
    std::size_t part = 0;
    std::optional<std::size_t> place;  ///< occurrence; none: the part as such
    std::vector<Entity> things;
    std::optional<gp_Pnt> where;  ///< [mm, part coordinates]
};

/// Looks at everything that is not set aside: closed and sound bodies, tolerances, edges and faces that are small
/// against the target size, wedges, pointed corners, faces that meet nearly smoothly, materials, thickness of sheets,
/// units that nobody stated, empty groups and rules whose answer changed, a solid beside its own sheet, joints that do
/// not match, and bodies that touch, nearly touch or overlap undecided. Worst first; within one severity in the order
/// of the parts. Cost: that of the kernel's check, part by part.
[[nodiscard]] Result<std::vector<CheckFinding>> check(const Model& model, Progress& progress);

}  // namespace rasoir::handover
