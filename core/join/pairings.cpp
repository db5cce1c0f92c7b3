#include "join/pairings.h"

#include <fmt/format.h>

#include <set>

#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "join/contacts.h"
#include "join/pairs.h"
#include "model/places.h"

// A contact of faces that touch is made by joining the two bodies and then keeping the common faces as two groups
// instead of as joints: the faces are parted at each other's outline, and each body stays free. Faces across a gap are
// taken as they are, since there is no common outline.

namespace rasoir::join {
namespace {

using PlacePair = std::pair<std::size_t, std::size_t>;  // the lesser first

PlacePair inOrder(std::size_t a, std::size_t b) {
    return {std::min(a, b), std::max(a, b)};
}

/// What the survey found of one pair of places.
struct Found {
    double gap = 1e300;  // [mm] least
    double depth = 0.0;  // [mm] of what has passed the other
    double area = 0.0;   // [mm^2] about
    bool touching = false, apart = false;
    std::set<int> first, second;  // faces, by side
};

std::string freePairingName(const Model& model, const std::string& wanted) {
    std::string name = wanted;
    const auto taken = [&](const std::string& one) {
        return std::any_of(model.pairings.begin(), model.pairings.end(),
                           [&](const Pairing& pairing) { return pairing.name == one; });
    };
    for (int i = 2; taken(name); ++i) name = fmt::format("{} {}", wanted, i);
    return name;
}

class ContactMaker {
public:
    ContactMaker(const Model& received, const MakeContact& step, Progress& progress)
        : m_step(step), m_progress(progress) {
        m_outcome.model = received;
        m_outcome.model.giveIds();
    }

    Result<Outcome> run() {
        if (auto fine = find(); !fine) return tl::unexpected(fine.error());
        if (m_found.empty())
            return fail(ProblemKind::NothingToDo, "None of these bodies touches another.",
                        "Take a wider limit, or look at the near misses.");
        for (const auto& [pair, found] : m_found) {
            if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            const Model& model = m_outcome.model;
            const std::string a = placeName(model, pair.first), b = placeName(model, pair.second);
            std::set<int> first = found.first, second = found.second;
            if (m_step.parted && found.touching && !found.apart)
                if (auto parted = part(pair, first, second); !parted) {
                    // Faces that cannot be parted are still in contact: as they are.
                    if (parted.error().kind == ProblemKind::Cancelled) return tl::unexpected(parted.error());
                    m_outcome.notes.push_back(
                        fmt::format("The faces of \"{}\" and \"{}\" were taken whole: {}", a, b, parted.error().what));
                }
            keep(pair, a, b, found, first, second);
        }
        m_outcome.summary = fmt::format(fmt::runtime(m_step.link ? "Tie {} by links" : "Keep {} as contact"),
                                        counted(m_found.size(), "pair of bodies", "pairs of bodies"));
        return std::move(m_outcome);
    }

private:
    const MakeContact& m_step;
    Progress& m_progress;
    Outcome m_outcome;
    std::map<PlacePair, Found> m_found;

    Result<std::set<PlacePair>> wantedPairs() const {
        std::set<PlacePair> wanted;
        for (const auto& [a, b] : m_step.pairs) {
            const auto first = placesNamed(m_outcome.model, {a}), second = placesNamed(m_outcome.model, {b});
            if (!first) return tl::unexpected(first.error());
            if (!second) return tl::unexpected(second.error());
            for (const std::size_t p : *first)
                for (const std::size_t q : *second)
                    if (p != q) wanted.insert(inOrder(p, q));
        }
        return wanted;
    }

