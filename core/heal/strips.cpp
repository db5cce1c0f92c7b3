#include "heal/strips.h"

#include <BRep_Tool.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <Geom_Line.hxx>
#include <fmt/format.h>

#include <Eigen/Dense>
#include <map>
#include <unordered_map>
#include <unordered_set>

#include "geometry/curves.h"
#include "geometry/surface_meeting.h"

namespace rasoir::heal {
namespace {

constexpr double tangentBelow = 0.05;   // [rad] faces that meet at less do not say where
constexpr double farthest = 12.0;       // times the width of the strip: the corner of a wedge of ten degrees

/// A side in a loop as it will be: an old one, or one of a new edge.
struct Side {
    int half = -1;
    int fresh = -1;
    bool along = true;   // of a new edge: runs with it
    friend bool operator==(const Side&, const Side&) = default;
};

/// A new edge between two faces, from one meeting place to another.
struct Fresh {
    int faceAlong = -1, faceAgainst = -1;
    int from = -1, to = -1;             // groups of vertices; for those inside a corner: -1
    int fromVertex = -1, toVertex = -1; // once known
    gp_Pnt start, end;
    std::vector<gp_Pnt> hints;          // at a quarter, half, three quarters of the strip
    gp_Vec direction;
    std::vector<CurvePiece> pieces;
    std::vector<gp_Pnt> stations;       // between the pieces
    std::vector<int> halves;            // once made: the side along of each piece
};

struct Slot {
    int face = -1;
    Side in, out;
};

class Contraction {
public:
    /// `shrinking`: edges of kept faces that turned out to end where they begin.
    Contraction(HalfEdgeBody& body, const std::vector<Strip>& strips, const std::vector<int>& corners, const std::set<int>& shrinking, Choices& choices, double tolerance) : m_body(body), m_strips(strips), m_tolerance(tolerance), m_shrinking(shrinking), m_choices(choices) {
        for (const Strip& strip : strips) m_removed.insert(m_body.faceRecord(strip.face));
        for (const int number : corners) m_removed.insert(m_body.faceRecord(number));
    }

    Result<std::set<int>> run() {
        if (auto done = readStrips(); !done) return tl::unexpected(done.error());
        if (auto done = rewalkLoops(); !done) return tl::unexpected(done.error());
        if (auto done = solveCorners(); !done) return tl::unexpected(done.error());
        if (findShrinking()) return std::set<int>{};
        if (auto done = findCurves(); !done) return tl::unexpected(done.error());
        if (auto done = apply(); !done) return tl::unexpected(done.error());
        return std::move(m_reshaped);
    }

    /// Edges that have no length left: to be tried again with these shrunk too.
    [[nodiscard]] const std::set<int>& shrunk() const { return m_shrunk; }

private:
    HalfEdgeBody& m_body;
    const std::vector<Strip>& m_strips;
    double m_tolerance;
    const std::set<int>& m_shrinking;
    Choices& m_choices;
    std::set<int> m_shrunk;
    std::set<int> m_removed;                          // records
    std::unordered_map<int, int> m_parent;            // vertices that become one
    std::unordered_set<int> m_touched;                // groups
    std::unordered_map<int, double> m_width;          // by vertex: of the widest strip or patch at it [mm]
    std::map<int, std::vector<Side>> m_instead;       // by old side of a kept face: what takes its place, in the face's direction
    std::vector<Fresh> m_fresh;
    std::vector<std::pair<int, std::vector<Side>>> m_loops;   // face, its sides to be
    struct Corner {
        std::vector<Slot> ring;
        std::vector<gp_Pnt> points;                   // one, or one for each triangle
        std::vector<int> pointOfSpoke;                // spoke i: between slot i and i + 1
        struct Diagonal { int i, j, from, to, fresh; };
        std::vector<Diagonal> diagonals;
        std::vector<int> vertices;
    };
    std::map<int, Corner> m_corners;                  // by group
    std::map<std::pair<int, int>, std::vector<Side>> m_between;   // extra sides put between in and out, by (group, slot)
    std::map<int, bool> m_diagonalAlongJ;             // by new edge: the side along it belongs to slot j
    std::set<int> m_reshaped;

    tl::unexpected<Problem> stopped(std::string what, std::string remedy, std::vector<int> faces = {}, std::optional<gp_Pnt> at = std::nullopt) const {
        Place place;
        for (const int f : faces) place.faces.push_back(m_body.face(f).number);
        place.point = at;
        return fail(ProblemKind::NotPossible, std::move(what), std::move(remedy), std::move(place));
    }
    Handle(Geom_Surface) surfaceOf(int face) const { return m_body.surfaceOf(face); }

    int find(int v) {
        auto it = m_parent.try_emplace(v, v).first;
        while (it->second != it->first) it = m_parent.find(it->second);
        const int root = it->first;
        while (v != root) v = std::exchange(m_parent[v], root);
        return root;
    }
    void unite(int a, int b) { m_parent[find(a)] = find(b); }

    // --- what shrinks -----------------------------------------------------------------------------------------------------

    [[nodiscard]] gp_Pnt pointOn(int h, double share) const {
        const SurgeryEdge& e = m_body.edge(m_body.half(h).edge);
        return e.curve->Value(m_body.half(h).alongEdge ? e.first + share * (e.last - e.first) : e.last - share * (e.last - e.first));
    }

