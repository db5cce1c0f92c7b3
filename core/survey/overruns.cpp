#include "survey/overruns.h"

#include <algorithm>
#include <array>
#include <BRep_Tool.hxx>
#include <BRepBndLib.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <map>
#include <optional>
#include <set>
#include <TopoDS.hxx>
#include <tuple>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/round_surface.h"

namespace rasoir::survey {
namespace {

constexpr std::size_t longestChain = 64;
constexpr std::array probed{0.5, 0.07, 0.31, 0.73, 0.93};  // where a curve is asked whether it lies inside a face

class OverrunFinder {
public:
    OverrunFinder(const Incidence& incidence, const Rims& rims, double fit)
        : m_incidence(incidence), m_rims(rims), m_fit(fit), m_atCorner(rims.corners.size()) {
        for (std::size_t p = 0; p < rims.pieces.size(); ++p) {
            const RimPiece& piece = rims.pieces[p];
            if (piece.partner >= 0) continue;
            m_atCorner[piece.from].push_back(static_cast<int>(p));
            if (piece.to != piece.from) m_atCorner[piece.to].push_back(static_cast<int>(p));
            m_ofFace[piece.face].push_back(static_cast<int>(p));
        }
    }

    std::vector<Overrun> run() {
        for (const auto& [face, own] : m_ofFace) m_ends[face] = endsOf(own);
        for (const auto& [face, own] : m_ofFace) {
            if (own.size() == 0) continue;
            m_face = face;
            m_crossings.clear();
            bool any = false;
            std::vector<int> left = own;
            while (auto found = fromCorner(left)) {  // it may run over at several sides
                any = true;
                std::erase_if(left, [&](int p) {
                    return std::find(found->surplus.begin(), found->surplus.end(), p) != found->surplus.end();
                });
                m_found.push_back(std::move(*found));
            }
            if (any) continue;
            if (auto ring = ringInside(own)) m_found.push_back(std::move(*ring));
        }
        // Of two that overlap, one is cut back and the other is then no longer stopped by anything: the one that keeps
        // more goes first.
        std::vector<char> spent(m_rims.pieces.size(), false);
        std::stable_sort(m_found.begin(), m_found.end(),
                         [](const Overrun& a, const Overrun& b) { return a.past < b.past; });
        std::erase_if(m_found, [&](const Overrun& overrun) {
            const bool late =
                std::any_of(overrun.stops.begin(), overrun.stops.end(),
                            [&](const Stop& s) { return s.piece >= 0 && spent[s.piece] != 0; }) ||
                std::any_of(overrun.surplus.begin(), overrun.surplus.end(), [&](int p) { return spent[p] != 0; });
            if (late) return true;
            for (const int p : overrun.surplus) spent[p] = true;
            for (const Stop& stop : overrun.stops)
                if (stop.piece >= 0) spent[stop.piece] = true;
            return false;
        });
        return std::move(m_found);
    }

private:
    const Incidence& m_incidence;
    const Rims& m_rims;
    double m_fit;
    std::vector<std::vector<int>> m_atCorner;  // pieces without a partner
    std::map<int, std::vector<int>> m_ofFace;
    std::vector<Overrun> m_found;
    int m_face = 0;
    std::map<int, std::set<int>> m_ends;  // by face: corners where rows of its pieces without a partner begin
    std::map<std::tuple<int, int, int>, std::optional<CurvePiece>> m_crossings;  // of m_face, by other face and corners
    std::map<int, std::unique_ptr<BRepTopAdaptor_FClass2d>> m_classifiers;

    [[nodiscard]] const RimPiece& piece(int p) const { return m_rims.pieces[static_cast<std::size_t>(p)]; }
    [[nodiscard]] gp_Pnt at(int p, double share) const {
        const RimPiece& own = piece(p);
        return m_rims.probes[static_cast<std::size_t>(own.edge)]->value(own.first + share * (own.last - own.first));
    }

    /// On a face's surface and within its loops.
    bool isInside(int face, const gp_Pnt& point) {
        const TopoDS_Face shape = TopoDS::Face(m_incidence.face(face).Oriented(TopAbs_FORWARD));
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(shape);
        const auto uv = parametersOn(surface, point, m_fit);
        if (!uv || surface->Value(uv->X(), uv->Y()).Distance(point) > m_fit) return false;
        auto& classifier = m_classifiers[face];
        if (!classifier) classifier = std::make_unique<BRepTopAdaptor_FClass2d>(shape, Tolerance::least);
        return classifier->Perform(*uv) == TopAbs_IN;
    }
    bool liesInside(int p) {
        return std::all_of(probed.begin(), probed.end(), [&](double share) { return isInside(m_face, at(p, share)); });
    }
    bool liesInside(const CurvePiece& curve, int face) {
        return std::all_of(probed.begin(), probed.end(), [&](double share) {
            return isInside(face, curve.curve->Value(curve.first + share * (curve.last - curve.first)));
        });
    }

