#include "heal/removal.h"

#include <fmt/format.h>

#include <BRepAdaptor_Surface.hxx>
#include <gp_Pln.hxx>
#include <map>
#include <numeric>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopTools_DataMapOfShapeInteger.hxx>

#include "common/guard.h"
#include "geometry/curves.h"
#include "geometry/integrals.h"
#include "heal/lineage_of.h"
#include "heal/wound.h"
#include "topology/soundness.h"

namespace rasoir::heal {
namespace {

/// Features in the order in which they go: by layer; those without strips that touch each other together.
std::vector<std::vector<int>> clusters(const Incidence& topology, const std::vector<Wanted>& wanted,
                                       const std::vector<char>& taken) {
    std::vector<int> ownerOf(static_cast<std::size_t>(topology.faceCount()) + 1, -1);
    for (std::size_t i = 0; i < wanted.size(); ++i)
        if (taken[i] && wanted[i].strips.empty())
            for (const int f : wanted[i].faces) ownerOf[f] = static_cast<int>(i);
    std::vector<int> parent(wanted.size());
    std::iota(parent.begin(), parent.end(), 0);
    const auto root = [&parent](int i) {
        while (parent[i] != i) i = parent[i] = parent[parent[i]];
        return i;
    };
    for (std::size_t i = 0; i < wanted.size(); ++i)
        if (taken[i] && wanted[i].strips.empty())
            for (const int f : wanted[i].faces)
                for (const int g : topology.neighboursOf(f))
                    if (ownerOf[g] >= 0) parent[root(static_cast<int>(i))] = root(ownerOf[g]);
    std::map<int, std::vector<int>> byRoot;
    for (std::size_t i = 0; i < wanted.size(); ++i)
        if (taken[i]) byRoot[root(static_cast<int>(i))].push_back(static_cast<int>(i));
    std::vector<std::vector<int>> result;
    for (auto& [r, members] : byRoot) result.push_back(std::move(members));
    std::stable_sort(result.begin(), result.end(), [&wanted](const auto& a, const auto& b) {
        return wanted[a.front()].layer < wanted[b.front()].layer;
    });
    return result;
}

struct Attempt {
    TopTools_DataMapOfShapeShape changes;
    std::vector<char> healed;             // by feature
    std::vector<std::set<int>> reshaped;  // by feature: face numbers
};

class Remover {
public:
    Remover(const Part& part, const std::vector<Wanted>& wanted, double tolerance, Progress& progress)
        : m_part(part), m_topology(part.incidence()), m_wanted(wanted), m_tolerance(tolerance), m_progress(progress) {
        m_outcomes.assign(wanted.size(), {});
        m_careful.assign(wanted.size(), 0);
    }