    Result<void> readStrips() {
        std::unordered_map<int, int> label;   // side of a removed face: 0, 1 contact, -1 across
        for (const int f : m_removed) {
            const SurgeryFace& face = m_body.face(f);
            if (face.disordered || face.gone) return stopped("Its loops do not close, so what lies round it is unknown.", "Mend the part first.", {f});
            const auto strip = std::find_if(m_strips.begin(), m_strips.end(), [&](const Strip& s) { return s.face == face.number; });
            const std::vector<int> halves = m_body.halvesOf(f);
            for (const int h : halves) {
                if (m_body.half(h).dead || m_body.half(h).face != f) continue;
                const SurgeryEdge edge = m_body.edge(m_body.half(h).edge);
                int side = -1;
                if (strip != m_strips.end() && edge.number > 0)
                    for (const int s : {0, 1})
                        if (std::find(strip->contact[s].begin(), strip->contact[s].end(), edge.number) != strip->contact[s].end()) side = s;
                label[h] = side;
                if (side < 0) unite(m_body.startOf(h), m_body.endOf(h));
                if (edge.degenerated) continue;
                const int other = m_body.twin(h);
                if (other < 0) return stopped("At one of its edges the body is open, or more than two faces meet.", "Mend the part first.", {f}, edge.curve->Value(edge.first));
                const int beyond = m_body.half(other).face;
                if (m_removed.contains(beyond)) {
                    if (side >= 0 && beyond != f) return stopped("Another round runs along it.", "Remove that one first.", {f, beyond});
                    continue;
                }
                if (m_body.face(beyond).disordered) return stopped("A face beside it has loops that do not close.", "Mend the part first.", {beyond});
                if (side < 0) m_instead[other] = {};
            }
        }
        for (const int e : m_shrinking) {
            for (const int h : std::vector<int>(m_body.edge(e).halves))
                if (!m_body.half(h).dead && !m_removed.contains(m_body.half(h).face)) m_instead[h] = {};
            unite(m_body.edge(e).start, m_body.edge(e).end);
            for (const int v : {m_body.edge(e).start, m_body.edge(e).end}) m_width.try_emplace(v, 0.0);
        }
        for (const Strip& strip : m_strips)
            if (auto done = layOut(m_body.faceRecord(strip.face), label); !done) return done;
        for (const int f : m_removed)
            for (const int h : m_body.halvesOf(f))
                if (!m_body.half(h).dead && m_body.half(h).face == f)
                    for (const int v : {m_body.startOf(h), m_body.endOf(h)}) {
                        m_touched.insert(find(v));
                        m_width.try_emplace(v, 0.0);
                    }
        for (const int e : m_shrinking) m_touched.insert(find(m_body.edge(e).start));
        measureWidths();
        return {};
    }

    /// Widths by patches: longest distance between two of its vertices, for strips between its two sides.
    void measureWidths() {
        for (const int f : m_removed) {
            const SurgeryFace& face = m_body.face(f);
            const auto strip = std::find_if(m_strips.begin(), m_strips.end(), [&](const Strip& s) { return s.face == face.number; });
            double width = 0.0;
            std::vector<int> halves;
            for (const int h : m_body.halvesOf(f))
                if (!m_body.half(h).dead && m_body.half(h).face == f) halves.push_back(h);
            for (const int h : halves) {
                const SurgeryEdge& e = m_body.edge(m_body.half(h).edge);
                if (e.degenerated) continue;
                const bool contact = strip != m_strips.end() && (std::find(strip->contact[0].begin(), strip->contact[0].end(), e.number) != strip->contact[0].end() || std::find(strip->contact[1].begin(), strip->contact[1].end(), e.number) != strip->contact[1].end());
                if (contact) continue;
                for (const double share : {0.0, 0.5})
                    for (const double other : {0.5, 1.0}) width = std::max(width, pointOn(h, share).Distance(pointOn(h, other)));
            }
            for (const int h : halves)
                for (const int v : {m_body.startOf(h), m_body.endOf(h)}) {
                    double& own = m_width[v];
                    own = std::max(own, width);
                }
        }
    }

    /// Polyline along sides, with lengths.
    struct Path {
        std::vector<gp_Pnt> points;
        std::vector<double> at;      // length up to there
        std::vector<double> ends;    // length up to the end of each side
        [[nodiscard]] double length() const { return at.back(); }
        [[nodiscard]] double nearest(const gp_Pnt& point) const {
            double best = std::numeric_limits<double>::max(), where = 0.0;
            for (std::size_t i = 0; i + 1 < points.size(); ++i) {
                const gp_Vec along(points[i], points[i + 1]);
                const double square = along.SquareMagnitude();
                const double share = square > 0.0 ? std::clamp(gp_Vec(points[i], point).Dot(along) / square, 0.0, 1.0) : 0.0;
                const double distance = points[i].Translated(along * share).Distance(point);
                if (distance < best) {
                    best = distance;
                    where = at[i] + share * (at[i + 1] - at[i]);
                }
            }
            return where;
        }
        [[nodiscard]] gp_Pnt value(double s) const {
            for (std::size_t i = 0; i + 1 < points.size(); ++i)
                if (s <= at[i + 1] || i + 2 == points.size()) {
                    const double share = at[i + 1] > at[i] ? (s - at[i]) / (at[i + 1] - at[i]) : 0.0;
                    return points[i].Translated(gp_Vec(points[i], points[i + 1]) * share);
                }
            return points.back();
        }
    };
    Path pathAlong(const std::vector<int>& sides, bool backwards) const {
        Path path;
        for (const int h : sides) {
            for (int i = path.points.empty() ? 0 : 1; i <= 24; ++i) {
                const gp_Pnt point = pointOn(h, backwards ? 1.0 - i / 24.0 : i / 24.0);
                path.at.push_back(path.points.empty() ? 0.0 : path.at.back() + path.points.back().Distance(point));
                path.points.push_back(point);
            }
            path.ends.push_back(path.at.back());
        }
        return path;
    }

