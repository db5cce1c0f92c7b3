#include "join/welds.h"

#include <fmt/format.h>

#include <BRepAdaptor_Curve.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>

#include "common/sets.h"
#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "geometry/ray_field.h"
#include "join/pairs.h"
#include "join/weld_beads.h"
#include "join/weld_strips.h"
#include "model/places.h"
#include "survey/fasteners.h"
#include "topology/edge_angle.h"

// Joining already finds what bodies have in common, and parts them there. So welds are looked for in the joined model,
// whose joints are then forgotten again: a seam holds along its line, and the faces between stay free.
//
// Between solids a common edge is a place for a seam when it bounds a common face, and the outsides of the two bodies
// leave a corner open there. Its angle is the sum of what either body's normal turns by at the edge: a rib's end turns
// by 90 degrees, the plate it stands on by none.

namespace rasoir::join {
namespace {

constexpr double least = M_PI / 6.0, most = 5.0 * M_PI / 6.0;  // open corners that a seam fills

/// A common edge of two places, before lines are made of such edges.
struct Site {
    std::size_t place = 0, on = 0;
    int edge = 0, edgeOn = 0;
    double angle = 0.0;
    int outer = 0, outerOn = 0, contact = 0, contactOn = 0;  // faces at it; 0 with sheets
};

/// Faces that are common, by place and number: the joint's index.
using CommonFaces = std::map<std::pair<std::size_t, int>, std::size_t>;

class WeldSearch {
public:
    WeldSearch(const Model& model, Progress& progress) : m_model(model), m_progress(progress) {}

    std::vector<WeldLine> run(const std::set<std::pair<std::size_t, std::size_t>>& wanted, bool beads) {
        for (std::size_t j = 0; j < m_model.joints.size(); ++j)
            if (m_model.joints[j].kind == EntityKind::Face)
                for (const JointUse& use : m_model.joints[j].uses)
                    if (const auto place = m_model.placeOf(use.place)) m_common[{*place, use.number}] = j;
        std::map<std::pair<std::size_t, std::size_t>, std::vector<Site>> sites;
        for (const Joint& joint : m_model.joints) {
            if (joint.kind != EntityKind::Edge) continue;
            for (std::size_t a = 0; a < joint.uses.size(); ++a)
                for (std::size_t b = a + 1; b < joint.uses.size(); ++b)
                    if (const auto site = siteAt(joint.uses[a], joint.uses[b]))
                        if (wanted.empty() || wanted.contains(std::minmax(site->place, site->on)))
                            sites[{site->place, site->on}].push_back(*site);
        }
        std::vector<WeldLine> lines;
        if (beads) lines = linesOfBeads(sites, wanted);
        for (const auto& [pair, own] : sites) {
            if (own.empty()) continue;
            if (m_progress.cancelled()) break;
            const RayField rays(m_model, {pair.first, pair.second}, RayField::usualDeviation, m_progress);
            for (const std::vector<Site>& chain : chainsOf(own)) lines.push_back(lineOf(chain, rays));
        }
        std::stable_sort(lines.begin(), lines.end(), [](const WeldLine& a, const WeldLine& b) {
            return a.length > b.length * (1.0 + Tolerance::rounding);
        });
        return lines;
    }

private:
    const Model& m_model;
    Progress& m_progress;
    CommonFaces m_common;