    Result<Removal> run() {
        std::vector<char> taken(m_wanted.size(), 1);
        // Each round either passes the checks or puts at least one feature back.
        for (std::size_t round = 0; round <= 2 * m_wanted.size(); ++round) {
            Attempt attempt;
            HalfEdgeBody body(m_topology);
            m_suspectedNow.clear();
            heal(body, taken, attempt);
            if (m_progress.cancelled())
                return fail(ProblemKind::Cancelled, "The removal was stopped; nothing has changed.");
            if (std::none_of(attempt.healed.begin(), attempt.healed.end(), [](char c) { return c != 0; }))
                return Removal{{}, {}, std::move(m_outcomes)};
            auto built = body.build(m_tolerance);
            if (!built) {
                if (!blame(built.error(), built.error().where.faces, taken, attempt)) blameAll(built.error(), taken);
                continue;
            }
            const auto bad = check(body, *built);
            if (bad.empty()) {
                if (auto problem = checkVolume(body, *built, attempt)) {
                    if (!splitSuspects(*problem, attempt, taken)) blameAll(*problem, taken);
                    continue;
                }
                const TopoDS_Shape shape = substituted(m_part.shape, *built);
                const std::set<int> adrift = cutOff(shape, *built);
                if (adrift.empty()) {
                    if (shape.IsNull()) return fail(ProblemKind::Internal, "Nothing would be left of the part.");
                    return Removal{shape, lineageOf(m_part, body, *built, shape), std::move(m_outcomes)};
                }
                const Problem cavity{ProblemKind::NotPossible,
                                     "Without it a closed cavity would be left inside the body.",
                                     {},
                                     "Remove what it opens into together with it."};
                bool any = false;
                for (std::size_t i = 0; i < m_wanted.size(); ++i) {
                    const auto leadsThere = [&](int f) {
                        const auto beside = m_topology.neighboursOf(f);
                        return std::any_of(beside.begin(), beside.end(), [&](int g) { return adrift.contains(g); });
                    };
                    if (!taken[i] || std::none_of(m_wanted[i].faces.begin(), m_wanted[i].faces.end(), leadsThere))
                        continue;
                    taken[i] = 0;
                    any = true;
                    refuse(static_cast<int>(i), cavity);
                }
                if (!any) blameAll(cavity, taken);
                continue;
            }
            bool any = false;
            for (const auto& [face, problem] : bad) any = blame(problem, {face}, taken, attempt) || any;
            if (!any) blameAll(bad.front().second, taken);
        }
        return Removal{{}, {}, std::move(m_outcomes)};
    }

private:
    const Part& m_part;
    const Incidence& m_topology;
    const std::vector<Wanted>& m_wanted;
    double m_tolerance;
    Progress& m_progress;
    std::vector<Result<void>> m_outcomes;
    std::set<int> m_suspectedNow;  // in this round
    std::vector<char> m_careful;   // healed in the way that passes the checks, be it not the nearest

    /// What fails the checks is tried once more, each way judged by itself; then it is put back.
    void suspect(int feature, const Problem& problem, std::vector<char>& taken) {
        if (!m_suspectedNow.insert(feature).second) return;
        if (!m_careful[feature]) {
            m_careful[feature] = 1;
            return;
        }
        taken[feature] = 0;
        refuse(feature, problem);
    }

    void refuse(int feature, Problem problem) {
        problem.where = {m_part.name, m_wanted[feature].faces, m_wanted[feature].middle};
        problem.what = fmt::format(
            "{} stays: {}", m_wanted[feature].name,
            problem.what.empty() ? "" : static_cast<char>(std::tolower(problem.what[0])) + problem.what.substr(1));
        m_outcomes[feature] = tl::unexpected(std::move(problem));
    }

    /// Faces sound, skin closed, and the volume as the feature says, where nothing else has touched the faces before.
    Result<void> judge(HalfEdgeBody& body, const Wanted& feature) const {
        Problem crosses{ProblemKind::NotPossible,
                        "A face beside it would cross itself once carried on.",
                        {},
                        "Remove the features beside it first, or together with it."};
        const auto faces = body.preview(m_tolerance);
        if (!faces) return tl::unexpected(faces.error());
        bool untouched = true;
        double growth = 0.0;
        for (const int f : body.touched()) {
            const SurgeryFace& before = body.before(f);
            untouched = untouched && !before.changed && !before.gone;
            if (untouched) growth -= volumeSeenFrom(feature.middle, before.received);
        }
        for (const auto& [f, face] : *faces) {
            for (const int h : body.halvesOf(f)) {
                const HalfEdge& half = body.half(h);
                if (half.dead || half.face != f || body.edge(half.edge).degenerated) continue;
                if (body.twin(h) < 0)
                    return fail(ProblemKind::NotPossible, "The skin would not be closed behind it.",
                                "Mend the part first.");
            }
            if (body.face(f).reshaped && (hasVanished(body, f, m_tolerance) || isThread(body, f, face) ||
                                          (!soundFace(face) && soundFace(body.face(f).received))))
                crosses.where.faces.push_back(body.face(f).number);
            if (untouched) growth += volumeSeenFrom(feature.middle, face);
        }
        if (!crosses.where.faces.empty()) return tl::unexpected(crosses);
        if (untouched)
            if (auto problem = wrongChange(growth, feature.grows <= 0 ? -1.5 * feature.change : 0.0,
                                           feature.grows >= 0 ? 1.5 * feature.change : 0.0))
                return tl::unexpected(*problem);
        return {};
    }

