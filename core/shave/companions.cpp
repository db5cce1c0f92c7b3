#include "shave/companions.h"

#include <fmt/format.h>

#include <set>

#include "common/text.h"
#include "geometry/integrals.h"
#include "shave/strips.h"

namespace rasoir::shave {
namespace {

using survey::StripChain;

bool meet(const std::vector<int>& a, const std::vector<int>& b) {
    return std::any_of(a.begin(), a.end(), [&](int f) { return std::find(b.begin(), b.end(), f) != b.end(); });
}

/// Chains that rest on faces of `on`, and those that rest on these.
std::set<std::size_t> restingOn(const std::vector<int>& on, const std::vector<StripChain>& known) {
    std::set<std::size_t> found;
    std::vector<int> below = on;
    for (bool grew = true; grew;) {
        grew = false;
        for (std::size_t c = 0; c < known.size(); ++c)
            if (!found.contains(c) && !meet(known[c].faces, on) && meet(known[c].along, below)) {
                found.insert(c);
                below.insert(below.end(), known[c].faces.begin(), known[c].faces.end());
                grew = true;
            }
    }
    return found;
}

std::vector<int> besides(const Part& part, const std::vector<int>& faces) {
    std::set<int> found;
    for (const int f : faces)
        for (const int g : part.incidence().neighboursOf(f)) found.insert(g);
    for (const int f : faces) found.erase(f);
    return {found.begin(), found.end()};
}

}  // namespace

std::vector<int> Companions::allFaces() const {
    std::vector<int> all = faces;
    for (const StripChain& chain : chains) all.insert(all.end(), chain.faces.begin(), chain.faces.end());
    std::sort(all.begin(), all.end());
    return all;
}

std::optional<Companions> companionsOf(const Part& part, const heal::Wanted& stayed,
                                       const std::vector<StripChain>& known, double tolerance, Progress& progress) {
    const auto helps = [&](const Companions& with) {
        std::vector<StripChain> chains = with.chains;
        std::vector<heal::Wanted> wanted = wantedFor(chains);
        heal::Wanted own = stayed;
        if (own.strips.empty() && !with.faces.empty()) {
            own.faces.insert(own.faces.end(), with.faces.begin(), with.faces.end());
            own.change *= 3.0;
        }
        if (!own.strips.empty())
            for (const StripChain& chain : chains) own.layer = std::max(own.layer, chain.layer + 1);
        else
            for (heal::Wanted& one : wanted) one.layer = -1;  // faces that are no rounds go last
        wanted.push_back(own);
        const auto done = heal::removeFaces(part, wanted, tolerance, progress);
        return done && !done->shape.IsNull() && done->items.back().has_value();
    };
    const auto told = [](const Companions& with, const char* how) {
        std::string words;
        for (const StripChain& chain : with.chains)
            words += fmt::format("{}the {} mm {}, {},", words.empty() ? "" : " and ",
                                 (chain.kind == survey::StripKind::Round ? "R " : "") + readable(chain.size),
                                 chain.kind == survey::StripKind::Round ? "round" : "chamfer", survey::describe(chain));
        if (!with.faces.empty())
            words += fmt::format("{}{} beside it", words.empty() ? "" : " and ", counted(with.faces.size(), "face"));
        if (with.chains.size() > 2) words = fmt::format("{} rounds and chamfers", with.chains.size());
        return with.chains.empty() ? words : words + how;
    };
    // What rests on it.
    std::set<std::size_t> taken = restingOn(stayed.faces, known);
    const auto asCompanions = [&](const std::set<std::size_t>& which) {
        Companions with;
        for (const std::size_t c : which) with.chains.push_back(known[c]);
        return with;
    };
    if (!taken.empty() && taken.size() <= 40) {
        Companions with = asCompanions(taken);
        if (helps(with)) {
            with.words = told(with, with.chains.size() == 1 ? " that rests on it" : " that rest on it");
            return with;
        }
    }
    // And what ends at it.
    const std::size_t before = taken.size();
    const std::vector<int> beside = besides(part, stayed.faces);
    for (std::size_t c = 0; c < known.size(); ++c)
        if (!meet(known[c].faces, stayed.faces) && meet(known[c].faces, beside)) {
            taken.insert(c);
            const auto more = restingOn(known[c].faces, known);
            for (const std::size_t m : more)
                if (!meet(known[m].faces, stayed.faces)) taken.insert(m);
        }
    if (taken.size() > before && taken.size() <= 40) {
        Companions with = asCompanions(taken);
        if (helps(with)) {
            with.words = told(with, with.chains.size() == 1 ? " that ends at it" : " that rest on it or end at it");
            return with;
        }
    }
    if (!stayed.strips.empty()) return std::nullopt;
    // Small faces beside it.
    double own = 0.0;
    for (const int f : stayed.faces) own += areaOf(part.incidence().face(f));
    Companions with;
    for (const int f : beside)
        if (areaOf(part.incidence().face(f)) < 0.5 * own) with.faces.push_back(f);
    if (!with.faces.empty() && with.faces.size() <= 24 && helps(with)) {
        with.words = told(with, "");
        return with;
    }
    return std::nullopt;
}

}  // namespace rasoir::shave
