#include "selection.h"

#include "model/places.h"
#include "select/grow.h"

namespace rasoir::app {
namespace {

constexpr std::size_t rememberedSelections = 50;

std::vector<Pick> unique(std::vector<Pick> picks) {
    std::set<Pick> seen;
    std::erase_if(picks, [&seen](const Pick& pick) { return !seen.insert(pick).second; });
    return picks;
}

Pick faceOf(std::size_t occurrence, int face) {
    return {occurrence, face};
}
Pick edgeOf(std::size_t occurrence, int edge) {
    return {occurrence, 0, edge};
}

}  // namespace

Selection::Selection(Session& session, QObject* parent) : QObject(parent), m_session(session) {
    connect(&session, &Session::opened, this, [this] {
        m_before.clear();
        apply({}, false);
    });
    connect(&session, &Session::changed, this, &Selection::followModel);
}

const Part& Selection::partOf(const Pick& pick) const {
    return *m_session.model().parts[m_session.model().occurrences[pick.occurrence].part];
}

void Selection::setFilter(PickFilter filter) {
    if (filter == m_filter) return;
    m_filter = filter;
    emit filterChanged();
}

void Selection::apply(std::vector<Pick> picks, bool remembers) {
    if (picks == m_picks) return;
    if (remembers && !m_picks.empty()) {
        m_before.push_back(m_picks);
        if (m_before.size() > rememberedSelections) m_before.pop_front();
    }
    m_picks = std::move(picks);
    m_step = -1;
    m_partOfPick.clear();
    std::set<std::size_t> occurrences;
    const Model& model = m_session.model();
    for (const Pick& pick : m_picks) {
        occurrences.insert(pick.occurrence);
        m_partOfPick.push_back(model.parts[model.occurrences[pick.occurrence].part]);
    }
    m_session.places().select(occurrences);
    emit changed();
}

void Selection::followModel() {
    // Numbers stay good where the part did; in a changed part they would point at something else.
    std::vector<Pick> still;
    const Model& model = m_session.model();
    for (std::size_t i = 0; i < m_picks.size(); ++i) {
        const Pick& pick = m_picks[i];
        if (pick.occurrence >= model.occurrences.size()) continue;
        const auto& part = model.parts[model.occurrences[pick.occurrence].part];
        if (part == m_partOfPick[i] || part->shape.IsPartner(m_partOfPick[i]->shape) || kindOf(pick) == PickKind::Part)
            still.push_back(pick);
    }
    m_before.clear();
    apply(std::move(still), false);
}

void Selection::set(std::vector<Pick> picks) {
    apply(unique(std::move(picks)));
}

void Selection::add(const std::vector<Pick>& picks) {
    std::vector<Pick> all = m_picks;
    all.insert(all.end(), picks.begin(), picks.end());
    apply(unique(std::move(all)));
}

void Selection::remove(const std::vector<Pick>& picks) {
    const std::set<Pick> gone(picks.begin(), picks.end());
    std::vector<Pick> left = m_picks;
    std::erase_if(left, [&gone](const Pick& pick) { return gone.contains(pick); });
    apply(std::move(left));
}

void Selection::toggle(const Pick& pick) {
    if (contains(pick))
        remove({pick});
    else
        add({pick});
}

void Selection::clear() {
    apply({});
}

void Selection::back() {
    if (m_before.empty()) return;
    std::vector<Pick> last = std::move(m_before.back());
    m_before.pop_back();
    apply(std::move(last), false);
}

void Selection::invert() {
    const Model& model = m_session.model();
    std::set<PickKind> kinds;
    for (const Pick& pick : m_picks) kinds.insert(kindOf(pick));
    if (kinds.empty()) {
        switch (m_filter) {
            case PickFilter::Edges:
                kinds = {PickKind::Edge};
                break;
            case PickFilter::Vertices:
                kinds = {PickKind::Vertex};
                break;
            case PickFilter::Bodies:
                kinds = {PickKind::Body};
                break;
            case PickFilter::Parts:
                kinds = {PickKind::Part};
                break;
            default:
                kinds = {PickKind::Face};
        }
    }
    const std::set<Pick> old(m_picks.begin(), m_picks.end());
    std::vector<Pick> others;
    const auto take = [&](const Pick& pick) {
        if (!old.contains(pick)) others.push_back(pick);
    };
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        if (m_session.places().isHidden(o) || model.occurrences[o].aside) continue;
        const Incidence& topology = model.parts[model.occurrences[o].part]->incidence();
        if (kinds.contains(PickKind::Part)) take({o});
        if (kinds.contains(PickKind::Face))
            for (int f = 1; f <= topology.faceCount(); ++f) take(faceOf(o, f));
        if (kinds.contains(PickKind::Edge))
            for (int e = 1; e <= topology.edgeCount(); ++e)
                if (topology.facesAt(e) > 0) take(edgeOf(o, e));
        if (kinds.contains(PickKind::Vertex))
            for (int v = 1; v <= topology.vertexCount(); ++v) take({o, 0, 0, v});
        if (kinds.contains(PickKind::Body))
            for (int b = 1; b <= topology.solidCount(); ++b) take({o, 0, 0, 0, b});
    }
    apply(std::move(others));
}