    /// The two sides of a strip, and the new edges between what lies along them.
    Result<void> layOut(int f, const std::unordered_map<int, int>& label) {
        std::vector<int> alive;
        for (const int h : m_body.halvesOf(f))
            if (!m_body.half(h).dead && m_body.half(h).face == f) alive.push_back(h);
        std::unordered_set<int> seen;
        std::vector<std::vector<int>> loops;
        for (const int first : alive) {
            if (seen.contains(first)) continue;
            std::vector<int> loop;
            for (int h = first; !seen.contains(h); h = m_body.half(h).next) {
                seen.insert(h);
                loop.push_back(h);
            }
            loops.push_back(std::move(loop));
        }
        std::array<std::vector<int>, 2> chain;   // in the strip's own direction
        if (loops.size() == 1) {
            std::vector<int>& loop = loops.front();
            std::size_t begin = loop.size();
            for (std::size_t i = 0; i < loop.size(); ++i)
                if (label.at(loop[i]) == 0 && label.at(loop[(i + loop.size() - 1) % loop.size()]) != 0) {
                    if (begin != loop.size()) return stopped("One of its sides is interrupted.", "Remove what lies between first.", {f});
                    begin = i;
                }
            if (begin == loop.size()) return stopped("It does not run along two faces.", "Remove it together with its neighbours.", {f});
            std::rotate(loop.begin(), loop.begin() + static_cast<std::ptrdiff_t>(begin), loop.end());
            int stage = 0;
            for (const int h : loop) {
                const int side = label.at(h);
                if (side == 0 && stage == 0) chain[0].push_back(h);
                else if (side == 1 && stage <= 2) {
                    if (stage == 2 && !chain[1].empty()) return stopped("One of its sides is interrupted.", "Remove what lies between first.", {f});
                    stage = 1;
                    chain[1].push_back(h);
                } else if (side < 0) stage = chain[1].empty() ? 0 : 2;
                else return stopped("One of its sides is interrupted.", "Remove what lies between first.", {f});
            }
        } else if (loops.size() == 2) {
            for (std::vector<int>& loop : loops) {
                const int side = label.at(loop.front());
                if (side < 0 || !chain[side].empty() || std::any_of(loop.begin(), loop.end(), [&](int h) { return label.at(h) != side; })) return stopped("Its two rims are not what it runs along.", "Remove it together with its neighbours.", {f});
                chain[side] = loop;
            }
            // Both rims begin where they are nearest to each other.
            const gp_Pnt from = pointOn(chain[0].front(), 0.0);
            const auto nearest = std::min_element(chain[1].begin(), chain[1].end(), [&](int a, int b) { return pointOn(a, 0.0).Distance(from) < pointOn(b, 0.0).Distance(from); });
            std::rotate(chain[1].begin(), nearest, chain[1].end());
            unite(m_body.startOf(chain[0].front()), m_body.startOf(chain[1].front()));
        } else {
            return stopped("It has holes.", "Remove the holes in it first.", {f});
        }
        if (chain[0].empty() || chain[1].empty()) return stopped("It does not run along two faces.", "Remove it together with its neighbours.", {f});
        std::reverse(chain[1].begin(), chain[1].end());   // now both lead the same way; sides of chain[1] are walked backwards
        if (find(m_body.endOf(chain[0].back())) != find(m_body.startOf(chain[1].back())) || find(m_body.startOf(chain[0].front())) != find(m_body.endOf(chain[1].front())))
            return stopped("Its two sides do not end together.", "Remove what lies between first.", {f});

        const Path own = pathAlong(chain[0], false), other = pathAlong(chain[1], true);
        struct Break {
            double at = 0.0;
            int group = -1;
            int on[2] = {0, 0};   // sides that have ended
        };
        std::vector<Break> breaks;
        for (std::size_t i = 0; i + 1 < chain[0].size(); ++i) breaks.push_back({other.nearest(pointOn(chain[0][i], 1.0)), m_body.endOf(chain[0][i]), {1, 0}});
        const double same = 1e-4 * other.length() + 10.0 * m_tolerance;
        for (std::size_t j = 0; j + 1 < chain[1].size(); ++j) {
            const int vertex = m_body.startOf(chain[1][j]);
            const auto twin = std::find_if(breaks.begin(), breaks.end(), [&](const Break& b) { return b.on[1] == 0 && std::abs(b.at - other.ends[j]) <= same; });
            if (twin != breaks.end()) {
                unite(twin->group, vertex);
                twin->on[1] = 1;
            } else {
                breaks.push_back({other.ends[j], vertex, {0, 1}});
            }
        }
        std::stable_sort(breaks.begin(), breaks.end(), [](const Break& a, const Break& b) { return a.at < b.at; });
        std::size_t i = 0, j = 0;
        double from = 0.0;
        int group = m_body.startOf(chain[0].front());
        for (std::size_t s = 0; s <= breaks.size(); ++s) {
            const bool last = s == breaks.size();
            const double to = last ? other.length() : breaks[s].at;
            const int next = last ? m_body.endOf(chain[0].back()) : breaks[s].group;
            const int beyondOwn = m_body.twin(chain[0][i]), beyondOther = m_body.twin(chain[1][j]);
            Fresh fresh;
            fresh.faceAlong = m_body.half(beyondOther).face;     // its side runs against chain[1]'s, which we walk backwards
            fresh.faceAgainst = m_body.half(beyondOwn).face;
            if (fresh.faceAlong == fresh.faceAgainst) return stopped("It runs along one face on both its sides.", "Remove it together with its neighbours.", {f});
            fresh.from = group;
            fresh.to = next;
            for (const double share : {0.25, 0.5, 0.75}) {
                const gp_Pnt point = other.value(from + share * (to - from));
                fresh.hints.emplace_back(0.5 * (point.XYZ() + own.value(own.nearest(point)).XYZ()));
            }
            fresh.direction = gp_Vec(other.value(from), other.value(from + 0.02 * (to - from)));
            const int id = static_cast<int>(m_fresh.size());
            m_fresh.push_back(std::move(fresh));
            auto& ownRow = m_instead[beyondOwn];
            ownRow.insert(ownRow.begin(), Side{-1, id, false});   // that face sees them the other way round
            m_instead[beyondOther].push_back(Side{-1, id, true});
            if (!last) {
                i += static_cast<std::size_t>(breaks[s].on[0]);
                j += static_cast<std::size_t>(breaks[s].on[1]);
            }
            from = to;
            group = next;
        }
        return {};
    }

    // --- the loops as they will be ------------------------------------------------------------------------------------------

    int startGroup(const Side& side) {
        if (side.half >= 0) return find(m_body.startOf(side.half));
        const Fresh& fresh = m_fresh[side.fresh];
        return find(side.along ? fresh.from : fresh.to);
    }
    int endGroup(const Side& side) {
        if (side.half >= 0) return find(m_body.endOf(side.half));
        const Fresh& fresh = m_fresh[side.fresh];
        return find(side.along ? fresh.to : fresh.from);
    }

    Result<void> rewalkLoops() {
        std::unordered_set<int> touched;
        for (const int v : m_touched) touched.insert(find(v));
        m_touched = std::move(touched);
        std::unordered_set<int> seen;
        for (const auto& [first, instead] : m_instead) {
            if (seen.contains(first)) continue;
            const int face = m_body.half(first).face;
            std::vector<Side> sides;
            for (int h = first; !seen.contains(h); h = m_body.half(h).next) {
                seen.insert(h);
                const auto other = m_instead.find(h);
                if (other == m_instead.end()) sides.push_back({h, -1, true});
                else sides.insert(sides.end(), other->second.begin(), other->second.end());
            }
            if (sides.empty()) return stopped("A face beside it would vanish.", "Remove that face together with it.", {face});
            m_loops.emplace_back(face, std::move(sides));
        }
        for (const auto& [face, sides] : m_loops)
            for (std::size_t s = 0; s < sides.size(); ++s) {
                const Side &in = sides[s], &out = sides[(s + 1) % sides.size()];
                const int group = endGroup(in);
                if (group != startGroup(out)) return stopped("The faces round it do not follow each other.", "Mend the part first.", {face});
                if (m_touched.contains(group)) m_corners[group].ring.push_back({face, in, out});
            }
        for (auto& [group, corner] : m_corners)
            if (auto done = orderRing(group, corner); !done) return done;
        return {};
    }

