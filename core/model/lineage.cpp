#include "model/lineage.h"

#include <algorithm>
#include <map>
#include <set>

namespace rasoir {
namespace {

/// Links that say the same pair twice become one, which is changed or reversed when either is.
void settle(std::vector<Link>& links) {
    std::sort(links.begin(), links.end());
    std::vector<Link> once;
    for (const Link& link : links) {
        if (once.empty() || once.back().before != link.before || once.back().after != link.after) {
            once.push_back(link);
        } else {
            once.back().changed |= link.changed;
            once.back().reversed |= link.reversed;
        }
    }
    links = std::move(once);
}

std::vector<Link> product(const std::vector<Link>& first, const std::vector<Link>& second) {
    const Descents onward(second);
    std::vector<Link> all;
    for (const Link& link : first)
        for (const Link& next : onward.heirsOf(link.after))
            all.push_back({link.before, next.after, link.changed || next.changed, link.reversed != next.reversed});
    settle(all);
    return all;
}

bool lessBefore(const Link& a, const Link& b) {
    return a.before < b.before;
}
bool lessAfter(const Link& a, const Link& b) {
    return a.after < b.after;
}

}  // namespace

const char* entityKindName(EntityKind kind) {
    switch (kind) {
        case EntityKind::Body:
            return "body";
        case EntityKind::Face:
            return "face";
        case EntityKind::Edge:
            return "edge";
        case EntityKind::Vertex:
            return "vertex";
    }
    return "";
}

Descents::Descents(std::span<const Link> links)
    : m_byBefore(links.begin(), links.end()), m_byAfter(links.begin(), links.end()) {
    std::stable_sort(m_byBefore.begin(), m_byBefore.end(), lessBefore);
    std::stable_sort(m_byAfter.begin(), m_byAfter.end(), lessAfter);
}

std::span<const Link> Descents::heirsOf(int before) const {
    const auto [from, to] = std::equal_range(m_byBefore.begin(), m_byBefore.end(), Link{before, 0}, lessBefore);
    return {from, to};
}

std::span<const Link> Descents::ancestorsOf(int after) const {
    const auto [from, to] = std::equal_range(m_byAfter.begin(), m_byAfter.end(), Link{0, after}, lessAfter);
    return {from, to};
}

Descent Descents::fateOf(int before) const {
    const auto heirs = heirsOf(before);
    if (heirs.empty()) return Descent::Gone;
    if (heirs.size() > 1) return Descent::Split;
    if (ancestorsOf(heirs.front().after).size() > 1) return Descent::Merged;
    return heirs.front().changed ? Descent::Changed : Descent::Kept;
}

Descent Descents::originOf(int after) const {
    const auto ancestors = ancestorsOf(after);
    if (ancestors.empty()) return Descent::Made;
    if (ancestors.size() > 1) return Descent::Merged;
    if (heirsOf(ancestors.front().before).size() > 1) return Descent::Split;
    return ancestors.front().changed ? Descent::Changed : Descent::Kept;
}

PartLineage chained(const PartLineage& first, const PartLineage& second) {
    PartLineage both{first.part, second.into, first.untouched && second.untouched, {}};
    for (const EntityKind kind : entityKinds) {
        if (first.untouched)
            both.of(kind) = second.of(kind);
        else if (second.untouched)
            both.of(kind) = first.of(kind);
        else
            both.of(kind) = product(first.of(kind), second.of(kind));
    }
    return both;
}

std::vector<PartLineage> chained(const std::vector<PartLineage>& first, const std::vector<PartLineage>& second) {
    std::multimap<std::size_t, const PartLineage*> onward;
    for (const PartLineage& own : second) onward.emplace(own.part, &own);
    std::map<std::pair<std::size_t, std::size_t>, PartLineage> all;
    for (const PartLineage& own : first) {
        const auto [from, to] = onward.equal_range(own.into);
        for (auto it = from; it != to; ++it) {
            PartLineage both = chained(own, *it->second);
            const auto [known, fresh] = all.try_emplace({both.part, both.into}, both);
            if (fresh) continue;
            // Two ways lead from one part to the other: over two parts in between that were joined again.
            for (const EntityKind kind : entityKinds) {
                auto& links = known->second.of(kind);
                links.insert(links.end(), both.of(kind).begin(), both.of(kind).end());
                settle(links);
            }
        }
    }
    std::vector<PartLineage> result;
    for (auto& [pair, own] : all) {
        const bool related = own.untouched || std::any_of(own.links.begin(), own.links.end(),
                                                          [](const auto& links) { return !links.empty(); });
        if (related) result.push_back(std::move(own));
    }
    return result;
}

std::vector<PartLineage> followed(std::vector<PartLineage> first, const std::vector<PartLineage>& second) {
    std::set<std::size_t> touched, known;
    for (const PartLineage& own : second) touched.insert(own.part);
    for (PartLineage& own : first) {
        if (own.into == PartLineage::samePlace) own.into = own.part;
        known.insert(own.into);
    }
    const auto changed = std::stable_partition(first.begin(), first.end(),
                                               [&](const PartLineage& own) { return !touched.contains(own.into); });
    const std::vector<PartLineage> both(changed, first.end());
    first.erase(changed, first.end());
    for (PartLineage& own : chained(both, second)) first.push_back(std::move(own));
    // What only the second one changed.
    for (const PartLineage& own : second)
        if (!known.contains(own.part)) first.push_back(own);
    return first;
}

}  // namespace rasoir