Result<void> Selection::grow(Grow way) {
    if (m_picks.empty())
        return fail(ProblemKind::NotPossible, "Nothing is picked that could grow.", "Pick a face or an edge first.");
    std::map<std::size_t, std::pair<std::set<int>, std::set<int>>> byPlace;  // faces, edges
    for (const Pick& pick : m_picks) {
        if (pick.face > 0) byPlace[pick.occurrence].first.insert(pick.face);
        if (pick.edge > 0) byPlace[pick.occurrence].second.insert(pick.edge);
    }
    if (byPlace.empty())
        return fail(ProblemKind::NotPossible, "Only faces and edges grow.", "Pick a face or an edge first.");
    std::vector<Pick> grown;
    for (const auto& [o, picked] : byPlace) {
        const auto& [faces, edges] = picked;
        const std::size_t index = m_session.model().occurrences[o].part;
        const Part& part = *m_session.model().parts[index];
        const Incidence& topology = part.incidence();
        std::set<int> newFaces, newEdges;
        switch (way) {
            case Grow::Tangent:
                newFaces = select::tangentFaces(topology, faces);
                newEdges = select::tangentEdges(topology, edges);
                break;
            case Grow::Adjacent:
                newFaces = select::adjacentFaces(topology, faces);
                newEdges = select::adjacentEdges(topology, edges);
                break;
            case Grow::Feature: {
                const PartKnowledge* known = m_session.knowledge(index);
                static const std::vector<survey::Hole> none;
                const auto& holes = known != nullptr && known->holes ? *known->holes : none;
                for (const int f : faces) newFaces.merge(select::featureFaces(part, f, holes));
                for (const int e : edges)
                    for (const EdgeUse& use : topology.usesOf(e))
                        newFaces.merge(select::featureFaces(part, use.face, holes));
                break;
            }
            case Grow::Loop:
                // With a face picked too, its loop; a face alone gives its whole outline.
                for (const int e : edges)
                    newEdges.merge(select::loopOf(topology, e, faces.size() == 1 ? *faces.begin() : 0));
                if (edges.empty())
                    for (const int f : faces)
                        for (const int e : topology.edgesOf(f))
                            if (topology.facesAt(e) > 0) newEdges.insert(e);
                break;
            case Grow::Inside: {
                // The last face picked lies inside; the others, and the edges, are the boundary.
                const auto seed = std::find_if(m_picks.rbegin(), m_picks.rend(),
                                               [o = o](const Pick& p) { return p.occurrence == o && p.face > 0; });
                if (seed == m_picks.rend() || (faces.size() < 2 && edges.empty()))
                    return fail(ProblemKind::NotPossible, "A boundary is missing.",
                                "Pick the bounding faces or edges first, then one face inside.");
                std::set<int> boundary = faces;
                boundary.erase(seed->face);
                newFaces = select::insideBoundary(topology, boundary, edges, seed->face);
                break;
            }
            case Grow::Between:
                if (faces.size() != 2)
                    return fail(ProblemKind::NotPossible, "That takes two faces.", "Pick two faces of one part.");
                newFaces = select::facesBetween(topology, *faces.begin(), *faces.rbegin());
                if (newFaces.empty())
                    return fail(ProblemKind::NotPossible, "The two faces do not hang together.",
                                "Pick two faces of one body.");
                break;
            case Grow::Shrink:
                newFaces = select::shrunkFaces(topology, faces);
                break;
        }
        for (const int f : newFaces) grown.push_back(faceOf(o, f));
        for (const int e : newEdges) grown.push_back(edgeOf(o, e));
    }
    if (byPlace.size() > 1 && way == Grow::Between)
        return fail(ProblemKind::NotPossible, "The two faces belong to different parts.",
                    "Pick two faces of one part.");
    apply(unique(std::move(grown)));
    return {};
}