    /// The roots of beads as lines. What was found along them, and at the beads themselves, is taken from the sites.
    std::vector<WeldLine> linesOfBeads(std::map<std::pair<std::size_t, std::size_t>, std::vector<Site>>& sites,
                                       const std::set<std::pair<std::size_t, std::size_t>>& wanted) const {
        std::vector<WeldLine> lines;
        std::set<std::size_t> places;
        std::set<std::pair<std::size_t, int>> along;
        for (const Bead& bead : findBeads(m_model)) {
            places.insert(bead.place);
            if (!wanted.empty() && !wanted.contains({bead.first, bead.second})) continue;
            WeldLine line;
            line.place = bead.first;
            line.on = bead.second;
            line.length = bead.length;
            line.angle = bead.corner;
            line.where = bead.where;
            line.bead = bead.place;
            line.beadThroat = bead.throat;
            for (const auto& [edge, edgeOn] : bead.root) {
                line.edges.push_back(edge);
                line.edgesOn.push_back(edgeOn);
                // Under the bead, not under the other body.
                line.outers.push_back(facesCommonWith(bead.place, bead.first, edge));
                line.outersOn.push_back(facesCommonWith(bead.place, bead.second, edgeOn));
                along.insert({{bead.first, edge}, {bead.second, edgeOn}});
            }
            lines.push_back(std::move(line));
        }
        for (auto& [pair, own] : sites)
            std::erase_if(own, [&, at = pair](const Site& site) {
                return places.contains(at.first) || places.contains(at.second) ||
                       (along.contains({at.first, site.edge}) && along.contains({at.second, site.edgeOn}));
            });
        return lines;
    }
    [[nodiscard]] std::vector<int> facesCommonWith(std::size_t other, std::size_t place, int edge) const {
        std::vector<int> faces;
        for (const EdgeUse& use : partAt(place).incidence().usesOf(edge)) {
            const auto joint = m_common.find({place, use.face});
            if (joint == m_common.end()) continue;
            const auto& uses = m_model.joints[joint->second].uses;
            if (std::any_of(uses.begin(), uses.end(),
                            [&](const JointUse& one) { return m_model.placeOf(one.place) == other; }))
                faces.push_back(use.face);
        }
        return faces;
    }

    [[nodiscard]] const Part& partAt(std::size_t place) const {
        return *m_model.parts[m_model.occurrences[place].part];
    }

    [[nodiscard]] std::optional<Site> siteAt(const JointUse& a, const JointUse& b) const {
        const auto first = m_model.placeOf(a.place), second = m_model.placeOf(b.place);
        if (!first || !second || *first == *second) return std::nullopt;
        Site site{*first, *second, a.number, b.number};
        const Part &one = partAt(*first), &other = partAt(*second);
        if (one.kind() == BodyKind::Sheet || other.kind() == BodyKind::Sheet) {
            if (one.kind() == BodyKind::Wire || other.kind() == BodyKind::Wire) return std::nullopt;
            // What ends there is named first.
            if (other.kind() == BodyKind::Sheet && other.incidence().facesAt(b.number) == 1 &&
                (one.kind() != BodyKind::Sheet || one.incidence().facesAt(a.number) > 1)) {
                std::swap(site.place, site.on);
                std::swap(site.edge, site.edgeOn);
            }
            return site;
        }
        if (one.kind() != BodyKind::Solid || other.kind() != BodyKind::Solid) return std::nullopt;
        const auto usesA = one.incidence().usesOf(a.number), usesB = other.incidence().usesOf(b.number);
        if (usesA.size() != 2 || usesB.size() != 2) return std::nullopt;
        for (int i = 0; i < 2; ++i)
            for (int k = 0; k < 2; ++k) {
                const auto mine = m_common.find({*first, usesA[i].face}),
                           theirs = m_common.find({*second, usesB[k].face});
                if (mine == m_common.end() || theirs == m_common.end() || mine->second != theirs->second) continue;
                // Where the faces beyond are common too, nothing is open.
                const int beyondA = usesA[1 - i].face, beyondB = usesB[1 - k].face;
                if (m_common.contains({*first, beyondA}) || m_common.contains({*second, beyondB})) return std::nullopt;
                const double turnA = edgeAngle(one.incidence(), a.number).turn,
                             turnB = edgeAngle(other.incidence(), b.number).turn;
                site.angle = turnA + turnB;
                if (site.angle < least || site.angle > most) return std::nullopt;
                site.contact = usesA[i].face;
                site.contactOn = usesB[k].face;
                site.outer = beyondA;
                site.outerOn = beyondB;
                if (turnB > turnA + Tolerance::sameDirection) {
                    std::swap(site.place, site.on);
                    std::swap(site.edge, site.edgeOn);
                    std::swap(site.outer, site.outerOn);
                    std::swap(site.contact, site.contactOn);
                }
                return site;
            }
        return std::nullopt;
    }

