#include "model/places.h"

#include <fmt/format.h>

#include <cctype>
#include <charconv>

namespace rasoir {

bool fitsPattern(const std::string& name, const std::string& pattern) {
    const auto same = [](char a, char b) {
        return std::tolower(static_cast<unsigned char>(a)) == std::tolower(static_cast<unsigned char>(b));
    };
    // The last star is the only place to come back to: linear in practice, never exponential.
    std::size_t n = 0, p = 0, star = std::string::npos, resume = 0;
    while (n < name.size()) {
        if (p < pattern.size() && pattern[p] == '*') {
            star = p++;
            resume = n;
        } else if (p < pattern.size() && (pattern[p] == '?' || same(pattern[p], name[n]))) {
            ++p;
            ++n;
        } else if (star != std::string::npos) {
            p = star + 1;
            n = ++resume;
        } else {
            return false;
        }
    }
    while (p < pattern.size() && pattern[p] == '*') ++p;
    return p == pattern.size();
}

namespace {

tl::unexpected<Problem> unknown(const std::string& name) {
    return fail(ProblemKind::NotPossible, fmt::format("There is no part \"{}\" here.", name),
                "Rename the part, or edit the step.", {name, {}, {}});
}

std::vector<std::size_t> partsFitting(const Model& model, const std::string& name) {
    std::vector<std::size_t> found;
    for (std::size_t p = 0; p < model.parts.size(); ++p)
        if (model.parts[p]->name == name) found.push_back(p);
    if (found.empty() && name.find_first_of("*?") != std::string::npos)
        for (std::size_t p = 0; p < model.parts.size(); ++p)
            if (fitsPattern(model.parts[p]->name, name)) found.push_back(p);
    return found;
}

}  // namespace

Result<std::vector<std::size_t>> partsNamed(const Model& model, const std::vector<std::string>& names) {
    std::set<std::size_t> all;
    for (const std::string& name : names) {
        const auto found = partsFitting(model, name);
        if (found.empty()) return unknown(name);
        all.insert(found.begin(), found.end());
    }
    return std::vector<std::size_t>(all.begin(), all.end());
}

Result<std::vector<std::size_t>> placesNamed(const Model& model, const std::vector<std::string>& names) {
    std::set<std::size_t> all;
    std::vector<std::vector<std::size_t>> placesOf(model.parts.size());
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) placesOf[model.occurrences[o].part].push_back(o);
    for (const std::string& name : names) {
        const auto whole = partsFitting(model, name);
        for (const std::size_t p : whole) all.insert(placesOf[p].begin(), placesOf[p].end());
        if (!whole.empty()) continue;
        const std::size_t mark = name.rfind(" #");
        std::size_t number = 0;
        if (mark != std::string::npos) std::from_chars(name.data() + mark + 2, name.data() + name.size(), number);
        const auto parts =
            mark == std::string::npos ? std::vector<std::size_t>{} : partsFitting(model, name.substr(0, mark));
        if (parts.size() != 1 || number == 0) return unknown(name);
        const auto& places = placesOf[parts.front()];
        if (number > places.size())
            return fail(ProblemKind::NotPossible,
                        fmt::format("\"{}\" stands in {} here; there is no number {}.", name.substr(0, mark),
                                    counted(places.size(), "place"), number),
                        "Edit the step.", {name.substr(0, mark), {}, {}});
        all.insert(places[number - 1]);
    }
    return std::vector<std::size_t>(all.begin(), all.end());
}

Result<std::vector<std::size_t>> placesMeant(const Model& model, const std::vector<std::string>& names,
                                             const std::vector<std::string>& apart) {
    std::vector<std::size_t> places;
    if (names.empty()) {
        for (std::size_t o = 0; o < model.occurrences.size(); ++o)
            if (!model.occurrences[o].aside) places.push_back(o);
    } else {
        auto named = placesNamed(model, names);
        if (!named) return named;
        places = std::move(*named);
    }
    if (apart.empty()) return places;
    const auto left = placesNamed(model, apart);
    if (!left) return left;
    std::erase_if(places, [&left](std::size_t o) { return std::binary_search(left->begin(), left->end(), o); });
    return places;
}

std::string placeName(const Model& model, std::size_t occurrence) {
    const std::size_t part = model.occurrences[occurrence].part;
    std::size_t number = 0, count = 0;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        if (model.occurrences[o].part != part) continue;
        ++count;
        if (o == occurrence) number = count;
    }
    return count == 1 ? model.parts[part]->name : fmt::format("{} #{}", model.parts[part]->name, number);
}

std::vector<std::string> placeNames(const Model& model, const std::vector<std::size_t>& occurrences) {
    const std::set<std::size_t> wanted(occurrences.begin(), occurrences.end());
    std::vector<std::size_t> count(model.parts.size(), 0), chosen(model.parts.size(), 0);
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        ++count[model.occurrences[o].part];
        chosen[model.occurrences[o].part] += wanted.contains(o);
    }
    std::vector<std::string> names;
    std::vector<std::size_t> number(model.parts.size(), 0);
    std::set<std::size_t> named;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const std::size_t part = model.occurrences[o].part;
        ++number[part];
        if (!wanted.contains(o)) continue;
        if (chosen[part] < count[part])
            names.push_back(fmt::format("{} #{}", model.parts[part]->name, number[part]));
        else if (named.insert(part).second)
            names.push_back(model.parts[part]->name);
    }
    return names;
}

std::map<std::pair<std::size_t, std::size_t>, PairingKind> pairedPlaces(const Model& model) {
    std::map<std::pair<std::size_t, std::size_t>, PairingKind> all;
    const auto placesOf = [&model](const std::string& name) {
        std::set<std::size_t> places;
        for (const Group& group : model.groups)
            if (group.name == name)
                for (const Member& member : group.members)
                    for (std::size_t o = 0; o < model.occurrences.size(); ++o)
                        if (model.parts[model.occurrences[o].part]->id == member.part &&
                            (member.place == everyPlace || member.place == model.occurrences[o].id))
                            places.insert(o);
        return places;
    };
    for (const Pairing& pairing : model.pairings)
        for (const std::size_t a : placesOf(pairing.first))
            for (const std::size_t b : placesOf(pairing.second))
                if (a != b) all.emplace(std::minmax(a, b), pairing.kind);
    return all;
}

std::string freeName(const Model& model, const std::string& wanted) {
    std::set<std::string> taken;
    for (const auto& part : model.parts) taken.insert(part->name);
    std::string name = wanted;
    for (int i = 2; taken.contains(name); ++i) name = fmt::format("{} ({})", wanted, i);
    return name;
}

Model aloneInPlace(std::shared_ptr<const Part> part) {
    Model model;
    model.occurrences.push_back({0, gp_Trsf(), part->name, {}, std::nullopt});
    model.parts.push_back(std::move(part));
    return model;
}

}  // namespace rasoir