    /// Nothing of a face is left where it has but two edges, and these run along each other.
    static bool hasVanished(const HalfEdgeBody& body, int f, double tolerance) {
        std::vector<int> sides;
        for (const int h : body.halvesOf(f)) {
            const HalfEdge& half = body.half(h);
            if (half.dead || half.face != f) continue;
            if (sides.size() == 2 || body.edge(half.edge).degenerated) return false;
            sides.push_back(h);
        }
        if (sides.size() != 2 || body.half(sides[0]).edge == body.half(sides[1]).edge) return false;
        const SurgeryEdge &one = body.edge(body.half(sides[0]).edge), &other = body.edge(body.half(sides[1]).edge);
        const double reach = 10.0 * std::max({tolerance, one.tolerance, other.tolerance});
        for (const double share : {0.25, 0.5, 0.75})
            if (!parameterAt(other.curve, one.curve->Value(one.first + (one.last - one.first) * share), reach))
                return false;
        // On one circle the two may be its two halves.
        const auto middle = parameterAt(other.curve, one.curve->Value(0.5 * (one.first + one.last)), reach);
        double at = *middle;
        if (other.curve->IsPeriodic())
            at += other.curve->Period() * std::ceil((other.first - at) / other.curve->Period());
        return at > other.first && at < other.last;
    }

    /// A small face that was one, and now has next to no area for its outline.
    bool isThread(const HalfEdgeBody& body, int f, const TopoDS_Face& face) const {
        constexpr int small = 4;
        int sides = 0;
        for (const int h : body.halvesOf(f)) sides += !body.half(h).dead && body.half(h).face == f;
        if (sides > small) return false;
        const auto thin = [&](const TopoDS_Face& one) { return areaOf(one) < 10.0 * m_tolerance * lengthOf(one); };
        return thin(face) && !thin(body.face(f).received);
    }

    Result<std::set<int>> healOne(HalfEdgeBody& body, const Wanted& feature, bool carefully) const {
        int passed = feature.closing;
        const Judge judgement =
            carefully || passed > 0 ? Judge([&](HalfEdgeBody& made, const std::set<int>&) -> Result<void> {
                auto verdict = judge(made, feature);
                if (verdict && passed-- > 0)
                    return fail(ProblemKind::NotPossible, "There is no further way to close the wound.",
                                "Take an earlier one.");
                return verdict;
            })
                                    : Judge();
        return guarded("Healing", [&]() -> Result<std::set<int>> {
            if (feature.strips.empty()) return removeAndHeal(body, feature.faces, m_tolerance, judgement);
            std::vector<int> corners;
            for (const int f : feature.faces)
                if (std::none_of(feature.strips.begin(), feature.strips.end(),
                                 [f](const Strip& strip) { return strip.face == f; }))
                    corners.push_back(f);
            auto healed = removeStrips(body, feature.strips, corners, m_tolerance, judgement);
            if (healed || !judgement || healed.error().kind != ProblemKind::NotPossible) return healed;
            // Where the two faces it runs along do not meet as far as it went, those at its end may grow instead: as
            // any faces.
            passed = feature.closing;
            if (auto plainly = removeAndHeal(body, feature.faces, m_tolerance, judgement)) return plainly;
            return healed;
        });
    }

