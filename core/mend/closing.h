// What closes a skin: doubles out, gaps joined, overruns cut, openings patched, solids made. Of one part each; checked,
// told item by item.
#pragma once
#include "mend/change.h"
#include "mend/mend.h"
#include "mend/stitch.h"

namespace rasoir::mend {

[[nodiscard]] Result<Change> stitched(const Part& part, const StitchWanted& wanted, Progress& progress);
[[nodiscard]] Result<Change> withoutDoubles(const Part& part, double targetSize, double exact, Progress& progress);
/// Patches the openings that `step` names; all but rims of sheets where it names none.
[[nodiscard]] Result<Change> patched(const Part& part, const PatchOpenings& step, double targetSize, double exact,
                                     Progress& progress);
[[nodiscard]] Result<Change> solidsOf(const Part& part);
/// [mm] up to where gaps of this part close without swallowing anything.
double safeLimitOf(const Part& part, double targetSize, double exact, Progress& progress);
/// Cuts back what runs farther than `least` [mm] past its neighbours and joins it there; what cannot be cut is made
/// anew between them.
[[nodiscard]] Result<Change> withoutOverruns(const Part& part, double upTo, double least, double targetSize,
                                             double exact, Progress& progress);
/// The same of all but sheets, where a face that reaches past a rib is a flange, not a mistake.
[[nodiscard]] Result<Change> overrunsCut(const Part& part, double upTo, double least, double targetSize, double exact,
                                         Progress& progress);

}  // namespace rasoir::mend
