#include "join/own_bodies.h"

#include <BRep_Builder.hxx>
#include <TopoDS_Compound.hxx>

#include "divide/separate.h"

namespace rasoir::join {
namespace {

/// Where the things of a body are in the part that it is put into: the same objects, other numbers.
PartLineage withinWhole(const Incidence& body, const Incidence& whole) {
    PartLineage lineage;
    for (int n = 1; n <= body.bodyCount(); ++n)
        lineage.of(EntityKind::Body).push_back({n, whole.bodyNumber(body.body(n)), false, false});
    for (int n = 1; n <= body.faceCount(); ++n)
        lineage.of(EntityKind::Face).push_back({n, whole.faceNumber(body.face(n)), false, false});
    for (int n = 1; n <= body.edgeCount(); ++n)
        lineage.of(EntityKind::Edge).push_back({n, whole.edgeNumber(body.edge(n)), false, false});
    for (int n = 1; n <= body.vertexCount(); ++n)
        lineage.of(EntityKind::Vertex).push_back({n, whole.vertexNumber(body.vertex(n)), false, false});
    return lineage;
}

int heirOf(const PartLineage& lineage, EntityKind kind, int number) {
    for (const Link& link : lineage.of(kind))
        if (link.before == number) return link.after;
    return 0;
}

/// The number of the body from which a part was separated.
int bodyBefore(const std::vector<PartLineage>& separated, std::size_t part) {
    for (const PartLineage& one : separated)
        if (one.into == part && !one.of(EntityKind::Body).empty()) return one.of(EntityKind::Body).front().before;
    return 0;
}

/// What became of one part in another, in a list of such.
PartLineage entryOf(const std::vector<PartLineage>& all, std::size_t part, std::size_t into) {
    for (const PartLineage& one : all)
        if (one.part == part && (one.into == into || (one.into == PartLineage::samePlace && part == into))) return one;
    return {part, into, true, {}};
}

}  // namespace

Result<OwnBodies> OwnBodies::takenApart(const Model& model, const std::vector<std::size_t>& places,
                                        Progress& progress) {
    OwnBodies own;
    divide::Separate step;
    for (const std::size_t o : places) {
        const Part& part = *model.parts[model.occurrences[o].part];
        if (!part.shape.IsNull() && !part.lump && part.incidence().bodyCount() > 1 &&
            model.mirrorPairOf(model.occurrences[o].part) == nullptr)
            step.parts.push_back(part.name);
    }
    own.m_received = own.m_apart = model;
    own.m_received.giveIds();
    own.m_apart.giveIds();
    if (!step.parts.empty()) {
        auto separated = divide::separate(own.m_apart, step, progress);
        if (!separated) return tl::unexpected(separated.error());
        own.m_apart = std::move(separated->model);
        own.m_lineage = std::move(separated->lineage);
    }
    for (const PartLineage& one : own.m_lineage)
        if (one.into != one.part)
            own.m_bodiesOf[model.parts[one.part]->name].push_back(own.m_apart.parts[one.into]->name);
    // The bodies of a place follow the one that kept its part.
    std::size_t next = 0;
    for (const Occurrence& place : own.m_apart.occurrences) {
        if (place.part < model.parts.size()) ++next;
        own.m_family.push_back(next - 1);
    }
    return own;
}

Outcome OwnBodies::together(Outcome outcome) const {
    const Model& received = m_received;
    const Model changed = outcome.model;
    const auto isUnchanged = [&](std::size_t o) {
        return changed.parts[changed.occurrences[o].part] == m_apart.parts[m_apart.occurrences[o].part];
    };
    // Where a part stands unchanged in some place, it stays itself, and those that changed are parts beside it.
    std::set<std::size_t> taken;  // parts received that have a successor in their own place
    std::vector<std::pair<std::size_t, std::size_t>> families;  // occurrences of apart(): from, until
    for (std::size_t from = 0, until = 0; from < changed.occurrences.size(); from = until) {
        bool unchanged = true;
        for (until = from; until < changed.occurrences.size() && m_family[until] == m_family[from]; ++until)
            unchanged = unchanged && isUnchanged(until);
        families.emplace_back(from, until);
        if (unchanged) taken.insert(received.occurrences[m_family[from]].part);
    }
    for (const std::size_t p : taken) outcome.model.parts[p] = received.parts[p];
    std::vector<PartLineage> lineage;
    for (const PartLineage& one : outcome.lineage)
        if (one.part < received.parts.size() && !m_bodiesOf.contains(received.parts[one.part]->name)) {
            lineage.push_back(one);
            if (one.into == PartLineage::samePlace) lineage.back().into = one.part;
        }
    std::map<std::vector<std::size_t>, std::size_t> made;     // by the parts that the bodies are now: the one they make
    std::map<PlaceId, std::pair<PlaceId, PartLineage>> uses;  // by place of a body
    SharedVector<Occurrence> places;
    for (const auto& [from, until] : families) {
        const Occurrence& kept = changed.occurrences[from];
        places.share(changed.occurrences, from);
        if (until - from == 1) continue;
        const std::size_t p = received.occurrences[m_family[from]].part;
        // In the order of the part received, so that what nothing touched keeps its number.
        std::vector<std::pair<int, std::size_t>> order;
        bool unchanged = true;
        for (std::size_t o = from; o < until; ++o) {
            order.emplace_back(bodyBefore(m_lineage, m_apart.occurrences[o].part), o);
            unchanged = unchanged && isUnchanged(o);
        }
        std::sort(order.begin(), order.end());
        std::vector<std::size_t> parts;
        for (const auto& [body, o] : order) parts.push_back(changed.occurrences[o].part);
        const auto [known, fresh] = made.emplace(parts, p);
        if (fresh && !unchanged) {
            TopoDS_Compound all;
            const BRep_Builder builder;
            builder.MakeCompound(all);
            for (const std::size_t part : parts) builder.Add(all, changed.parts[part]->shape);
            auto together = changed.parts[kept.part]->copy();
            together->setShape(all);
            together->known = {};
            together->meantOpen.clear();
            together->sharpened.clear();
            PartLineage descent;
            for (const auto& [body, o] : order) {
                const std::size_t before = m_apart.occurrences[o].part, now = changed.occurrences[o].part;
                PartLineage own = entryOf(m_lineage, p, before);
                if (!isUnchanged(o)) own = chained(own, entryOf(outcome.lineage, before, now));
                const PartLineage within = withinWhole(changed.parts[now]->incidence(), together->incidence());
                together->inherit(*changed.parts[now], within, gp_Trsf());
                own = chained(own, within);
                for (const EntityKind kind : entityKinds)
                    descent.of(kind).insert(descent.of(kind).end(), own.of(kind).begin(), own.of(kind).end());
            }
            if (!taken.insert(p).second) {
                together->id = 0;
                known->second = outcome.model.parts.size();
                outcome.model.parts.emplace_back();
            }
            outcome.model.parts[known->second] = std::move(together);
            descent.part = p;
            descent.into = known->second;
            lineage.push_back(std::move(descent));
        }
        places.changeLast().part = known->second;
        for (const auto& [body, o] : order)
            uses[changed.occurrences[o].id] = {kept.id,
                                               withinWhole(changed.parts[changed.occurrences[o].part]->incidence(),
                                                           outcome.model.parts[known->second]->incidence())};
    }
    outcome.model.occurrences = std::move(places);
    std::vector<Joint>& joints = outcome.model.joints;
    for (std::size_t j = joints.size() - outcome.jointsMade; j < joints.size(); ++j)
        for (JointUse& use : joints[j].uses)
            if (const auto moved = uses.find(use.place); moved != uses.end()) {
                use.place = moved->second.first;
                use.number = heirOf(moved->second.second, joints[j].kind, use.number);
            }
    // Parts that stand nowhere any more go; the lineage speaks of what is left.
    std::vector<std::size_t> order;
    std::vector<bool> used(outcome.model.parts.size(), false);
    for (const Occurrence& place : outcome.model.occurrences) used[place.part] = true;
    for (std::size_t p = 0; p < used.size(); ++p)
        if (used[p]) order.push_back(p);
    std::erase_if(lineage, [&used](const PartLineage& one) { return !used[one.into]; });
    for (PartLineage& own : lineage)
        own.into = static_cast<std::size_t>(std::find(order.begin(), order.end(), own.into) - order.begin());
    outcome.model.dropUnusedParts();
    outcome.model.giveIds();
    outcome.lineage = std::move(lineage);
    // Groups that the step made speak of bodies as well.
    for (Group& group : outcome.model.groups) {
        if (std::any_of(received.groups.begin(), received.groups.end(),
                        [&group](const Group& one) { return one.name == group.name; }))
            continue;
        std::set<Member> members;
        for (Member member : group.members) {
            if (const auto moved = uses.find(member.place); moved != uses.end()) {
                member.place = moved->second.first;
                member.entity.number = heirOf(moved->second.second, member.entity.kind, member.entity.number);
            }
            if (const auto place = outcome.model.placeOf(member.place))
                member.part = outcome.model.parts[outcome.model.occurrences[*place].part]->id;
            members.insert(member);
        }
        group.members = std::move(members);
    }
    return outcome;
}

}  // namespace rasoir::join