    /// Sites that run on into each other without a corner of more than 30 degrees.
    [[nodiscard]] std::vector<std::vector<Site>> chainsOf(const std::vector<Site>& sites) const {
        Sets same(sites.size());
        std::map<int, std::vector<std::pair<std::size_t, gp_Vec>>> ends;  // by vertex: site, direction away from it
        const Incidence& topology = partAt(sites.front().place).incidence();
        for (std::size_t s = 0; s < sites.size(); ++s) {
            const TopoDS_Edge edge = TopoDS::Edge(topology.edge(sites[s].edge).Oriented(TopAbs_FORWARD));
            const BRepAdaptor_Curve curve(edge);
            gp_Pnt at;
            gp_Vec along;
            curve.D1(curve.FirstParameter(), at, along);
            ends[topology.vertexNumber(TopExp::FirstVertex(edge))].emplace_back(s, along);
            curve.D1(curve.LastParameter(), at, along);
            ends[topology.vertexNumber(TopExp::LastVertex(edge))].emplace_back(s, along.Reversed());
        }
        for (const auto& [vertex, at] : ends)
            for (std::size_t i = 0; i < at.size(); ++i)
                for (std::size_t k = i + 1; k < at.size(); ++k)
                    if (at[i].second.Magnitude() > 0.0 && at[k].second.Magnitude() > 0.0 &&
                        at[i].second.Angle(at[k].second) > M_PI - least)
                        same.join(static_cast<int>(at[i].first), static_cast<int>(at[k].first));
        std::map<int, std::vector<Site>> chains;
        for (std::size_t s = 0; s < sites.size(); ++s) chains[same.root(static_cast<int>(s))].push_back(sites[s]);
        std::vector<std::vector<Site>> all;
        for (auto& [root, chain] : chains) all.push_back(std::move(chain));
        return all;
    }

    [[nodiscard]] WeldLine lineOf(const std::vector<Site>& chain, const RayField& rays) const {
        WeldLine line;
        line.place = chain.front().place;
        line.on = chain.front().on;
        line.angle = chain.front().angle;
        const Incidence& topology = partAt(line.place).incidence();
        double longest = 0.0;
        const Site* widest = &chain.front();
        for (const Site& site : chain) {
            line.edges.push_back(site.edge);
            line.edgesOn.push_back(site.edgeOn);
            line.outers.push_back(facesBeside(line.place, site.edge, site.outer));
            line.outersOn.push_back(facesBeside(line.on, site.edgeOn, site.outerOn));
            const double length = lengthOf(topology.edge(site.edge));
            line.length += length;
            if (length > longest) {
                longest = length;
                widest = &site;
            }
        }
        const BRepAdaptor_Curve curve(topology.edge(widest->edge));
        line.where = curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()))
                         .Transformed(m_model.occurrences[line.place].placement);
        line.thicknessA = thicknessAt(line.place, widest->edge, widest->outer, widest->contact, longest, rays);
        line.thicknessB = thicknessAt(line.on, widest->edgeOn, widest->outerOn, widest->contactOn, longest, rays);
        // Across the end of a rib it is the line itself that is as long as the rib is thick.
        if (line.thicknessA > 0.0) line.thicknessA = std::min(line.thicknessA, line.length);
        return line;
    }

    /// Where strips go: on a solid the face out of the contact, on a sheet those at the edge.
    [[nodiscard]] std::vector<int> facesBeside(std::size_t place, int edge, int outer) const {
        if (outer > 0) return {outer};
        std::vector<int> faces;
        for (const EdgeUse& use : partAt(place).incidence().usesOf(edge)) faces.push_back(use.face);
        return faces;
    }

    /// How thick the wall is beside the middle of an edge: of a solid as seen through either of its faces there,
    /// whichever is thinner; of a sheet as it is known.
    [[nodiscard]] double thicknessAt(std::size_t place, int edge, int outer, int contact, double length,
                                     const RayField& rays) const {
        const Part& part = partAt(place);
        const Incidence& topology = part.incidence();
        if (part.kind() == BodyKind::Sheet) {
            double thinnest = 0.0;
            for (const EdgeUse& use : topology.usesOf(edge))
                if (const auto known = part.known.thickness.find({EntityKind::Face, use.face});
                    known != part.known.thickness.end() && (thinnest == 0.0 || known->second.at < thinnest))
                    thinnest = known->second.at;
            return thinnest;
        }
        const gp_Trsf& placement = m_model.occurrences[place].placement;
        const BRepAdaptor_Curve curve(topology.edge(edge));
        const double middle = 0.5 * (curve.FirstParameter() + curve.LastParameter());
        // Far enough from the edge to miss it, near enough to speak of the wall that ends there.
        const double beside = std::min(0.02 * length, 0.1 * m_model.targetSize);
        double thinnest = 0.0;
        for (const int face : {outer, contact}) {
            if (face == 0) continue;
            gp_Pnt at;
            gp_Vec along;
            curve.D1(middle, at, along);
            const gp_Vec normal = outwardNormal(topology.face(face), topology.edge(edge), middle);
            if (normal.SquareMagnitude() < 0.5 || along.SquareMagnitude() < Tolerance::divisible) continue;
            gp_Vec inward = normal.Crossed(along.Normalized());
            for (const EdgeUse& use : topology.usesOf(edge))
                if (use.face == face && !use.forward) inward.Reverse();
            // Just below the skin, so that the ray starts within the plate.
            const gp_Pnt from =
                at.Translated(inward * beside).Translated(normal * -1e-3 * beside).Transformed(placement);
            const auto hit = rays.first(from, gp_Dir(normal.Reversed()).Transformed(placement), 0.0);
            // What the start was sunk by is given back.
            if (hit && (thinnest == 0.0 || hit->distance < thinnest)) thinnest = hit->distance + 1e-3 * beside;
        }
        return thinnest;
    }
};

