#include "after_step.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepClass3d_SolidClassifier.hxx>
#include <cstring>
#include <map>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopoDS_Solid.hxx>

#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "handover/rules.h"
#include "intake/mirrors.h"
#include "model/lineage_builder.h"
#include "model/reference.h"

namespace rasoir {
namespace {

/// The part of the old model that a part of the new one is, under the same id; by its place in the list where none
/// has ids yet.
std::optional<std::size_t> sameBefore(const Model& before, const Model& after, std::size_t p) {
    const Part& part = *after.parts[p];
    for (std::size_t q = 0; q < before.parts.size(); ++q)
        if (before.parts[q] == after.parts[p] || (part.id != 0 && before.parts[q]->id == part.id)) return q;
    if (p < before.parts.size() && before.parts[p]->id == 0 && before.parts[p]->name == part.name) return p;
    return std::nullopt;
}

void completeLineage(const Model& before, Outcome& outcome) {
    std::set<std::size_t> spokenOf;
    for (PartLineage& own : outcome.lineage) {
        if (own.into == PartLineage::samePlace) own.into = own.part;
        spokenOf.insert(own.into);
    }
    for (std::size_t p = 0; p < outcome.model.parts.size(); ++p) {
        if (spokenOf.contains(p)) continue;
        const auto old = sameBefore(before, outcome.model, p);
        if (!old) continue;  // made by the step, from nothing
        const Part &was = *before.parts[*old], &is = *outcome.model.parts[p];
        PartLineage own;
        if (was.shape.IsEqual(is.shape) || (was.shape.IsNull() && is.shape.IsNull()))
            own.untouched = true;
        else
            own = LineageBuilder(was.incidence(), is.shape).finish();
        own.part = *old;
        own.into = p;
        outcome.lineage.push_back(std::move(own));
    }
    std::stable_sort(outcome.lineage.begin(), outcome.lineage.end(),
                     [](const PartLineage& a, const PartLineage& b) { return a.into < b.into; });
}

/// Where a thing of the old model has gone, as members of the new one.
class Heirs {
public:
    Heirs(const Model& before, const Outcome& outcome) : m_before(before), m_outcome(outcome) {
        for (const PartLineage& own : outcome.lineage) m_from.emplace(own.part, &own);
        for (std::size_t p = 0; p < before.parts.size(); ++p) m_partOf.emplace(before.parts[p]->id, p);
        for (const Occurrence& place : outcome.model.occurrences) {
            m_partAt.emplace(place.id, place.part);
            m_placesOf[place.part].push_back(place.id);
        }
    }

    std::vector<std::pair<Member, Link>> of(const Member& member) {
        std::vector<std::pair<Member, Link>> heirs;
        const auto part = m_partOf.find(member.part);
        if (part == m_partOf.end()) return heirs;
        const auto [from, to] = m_from.equal_range(part->second);
        for (auto it = from; it != to; ++it) {
            const PartLineage& own = *it->second;
            Member now{m_outcome.model.parts[own.into]->id, member.place, member.entity};
            if (member.place != everyPlace) {
                // The place may stand for another part now (copies that were made independent), or be gone.
                const auto at = m_partAt.find(member.place);
                if (at != m_partAt.end() && at->second != own.into) continue;
                if (at == m_partAt.end()) {
                    const auto& places = m_placesOf[own.into];
                    now.place = places.size() == 1 ? everyPlace : member.place;
                    if (now.place != everyPlace) continue;
                }
            }
            for (const Link& link : linksOf(own, member.entity)) {
                now.entity.number = link.after;
                heirs.emplace_back(now, link);
            }
        }
        return heirs;
    }

    /// Edges of a sheet that a face without heirs has become, in the same place.
    std::vector<Member> rimsOf(const Member& member) const {
        std::vector<Member> edges;
        const auto part = m_partOf.find(member.part);
        if (part == m_partOf.end() || member.entity.kind != EntityKind::Face) return edges;
        for (const RimLink& rim : m_outcome.rims)
            if (rim.part == part->second && rim.face == member.entity.number)
                edges.push_back({m_outcome.model.parts[rim.into]->id, member.place, {EntityKind::Edge, rim.edge}});
        return edges;
    }

private:
    std::vector<Link> linksOf(const PartLineage& own, const Entity& entity) {
        if (own.untouched) return {{entity.number, entity.number, false, false}};
        auto& relation = m_relations[{&own, entity.kind}];
        if (!relation) relation.emplace(own.of(entity.kind));
        const auto heirs = relation->heirsOf(entity.number);
        return {heirs.begin(), heirs.end()};
    }