    void heal(HalfEdgeBody& body, std::vector<char>& taken, Attempt& attempt) {
        attempt.healed.assign(m_wanted.size(), 0);
        attempt.reshaped.assign(m_wanted.size(), {});
        const std::vector<std::vector<int>> work = clusters(m_topology, m_wanted, taken);
        std::size_t done = 0;
        const std::size_t all = work.size();
        for (const std::vector<int>& members : work) {
            if (m_progress.cancelled()) return;
            if (done % 16 == 0)
                m_progress.report(0.9 * static_cast<double>(std::min(done, all)) / static_cast<double>(all),
                                  fmt::format("Healing {} of {}", std::min(done + 1, all), all));
            ++done;
            if (members.size() > 1) {
                Wanted whole = m_wanted[members.front()];
                bool carefully = m_careful[members.front()] != 0;
                for (const int i : members) {
                    if (i == members.front()) continue;
                    whole.faces.insert(whole.faces.end(), m_wanted[i].faces.begin(), m_wanted[i].faces.end());
                    whole.change += m_wanted[i].change;
                    if (m_wanted[i].grows != whole.grows) whole.grows = 0;
                    carefully = carefully || m_careful[i];
                }
                if (const auto healed = healOne(body, whole, carefully)) {
                    for (const int i : members) {
                        attempt.healed[i] = 1;
                        attempt.reshaped[i] = *healed;
                    }
                    continue;
                }
            }
            // Alone; of several one may stand in the way of the others: each by itself, small ones first.
            for (const int i : members) {
                auto single = healOne(body, m_wanted[i], m_careful[i] != 0);
                if (!single && !m_careful[i] && single.error().kind == ProblemKind::NotPossible) {
                    m_careful[i] = 1;
                    single = healOne(body, m_wanted[i], true);
                }
                if (single) {
                    attempt.healed[i] = 1;
                    attempt.reshaped[i] = *single;
                } else {
                    taken[i] = 0;
                    refuse(i, single.error());
                }
            }
        }
    }

    /// Puts back the features that touch one of these faces.
    bool blame(const Problem& problem, const std::vector<int>& faces, std::vector<char>& taken,
               const Attempt& attempt) {
        bool any = false;
        for (std::size_t i = 0; i < m_wanted.size(); ++i) {
            if (!taken[i] || !attempt.healed[i]) continue;
            const auto touches = [&](int f) {
                return attempt.reshaped[i].contains(f) ||
                       std::find(m_wanted[i].faces.begin(), m_wanted[i].faces.end(), f) != m_wanted[i].faces.end();
            };
            if (std::any_of(faces.begin(), faces.end(), touches) &&
                !attempt.reshaped[i].empty()) {  // dropping a loop spoils no face
                suspect(static_cast<int>(i), problem, taken);
                any = true;
            }
        }
        return any;
    }
    void blameAll(const Problem& problem, std::vector<char>& taken) {
        for (std::size_t i = 0; i < m_wanted.size(); ++i)
            if (taken[i]) suspect(static_cast<int>(i), problem, taken);
    }

    /// Changed faces that the kernel's check calls bad and that were good before, or at whose edges the skin is not
    /// closed.
    std::vector<std::pair<int, Problem>> check(HalfEdgeBody& body, const TopTools_DataMapOfShapeShape& built) {
        std::vector<std::pair<int, Problem>> bad;
        for (int f = 0; f < body.faceCount(); ++f) {
            const SurgeryFace& record = body.face(f);
            if (record.gone || !record.changed) continue;
            const TopoDS_Shape* made = built.Seek(record.received);
            if (made == nullptr || made->IsNull() || !record.reshaped)
                continue;  // a face that only lost loops is as good as it was
            for (const int h : body.halvesOf(f)) {
                const HalfEdge& half = body.half(h);
                if (half.dead || half.face != f || body.edge(half.edge).degenerated) continue;
                if (body.twin(h) < 0) {
                    bad.emplace_back(record.number, Problem{ProblemKind::NotPossible,
                                                            "The skin would not be closed behind it.",
                                                            {},
                                                            "Mend the part first."});
                    break;
                }
            }
            if (hasVanished(body, f, m_tolerance) || isThread(body, f, TopoDS::Face(*made)))
                bad.emplace_back(record.number, Problem{ProblemKind::NotPossible,
                                                        "Nothing would be left of a face beside it.",
                                                        {},
                                                        "Remove that face together with it."});
            else if (!soundFace(TopoDS::Face(*made)) && soundFace(record.received))
                bad.emplace_back(record.number, Problem{ProblemKind::NotPossible,
                                                        "A face beside it would cross itself once carried on.",
                                                        {},
                                                        "Remove the features beside it first, or together with it."});
        }
        return bad;
    }