    [[nodiscard]] std::set<int> endsOf(const std::vector<int>& own) const {
        std::map<int, int> degree;
        for (const int p : own) {
            ++degree[piece(p).from];
            ++degree[piece(p).to];
        }
        std::set<int> ends;
        for (const auto& [corner, count] : degree)
            if (count % 2 != 0) ends.insert(corner);
        return ends;
    }

    /// The intersection of m_face with another from corner to corner, if it lies inside both.
    const std::optional<CurvePiece>& crossing(int other, int from, int to) {
        const auto [it, fresh] = m_crossings.try_emplace({other, from, to});
        if (!fresh) return it->second;
        const double tolerance = std::max(m_fit, Tolerance::samePlace);
        auto curve =
            meetingCurve(BRep_Tool::Surface(m_incidence.face(m_face)), BRep_Tool::Surface(m_incidence.face(other)),
                         m_rims.corners[static_cast<std::size_t>(from)].point,
                         m_rims.corners[static_cast<std::size_t>(to)].point, tolerance);
        if (curve && liesInside(*curve, m_face) && liesInside(*curve, other)) it->second = std::move(curve);
        return it->second;
    }
    /// A crossing that leaves a corner.
    std::optional<Stop> crossingFrom(int corner) {
        const std::set<int>& own = m_ends[m_face];
        for (const auto& [other, ends] : m_ends) {
            if (other == m_face || ends.empty() || (!own.contains(corner) && !ends.contains(corner))) continue;
            std::set<int> targets = ends;
            targets.insert(own.begin(), own.end());
            for (const int target : targets) {
                if (target == corner || (!own.contains(corner) && !own.contains(target)) ||
                    (!ends.contains(corner) && !ends.contains(target)))
                    continue;
                if (const auto& curve = crossing(other, corner, target))
                    return Stop{-1, true, other, corner, target, curve};
            }
        }
        return std::nullopt;
    }

    [[nodiscard]] int otherEnd(int p, int corner) const {
        return piece(p).from == corner ? piece(p).to : piece(p).from;
    }

    /// Pieces from one corner to another corner of the face, all inside it, none its own.
    std::optional<Overrun> fromCorner(const std::vector<int>& own) {
        std::map<int, int> degree;  // the face's own pieces at each corner
        for (const int p : own) {
            ++degree[piece(p).from];
            ++degree[piece(p).to];
        }
        for (const auto& [start, count] : degree) {
            std::vector<Stop> begins;
            for (const int p : m_atCorner[start])
                if (piece(p).face != m_face && liesInside(p)) begins.push_back(walked(p, start, own));
            if (count % 2 != 0)
                if (const auto cross = crossingFrom(start)) begins.push_back(*cross);
            for (const Stop& begin : begins) {
                Overrun overrun;
                overrun.face = m_face;
                overrun.from = start;
                int corner = start;
                bool closed = false;
                for (std::optional<Stop> next = begin; next && overrun.stops.size() < longestChain;) {
                    overrun.stops.push_back(*next);
                    corner = next->piece >= 0 ? otherEnd(next->piece, corner) : next->to;
                    closed = degree.contains(corner);
                    if (closed) break;
                    next.reset();
                    for (const int p : m_atCorner[corner]) {
                        const bool seen = std::any_of(overrun.stops.begin(), overrun.stops.end(),
                                                      [p](const Stop& s) { return s.piece == p; });
                        if (!seen && piece(p).face != m_face && liesInside(p)) next = walked(p, corner, own);
                    }
                    if (!next) next = crossingFrom(corner);
                }
                if (!closed) continue;
                overrun.to = corner;
                overrun.surplus = pathOf(own, overrun.from, overrun.to);
                if (overrun.surplus.empty()) continue;
                complete(overrun);
                return overrun;
            }
        }
        return std::nullopt;
    }
    [[nodiscard]] Stop walked(int p, int corner, const std::vector<int>& own) const {
        return {
            p, piece(p).from == corner && (piece(p).from != piece(p).to || runsAsOwn(p, own)), piece(p).face, -1, -1,
            {}};
    }

    /// The face's own pieces from corner to corner; none where there are several ways.
    [[nodiscard]] std::vector<int> pathOf(const std::vector<int>& own, int from, int to) const {
        std::vector<std::vector<int>> paths;
        for (const int first : own) {
            if (piece(first).from != from && piece(first).to != from) continue;
            std::vector<int> path{first};
            int corner = otherEnd(first, from);
            while (corner != to && path.size() <= own.size()) {
                int next = -1;
                for (const int p : own)
                    if (std::find(path.begin(), path.end(), p) == path.end() &&
                        (piece(p).from == corner || piece(p).to == corner))
                        next = p;
                if (next < 0) break;
                path.push_back(next);
                corner = otherEnd(next, corner);
            }
            if (corner == to) paths.push_back(std::move(path));
        }
        return paths.size() == 1 ? paths.front() : std::vector<int>{};
    }