    Result<void> find() {
        const auto meant = placesMeant(m_outcome.model, m_step.places);
        if (!meant) return tl::unexpected(meant.error());
        const SafeLimit safe = safeLimit(m_outcome.model, *meant);
        if (!(m_step.upTo >= 0.0) || !std::isfinite(m_step.upTo))
            return fail(ProblemKind::BadInput, "The widest gap must be zero or more.");
        if (m_step.upTo > safe.mm * (1.0 + Tolerance::rounding))
            return fail(ProblemKind::NotPossible,
                        fmt::format("A gap of {} mm is beyond what is safe to take for a contact ({} mm, {}).",
                                    readable(m_step.upTo), readable(safe.mm), safe.why),
                        "Take a smaller limit.");
        if (m_step.friction && !(*m_step.friction >= 0.0 && *m_step.friction <= 100.0))
            return fail(ProblemKind::BadInput, "A coefficient of friction is a number from 0 up.");
        const auto wanted = wantedPairs();
        if (!wanted) return tl::unexpected(wanted.error());
        Model seen = m_outcome.model;
        for (std::size_t o = 0; o < seen.occurrences.size(); ++o)
            seen.occurrences.change(o).aside = !std::binary_search(meant->begin(), meant->end(), o);
        const auto report = findContacts(seen, {m_step.upTo}, m_progress);
        if (!report) return tl::unexpected(report.error());
        std::set<PlacePair> joined;
        for (const Joint& joint : m_outcome.model.joints)
            for (const JointUse& a : joint.uses)
                for (const JointUse& b : joint.uses)
                    if (const auto p = m_outcome.model.placeOf(a.place), q = m_outcome.model.placeOf(b.place);
                        joint.kind == EntityKind::Face && p && q && *p < *q)
                        joined.insert({*p, *q});
        for (const Contact& contact : report->contacts) {
            const PlacePair pair{contact.placeA, contact.placeB};
            if (joined.contains(pair)) continue;
            if (!wanted->empty() && !wanted->contains(pair)) continue;
            Found& found = m_found[pair];
            found.area += contact.area;
            if (contact.past)
                found.depth = std::max(found.depth, contact.widest);
            else
                found.gap = std::min(found.gap, contact.gap);
            (contact.kind == ContactKind::Touching ? found.touching : found.apart) = true;
            found.first.insert(contact.faceA);
            found.second.insert(contact.faceB);
        }
        return {};
    }

    /// Parts the faces of two places at each other's outline; the sets become what they have in common then.
    Result<void> part(const PlacePair& pair, std::set<int>& first, std::set<int>& second) {
        Pairs joining;
        joining.places = {placeName(m_outcome.model, pair.first), placeName(m_outcome.model, pair.second)};
        std::vector<Joint> kept = m_outcome.model.joints;
        auto made = joinPairs(m_outcome.model, joining, m_progress);
        if (!made) return tl::unexpected(made.error());
        std::set<int> a, b;
        const PlaceId idA = m_outcome.model.occurrences[pair.first].id,
                      idB = m_outcome.model.occurrences[pair.second].id;
        // Those that joining has just made: others speak of faces that either has in common with somebody else.
        const std::vector<Joint>& joints = made->model.joints;
        for (std::size_t j = joints.size() - made->jointsMade; j < joints.size(); ++j) {
            if (joints[j].kind != EntityKind::Face) continue;
            for (const JointUse& use : joints[j].uses) {
                if (use.place == idA) a.insert(use.number);
                if (use.place == idB) b.insert(use.number);
            }
        }
        if (a.empty() || b.empty()) return fail(ProblemKind::NotPossible, "they have no face in common.");
        first = std::move(a);
        second = std::move(b);
        // Joints of these two with others are made of edges that may be parted now; what settles the step tells.
        made->model.joints = std::move(kept);
        made->model.giveIds();
        carry(*made, pair);
        return {};
    }

    /// Takes over what joining did to two parts, and renumbers the groups that this step has made before.
    void carry(Outcome& made, const PlacePair& pair) {
        for (const PartLineage& own : made.lineage) {
            const PartId before = m_outcome.model.parts[own.part]->id, after = made.model.parts[own.into]->id;
            const auto relation = own.of(EntityKind::Face);
            for (Group& group : made.model.groups) {
                if (!m_fresh.contains(group.name)) continue;
                std::set<Member> members;
                for (const Member& member : group.members) {
                    const bool here = member.part == before && (member.place == made.model.occurrences[pair.first].id ||
                                                                member.place == made.model.occurrences[pair.second].id);
                    if (!here) {
                        members.insert(member);
                        continue;
                    }
                    for (const Link& link : relation)
                        if (link.before == member.entity.number && link.after > 0)
                            members.insert({after, member.place, {EntityKind::Face, link.after}});
                }
                group.members = std::move(members);
            }
            // The lineage of the whole step goes from the parts as they were received.
            const auto known = std::find_if(m_outcome.lineage.begin(), m_outcome.lineage.end(),
                                            [&](const PartLineage& one) { return one.into == own.part; });
            if (known == m_outcome.lineage.end()) {
                m_outcome.lineage.push_back(own);
            } else {
                PartLineage chain = chained(*known, own);
                chain.part = known->part;
                chain.into = own.into;
                if (own.into == own.part)
                    *known = std::move(chain);
                else
                    m_outcome.lineage.push_back(std::move(chain));
            }
        }
        m_outcome.model = std::move(made.model);
        for (std::string& note : made.notes) m_outcome.notes.push_back(std::move(note));
    }

