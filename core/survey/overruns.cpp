#include "survey/overruns.h"

#include <BRepBndLib.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <BRep_Tool.hxx>
#include <TopoDS.hxx>

#include <algorithm>
#include <map>
#include <optional>

#include "common/guard.h"
#include "geometry/curves.h"
#include "geometry/round_surface.h"

namespace rasoir::survey {
namespace {

constexpr std::size_t longestChain = 64;

class Finder {
public:
    Finder(const Incidence& incidence, const Rims& rims, double fit) : m_incidence(incidence), m_rims(rims), m_fit(fit), m_atCorner(rims.corners.size()) {
        for (std::size_t p = 0; p < rims.pieces.size(); ++p) {
            const RimPiece& piece = rims.pieces[p];
            if (piece.partner >= 0) continue;
            m_atCorner[piece.from].push_back(static_cast<int>(p));
            if (piece.to != piece.from) m_atCorner[piece.to].push_back(static_cast<int>(p));
            m_ofFace[piece.face].push_back(static_cast<int>(p));
        }
    }

    std::vector<Overrun> run() {
        for (const auto& [face, own] : m_ofFace) {
            if (own.size() == 0) continue;
            m_classifier.reset();
            m_face = face;
            m_surface = BRep_Tool::Surface(m_incidence.face(face));
            bool any = false;
            std::vector<int> left = own;
            while (auto found = fromCorner(left)) {   // it may run over at several sides
                any = true;
                std::erase_if(left, [&](int p) { return std::find(found->surplus.begin(), found->surplus.end(), p) != found->surplus.end(); });
                m_found.push_back(std::move(*found));
            }
            if (any) continue;
            if (auto ring = ringInside(own)) m_found.push_back(std::move(*ring));
        }
        // Of two that overlap, one is cut back and the other is then no longer stopped by anything: the one that keeps more goes first.
        std::vector<char> spent(m_rims.pieces.size(), false);
        std::stable_sort(m_found.begin(), m_found.end(), [](const Overrun& a, const Overrun& b) { return a.past < b.past; });
        std::erase_if(m_found, [&](const Overrun& overrun) {
            const bool late = std::any_of(overrun.stops.begin(), overrun.stops.end(), [&](const Stop& s) { return spent[s.piece] != 0; }) ||
                              std::any_of(overrun.surplus.begin(), overrun.surplus.end(), [&](int p) { return spent[p] != 0; });
            if (late) return true;
            for (const int p : overrun.surplus) spent[p] = true;
            for (const Stop& stop : overrun.stops) spent[stop.piece] = true;
            return false;
        });
        return std::move(m_found);
    }

private:
    const Incidence& m_incidence;
    const Rims& m_rims;
    double m_fit;
    std::vector<std::vector<int>> m_atCorner;   // pieces without a partner
    std::map<int, std::vector<int>> m_ofFace;
    std::vector<Overrun> m_found;
    int m_face = 0;
    Handle(Geom_Surface) m_surface;
    std::unique_ptr<BRepTopAdaptor_FClass2d> m_classifier;

    [[nodiscard]] const RimPiece& piece(int p) const { return m_rims.pieces[static_cast<std::size_t>(p)]; }
    [[nodiscard]] gp_Pnt at(int p, double share) const {
        const RimPiece& own = piece(p);
        return m_rims.probes[static_cast<std::size_t>(own.edge)]->value(own.first + share * (own.last - own.first));
    }

    /// On the face's surface all along, and within its loops.
    bool liesInside(int p) {
        for (const double share : {0.5, 0.07, 0.31, 0.73, 0.93}) {
            const gp_Pnt point = at(p, share);
            const auto uv = parametersOn(m_surface, point, m_fit);
            if (!uv || m_surface->Value(uv->X(), uv->Y()).Distance(point) > m_fit) return false;
            if (!m_classifier) m_classifier = std::make_unique<BRepTopAdaptor_FClass2d>(TopoDS::Face(m_incidence.face(m_face).Oriented(TopAbs_FORWARD)), 1e-7);
            if (m_classifier->Perform(*uv) != TopAbs_IN) return false;
        }
        return true;
    }
    [[nodiscard]] int otherEnd(int p, int corner) const { return piece(p).from == corner ? piece(p).to : piece(p).from; }

    /// Pieces from one corner to another corner of the face, all inside it, none its own.
    std::optional<Overrun> fromCorner(const std::vector<int>& own) {
        std::map<int, int> degree;   // the face's own pieces at each corner
        for (const int p : own) {
            ++degree[piece(p).from];
            ++degree[piece(p).to];
        }
        for (const auto& [start, count] : degree) {
            for (const int first : m_atCorner[start]) {
                if (piece(first).face == m_face || !liesInside(first)) continue;
                Overrun overrun;
                overrun.face = m_face;
                overrun.from = start;
                int corner = start, next = first;
                bool closed = false;
                while (next >= 0 && overrun.stops.size() < longestChain) {
                    overrun.stops.push_back({next, piece(next).from == corner && (piece(next).from != piece(next).to || runsAsOwn(next, own))});
                    corner = otherEnd(next, corner);
                    if (degree.contains(corner)) {
                        closed = true;
                        break;
                    }
                    const int last = next;
                    next = -1;
                    for (const int p : m_atCorner[corner]) {
                        const bool seen = p == last || std::any_of(overrun.stops.begin(), overrun.stops.end(), [p](const Stop& s) { return s.piece == p; });
                        if (!seen && piece(p).face != m_face && liesInside(p)) next = p;
                    }
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
                    if (std::find(path.begin(), path.end(), p) == path.end() && (piece(p).from == corner || piece(p).to == corner)) next = p;
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
        if (std::any_of(degree.begin(), degree.end(), [](const auto& d) { return d.second % 2 != 0; })) return std::nullopt;
        Bnd_Box box;
        BRepBndLib::Add(m_incidence.face(m_face), box, false);
        box.Enlarge(m_fit);
        std::vector<char> tried(m_rims.pieces.size(), false);
        for (std::size_t s = 0; s < m_rims.pieces.size(); ++s) {
            const int seed = static_cast<int>(s);
            if (tried[s] || piece(seed).partner >= 0 || piece(seed).face == m_face || box.IsOut(at(seed, 0.5)) || degree.contains(piece(seed).from) || !liesInside(seed)) continue;
            Overrun overrun;
            overrun.face = m_face;
            const int start = piece(seed).from;
            int corner = start, next = seed;
            while (next >= 0 && overrun.stops.size() < longestChain) {
                tried[next] = true;
                overrun.stops.push_back({next, piece(next).from == corner});
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
                    const RimPiece& other = piece(stop.piece);
                    nearest = std::min(nearest, m_rims.probes[static_cast<std::size_t>(other.edge)]->nearest(point, other.first, other.last).distance);
                }
                if (nearest > overrun.past) {
                    overrun.past = nearest;
                    overrun.where = point;
                }
            }
        for (const Stop& stop : overrun.stops)
            if (const int f = piece(stop.piece).face; sameSurface(m_incidence.face(f), m_incidence.face(overrun.face), std::max(m_fit, 1e-5))) overrun.over = f;
    }
};

}  // namespace

std::vector<Overrun> findOverruns(const Incidence& incidence, const Rims& rims, double fit) {
    const auto found = guarded("Looking for faces that run over", [&]() -> Result<std::vector<Overrun>> { return Finder(incidence, rims, fit).run(); });
    return found ? *found : std::vector<Overrun>{};
}

}  // namespace rasoir::survey