    Side twinOf(const Side& side) {
        if (side.fresh >= 0) return {-1, side.fresh, !side.along};
        return {m_body.twin(side.half), -1, true};
    }

    /// Slots one after another round the corner; faces that only touch it there are taken in.
    Result<void> orderRing(int group, Corner& corner) {
        std::vector<Slot> left = std::move(corner.ring);
        const std::size_t known = left.size();
        std::vector<Slot> ring{left.front()};
        std::size_t used = 1;
        for (std::size_t guard = 0; guard < 1000; ++guard) {
            const Side in = twinOf(ring.back().out);
            if (in.half < 0 && in.fresh < 0) return stopped("An edge that ends at it is open, or ends in a pole.", "Mend the part first.", {ring.back().face});
            if (in == ring.front().in) {
                if (used != known) return stopped("The faces round it touch each other in a single point.", "Remove its neighbours together with it.", {ring.front().face});
                corner.ring = std::move(ring);
                return {};
            }
            const auto found = std::find_if(left.begin(), left.end(), [&](const Slot& slot) { return slot.in == in; });
            if (found != left.end()) {
                ++used;
                ring.push_back(*found);
                continue;
            }
            if (in.half < 0) return stopped("The faces round it do not form a ring.", "Mend the part first.", {ring.back().face});
            const Side out{m_body.half(in.half).next, -1, true};
            if (startGroup(out) != group) return stopped("The faces round it do not form a ring.", "Mend the part first.", {ring.back().face});
            const int face = m_body.half(in.half).face;
            ring.push_back({face, in, out});
        }
        return stopped("The faces round it do not form a ring.", "Mend the part first.", {ring.front().face});
    }

    // --- where they meet --------------------------------------------------------------------------------------------------

    [[nodiscard]] double offSurface(int face, const gp_Pnt& point) const {
        const Handle(Geom_Surface) surface = surfaceOf(face);
        const auto uv = footOn(surface, point, m_tolerance);
        return uv ? surface->Value(uv->X(), uv->Y()).Distance(point) : std::numeric_limits<double>::max();
    }

    [[nodiscard]] double weakest(const std::vector<int>& faces, const gp_Pnt& point) const {
        Eigen::Matrix3d sum = Eigen::Matrix3d::Zero();
        for (const int face : faces) {
            const Handle(Geom_Surface) surface = surfaceOf(face);
            const auto uv = footOn(surface, point, m_tolerance);
            if (!uv) return 0.0;
            gp_Pnt foot;
            gp_Vec du, dv;
            surface->D1(uv->X(), uv->Y(), foot, du, dv);
            gp_Vec normal = du.Crossed(dv);
            if (normal.SquareMagnitude() < 1e-24) return 0.0;
            normal.Normalize();
            const Eigen::Vector3d n(normal.X(), normal.Y(), normal.Z());
            sum += n * n.transpose();
        }
        return Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d>(sum).eigenvalues()[0];
    }

    Result<void> solveCorners() {
        std::map<int, std::vector<int>> members;
        for (const auto& [v, width] : m_width) members[find(v)].push_back(v);
        for (auto& [group, corner] : m_corners)
            if (auto done = solve(corner, members[group]); !done) return done;
        return {};
    }

    /// Kept edges whose two ends have come together.
    bool findShrinking() {
        for (const auto& [group, corner] : m_corners)
            for (std::size_t i = 0; i < corner.ring.size(); ++i) {
                const int half = corner.ring[i].out.half;
                if (half < 0) continue;
                const SurgeryEdge& edge = m_body.edge(m_body.half(half).edge);
                if (edge.start == edge.end || edge.degenerated) continue;
                gp_Pnt far = m_body.vertex(m_body.endOf(half)).point;
                if (const auto other = m_corners.find(find(m_body.endOf(half))); other != m_corners.end() && other->first != group) {
                    const int twin = m_body.twin(half);
                    for (std::size_t j = 0; j < other->second.ring.size(); ++j)
                        if (other->second.ring[j].out.half == twin) far = other->second.points[static_cast<std::size_t>(other->second.pointOfSpoke[j])];
                }
                if (corner.points[static_cast<std::size_t>(corner.pointOfSpoke[i])].Distance(far) <= 10.0 * m_tolerance) m_shrunk.insert(m_body.half(half).edge);
            }
        return !m_shrunk.empty();
    }