gp_Pnt middleOf(const Model& model, std::size_t place, int edge) {
    const BRepAdaptor_Curve curve(model.parts[model.occurrences[place].part]->incidence().edge(edge));
    return curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()))
        .Transformed(model.occurrences[place].placement);
}

/// Middles of the edges that welds hold, or that bound the strips they hold.
std::vector<gp_Pnt> weldedAlready(const Model& model) {
    std::set<std::string> names;
    for (const Pairing& pairing : model.pairings)
        if (pairing.kind == PairingKind::Weld) names.insert({pairing.first, pairing.second});
    std::vector<gp_Pnt> middles;
    for (const Group& group : model.groups) {
        if (!names.contains(group.name)) continue;
        for (const Member& member : group.members)
            for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
                const Occurrence& place = model.occurrences[o];
                const Part& part = *model.parts[place.part];
                if (part.id != member.part || (member.place != everyPlace && member.place != place.id)) continue;
                const auto take = [&](int edge) { middles.push_back(middleOf(model, o, edge)); };
                if (member.entity.kind == EntityKind::Edge) take(member.entity.number);
                if (member.entity.kind != EntityKind::Face) continue;
                for (const int edge : part.incidence().edgesOf(member.entity.number)) take(edge);
            }
    }
    return middles;
}

}  // namespace

double WeldLine::proposedThroat() const {
    if (bead) return std::round(beadThroat * 100.0) / 100.0;
    const double thinner =
        thicknessA > 0.0 && thicknessB > 0.0 ? std::min(thicknessA, thicknessB) : std::max(thicknessA, thicknessB);
    if (!(thinner > 0.0)) return 0.0;
    // A hair more, so that 0.7 of 5 mm is 3.5 whatever the rays lost.
    const double throat = 0.7 * thinner * (1.0 + 1e-4);
    const double step = throat >= 1.0 ? 0.5 : std::pow(10.0, std::floor(std::log10(throat)));
    return std::floor(throat / step) * step;
}