Result<void> Selection::selectAlike(const select::AlikeWanted& wanted) {
    if (m_picks.empty())
        return fail(ProblemKind::NotPossible, "Nothing is picked to compare with.", "Pick a face or an edge first.");
    const Model& model = m_session.model();
    std::vector<std::shared_ptr<const select::Traits>> traits;
    std::vector<const std::vector<survey::Hole>*> holes;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const PartKnowledge* known = m_session.knowledge(p);
        traits.push_back(known != nullptr ? known->traits : nullptr);
        holes.push_back(known != nullptr && known->holes ? &*known->holes : nullptr);
    }
    auto found = select::findAlike(model, traits, holes, m_picks.back(), wanted, m_session.places().hidden());
    if (found.empty())
        return fail(ProblemKind::NotPossible,
                    "What is picked has no " + select::likenessName(wanted.by) + " that could be compared.",
                    "Compare something else, or pick another face or edge.");
    // The sample stays the last, so that another comparison starts from it.
    const Pick sample = m_picks.back();
    std::erase(found, sample);
    found.push_back(sample);
    apply(std::move(found));
    return {};
}

std::vector<double> Selection::candidateSizes(select::Likeness by, const std::set<std::size_t>& parts) const {
    std::vector<double> sizes;
    if (m_picks.empty()) return sizes;
    const Model& model = m_session.model();
    const Pick& sample = m_picks.back();
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const std::size_t part = model.occurrences[o].part;
        if (m_session.places().isHidden(o) || model.occurrences[o].aside || (!parts.empty() && !parts.contains(part)))
            continue;
        const PartKnowledge* known = m_session.knowledge(part);
        if (known == nullptr || !known->traits) continue;
        const auto& traits = *known->traits;
        const std::size_t count = sample.face > 0 ? traits.faces.size() : traits.edges.size();
        for (std::size_t i = 1; i < count; ++i) {
            const Pick pick = sample.face > 0 ? faceOf(o, static_cast<int>(i)) : edgeOf(o, static_cast<int>(i));
            const double size = select::sizeOf(traits, pick, by);
            if (size > 0.0) sizes.push_back(size);
        }
    }
    return sizes;
}

std::optional<Pick> Selection::step(int by) {
    if (m_picks.empty()) return std::nullopt;
    const int count = static_cast<int>(m_picks.size());
    m_step = m_step < 0 ? (by > 0 ? 0 : count - 1) : ((m_step + by) % count + count) % count;
    return m_picks[static_cast<std::size_t>(m_step)];
}

QString describeSelection(const std::vector<Pick>& picks) {
    std::map<PickKind, std::size_t> counts;
    for (const Pick& pick : picks) ++counts[kindOf(pick)];
    QStringList words;
    const auto say = [&](PickKind kind, const char* one, const char* many) {
        if (counts[kind] > 0) words << QString::fromStdString(counted(counts[kind], one, many));
    };
    say(PickKind::Part, "part", "parts");
    say(PickKind::Body, "body", "bodies");
    say(PickKind::Face, "face", "faces");
    say(PickKind::Edge, "edge", "edges");
    say(PickKind::Vertex, "vertex", "vertices");
    return words.isEmpty() ? "nothing" : words.join(", ");
}

}  // namespace rasoir::app