    void keep(const PlacePair& pair, const std::string& a, const std::string& b, const Found& found,
              const std::set<int>& first, const std::set<int>& second) {
        Model& model = m_outcome.model;
        const std::string wanted = m_step.name.empty() ? fmt::format("{} to {}", a, b) : m_step.name;
        const std::string name = m_step.name.empty() ? wanted : freePairingName(model, wanted);
        const auto side = [&](std::size_t place, const std::set<int>& faces, const std::string& own) {
            const Occurrence& at = model.occurrences[place];
            Group group{
                fmt::format("{}, {}", name, own), m_step.link ? "link" : "contact", std::nullopt, {}, std::nullopt};
            for (const int face : faces)
                group.members.insert({model.parts[at.part]->id, at.id, {EntityKind::Face, face}});
            m_fresh.insert(group.name);
            const std::string known = group.name;
            putByName(model.groups, std::move(group));
            return known;
        };
        Pairing pairing{name,
                        m_step.link ? PairingKind::Link : PairingKind::Contact,
                        side(pair.first, first, a),
                        side(pair.second, second, b),
                        m_step.behaviour,
                        m_step.friction,
                        found.depth > 0.0 ? -found.depth : found.gap};
        const std::string how = pairing.gap < 0.0 ? fmt::format("interference {} mm", readable(-pairing.gap))
                                : pairing.gap > 10.0 * model.samePoint()
                                    ? fmt::format("gap {} mm", readable(pairing.gap))
                                    : std::string("touching");
        m_outcome.items.push_back(
            {fmt::format("{}: {}, {} and {}", name, how, counted(first.size(), "face"), counted(second.size(), "face")),
             true,
             {},
             found.area});
        putByName(model.pairings, std::move(pairing));
    }