Result<WeldPlan> findWelds(const Model& model, const std::vector<std::string>& places,
                           const std::vector<std::pair<std::string, std::string>>& named, Progress& progress,
                           bool beads) {
    WeldPlan plan;
    plan.parted.model = model;
    plan.parted.model.giveIds();
    const auto meant = placesMeant(model, places);
    if (!meant) return tl::unexpected(meant.error());
    if (meant->size() < 2) return plan;  // one body has nothing to be welded to
    Pairs step;
    step.places = places;
    step.pairs = named;
    auto joined = joinPairs(plan.parted.model, step, progress);
    if (!joined && joined.error().kind != ProblemKind::NothingToDo) return tl::unexpected(joined.error());
    std::vector<Joint> kept = plan.parted.model.joints;
    if (joined) plan.parted = std::move(*joined);
    std::set<std::pair<std::size_t, std::size_t>> wanted;
    for (const auto& [a, b] : named) {
        const auto first = placesNamed(model, {a}), second = placesNamed(model, {b});
        if (!first) return tl::unexpected(first.error());
        if (!second) return tl::unexpected(second.error());
        for (const std::size_t p : *first)
            for (const std::size_t q : *second)
                if (p != q) wanted.insert(std::minmax(p, q));
    }
    plan.lines = WeldSearch(plan.parted.model, progress).run(wanted, beads);
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
    const std::vector<gp_Pnt> welded = weldedAlready(model);
    const double near = 10.0 * model.samePoint();
    std::erase_if(plan.lines, [&](const WeldLine& line) {
        const gp_Pnt middle = middleOf(plan.parted.model, line.place, line.edges.front());
        return std::any_of(welded.begin(), welded.end(), [&](const gp_Pnt& at) { return at.IsEqual(middle, near); });
    });
    std::erase_if(plan.lines, [&](const WeldLine& line) {
        return !std::binary_search(meant->begin(), meant->end(), line.place) ||
               !std::binary_search(meant->begin(), meant->end(), line.on);
    });
    if (named.empty()) {
        // Bolts, nuts, washers and pins hold by other means.
        const Model& parted = plan.parted.model;
        std::vector<char> fastener(parted.parts.size(), 0);
        for (std::size_t p = 0; p < parted.parts.size(); ++p)
            if (const auto own = survey::fastenersIn(*parted.parts[p]); own && !own->empty())
                fastener[p] = static_cast<int>(own->size()) == parted.parts[p]->incidence().solidCount();
        std::erase_if(plan.lines, [&](const WeldLine& line) {
            return fastener[parted.occurrences[line.place].part] != 0 ||
                   fastener[parted.occurrences[line.on].part] != 0;
        });
    }
    plan.parted.items.clear();
    // What was joined before stays so, as do the common edges of sheets; faces of other solids stay free of each other.
    if (joined) {
        std::set<std::pair<PlaceId, PlaceId>> together;
        for (const Joint& joint : kept)
            for (const JointUse& a : joint.uses)
                for (const JointUse& b : joint.uses) together.insert({a.place, b.place});
        const auto isFree = [&](const Joint& joint) {
            for (const JointUse& a : joint.uses)
                for (const JointUse& b : joint.uses)
                    if (a.place != b.place && !together.contains({a.place, b.place})) return true;
            return false;
        };
        // Those that joining made anew are the last ones, and stay so.
        std::vector<Joint>& joints = plan.parted.model.joints;
        const auto made = joints.end() - static_cast<std::ptrdiff_t>(plan.parted.jointsMade);
        plan.parted.jointsMade -= static_cast<std::size_t>(std::count_if(made, joints.end(), isFree));
        std::erase_if(joints, isFree);
    }
    return plan;
}

std::vector<ParameterInfo> MakeWelds::infos() {
    return {{"places", "list of names", "", "Parts or places; empty: all that is not set aside.", Json::array()},
            {"pairs", "list of pairs of names", "", "Only these pairs; empty: all that touch.", Json::array()},
            {"throat", "number", "mm", "Height of the seam; 0: seven tenths of the thinner wall.", 0.0},
            {"strip", "number", "mm", "Faces this wide beside each line are what it holds; 0: its edges.", 0.0},
            {"beads", "yes or no", "", "Seams that came as bodies become lines, and are set aside.", true},
            {"shortest", "number", "mm", "Shorter lines are left out; 0: three throats.", 0.0},
            {"name", "text", "", "Of the welds, followed by a number.", "weld"}};
}
void to_json(Json& json, const MakeWelds& step) {
    json = Json{{"throat", step.throat}, {"shortest", step.shortest}, {"name", step.name}};
    if (step.strip > 0.0) json["strip"] = step.strip;
    if (!step.beads) json["beads"] = false;
    if (!step.places.empty()) json["places"] = step.places;
    for (const auto& [a, b] : step.pairs) json["pairs"].push_back({a, b});
}
void from_json(const Json& json, MakeWelds& step) {
    step.places = json.value("places", std::vector<std::string>{});
    for (const Json& pair : json.value("pairs", Json::array())) {
        if (!pair.is_array() || pair.size() != 2) throw std::invalid_argument("a pair is two names");
        step.pairs.emplace_back(pair[0].get<std::string>(), pair[1].get<std::string>());
    }
    step.throat = json.value("throat", 0.0);
    step.shortest = json.value("shortest", 0.0);
    step.name = json.value("name", "weld");
    step.strip = json.value("strip", 0.0);
    step.beads = json.value("beads", true);
}