    /// The volume must change as the features say: by no more than half as much again as they hold.
    std::optional<Problem> checkVolume(HalfEdgeBody& body, const TopTools_DataMapOfShapeShape& built,
                                       const Attempt& attempt) {
        gp_Pnt base;
        bool placed = false;
        double growth = 0.0;
        for (int f = 0; f < body.faceCount(); ++f) {
            const SurgeryFace& record = body.face(f);
            const TopoDS_Shape* made = built.Seek(record.received);
            if (made == nullptr) continue;
            if (!placed) {
                base = m_wanted[static_cast<std::size_t>(std::find(attempt.healed.begin(), attempt.healed.end(), 1) -
                                                         attempt.healed.begin())]
                           .middle;
                placed = true;
            }
            if (!made->IsNull() && !record.reshaped && record.shape.IsSame(record.received))
                if (const auto flat = filledLoops(body, f, base)) {
                    growth += *flat;
                    continue;
                }
            growth -= volumeSeenFrom(base, record.received);
            if (!made->IsNull()) growth += volumeSeenFrom(base, TopoDS::Face(*made));
        }
        double least = 0.0, most = 0.0;
        for (std::size_t i = 0; i < m_wanted.size(); ++i) {
            if (!attempt.healed[i]) continue;
            if (m_wanted[i].grows >= 0) most += 1.5 * m_wanted[i].change;
            if (m_wanted[i].grows <= 0) least -= 1.5 * m_wanted[i].change;
        }
        return wrongChange(growth, least, most);
    }
    static std::optional<Problem> wrongChange(double growth, double least, double most) {
        if (growth >= least && growth <= most && (growth > 0.0 || least < 0.0)) return std::nullopt;
        return Problem{ProblemKind::NotPossible,
                       fmt::format("The volume would change by {} mm³ where {} to {} mm³ are to be expected.",
                                   readable(growth), readable(least), readable(most)),
                       {},
                       "Remove the features beside it first."};
    }

    /// What a flat that has lost nothing but loops adds to a volume seen from `base` [mm^3]; none where it is no flat.
    /// A plate's flat has thousands of loops: to integrate over all of them for the sake of one would cost more than
    /// all else.
    static std::optional<double> filledLoops(HalfEdgeBody& body, int f, const gp_Pnt& base) {
        const SurgeryFace& face = body.face(f);
        const BRepAdaptor_Surface surface(face.received, false);
        if (surface.GetType() != GeomAbs_Plane) return std::nullopt;
        gp_Dir out = surface.Plane().Axis().Direction();
        if (!surface.Plane().Direct()) out.Reverse();
        if (face.received.Orientation() == TopAbs_REVERSED) out.Reverse();
        double area = 0.0;
        for (const int h : body.halvesOf(f)) {
            const HalfEdge& half = body.half(h);
            const SurgeryEdge& edge = body.edge(half.edge);
            if (!half.dead || half.face != f || edge.curve.IsNull() || edge.number == 0) continue;
            constexpr int pieces = 32;
            gp_Pnt before;
            for (int k = 0; k <= pieces; ++k) {
                const double share = static_cast<double>(half.alongEdge ? k : pieces - k) / pieces;
                const gp_Pnt at = edge.curve->Value(edge.first + (edge.last - edge.first) * share);
                if (k > 0)
                    area -= 0.5 * gp_Vec(base, before)
                                      .Crossed(gp_Vec(base, at))
                                      .Dot(gp_Vec(out));  // a hole's loop runs the other way
                before = at;
            }
        }
        return area * gp_Vec(base, surface.Plane().Location()).Dot(gp_Vec(out)) / 3.0;
    }