    Result<void> solve(Corner& corner, const std::vector<int>& vertices) {
        const auto& ring = corner.ring;
        const int k = static_cast<int>(ring.size());
        gp_XYZ sum(0, 0, 0);
        double width = 0.0, loose = m_tolerance;
        for (const int v : vertices) {
            sum += m_body.vertex(v).point.XYZ();
            width = std::max(width, m_width[v]);
            loose = std::max(loose, m_body.vertex(v).tolerance);
        }
        const gp_Pnt start(sum / static_cast<double>(vertices.size()));
        const double reach = farthest * std::max(width, 10.0 * m_tolerance), fit = std::max(10.0 * m_tolerance, std::min(2.0 * loose, 0.02 * width));   // a file's loosest vertices are wider than its rounds
        std::vector<int> faces;
        for (const Slot& slot : ring)
            if (std::find(faces.begin(), faces.end(), slot.face) == faces.end()) faces.push_back(slot.face);
        const auto onAll = [&](const gp_Pnt& point) { return start.Distance(point) <= reach && std::all_of(faces.begin(), faces.end(), [&](int f) { return offSurface(f, point) <= fit; }); };
        const auto settle = [&](const gp_Pnt& point) {
            corner.points = {point};
            corner.pointOfSpoke.assign(ring.size(), 0);
            return Result<void>();
        };
        if (k == 1) return stopped("One face surrounds its end alone.", "Remove what it ends in together with it.", faces, start);
        const bool divisible = k >= 4 && k <= 8 && faces.size() >= 3;
        int passed = divisible ? m_choices.next(6) : 0;   // one point, if there is one, comes first
        const auto takes = [&] { return passed-- <= 0; };
        // A common point of all, where three of them cross properly.
        std::vector<Handle(Geom_Surface)> surfaces;
        for (const int f : faces) surfaces.push_back(surfaceOf(f));
        const double vague = 0.5 * tangentBelow * tangentBelow;
        if (faces.size() >= 3) {
            const gp_Pnt point = nearestToAll(surfaces, std::vector<std::optional<gp_Pnt2d>>(surfaces.size()), start, reach, 0.1 * m_tolerance, tangentBelow);
            if (onAll(point) && weakest(faces, point) > vague && takes()) return settle(point);
        }
        // On an old edge between two of them that is carried on: tangent faces, seams.
        std::optional<gp_Pnt> best;
        for (const Slot& slot : ring) {
            if (slot.out.half < 0) continue;
            const int twin = m_body.twin(slot.out.half);
            const SurgeryEdge& edge = m_body.edge(m_body.half(slot.out.half).edge);
            const gp_Pnt old = m_body.vertex(m_body.startOf(slot.out.half)).point;
            if (twin < 0) continue;
            if (faces.size() <= 2 && k == 2) {   // it goes on as a new edge between the same two faces
                if (onAll(old)) return settle(old);
                continue;
            }
            if (edge.curve.IsNull() || !runsOn(edge.curve)) continue;
            for (const int f : faces) {
                if (f == slot.face || f == m_body.half(twin).face) continue;
                const auto point = meetingPoint(edge.curve, surfaceOf(f), old, 10.0 * fit, m_tolerance);
                if (point && onAll(*point) && (!best || start.Distance(*point) < start.Distance(*best))) best = point;
            }
        }
        if (!best && faces.size() >= 3) best = spokesMeet(ring, start, reach, fit, onAll);
        if (best && takes()) return settle(*best);
        if (faces.size() <= 2) {
            const gp_Pnt point = nearestToAll(surfaces, std::vector<std::optional<gp_Pnt2d>>(surfaces.size()), start, reach, 0.1 * m_tolerance, tangentBelow);
            if (onAll(point)) return settle(point);
            return stopped("The two faces along it do not meet.", "Remove what lies beside it first.", faces, start);
        }
        if (divisible) return divide(corner, vertices, start, reach, fit, std::max(passed, 0));
        return stopped(k > 8 ? fmt::format("{} faces surround its end, too many to grow together.", k) : std::string("The faces at its end do not meet in one point."), "Remove the features at its end first, or together with it.", faces, start);
    }

    /// Where two old edges beside each other, carried on, meet: of faces that are tangent there (two rounds that run into one flat) nothing else tells.
    template <class OnAll>
    std::optional<gp_Pnt> spokesMeet(const std::vector<Slot>& ring, const gp_Pnt& start, double reach, double fit, const OnAll& onAll) {
        for (std::size_t i = 0; i < ring.size(); ++i) {
            const Side &in = ring[i].in, &out = ring[i].out;
            if (in.half < 0 || out.half < 0) continue;
            const Handle(Geom_Curve) a = m_body.edge(m_body.half(in.half).edge).curve, b = m_body.edge(m_body.half(out.half).edge).curve;
            if (!runsOn(a) || !runsOn(b)) continue;
            if (const auto point = crossingOf(a, b, start, reach, fit); point && onAll(*point)) return point;
        }
        return std::nullopt;
    }

    /// A point that lies on all faces of some slots: an old vertex, where they cross, or where an old edge between two of them meets the rest.
    std::optional<gp_Pnt> commonPoint(const std::vector<Slot>& ring, const std::vector<int>& cell, const std::vector<int>& vertices, const gp_Pnt& start, double reach, double fit) {
        std::vector<int> faces;
        for (const int i : cell)
            if (std::find(faces.begin(), faces.end(), ring[i].face) == faces.end()) faces.push_back(ring[i].face);
        const auto onAll = [&](const gp_Pnt& point) { return start.Distance(point) <= reach && std::all_of(faces.begin(), faces.end(), [&](int f) { return offSurface(f, point) <= fit; }); };
        for (const int v : vertices)
            if (onAll(m_body.vertex(v).point)) return m_body.vertex(v).point;
        if (faces.size() >= 3) {
            std::vector<Handle(Geom_Surface)> surfaces;
            for (const int f : faces) surfaces.push_back(surfaceOf(f));
            const gp_Pnt point = nearestToAll(surfaces, std::vector<std::optional<gp_Pnt2d>>(surfaces.size()), start, reach, 0.1 * m_tolerance, tangentBelow);
            if (onAll(point) && weakest(faces, point) > 0.5 * tangentBelow * tangentBelow) return point;
        }
        const int k = static_cast<int>(ring.size());
        std::optional<gp_Pnt> best;
        for (const int i : cell) {
            const int next = (i + 1) % k;
            if (ring[i].out.half < 0 || std::find(cell.begin(), cell.end(), next) == cell.end()) continue;
            const SurgeryEdge& edge = m_body.edge(m_body.half(ring[i].out.half).edge);
            if (edge.curve.IsNull() || !runsOn(edge.curve)) continue;
            const gp_Pnt old = m_body.vertex(m_body.startOf(ring[i].out.half)).point;
            for (const int f : faces) {
                if (f == ring[i].face || f == ring[next].face) continue;
                const auto point = meetingPoint(edge.curve, surfaceOf(f), old, 10.0 * fit, m_tolerance);
                if (point && onAll(*point) && (!best || start.Distance(*point) < start.Distance(*best))) best = point;
            }
        }
        return best;
    }