Result<Outcome> makeWelds(const Model& model, const MakeWelds& step, Progress& progress) {
    if (!(step.throat >= 0.0) || !std::isfinite(step.throat) || !(step.shortest >= 0.0) ||
        !std::isfinite(step.shortest) || !(step.strip >= 0.0) || !std::isfinite(step.strip))
        return fail(ProblemKind::BadInput, "Throat, strip and shortest length must be zero or more.");
    if (step.name.empty()) return fail(ProblemKind::BadInput, "The welds need a name.");
    auto plan = findWelds(model, step.places, step.pairs, progress, step.beads);
    if (!plan) return tl::unexpected(plan.error());
    Outcome outcome = std::move(plan->parted);
    const auto isShort = [&step](const WeldLine& line) {
        const double throat = step.throat > 0.0 ? step.throat : line.proposedThroat();
        return line.length < (step.shortest > 0.0 ? step.shortest : 3.0 * throat);
    };
    const std::size_t left = std::erase_if(plan->lines, isShort);
    std::vector<WeldStrip> strips;
    if (step.strip > 0.0) {
        auto parted = partStrips(outcome, plan->lines, step.strip, progress);
        if (!parted) return tl::unexpected(parted.error());
        strips = std::move(*parted);
    }
    Model& made = outcome.model;
    std::size_t welds = 0;
    double length = 0.0;
    std::set<std::size_t> beads;
    for (std::size_t l = 0; l < plan->lines.size(); ++l) {
        const WeldLine& line = plan->lines[l];
        const double throat = step.throat > 0.0 ? step.throat : line.proposedThroat();
        const std::string a = placeName(made, line.place), b = placeName(made, line.on);
        const double thinner = std::min(line.thicknessA, line.thicknessB);
        if (line.bead) beads.insert(*line.bead);
        if (thinner > 0.0 && throat > thinner * 1.001)
            return fail(ProblemKind::BadInput,
                        fmt::format("A throat of {} mm is more than the wall of {} mm between \"{}\" and \"{}\".",
                                    readable(throat), readable(thinner), a, b),
                        "Take a smaller throat, or leave it out.", {a, {}, line.where});
        Pairing weld;
        do weld.name = fmt::format("{} {}", step.name, ++welds);
        while (std::any_of(made.pairings.begin(), made.pairings.end(),
                           [&](const Pairing& one) { return one.name == weld.name; }));
        weld.kind = PairingKind::Weld;
        weld.behaviour = "bonded";
        weld.throat = throat;
        weld.length = line.length;
        const auto side = [&](std::size_t place, const auto& numbers, EntityKind kind, const std::string& own) {
            Group group{fmt::format("{}, {}", weld.name, own), "weld", std::nullopt, {}, std::nullopt};
            const Occurrence& at = made.occurrences[place];
            for (const int number : numbers) group.members.insert({made.parts[at.part]->id, at.id, {kind, number}});
            const std::string name = group.name;
            putByName(made.groups, std::move(group));
            return name;
        };
        if (step.strip > 0.0) {
            weld.first = side(line.place, strips[l].first, EntityKind::Face, a);
            weld.second = side(line.on, strips[l].second, EntityKind::Face, b);
        } else {
            weld.first = side(line.place, line.edges, EntityKind::Edge, a);
            weld.second = side(line.on, line.edgesOn, EntityKind::Edge, b);
        }
        outcome.items.push_back(
            {fmt::format("{}: \"{}\" on \"{}\"{}, {} mm long{}", weld.name, a, b,
                         line.bead ? fmt::format(", in place of \"{}\"", placeName(made, *line.bead)) : "",
                         readable(line.length),
                         throat > 0.0 ? fmt::format(", throat {} mm", readable(throat))
                                      : std::string(", its throat not known")),
             true,
             {},
             line.length});
        length += line.length;
        made.pairings.push_back(std::move(weld));
    }
    if (length == 0.0)
        return fail(ProblemKind::NothingToDo,
                    left > 0 ? fmt::format("The {} found here are all shorter than that.", counted(left, "line"))
                             : std::string("No body here ends on another so that a seam could hold it."),
                    left > 0 ? "Give a smaller shortest length." : "Close the gap between them first.");
    for (const std::size_t bead : beads) made.occurrences.change(bead).aside = true;
    if (!beads.empty())
        outcome.notes.push_back(fmt::format("{} set aside: lines stand for {}.",
                                            counted(beads.size(), "bead was", "beads were"),
                                            beads.size() == 1 ? "it" : "them"));
    if (left > 0)
        outcome.notes.push_back(fmt::format("{} left out for being short.", counted(left, "line was", "lines were")));
    outcome.summary = fmt::format("Weld along {}, {} mm", counted(outcome.items.size(), "line"), readable(length));
    progress.report(1.0, outcome.summary);
    return outcome;
}

}  // namespace rasoir::join
