// What the Shave bench lists, whatever survey found it: one shape for holes, rounds, reliefs, threads, corners and
// small things.
#pragma once
#include <optional>
#include <string>
#include <vector>

#include "session.h"

namespace rasoir::app {

enum class ShaveKind {
    Holes,
    Rounds,
    Slots,
    Chamfers,
    Bores,
    Threads,
    Faces,
    Edges,
    Corners,
    Marks,
    Bosses,
    Pockets,
    Cutouts,
    Notches,
    Ribs,
    Steps
};  ///< from Marks on: reliefs
constexpr std::size_t shaveKinds = 16;

/// One finding of a part, by its place in the list that knows it.
struct ShaveKey {
    std::size_t part;
    enum class Of { Hole, Strip, Relief, Thread, Small, Corner } of;  ///< in which of the lists known of the part
    std::size_t index;                                                ///< in that list
};

/// What a row, a mark and a preview need to know of any of them.
struct ShaveFeature {
    ShaveKind kind = ShaveKind::Holes;
    double size = 0.0, extent = 0.0;  ///< [mm] what limits are compared with; how much to show of it
    const std::vector<int>* faces = nullptr;
    int face = 0;  ///< the one that stands for it in a step; 0: its middle does
    gp_Pnt middle;
    std::string words;
    double elements = 0.0, volume = 0.0;  ///< what it costs; [mm^3] what the body gains when it goes
    bool weighed = true;                  ///< the volume is known beforehand
    bool byRule = true;                   ///< goes with the limit, not only when it is asked for
};

/// None where the list has no such entry (any more).
[[nodiscard]] std::optional<ShaveFeature> shaveFeature(const PartKnowledge& known, const ShaveKey& key);
[[nodiscard]] std::vector<ShaveKey> shaveKeys(const PartKnowledge& known, std::size_t part);
/// Edges that are all there is of it: the rim of a sheet's hole, a short edge, the arc of a corner.
[[nodiscard]] std::vector<int> shaveEdges(const PartKnowledge& known, const ShaveKey& key);
[[nodiscard]] const char* shaveListName(ShaveKey::Of of);

}  // namespace rasoir::app