    const Model& m_before;
    const Outcome& m_outcome;
    std::multimap<std::size_t, const PartLineage*> m_from;
    std::map<PartId, std::size_t> m_partOf;
    std::map<PlaceId, std::size_t> m_partAt;
    std::map<std::size_t, std::vector<PlaceId>> m_placesOf;
    std::map<std::pair<const PartLineage*, EntityKind>, std::optional<Descents>> m_relations;
};

/// Area of faces, length of edges, of all members in one place each.
double measureOf(const Model& model, const std::set<Member>& members) {
    double sum = 0.0;
    for (const Member& member : members) {
        const auto p = model.partOf(member.part);
        if (!p) continue;
        const Incidence& topology = model.parts[*p]->incidence();
        if (member.entity.kind == EntityKind::Face && member.entity.number <= topology.faceCount())
            sum += areaOf(topology.face(member.entity.number));
        else if (member.entity.kind == EntityKind::Edge && member.entity.number <= topology.edgeCount())
            sum += lengthOf(topology.edge(member.entity.number));
    }
    return sum;
}

/// [mm, model coordinates] a point of a member, in its place or the first of its part.
std::optional<gp_XYZ> placeOf(const Model& model, const Member& member) {
    const auto part = model.partOf(member.part);
    if (!part) return std::nullopt;
    for (const Occurrence& place : model.occurrences)
        if (place.part == *part && (member.place == everyPlace || member.place == place.id))
            return makeRef(*model.parts[*part], member.entity).at.Transformed(place.placement).XYZ();
    return std::nullopt;
}

/// Members of parts that stand in one place, without naming it.
std::set<Member> inOnePlace(const Model& model, std::set<Member> members) {
    std::map<std::size_t, std::size_t> standing;
    for (const Occurrence& place : model.occurrences) ++standing[place.part];
    std::set<Member> named;
    for (Member member : members) {
        const auto part = model.partOf(member.part);
        if (part && standing[*part] == 1) member.place = everyPlace;
        named.insert(member);
    }
    return named;
}

Result<void> carryGroups(const Model& before, Outcome& outcome, Progress& progress) {
    Model& model = outcome.model;
    if (model.groups.empty()) return {};
    Heirs heirs(before, outcome);
    for (Group& group : model.groups) {
        // A group that the step itself made or changed speaks of the new model already.
        const auto old = std::find_if(before.groups.begin(), before.groups.end(),
                                      [&group](const Group& one) { return one.name == group.name; });
        if (old == before.groups.end() || !(*old == group)) continue;
        GroupChange change;
        change.group = group.name;
        change.before = old->members.size();
        std::set<Member> now, rims;
        double rimArea = 0.0;
        bool touched = false;
        for (const Member& member : old->members) {
            const auto own = heirs.of(member);
            if (const auto edges = own.empty() ? heirs.rimsOf(member) : std::vector<Member>(); !edges.empty()) {
                rims.insert(edges.begin(), edges.end());
                rimArea += measureOf(before, {member});
                touched = true;
                continue;
            }
            if (own.empty()) {
                ++change.gone;
                if (const auto at = placeOf(before, member); at && change.lostAt.size() < 8)
                    change.lostAt.push_back(*at);
            }
            touched = touched || own.size() != 1;
            for (const auto& [heir, link] : own) {
                now.insert(heir);
                touched = touched || link.changed;
            }
        }
        if (group.rule) {
            group.accepted.clear();
            for (const Member& member : old->accepted)
                for (const auto& [heir, link] : heirs.of(member)) group.accepted.insert(heir);
            // As rules name them: of a part in one place, its things without that place.
            now = inOnePlace(model, std::move(now));
            group.accepted = inOnePlace(model, std::move(group.accepted));
            group.members = now;
            if (handover::mayAnswerOtherwise(before, model, *group.rule)) {
                auto found = handover::membersByRule(model, *group.rule, progress);
                if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
                if (found)
                    group.members = std::move(*found);
                else
                    outcome.notes.push_back(
                        fmt::format("The rule of \"{}\" could not be asked anew: {}", group.name, found.error().what));
            }
            for (const Member& member : group.members) change.fresh += !now.contains(member);
            for (const Member& member : now) change.fallen += !group.members.contains(member);
            touched = touched || change.fresh + change.fallen > 0;
        } else {
            group.members = std::move(now);
        }
        const double measureOfOthers = measureOf(model, group.members);
        if (!rims.empty()) {
            group.members.insert(rims.begin(), rims.end());
            outcome.notes.push_back(fmt::format("Of \"{}\" {} where walls end {} now of their sheets.", group.name,
                                                counted(rims.size(), "edge"), rims.size() == 1 ? "is" : "are"));
        }
        if (!touched) continue;
        change.after = group.members.size();
        const auto holds = [&](EntityKind kind) {
            return std::any_of(old->members.begin(), old->members.end(),
                               [kind](const Member& member) { return member.entity.kind == kind; });
        };
        change.unit = holds(EntityKind::Face) ? "mm²" : holds(EntityKind::Edge) ? "mm" : "";
        change.measureBefore = measureOf(before, old->members);
        change.measureAfter = measureOfOthers + rimArea;  // a rim is told as the face that it was
        const double apart = std::abs(change.measureAfter - change.measureBefore);
        if (change.after != change.before || change.gone + change.fresh + change.fallen > 0 ||
            apart > Tolerance::sameSize * change.measureBefore)
            outcome.groups.push_back(std::move(change));
    }
    return {};
}

/// A pairing lives as long as its two groups do.
void carryPairings(Outcome& outcome) {
    Model& model = outcome.model;
    const auto has = [&model](const std::string& name) {
        return std::any_of(model.groups.begin(), model.groups.end(),
                           [&name](const Group& group) { return group.name == name; });
    };
    std::erase_if(model.pairings, [&](const Pairing& pairing) {
        if (has(pairing.first) && has(pairing.second)) return false;
        outcome.notes.push_back(fmt::format("The {} \"{}\" is gone with its group \"{}\".",
                                            pairingKindName(pairing.kind), pairing.name,
                                            has(pairing.first) ? pairing.second : pairing.first));
        return true;
    });
}

/// Joints that speak of one thing become one: a step may have joined what was joined to something else before.
std::vector<Joint> united(const std::vector<Joint>& joints) {
    std::vector<Joint> all;
    std::map<std::tuple<EntityKind, PlaceId, int>, std::size_t> at;
    for (const Joint& joint : joints) {
        std::optional<std::size_t> known;
        bool flip = false;
        for (const JointUse& use : joint.uses)
            if (const auto it = at.find({joint.kind, use.place, use.number}); it != at.end() && !known) {
                known = it->second;
                for (const JointUse& there : all[*known].uses)
                    if (there.place == use.place && there.number == use.number) flip = there.reversed != use.reversed;
            }
        if (!known) {
            known = all.size();
            all.push_back({joint.kind, {}, 0.0});
        }
        all[*known].deviation = std::max(all[*known].deviation, joint.deviation);
        for (JointUse use : joint.uses) {
            if (!at.emplace(std::tuple(joint.kind, use.place, use.number), *known).second) continue;
            use.reversed = use.reversed != flip;
            all[*known].uses.push_back(use);
        }
    }
    std::erase_if(all, [](const Joint& joint) { return joint.uses.size() < 2; });
    return all;
}

/// Whether a thing that was made anew is what it was all the same: its neighbour may have changed, and it got new
/// objects for its boundary.
bool looksAsBefore(const Part& before, const Entity& was, const Part& now, const Entity& is) {
    const EntityRef a = makeRef(before, was), b = makeRef(now, is);
    const double size = was.kind == EntityKind::Face ? std::sqrt(a.measure) : a.measure;
    if (std::abs(a.measure - b.measure) > Tolerance::rounding * a.measure ||
        a.at.Distance(b.at) > Tolerance::rounding * size + Tolerance::least)
        return false;
    return was.kind != EntityKind::Face ||
           before.incidence().edgesOf(was.number).size() == now.incidence().edgesOf(is.number).size();
}

/// A piece of a common edge in one of its places.
struct EdgePiece {
    JointUse use;
    int begin = 0, end = 0;  ///< vertices of its part, as the joint runs
    gp_Pnt middle;           ///< [mm] in the model
    double length = 0.0;     ///< [mm]
};

/// The heirs of a use of a common edge, where it still stands.
std::vector<EdgePiece> piecesOf(const Model& model, const JointUse& use,
                                const std::vector<std::pair<Member, Link>>& heirs) {
    std::vector<EdgePiece> pieces;
    for (const auto& [heir, link] : heirs) {
        const auto place = model.placeOf(use.place);
        if (!place) return {};
        const Occurrence& stands = model.occurrences[*place];
        const Part& part = *model.parts[stands.part];
        const Incidence& topology = part.incidence();
        const EntityRef as = makeRef(part, heir.entity);
        EdgePiece piece;
        piece.use = {use.place, heir.entity.number, use.reversed != link.reversed};
        const TopoDS_Edge edge = TopoDS::Edge(topology.edge(heir.entity.number).Oriented(TopAbs_FORWARD));
        piece.begin = topology.vertexNumber(TopExp::FirstVertex(edge));
        piece.end = topology.vertexNumber(TopExp::LastVertex(edge));
        if (piece.use.reversed) std::swap(piece.begin, piece.end);
        piece.middle = as.at.Transformed(stands.placement);
        piece.length = as.measure;
        pieces.push_back(std::move(piece));
    }
    return pieces;
}

/// A common edge that was parted alike on all its sides stays common, piece by piece, with the nodes between them.
/// None where a piece has no like on another side.
std::vector<Joint> partedAlike(const Model& model, const Joint& joint,
                               const std::vector<std::vector<std::pair<Member, Link>>>& heirs) {
    std::vector<std::vector<EdgePiece>> sides;
    for (std::size_t u = 0; u < joint.uses.size(); ++u) sides.push_back(piecesOf(model, joint.uses[u], heirs[u]));
    const double near = 10.0 * model.samePoint() + 2.0 * joint.deviation;
    std::vector<Joint> pieces;
    for (const EdgePiece& first : sides.front()) {
        Joint edge{EntityKind::Edge, {}, joint.deviation}, begin{EntityKind::Vertex, {}, joint.deviation}, end = begin;
        for (const std::vector<EdgePiece>& side : sides) {
            const auto like = std::find_if(side.begin(), side.end(), [&](const EdgePiece& one) {
                return std::abs(one.length - first.length) <= near && one.middle.Distance(first.middle) <= near;
            });
            if (side.size() != sides.front().size() || like == side.end()) return {};
            edge.uses.push_back(like->use);
            begin.uses.push_back({like->use.place, like->begin, false});
            end.uses.push_back({like->use.place, like->end, false});
        }
        for (Joint* one : {&edge, &begin, &end}) pieces.push_back(std::move(*one));
    }
    return pieces;
}

/// A joint stays where every use has one heir that is as it was, or all were parted alike; else it is dissolved, and
/// that is told.
void carryJoints(const Model& before, Outcome& outcome) {
    Model& model = outcome.model;
    const std::size_t old = model.joints.size() - std::min(outcome.jointsMade, model.joints.size());
    if (old == 0) return;
    Heirs heirs(before, outcome);
    std::vector<Joint> kept;
    std::size_t dissolved = 0, seams = 0;  // common faces; common edges of sheets
    std::map<PlaceId, std::size_t> partAt;
    for (const Occurrence& place : before.occurrences) partAt.emplace(place.id, place.part);
    for (std::size_t j = 0; j < model.joints.size(); ++j) {
        Joint joint = std::move(model.joints[j]);
        bool whole = true;
        if (j >= old) {
            kept.push_back(std::move(joint));
            continue;
        }
        const Joint was = joint;
        bool ofSheets = joint.kind == EntityKind::Edge;
        std::vector<std::vector<std::pair<Member, Link>>> all;
        for (const JointUse& use : joint.uses) {
            const auto part = partAt.find(use.place);
            all.push_back(part == partAt.end()
                              ? std::vector<std::pair<Member, Link>>()
                              : heirs.of({before.parts[part->second]->id, use.place, {joint.kind, use.number}}));
            ofSheets = ofSheets && part != partAt.end() && before.parts[part->second]->kind() == BodyKind::Sheet;
        }
        for (std::size_t u = 0; u < joint.uses.size(); ++u) {
            JointUse& use = joint.uses[u];
            const auto part = partAt.find(use.place);
            const auto& now = all[u];
            whole = whole && now.size() == 1 && now.front().first.place == use.place;
            if (!whole) break;
            const Part &had = *before.parts[part->second], &is = *model.parts[*model.partOf(now.front().first.part)];
            whole = !now.front().second.changed ||
                    looksAsBefore(had, {joint.kind, use.number}, is, now.front().first.entity);
            if (!whole) break;
            use.number = now.front().first.entity.number;
            use.reversed = use.reversed != now.front().second.reversed;
        }
        if (whole) {
            kept.push_back(std::move(joint));
            continue;
        }
        const auto pieces = joint.kind == EntityKind::Edge ? partedAlike(model, was, all) : std::vector<Joint>();
        kept.insert(kept.end(), pieces.begin(), pieces.end());
        dissolved += joint.kind == EntityKind::Face;
        seams += ofSheets && pieces.empty();
    }
    model.joints = united(kept);
    if (dissolved > 0)
        outcome.notes.push_back(
            fmt::format("{} of this step's parts no longer match what they were joined to: join "
                        "them again.",
                        counted(dissolved, "common face")));
    if (seams > 0)
        outcome.notes.push_back(
            fmt::format("{} of sheets no longer match: join them again.", counted(seams, "common edge")));
}

/// Colours go with their faces and are not missed; what the analyst gave, or what decides a computation, is told.
void tellLosses(const Model& before, Outcome& outcome) {
    for (std::size_t p = 0; p < before.parts.size(); ++p) {
        const Part& part = *before.parts[p];
        if (part.known.isEmpty()) continue;
        // Of several parts that this one became, each has its share: lost is only what none of them has.
        std::map<std::pair<std::string, bool>, std::set<Entity>> lost;
        std::size_t heirs = 0;
        std::map<std::pair<std::string, Entity>, std::size_t> missing;
        for (const PartLineage& own : outcome.lineage) {
            if (own.part != p) continue;
            ++heirs;
            std::vector<AttributeLoss> losses;
            PartAttributes().inherit(part.known, own, gp_Trsf(), &losses);
            for (const AttributeLoss& loss : losses) {
                if (std::strcmp(loss.attribute, "colour") == 0) continue;
                if (loss.disagreed)
                    lost[{loss.attribute, true}].insert(loss.of);
                else
                    ++missing[{loss.attribute, loss.of}];
            }
        }
        for (const auto& [what, count] : missing)
            if (count == heirs) lost[{what.first, false}].insert(what.second);
        for (const auto& [what, things] : lost)
            outcome.notes.push_back(
                what.second
                    ? fmt::format("The {} of {} in \"{}\" did not agree where they became one; the first holds.",
                                  what.first, counted(things.size(), "thing"), part.name)
                    : fmt::format("The {} of {} in \"{}\" went with what carried it.", what.first,
                                  counted(things.size(), "thing"), part.name));
    }
}

/// Of a body with several skins, all but the outer one are cavities, and lie in it. A step may take the wall away from
/// in front of one: the skin would then stay behind in the open, as part of a body that has moved on.
Result<void> cavitiesInside(const Outcome& outcome) {
    for (const PartLineage& own : outcome.lineage) {
        if (own.untouched) continue;
        const Part& part = *outcome.model.parts[own.into];
        for (int b = 1; b <= part.incidence().bodyCount(); ++b) {
            const TopoDS_Shape body = part.incidence().body(b);
            std::vector<TopoDS_Shape> skins;
            for (TopoDS_Iterator it(body); body.ShapeType() == TopAbs_SOLID && it.More(); it.Next())
                if (it.Value().ShapeType() == TopAbs_SHELL) skins.push_back(it.Value());
            if (skins.size() < 2) continue;
            const auto outer = std::max_element(skins.begin(), skins.end(), [](const auto& x, const auto& y) {
                return std::abs(volumeOf(x)) < std::abs(volumeOf(y));
            });
            TopoDS_Solid hull;
            const BRep_Builder builder;
            builder.MakeSolid(hull);
            builder.Add(hull, outer->Oriented(TopAbs_FORWARD));
            BRepClass3d_SolidClassifier classifier(hull);
            for (auto skin = skins.begin(); skin != skins.end(); ++skin) {
                if (skin == outer) continue;
                TopAbs_State state = TopAbs_ON;
                gp_Pnt at;
                for (TopExp_Explorer it(*skin, TopAbs_VERTEX); it.More() && state == TopAbs_ON; it.Next()) {
                    at = BRep_Tool::Pnt(TopoDS::Vertex(it.Current()));
                    classifier.Perform(at, Tolerance::least);
                    state = classifier.State();
                }
                // Inside or outside of the hull as it is turned: a skin that is on the hull's own outer side left it.
                classifier.PerformInfinitePoint(Tolerance::least);
                if (state == TopAbs_ON || state != classifier.State()) continue;
                return fail(ProblemKind::NotPossible,
                            fmt::format("A closed cavity of \"{}\" would be left outside it.", part.name),
                            "Fill the cavity first, or leave out what lies in front of it.", {part.name, {}, at});
            }
        }
    }
    return {};
}

}  // namespace

Result<void> settle(const Model& before, Outcome& outcome, Progress& progress) {
    if (!outcome.model.mirrors.empty()) intake::followMirrors(outcome);
    outcome.model.giveIds();
    completeLineage(before, outcome);
    if (auto carried = carryGroups(before, outcome, progress); !carried) return carried;
    carryPairings(outcome);
    carryJoints(before, outcome);
    tellLosses(before, outcome);
    return cavitiesInside(outcome);
}

}  // namespace rasoir