    std::map<std::vector<int>, std::optional<gp_Pnt>> m_commonPoints;   // of the corner in hand, by cell
    struct Cells {
        std::vector<std::vector<int>> cells;              // slots round each
        std::vector<gp_Pnt> points;
        std::vector<std::array<int, 4>> diagonals;        // slots i < j, the cells on both sides
    };
    /// All ways to cut a cell with at most `cuts` diagonals so that each piece has a point, fewest cuts first; `uncutToo`: with none as well.
    void cutApart(const std::vector<Slot>& ring, const std::vector<int>& cell, int cuts, const std::vector<int>& vertices, const gp_Pnt& start, double reach, double fit, std::vector<Cells>& ways, bool uncutToo = true) {
        std::vector<int> key = cell;   // the same cell comes up in many ways
        std::sort(key.begin(), key.end());
        auto known = m_commonPoints.find(key);
        if (uncutToo && known == m_commonPoints.end()) known = m_commonPoints.emplace(key, commonPoint(ring, cell, vertices, start, reach, fit)).first;
        if (const auto point = uncutToo ? known->second : std::nullopt) {
            ways.push_back({{cell}, {*point}, {}});
            return;
        }
        const std::size_t n = cell.size();
        if (cuts == 0 || n < 4) return;
        for (std::size_t a = 0; a + 2 < n; ++a)
            for (std::size_t b = a + 2; b < n; ++b) {
                if (a == 0 && b + 1 == n) continue;   // a side, not a diagonal
                std::vector<int> inner(cell.begin() + static_cast<std::ptrdiff_t>(a), cell.begin() + static_cast<std::ptrdiff_t>(b) + 1), outer(cell.begin() + static_cast<std::ptrdiff_t>(b), cell.end());
                outer.insert(outer.end(), cell.begin(), cell.begin() + static_cast<std::ptrdiff_t>(a) + 1);
                if (ring[cell[a]].face == ring[cell[b]].face) continue;
                std::vector<Cells> left, right;
                cutApart(ring, inner, cuts - 1, vertices, start, reach, fit, left);
                if (left.empty()) continue;
                cutApart(ring, outer, cuts - 1, vertices, start, reach, fit, right);
                for (const Cells& one : left)
                    for (const Cells& two : right) {
                        if (one.diagonals.size() + two.diagonals.size() + 1 > static_cast<std::size_t>(cuts) || ways.size() > 60) continue;
                        Cells whole = one;
                        const int shift = static_cast<int>(one.cells.size());
                        whole.cells.insert(whole.cells.end(), two.cells.begin(), two.cells.end());
                        whole.points.insert(whole.points.end(), two.points.begin(), two.points.end());
                        for (auto diagonal : two.diagonals) {
                            diagonal[2] += shift;
                            diagonal[3] += shift;
                            whole.diagonals.push_back(diagonal);
                        }
                        const auto holder = [&](int from, int to) {
                            for (int c = from; c < to; ++c)
                                if (std::find(whole.cells[c].begin(), whole.cells[c].end(), cell[a]) != whole.cells[c].end() && std::find(whole.cells[c].begin(), whole.cells[c].end(), cell[b]) != whole.cells[c].end()) return c;
                            return -1;
                        };
                        const int inLeft = holder(0, shift), inRight = holder(shift, static_cast<int>(whole.cells.size()));
                        if (inLeft < 0 || inRight < 0) continue;
                        whole.diagonals.push_back({std::min(cell[a], cell[b]), std::max(cell[a], cell[b]), inLeft, inRight});
                        ways.push_back(std::move(whole));
                    }
            }
    }

    /// More than one point: the corner is cut by new edges between faces that were not neighbours there.
    Result<void> divide(Corner& corner, const std::vector<int>& vertices, const gp_Pnt& start, double reach, double fit, int passed) {
        const auto& ring = corner.ring;
        const int k = static_cast<int>(ring.size());
        std::vector<int> all(ring.size());
        for (int i = 0; i < k; ++i) all[static_cast<std::size_t>(i)] = i;
        std::vector<Cells> ways;
        m_commonPoints.clear();
        for (const int cuts : {1, 2, 3})
            if (ways.empty() && cuts <= k - 3) cutApart(ring, all, cuts, vertices, start, reach, fit, ways, false);
        const auto cost = [&](const Cells& way) {
            double sum = 0.0;
            for (const gp_Pnt& point : way.points) sum += point.Distance(start);
            return sum;
        };
        std::sort(ways.begin(), ways.end(), [&](const Cells& a, const Cells& b) { return cost(a) < cost(b); });
        constexpr std::size_t mostWays = 10;   // each asks for the curves in which its faces meet, which between splines takes long
        if (ways.size() > mostWays) ways.resize(mostWays);
        for (const Cells& way : ways) {
            std::vector<Fresh> diagonals;
            std::vector<char> alongIsJ;
            bool possible = true;
            for (const auto& [i, j, from, to] : way.diagonals) {
                const gp_Pnt first = way.points[static_cast<std::size_t>(from)], second = way.points[static_cast<std::size_t>(to)];
                const auto piece = first.Distance(second) > 10.0 * m_tolerance ? curveBetween(ring[i].face, ring[j].face, first, second, m_tolerance) : std::nullopt;
                if (!piece) {
                    possible = false;
                    break;
                }
                int third = -1;
                for (const int c : way.cells[static_cast<std::size_t>(from)])
                    if (c != i && c != j) third = c;
                const bool fromIsAfterI = (third - i + k) % k < (j - i + k) % k;
                Fresh fresh;
                fresh.faceAlong = ring[fromIsAfterI ? j : i].face;
                fresh.faceAgainst = ring[fromIsAfterI ? i : j].face;
                fresh.start = first;
                fresh.end = second;
                fresh.pieces = {*piece};
                diagonals.push_back(std::move(fresh));
                alongIsJ.push_back(fromIsAfterI);
            }
            if (!possible || passed-- > 0) continue;
            corner.points = way.points;
            for (int i = 0; i < k; ++i)
                for (std::size_t c = 0; c < way.cells.size(); ++c) {
                    const auto& cell = way.cells[c];
                    const auto here = std::find(cell.begin(), cell.end(), i);
                    if (here == cell.end()) continue;
                    const int next = here + 1 == cell.end() ? cell.front() : *(here + 1);
                    if (next == (i + 1) % k) {
                        corner.pointOfSpoke.push_back(static_cast<int>(c));
                        break;
                    }
                }
            if (corner.pointOfSpoke.size() != ring.size()) {
                corner.pointOfSpoke.clear();
                continue;
            }
            for (std::size_t d = 0; d < diagonals.size(); ++d) {
                const auto& [i, j, from, to] = way.diagonals[d];
                const int id = static_cast<int>(m_fresh.size());
                m_fresh.push_back(diagonals[d]);
                corner.diagonals.push_back({i, j, from, to, id});
                m_diagonalAlongJ[id] = alongIsJ[d] != 0;
            }
            return {};
        }
        std::vector<int> faces;
        for (const Slot& slot : ring) faces.push_back(slot.face);
        return stopped("The faces at its end never meet.", "Remove the features at its end first, or together with it.", faces, start);
    }
    /// Where two faces meet between two points of both; where they are one flat, straight on, as what divided them before.
    [[nodiscard]] std::optional<CurvePiece> curveBetween(int a, int b, const gp_Pnt& from, const gp_Pnt& to, double tolerance) const {
        if (auto piece = meetingCurve(surfaceOf(a), surfaceOf(b), from, to, tolerance)) return piece;
        const double length = from.Distance(to);
        if (length <= tolerance) return std::nullopt;
        const Handle(Geom_Line) line = new Geom_Line(from, gp_Dir(gp_Vec(from, to)));
        for (int i = 0; i <= 8; ++i)
            for (const int face : {a, b})
                if (offSurface(face, line->Value(length * i / 8.0)) > tolerance) return std::nullopt;
        return CurvePiece{Handle(Geom_Curve)(line), 0.0, length};
    }