    std::set<std::string> m_fresh;  // groups that this step has made
};

}  // namespace

std::vector<ParameterInfo> MakeContact::infos() {
    return {{"places", "list of names", "", "Parts or places; empty: all that is not set aside.", Json::array()},
            {"pairs", "list of pairs of names", "", "Only these pairs; empty: all that touch.", Json::array()},
            {"upTo", "number", "mm", "Widest gap, and deepest overlap, that is a contact; 0: what touches.", 0.0},
            {"parted", "yes or no", "", "Part faces that touch at each other's outline.", true},
            {"behaviour", "text", "", "bonded, sliding, ...: for the next program.", ""},
            {"friction", "any", "", "Coefficient, a number; null: not given.", nullptr},
            {"name", "text", "", "Of the contact; of several, followed by a number.", ""},
            {"link", "yes or no", "", "The two sides move together: links instead of contacts.", false}};
}
void to_json(Json& json, const MakeContact& step) {
    json = Json{{"upTo", step.upTo}};
    if (!step.places.empty()) json["places"] = step.places;
    for (const auto& [a, b] : step.pairs) json["pairs"].push_back({a, b});
    if (!step.parted) json["parted"] = false;
    if (!step.behaviour.empty()) json["behaviour"] = step.behaviour;
    if (step.friction) json["friction"] = *step.friction;
    if (!step.name.empty()) json["name"] = step.name;
    if (step.link) json["link"] = true;
}
void from_json(const Json& json, MakeContact& step) {
    step.places = json.value("places", std::vector<std::string>{});
    for (const Json& pair : json.value("pairs", Json::array())) {
        if (!pair.is_array() || pair.size() != 2) throw std::invalid_argument("a pair is two names");
        step.pairs.emplace_back(pair[0].get<std::string>(), pair[1].get<std::string>());
    }
    step.upTo = json.value("upTo", 0.0);
    step.parted = json.value("parted", true);
    step.behaviour = json.value("behaviour", "");
    if (json.contains("friction") && !json.at("friction").is_null()) step.friction = json.at("friction").get<double>();
    step.name = json.value("name", "");
    step.link = json.value("link", false);
}

Result<Outcome> makeContact(const Model& model, const MakeContact& step, Progress& progress) {
    return ContactMaker(model, step, progress).run();
}

std::vector<ParameterInfo> MakeLink::infos() {
    return {{"name", "text", "", "Of the link.", ""},
            {"behaviour", "text", "", "rigid, spring, ...: for the next program.", "rigid"},
            {"first", "list of things", "", "Picked things of one side.", Json::array()},
            {"second", "list of things", "", "And of the other.", Json::array()},
            {"firstGroup", "text", "", "Or a group that there is.", ""},
            {"secondGroup", "text", "", "Or a group that there is.", ""},
            {"drop", "yes or no", "", "Forget the contact or link of that name.", false}};
}
void to_json(Json& json, const MakeLink& step) {
    json = Json{{"name", step.name}};
    if (step.drop) {
        json["drop"] = true;
        return;
    }
    json["behaviour"] = step.behaviour;
    if (!step.first.empty()) json["first"] = step.first;
    if (!step.second.empty()) json["second"] = step.second;
    if (!step.firstGroup.empty()) json["firstGroup"] = step.firstGroup;
    if (!step.secondGroup.empty()) json["secondGroup"] = step.secondGroup;
}
void from_json(const Json& json, MakeLink& step) {
    step.name = json.at("name").get<std::string>();
    step.behaviour = json.value("behaviour", "rigid");
    step.first = json.value("first", std::vector<EntityRef>{});
    step.second = json.value("second", std::vector<EntityRef>{});
    step.firstGroup = json.value("firstGroup", "");
    step.secondGroup = json.value("secondGroup", "");
    step.drop = json.value("drop", false);
}

Result<Outcome> makeLink(const Model& received, const MakeLink& step, Progress&) {
    if (step.name.find_first_not_of(" \t") == std::string::npos)
        return fail(ProblemKind::BadInput, "The link has no name.", "Give it one.");
    Outcome outcome;
    outcome.model = received;
    outcome.model.giveIds();
    Model& model = outcome.model;
    const auto known = std::find_if(model.pairings.begin(), model.pairings.end(),
                                    [&](const Pairing& one) { return one.name == step.name; });
    if (step.drop) {
        if (known == model.pairings.end())
            return fail(ProblemKind::NotPossible, fmt::format("There is no contact or link \"{}\".", step.name));
        outcome.summary = fmt::format("Forget the {} {}", pairingKindName(known->kind), step.name);
        model.pairings.erase(known);
        return outcome;
    }
    const auto side = [&](const std::vector<EntityRef>& things, const std::string& group,
                          const char* which) -> Result<std::string> {
        if (!group.empty()) {
            if (std::any_of(model.groups.begin(), model.groups.end(),
                            [&](const Group& one) { return one.name == group; }))
                return group;
            return fail(ProblemKind::NotPossible, fmt::format("There is no group \"{}\".", group));
        }
        Group made{fmt::format("{}, {}", step.name, which), "link", std::nullopt, {}, std::nullopt};
        for (const EntityRef& thing : things) {
            const auto found = findEntity(model, thing);
            if (!found) return tl::unexpected(found.error());
            made.members.insert({model.parts[found->part]->id, everyPlace, found->entity});
        }
        if (made.members.empty())
            return fail(ProblemKind::BadInput, fmt::format("The {} side of the link is empty.", which),
                        "Pick what it holds, or name a group.");
        std::string name = made.name;
        putByName(model.groups, std::move(made));
        return name;
    };
    const auto first = side(step.first, step.firstGroup, "first");
    if (!first) return tl::unexpected(first.error());
    const auto second = side(step.second, step.secondGroup, "second");
    if (!second) return tl::unexpected(second.error());
    if (*first == *second) return fail(ProblemKind::BadInput, "A link of a group to itself holds nothing.");
    std::erase_if(model.pairings, [&](const Pairing& one) { return one.name == step.name; });
    model.pairings.push_back({step.name, PairingKind::Link, *first, *second, step.behaviour, std::nullopt, 0.0});
    outcome.items.push_back({fmt::format("{}: {} to {}", step.name, *first, *second), true, {}, 0.0});
    outcome.summary = fmt::format("Link {}", step.name);
    return outcome;
}

}  // namespace rasoir::join
