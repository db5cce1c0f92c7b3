#include "bench/shave_features.h"

#include <array>

namespace rasoir::app {

std::optional<ShaveFeature> shaveFeature(const PartKnowledge& known, const ShaveKey& key) {
    ShaveFeature feature;
    if (key.of == ShaveKey::Of::Strip) {
        if (!known.strips || key.index >= known.strips->size()) return std::nullopt;
        const survey::StripChain& chain = (*known.strips)[key.index];
        feature.kind = chain.kind == survey::StripKind::Round ? ShaveKind::Rounds : ShaveKind::Chamfers;
        feature.size = chain.size;
        feature.extent = std::max(6.0 * chain.size, std::min(chain.length, 20.0 * chain.size));
        feature.faces = &chain.faces;
        feature.middle = chain.middle;
        feature.words = survey::describe(chain);
        feature.elements = chain.elements;
        feature.volume = chain.gain;
        feature.byRule = !chain.bend;
    } else if (key.of == ShaveKey::Of::Relief) {
        if (!known.reliefs || key.index >= known.reliefs->size()) return std::nullopt;
        const survey::Relief& relief = (*known.reliefs)[key.index];
        constexpr std::array<ShaveKind, 7> kinds{ShaveKind::Marks,   ShaveKind::Bosses,  ShaveKind::Pockets,
                                                 ShaveKind::Cutouts, ShaveKind::Notches, ShaveKind::Ribs,
                                                 ShaveKind::Steps};
        feature.kind = kinds[static_cast<std::size_t>(relief.kind)];
        feature.size = relief.size();
        feature.extent = 2.0 * std::max(relief.breadth, relief.height);
        feature.faces = &relief.faces;
        feature.face = relief.wall;
        feature.middle = relief.middle;
        feature.words = survey::describe(relief);
        feature.elements = relief.elements;
        feature.volume = relief.gain;
    } else if (key.of == ShaveKey::Of::Thread) {
        if (!known.threads || key.index >= known.threads->size()) return std::nullopt;
        const survey::Thread& thread = (*known.threads)[key.index];
        feature.kind = ShaveKind::Threads;
        feature.size = thread.major;
        feature.extent = 2.0 * std::max(thread.length(), thread.major);
        feature.faces = &thread.faces;
        feature.middle = thread.middle;
        feature.words = survey::describe(thread);
        feature.elements = thread.elements;
        feature.weighed = false;
    } else if (key.of == ShaveKey::Of::Corner) {
        if (key.index >= known.corners.size()) return std::nullopt;
        const survey::SheetCorner& corner = known.corners[key.index];
        static const std::vector<int> none;
        feature.kind = ShaveKind::Corners;
        feature.size = corner.radius;
        feature.extent = 6.0 * corner.radius;
        feature.faces = &none;
        feature.middle = corner.middle;
        feature.words = survey::describe(corner);
        feature.elements = corner.elements;
        feature.weighed = false;
    } else if (key.of == ShaveKey::Of::Small) {
        if (!known.small || key.index >= known.small->size()) return std::nullopt;
        const survey::Small& small = (*known.small)[key.index];
        feature.kind = small.kind == survey::SmallKind::Face ? ShaveKind::Faces : ShaveKind::Edges;
        feature.size = small.size;
        feature.extent = 4.0 * std::max(small.size, small.length);
        feature.faces = &small.faces;
        feature.middle = small.middle;
        feature.words = survey::describe(small);
        feature.elements = small.elements;
        feature.weighed = false;
    } else {
        if (!known.holes || key.index >= known.holes->size()) return std::nullopt;
        const survey::Hole& hole = (*known.holes)[key.index];
        feature.kind = hole.kind == survey::HoleKind::Slot ? ShaveKind::Slots
                       : hole.bore                         ? ShaveKind::Bores
                                                           : ShaveKind::Holes;
        feature.size = hole.size;
        feature.extent = 2.0 * std::max(hole.depth, hole.size);
        feature.faces = &hole.faces;
        feature.middle = hole.middle;
        feature.words = survey::describe(hole);
        feature.elements = hole.elements;
        feature.volume = hole.volume;
        feature.byRule = feature.kind != ShaveKind::Bores;  // a bore goes only when it is asked for by name
    }
    if (feature.face == 0 && !feature.faces->empty()) feature.face = feature.faces->front();
    return feature;
}

std::vector<ShaveKey> shaveKeys(const PartKnowledge& known, std::size_t part) {
    std::vector<ShaveKey> keys;
    if (known.holes)
        for (std::size_t h = 0; h < known.holes->size(); ++h) keys.push_back({part, ShaveKey::Of::Hole, h});
    if (known.strips)
        for (std::size_t c = 0; c < known.strips->size(); ++c) keys.push_back({part, ShaveKey::Of::Strip, c});
    if (known.reliefs)
        for (std::size_t r = 0; r < known.reliefs->size(); ++r) keys.push_back({part, ShaveKey::Of::Relief, r});
    if (known.threads)
        for (std::size_t t = 0; t < known.threads->size(); ++t) keys.push_back({part, ShaveKey::Of::Thread, t});
    for (std::size_t c = 0; c < known.corners.size(); ++c) keys.push_back({part, ShaveKey::Of::Corner, c});
    if (known.small)
        for (std::size_t s = 0; s < known.small->size(); ++s) keys.push_back({part, ShaveKey::Of::Small, s});
    return keys;
}

std::vector<int> shaveEdges(const PartKnowledge& known, const ShaveKey& key) {
    switch (key.of) {
        case ShaveKey::Of::Hole:
            return known.holes && key.index < known.holes->size() ? (*known.holes)[key.index].rim : std::vector<int>();
        case ShaveKey::Of::Small:
            return known.small && key.index < known.small->size() &&
                           (*known.small)[key.index].kind == survey::SmallKind::Edge
                       ? std::vector{(*known.small)[key.index].number}
                       : std::vector<int>();
        case ShaveKey::Of::Corner:
            return key.index < known.corners.size() ? known.corners[key.index].arcs : std::vector<int>();
        default:
            return {};
    }
}

const char* shaveListName(ShaveKey::Of of) {
    switch (of) {
        case ShaveKey::Of::Hole:
            return "hole";
        case ShaveKey::Of::Strip:
            return "strip";
        case ShaveKey::Of::Relief:
            return "relief";
        case ShaveKey::Of::Thread:
            return "thread";
        case ShaveKey::Of::Small:
            return "small";
        case ShaveKey::Of::Corner:
            return "corner";
    }
    return "hole";
}

}  // namespace rasoir::app