    // --- the curves --------------------------------------------------------------------------------------------------------

    /// Every end of a new edge knows its point once the corners are solved.
    void placeEnds() {
        for (auto& [group, corner] : m_corners)
            for (std::size_t i = 0; i < corner.ring.size(); ++i) {
                const Side& out = corner.ring[i].out;
                if (out.fresh < 0) continue;
                Fresh& fresh = m_fresh[out.fresh];
                (out.along ? fresh.start : fresh.end) = corner.points[static_cast<std::size_t>(corner.pointOfSpoke[i])];
            }
    }

    [[nodiscard]] gp_Pnt onBoth(const Fresh& fresh, const gp_Pnt& hint) const {
        const std::vector<Handle(Geom_Surface)> surfaces{surfaceOf(fresh.faceAlong), surfaceOf(fresh.faceAgainst)};
        return nearestToAll(surfaces, {std::nullopt, std::nullopt}, hint, std::numeric_limits<double>::max(), 0.1 * m_tolerance, 1e-3);
    }

    Result<void> findCurves() {
        placeEnds();
        for (Fresh& fresh : m_fresh) {
            if (!fresh.pieces.empty()) continue;   // a diagonal
            const Handle(Geom_Surface) a = surfaceOf(fresh.faceAlong), b = surfaceOf(fresh.faceAgainst);
            const auto fails = [&] { return stopped("The two faces along it do not meet all the way.", "Remove what lies beside it first, or together with it.", {fresh.faceAlong, fresh.faceAgainst}, fresh.hints[1]); };
            if (fresh.start.Distance(fresh.end) <= 10.0 * m_tolerance) {
                if (const auto ring = meetingRing(a, b, fresh.start, fresh.direction, 10.0 * m_tolerance)) {
                    fresh.pieces = {*ring};
                    continue;
                }
                fresh.stations = {onBoth(fresh, fresh.hints[0]), onBoth(fresh, fresh.hints[1]), onBoth(fresh, fresh.hints[2])};
            } else {
                const gp_Pnt middle = onBoth(fresh, fresh.hints[1]);
                const auto direct = meetingCurve(a, b, fresh.start, fresh.end, m_tolerance);
                const auto passes = [&](const CurvePiece& piece) {
                    double nearest = std::numeric_limits<double>::max();
                    for (int i = 0; i <= 32; ++i) nearest = std::min(nearest, piece.curve->Value(piece.first + (piece.last - piece.first) * i / 32).Distance(middle));
                    return nearest <= 0.2 * fresh.start.Distance(fresh.end);
                };
                if (direct && passes(*direct)) {
                    fresh.pieces = {*direct};
                    continue;
                }
                fresh.stations = {middle};
            }
            std::vector<gp_Pnt> stops{fresh.start};
            stops.insert(stops.end(), fresh.stations.begin(), fresh.stations.end());
            stops.push_back(fresh.end);
            for (std::size_t s = 0; s + 1 < stops.size(); ++s) {
                const auto piece = meetingCurve(a, b, stops[s], stops[s + 1], m_tolerance);
                if (!piece) return fails();
                fresh.pieces.push_back(*piece);
            }
        }
        return {};
    }

    // --- done to the body --------------------------------------------------------------------------------------------------

    void touch(int f) {
        SurgeryFace& face = m_body.changeFace(f);
        face.changed = face.reshaped = true;
        m_reshaped.insert(face.number);
    }

    Result<void> make(Fresh& fresh) {
        std::vector<int> vertices{fresh.fromVertex};
        for (const gp_Pnt& station : fresh.stations) vertices.push_back(m_body.addVertex(station, 2.0 * m_tolerance));
        vertices.push_back(fresh.toVertex);
        for (std::size_t p = 0; p < fresh.pieces.size(); ++p) {
            const CurvePiece& piece = fresh.pieces[p];
            const int half = m_body.addEdge(piece.curve, piece.first, piece.last, vertices[p], vertices[p + 1], 2.0 * m_tolerance, fresh.faceAlong, fresh.faceAgainst);
            if (auto shaped = m_body.reshape(m_body.half(half).edge, piece.curve, piece.first, piece.last, 10.0 * m_tolerance); !shaped) return shaped;
            fresh.halves.push_back(half);
        }
        return {};
    }
    void append(std::vector<int>& row, const Side& side) const {
        if (side.half >= 0) {
            row.push_back(side.half);
            return;
        }
        const std::vector<int>& halves = m_fresh[side.fresh].halves;
        if (side.along) row.insert(row.end(), halves.begin(), halves.end());
        else
            for (auto it = halves.rbegin(); it != halves.rend(); ++it) row.push_back(*it + 1);
    }

    Result<void> apply() {
        // Vertices; an old one that lies right already serves on, and what ends there is left as it is.
        std::map<int, std::vector<int>> members;
        for (const auto& [v, width] : m_width) members[find(v)].push_back(v);
        for (auto& [group, corner] : m_corners) {
            for (const gp_Pnt& point : corner.points) {
                int vertex = -1;
                for (const int v : members[group])
                    if (m_body.vertex(v).point.Distance(point) <= m_tolerance && std::find(corner.vertices.begin(), corner.vertices.end(), v) == corner.vertices.end()) vertex = v;
                corner.vertices.push_back(vertex >= 0 ? vertex : m_body.addVertex(point, 2.0 * m_tolerance));
            }
            const int k = static_cast<int>(corner.ring.size());
            for (int i = 0; i < k; ++i) {
                const int vertex = corner.vertices[static_cast<std::size_t>(corner.pointOfSpoke[i])];
                const Side& out = corner.ring[i].out;
                if (out.fresh >= 0) {
                    Fresh& fresh = m_fresh[out.fresh];
                    (out.along ? fresh.fromVertex : fresh.toVertex) = vertex;
                    continue;
                }
                if (auto done = carryOn(group, corner, i, vertex); !done) return done;
            }
            for (const Corner::Diagonal& diagonal : corner.diagonals) {
                m_fresh[diagonal.fresh].fromVertex = corner.vertices[diagonal.from];
                m_fresh[diagonal.fresh].toVertex = corner.vertices[diagonal.to];
            }
        }
        for (Fresh& fresh : m_fresh)
            if (auto made = make(fresh); !made) return tl::unexpected(made.error());
        relink();
        for (const auto& [half, instead] : m_instead) m_body.kill(half);
        for (const int f : m_removed) {
            for (const int h : std::vector<int>(m_body.halvesOf(f)))
                if (m_body.half(h).face == f && !m_body.half(h).dead) m_body.kill(h);
            m_body.changeFace(f).gone = true;
        }
        return {};
    }