    /// When the whole sum is wrong and no face is, those that moved edges are the suspects.
    bool splitSuspects(const Problem& problem, const Attempt& attempt, std::vector<char>& taken) {
        bool any = false;
        for (std::size_t i = 0; i < m_wanted.size(); ++i) {
            if (!attempt.healed[i] || !taken[i] || attempt.reshaped[i].empty()) continue;
            suspect(static_cast<int>(i), problem, taken);
            any = true;
        }
        return any;
    }

    /// Faces (old numbers) of skins that hung together before and no longer do, but for the largest piece of each.
    std::set<int> cutOff(const TopoDS_Shape& shape, const TopTools_DataMapOfShapeShape& built) const {
        TopTools_IndexedMapOfShape shellsBefore;
        TopExp::MapShapes(m_part.shape, TopAbs_SHELL, shellsBefore);
        std::vector<int> lost;
        TopTools_DataMapOfShapeInteger oldNumber;
        for (TopExp_Explorer shell(shape, TopAbs_SHELL); shell.More(); shell.Next()) {
            if (shellsBefore.Contains(shell.Current())) continue;
            TopTools_IndexedMapOfShape faces, edges;
            TopExp::MapShapes(shell.Current(), TopAbs_FACE, faces);
            std::vector<int> parent(static_cast<std::size_t>(faces.Extent()) + 1), firstAt;
            std::iota(parent.begin(), parent.end(), 0);
            const auto root = [&parent](int f) {
                while (parent[f] != f) f = parent[f] = parent[parent[f]];
                return f;
            };
            for (int f = 1; f <= faces.Extent(); ++f)
                for (TopExp_Explorer edge(faces(f), TopAbs_EDGE); edge.More(); edge.Next()) {
                    const int e = edges.Add(edge.Current());
                    if (static_cast<std::size_t>(e) >= firstAt.size())
                        firstAt.resize(static_cast<std::size_t>(e) + 1, 0);
                    if (firstAt[e] == 0)
                        firstAt[e] = f;
                    else
                        parent[root(f)] = root(firstAt[e]);
                }
            std::map<int, int> sizes;
            for (int f = 1; f <= faces.Extent(); ++f) ++sizes[root(f)];
            if (sizes.size() == 1) continue;
            const int largest = std::max_element(sizes.begin(), sizes.end(), [](const auto& a, const auto& b) {
                                    return a.second < b.second;
                                })->first;
            if (oldNumber.IsEmpty())
                for (int f = 1; f <= m_topology.faceCount(); ++f) {
                    const TopoDS_Shape* made = built.Seek(m_topology.face(f));
                    if (made == nullptr)
                        oldNumber.Bind(m_topology.face(f), f);
                    else if (!made->IsNull())
                        oldNumber.Bind(*made, f);
                }
            for (int f = 1; f <= faces.Extent(); ++f)
                if (root(f) != largest)
                    if (const int* number = oldNumber.Seek(faces(f))) lost.push_back(*number);
        }
        // A skin that came in pieces is not ours to judge.
        std::set<int> apart(lost.begin(), lost.end());
        if (apart.empty()) return apart;
        const auto hungTogether = [&](int f) {
            const auto beside = m_topology.neighboursOf(f);
            return std::any_of(beside.begin(), beside.end(), [&](int g) { return !apart.contains(g); });
        };
        return std::any_of(apart.begin(), apart.end(), hungTogether) ? apart : std::set<int>{};
    }
};

}  // namespace

Result<Removal> removeFaces(const Part& part, const std::vector<Wanted>& wanted, double tolerance, Progress& progress) {
    return guarded("Removing", [&] { return Remover(part, wanted, tolerance, progress).run(); });
}

}  // namespace rasoir::heal