    /// A ring runs the way the face's own does.
    [[nodiscard]] bool runsAsOwn(int ring, const std::vector<int>& own) const {
        const auto& probe = *m_rims.probes[static_cast<std::size_t>(piece(ring).edge)];
        const RimPiece& mine = piece(own.front());
        const auto& along = *m_rims.probes[static_cast<std::size_t>(mine.edge)];
        const double middle = 0.5 * (mine.first + mine.last);
        const auto near = probe.nearest(along.value(middle));
        return probe.tangent(near.parameter).Dot(along.tangent(middle)) > 0.0;
    }

    /// A ring of others' pieces that lies wholly inside a face whose own boundary round it is open all the way.
    std::optional<Overrun> ringInside(const std::vector<int>& own) {
        // The face's own open pieces have to close.
        std::map<int, int> degree;
        for (const int p : own) {
            ++degree[piece(p).from];
            ++degree[piece(p).to];
        }
        if (std::any_of(degree.begin(), degree.end(), [](const auto& d) { return d.second % 2 != 0; }))
            return std::nullopt;
        Bnd_Box box;
        BRepBndLib::Add(m_incidence.face(m_face), box, false);
        box.Enlarge(m_fit);
        std::vector<char> tried(m_rims.pieces.size(), false);
        for (std::size_t s = 0; s < m_rims.pieces.size(); ++s) {
            const int seed = static_cast<int>(s);
            if (tried[s] || piece(seed).partner >= 0 || piece(seed).face == m_face || box.IsOut(at(seed, 0.5)) ||
                degree.contains(piece(seed).from) || !liesInside(seed))
                continue;
            Overrun overrun;
            overrun.face = m_face;
            const int start = piece(seed).from;
            int corner = start, next = seed;
            while (next >= 0 && overrun.stops.size() < longestChain) {
                tried[next] = true;
                overrun.stops.push_back({next, piece(next).from == corner, piece(next).face, -1, -1, {}});
                corner = otherEnd(next, corner);
                if (corner == start) break;
                next = -1;
                for (const int p : m_atCorner[corner])
                    if (!tried[p] && piece(p).face != m_face && liesInside(p)) next = p;
            }
            if (corner != start) continue;
            overrun.surplus = own;
            complete(overrun);
            return overrun;
        }
        return std::nullopt;
    }

    void complete(Overrun& overrun) const {
        for (const int p : overrun.surplus)
            for (const double share : {0.0, 0.25, 0.5, 0.75, 1.0}) {
                const gp_Pnt point = at(p, share);
                double nearest = std::numeric_limits<double>::max();
                for (const Stop& stop : overrun.stops) {
                    if (stop.crossing) {
                        for (int i = 0; i <= 32; ++i)
                            nearest = std::min(nearest, point.Distance(stop.crossing->curve->Value(
                                                            stop.crossing->first +
                                                            (stop.crossing->last - stop.crossing->first) * i / 32)));
                        continue;
                    }
                    const RimPiece& other = piece(stop.piece);
                    nearest = std::min(nearest, m_rims.probes[static_cast<std::size_t>(other.edge)]
                                                    ->nearest(point, other.first, other.last)
                                                    .distance);
                }
                if (nearest > overrun.past) {
                    overrun.past = nearest;
                    overrun.where = point;
                }
            }
        for (const Stop& stop : overrun.stops)
            for (const double share : {0.0, 0.25, 0.5, 0.75, 1.0}) {
                const gp_Pnt point =
                    stop.crossing ? stop.crossing->curve->Value(stop.crossing->first +
                                                                share * (stop.crossing->last - stop.crossing->first))
                                  : at(stop.piece, share);
                double nearest = std::numeric_limits<double>::max();
                for (const int p : overrun.surplus)
                    nearest = std::min(nearest, m_rims.probes[static_cast<std::size_t>(piece(p).edge)]
                                                    ->nearest(point, piece(p).first, piece(p).last)
                                                    .distance);
                overrun.away = std::max(overrun.away, nearest);
            }
        for (const Stop& stop : overrun.stops)
            if (const int f = stop.face;
                sameSurface(m_incidence.face(f), m_incidence.face(overrun.face), std::max(m_fit, Tolerance::sameSkin)))
                overrun.over = f;
    }
};

}  // namespace

std::vector<Overrun> findOverruns(const Incidence& incidence, const Rims& rims, double fit) {
    const auto found = guarded("Looking for faces that run over", [&]() -> Result<std::vector<Overrun>> {
        return OverrunFinder(incidence, rims, fit).run();
    });
    return found ? *found : std::vector<Overrun>{};
}

}  // namespace rasoir::survey