    /// The old edge that leaves the corner between slot i and i + 1 now ends at `vertex`.
    Result<void> carryOn(int group, Corner& corner, int i, int vertex) {
        const int k = static_cast<int>(corner.ring.size());
        const int half = corner.ring[i].out.half;
        const int old = m_body.startOf(half);
        if (old == vertex) return {};
        const int e = m_body.half(half).edge;
        const bool along = m_body.half(half).alongEdge;
        const gp_Pnt target = m_body.vertex(vertex).point;
        const SurgeryEdge before = m_body.edge(e);
        if (const auto at = carriedTo(before, !along, target, 10.0 * m_tolerance)) {
            SurgeryEdge& edge = m_body.changeEdge(e);
            (along ? edge.start : edge.end) = vertex;
            const SurgeryEdge now = edge;
            const auto shaped = m_body.reshape(e, now.curve, along ? *at : now.first, along ? now.last : *at, 10.0 * m_tolerance);
            if (!shaped) return stopped(shaped.error().what, "Remove the features beside it first.", {corner.ring[i].face}, target);
            for (const int h : now.halves)
                if (!m_body.half(h).dead) touch(m_body.half(h).face);
            return {};
        }
        // It cannot be carried on itself: a further edge leads from its end to the corner.
        const int next = (i + 1) % k;
        const auto piece = curveBetween(corner.ring[i].face, corner.ring[next].face, m_body.vertex(old).point, target, std::max(m_tolerance, m_body.vertex(old).tolerance));
        if (!piece) return stopped("An edge that ends at it cannot be carried on.", "Remove the features beside it first, or together with it.", {corner.ring[i].face, corner.ring[next].face}, target);
        Fresh bridge;   // runs from the old end to the corner: with the side of slot i + 1
        bridge.faceAlong = corner.ring[next].face;
        bridge.faceAgainst = corner.ring[i].face;
        bridge.fromVertex = old;
        bridge.toVertex = vertex;
        bridge.pieces = {*piece};
        const int id = static_cast<int>(m_fresh.size());
        m_fresh.push_back(std::move(bridge));
        m_between[{group, i}].push_back({-1, id, false});                                              // before slot i's out
        auto& arriving = m_between[{group, next}];
        arriving.insert(arriving.begin(), Side{-1, id, true});                                         // after slot next's in
        return {};
    }

    void relink() {
        for (auto& [group, corner] : m_corners) {
            const int k = static_cast<int>(corner.ring.size());
            std::vector<std::vector<std::pair<int, Side>>> fan(corner.ring.size());
            for (const Corner::Diagonal& diagonal : corner.diagonals) {
                const bool alongIsJ = m_diagonalAlongJ.at(diagonal.fresh);
                fan[diagonal.i].emplace_back((diagonal.i - diagonal.j + k) % k, Side{-1, diagonal.fresh, !alongIsJ});
                fan[diagonal.j].emplace_back((diagonal.j - diagonal.i + k) % k, Side{-1, diagonal.fresh, alongIsJ});
            }
            for (int i = 0; i < k; ++i) {
                const Slot& slot = corner.ring[i];
                touch(slot.face);
                std::sort(fan[i].begin(), fan[i].end(), [](const auto& a, const auto& b) { return a.first < b.first; });
                std::vector<int> row;
                append(row, slot.in);
                row.erase(row.begin(), row.end() - 1);
                std::vector<Side> before, after;   // bridges: arriving ones first, leaving ones last
                if (const auto extra = m_between.find({group, i}); extra != m_between.end())
                    for (const Side& side : extra->second) (side.along ? before : after).push_back(side);
                for (const Side& side : before) append(row, side);
                for (const auto& [distance, side] : fan[i]) append(row, side);
                for (const Side& side : after) append(row, side);
                std::vector<int> out;
                append(out, slot.out);
                row.push_back(out.front());
                for (std::size_t s = 0; s + 1 < row.size(); ++s) m_body.link(row[s], row[s + 1]);
            }
        }
        // Pieces of one new edge follow each other; what was joined by nothing but the removal of sides between is linked above.
        for (const Fresh& fresh : m_fresh)
            for (std::size_t p = 0; p + 1 < fresh.halves.size(); ++p) {
                m_body.link(fresh.halves[p], fresh.halves[p + 1]);
                m_body.link(fresh.halves[p + 1] + 1, fresh.halves[p] + 1);
            }
    }
};

}  // namespace

Result<std::set<int>> removeStrips(HalfEdgeBody& body, const std::vector<Strip>& strips, const std::vector<int>& corners, double tolerance, const Judge& judge) {
    return firstAccepted(body, judge, [&](Choices& choices) -> Result<std::set<int>> {
        std::set<int> shrinking;
        for (int round = 0; round < 8; ++round) {
            body.begin();
            Choices fresh = choices;
            Contraction contraction(body, strips, corners, shrinking, fresh, tolerance);
            auto done = contraction.run();
            if (done && contraction.shrunk().empty()) {
                choices = fresh;
                return done;
            }
            const std::size_t before = shrinking.size();
            shrinking.insert(contraction.shrunk().begin(), contraction.shrunk().end());
            if (!done) {
                choices = fresh;
                return done;
            }
            if (shrinking.size() == before) return fail(ProblemKind::NotPossible, "An edge beside it has no length left.", "Remove the features beside it first.");
            body.rollBack();
        }
        return fail(ProblemKind::NotPossible, "The edges beside it have no length left.", "Remove the features beside it first.");
    });
}

}  // namespace rasoir::heal
