// The benches in the order people work: name, question, and what is done there.
#pragma once
#include <array>
#include <QString>

namespace rasoir::app {

struct BenchInfo {
    const char* name;
    const char* question;
    const char* does;  ///< a line: what is or will be done here
    bool built;
};

inline constexpr std::array<BenchInfo, 7> benches = {{
    {"Intake", "What did I receive?",
     "Takes stock: parts, copies, unit, materials, what is odd; sets aside what does not matter.", true},
    {"Mend", "Is it watertight?",
     "Finds open edges, gaps, missing and doubled faces; stitches, patches and makes solids.", true},
    {"Shave", "What is too small to mesh?",
     "Finds holes, slots, rounds and chamfers and takes them away; marks will follow.", true},
    {"Reduce", "What is thin, what is slender?",
     "Will make midsurfaces with thickness, beams with sections, and lumps of parts.", false},
    {"Divide", "Where do loads and materials change?", "Will cut bodies, faces and edges, and make sections.", false},
    {"Join", "What touches what?", "Will find contact, gaps and overlaps between parts, and make them share faces.",
     false},
    {"Hand over", "Can the next program use it?",
     "Will group, check and export; until then, File > Export writes STEP and BREP.", false},
}};

}  // namespace rasoir::app
