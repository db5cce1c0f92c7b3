#include <fmt/format.h>

#include <Eigen/Dense>
#include <Geom_Line.hxx>

#include "common/tolerance.h"
#include "geometry/curves.h"
#include "heal/strip_contraction.h"

namespace rasoir::heal {

double Contraction::offSurface(int face, const gp_Pnt& point) const {
    const Handle(Geom_Surface) surface = surfaceOf(face);
    const auto uv = footOn(surface, point, m_tolerance);
    return uv ? surface->Value(uv->X(), uv->Y()).Distance(point) : std::numeric_limits<double>::max();
}

double Contraction::weakest(const std::vector<int>& faces, const gp_Pnt& point) const {
    Eigen::Matrix3d sum = Eigen::Matrix3d::Zero();
    for (const int face : faces) {
        const Handle(Geom_Surface) surface = surfaceOf(face);
        const auto uv = footOn(surface, point, m_tolerance);
        if (!uv) return 0.0;
        gp_Pnt foot;
        gp_Vec du, dv;
        surface->D1(uv->X(), uv->Y(), foot, du, dv);
        gp_Vec normal = du.Crossed(dv);
        if (normal.SquareMagnitude() < Tolerance::noLengthSquare) return 0.0;
        normal.Normalize();
        const Eigen::Vector3d n(normal.X(), normal.Y(), normal.Z());
        sum += n * n.transpose();
    }
    return Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d>(sum).eigenvalues()[0];
}

Result<void> Contraction::solveCorners() {
    std::map<int, std::vector<int>> members;
    for (const auto& [v, width] : m_width) members[find(v)].push_back(v);
    for (auto& [group, corner] : m_corners)
        if (auto done = solve(corner, members[group]); !done) return done;
    return {};
}

bool Contraction::findShrinking() {
    for (const auto& [group, corner] : m_corners)
        for (std::size_t i = 0; i < corner.ring.size(); ++i) {
            const int half = corner.ring[i].out.half;
            if (half < 0) continue;
            const SurgeryEdge& edge = m_body.edge(m_body.half(half).edge);
            if (edge.start == edge.end || edge.degenerated) continue;
            gp_Pnt far = m_body.vertex(m_body.endOf(half)).point;
            if (const auto other = m_corners.find(find(m_body.endOf(half)));
                other != m_corners.end() && other->first != group) {
                const int twin = m_body.twin(half);
                for (std::size_t j = 0; j < other->second.ring.size(); ++j)
                    if (other->second.ring[j].out.half == twin)
                        far = other->second.points[static_cast<std::size_t>(other->second.pointOfSpoke[j])];
            }
            if (corner.points[static_cast<std::size_t>(corner.pointOfSpoke[i])].Distance(far) <= 10.0 * m_tolerance)
                m_shrunk.insert(m_body.half(half).edge);
        }
    return !m_shrunk.empty();
}

bool Contraction::findBackwards() {
    placeEnds();
    for (const Fresh& fresh : m_fresh) {
        if (fresh.along.first < 0) continue;  // inside a corner
        const gp_Vec now(fresh.start, fresh.end), was(fresh.hints.front(), fresh.hints.back());
        const double width = std::max(m_width[find(fresh.from)], m_width[find(fresh.to)]);
        // Short ones alone: what passes each other lay close together.
        constexpr double close = 4.0;  // times the width
        if (now.Magnitude() > 10.0 * m_tolerance && now.Dot(was) < 0.0 && was.Magnitude() < close * width &&
            now.Magnitude() < close * width)
            m_backwards.insert(fresh.along);
    }
    return m_found.contractsBackwards && !m_backwards.empty();
}

Result<void> Contraction::solve(Corner& corner, const std::vector<int>& vertices) {
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
    const double reach = farthest * std::max(width, 10.0 * m_tolerance),
                 fit = std::max(
                     10.0 * m_tolerance,
                     std::min(2.0 * loose, 0.02 * width));  // a file's loosest vertices are wider than its rounds
    std::vector<int> faces;
    for (const Slot& slot : ring)
        if (std::find(faces.begin(), faces.end(), slot.face) == faces.end()) faces.push_back(slot.face);
    // A seam cannot bend: where one ends here, the corner lies on its line.
    const auto onSeams = [&](const gp_Pnt& point) {
        return std::all_of(ring.begin(), ring.end(), [&](const Slot& slot) {
            const int twin = slot.out.half < 0 ? -1 : m_body.twin(slot.out.half);
            if (twin < 0 || m_body.half(twin).face != slot.face) return true;
            const Handle(Geom_Curve) line = m_body.edge(m_body.half(slot.out.half).edge).curve;
            return line.IsNull() || !runsOn(line) || parameterAt(line, point, fit).has_value();
        });
    };
    const auto onAll = [&](const gp_Pnt& point) {
        return start.Distance(point) <= reach && onSeams(point) &&
               std::all_of(faces.begin(), faces.end(), [&](int f) { return offSurface(f, point) <= fit; });
    };
    const auto settle = [&](const gp_Pnt& point) {
        corner.points = {point};
        corner.pointOfSpoke.assign(ring.size(), 0);
        return Result<void>();
    };
    if (k == 1)
        return stopped("One face surrounds its end alone.", "Remove what it ends in together with it.", faces, start);
    const bool divisible = k >= 4 && k <= 8 && faces.size() >= 3;
    int passed = divisible ? m_choices.next(6) : 0;  // one point, if there is one, comes first
    const auto takes = [&] { return passed-- <= 0; };
    // A common point of all, where three of them cross properly.
    std::vector<Handle(Geom_Surface)> surfaces;
    for (const int f : faces) surfaces.push_back(surfaceOf(f));
    const double vague = 0.5 * tangentBelow * tangentBelow;
    if (faces.size() >= 3) {
        const gp_Pnt point = nearestToAll(surfaces, std::vector<std::optional<gp_Pnt2d>>(surfaces.size()), start, reach,
                                          0.1 * m_tolerance, tangentBelow);
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
        if (faces.size() <= 2 && k == 2) {  // it goes on as a new edge between the same two faces
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
        const gp_Pnt point = nearestToAll(surfaces, std::vector<std::optional<gp_Pnt2d>>(surfaces.size()), start, reach,
                                          0.1 * m_tolerance, tangentBelow);
        if (onAll(point)) return settle(point);
        return stopped("The two faces along it do not meet.", "Remove what lies beside it first.", faces, start);
    }
    if (divisible) return divide(corner, vertices, start, reach, fit, std::max(passed, 0));
    return stopped(k > 8 ? fmt::format("{} faces surround its end, too many to grow together.", k)
                         : std::string("The faces at its end do not meet in one point."),
                   "Remove the features at its end first, or together with it.", faces, start);
}

template <class OnAll>
std::optional<gp_Pnt> Contraction::spokesMeet(const std::vector<Slot>& ring, const gp_Pnt& start, double reach,
                                              double fit, const OnAll& onAll) {
    for (std::size_t i = 0; i < ring.size(); ++i) {
        const Side &in = ring[i].in, &out = ring[i].out;
        if (in.half < 0 || out.half < 0) continue;
        const Handle(Geom_Curve) a = m_body.edge(m_body.half(in.half).edge).curve,
                                 b = m_body.edge(m_body.half(out.half).edge).curve;
        if (!runsOn(a) || !runsOn(b)) continue;
        if (const auto point = crossingOf(a, b, start, reach, fit); point && onAll(*point)) return point;
    }
    return std::nullopt;
}

std::optional<gp_Pnt> Contraction::commonPoint(const std::vector<Slot>& ring, const std::vector<int>& cell,
                                               const std::vector<int>& vertices, const gp_Pnt& start, double reach,
                                               double fit) {
    std::vector<int> faces;
    for (const int i : cell)
        if (std::find(faces.begin(), faces.end(), ring[i].face) == faces.end()) faces.push_back(ring[i].face);
    const auto onAll = [&](const gp_Pnt& point) {
        return start.Distance(point) <= reach &&
               std::all_of(faces.begin(), faces.end(), [&](int f) { return offSurface(f, point) <= fit; });
    };
    for (const int v : vertices)
        if (onAll(m_body.vertex(v).point)) return m_body.vertex(v).point;
    if (faces.size() >= 3) {
        std::vector<Handle(Geom_Surface)> surfaces;
        for (const int f : faces) surfaces.push_back(surfaceOf(f));
        const gp_Pnt point = nearestToAll(surfaces, std::vector<std::optional<gp_Pnt2d>>(surfaces.size()), start, reach,
                                          0.1 * m_tolerance, tangentBelow);
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

void Contraction::cutApart(const std::vector<Slot>& ring, const std::vector<int>& cell, int cuts,
                           const std::vector<int>& vertices, const gp_Pnt& start, double reach, double fit,
                           std::vector<Cells>& ways, bool uncutToo) {
    std::vector<int> key = cell;  // the same cell comes up in many ways
    std::sort(key.begin(), key.end());
    auto known = m_commonPoints.find(key);
    if (uncutToo && known == m_commonPoints.end())
        known = m_commonPoints.emplace(key, commonPoint(ring, cell, vertices, start, reach, fit)).first;
    if (const auto point = uncutToo ? known->second : std::nullopt) {
        ways.push_back({{cell}, {*point}, {}});
        return;
    }
    const std::size_t n = cell.size();
    if (cuts == 0 || n < 4) return;
    for (std::size_t a = 0; a + 2 < n; ++a)
        for (std::size_t b = a + 2; b < n; ++b) {
            if (a == 0 && b + 1 == n) continue;  // a side, not a diagonal
            std::vector<int> inner(cell.begin() + static_cast<std::ptrdiff_t>(a),
                                   cell.begin() + static_cast<std::ptrdiff_t>(b) + 1),
                outer(cell.begin() + static_cast<std::ptrdiff_t>(b), cell.end());
            outer.insert(outer.end(), cell.begin(), cell.begin() + static_cast<std::ptrdiff_t>(a) + 1);
            if (ring[cell[a]].face == ring[cell[b]].face) continue;
            std::vector<Cells> left, right;
            cutApart(ring, inner, cuts - 1, vertices, start, reach, fit, left);
            if (left.empty()) continue;
            cutApart(ring, outer, cuts - 1, vertices, start, reach, fit, right);
            for (const Cells& one : left)
                for (const Cells& two : right) {
                    if (one.diagonals.size() + two.diagonals.size() + 1 > static_cast<std::size_t>(cuts) ||
                        ways.size() > 60)
                        continue;
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
                            if (std::find(whole.cells[c].begin(), whole.cells[c].end(), cell[a]) !=
                                    whole.cells[c].end() &&
                                std::find(whole.cells[c].begin(), whole.cells[c].end(), cell[b]) !=
                                    whole.cells[c].end())
                                return c;
                        return -1;
                    };
                    const int inLeft = holder(0, shift), inRight = holder(shift, static_cast<int>(whole.cells.size()));
                    if (inLeft < 0 || inRight < 0) continue;
                    whole.diagonals.push_back(
                        {std::min(cell[a], cell[b]), std::max(cell[a], cell[b]), inLeft, inRight});
                    ways.push_back(std::move(whole));
                }
        }
}

Result<void> Contraction::divide(Corner& corner, const std::vector<int>& vertices, const gp_Pnt& start, double reach,
                                 double fit, int passed) {
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
    constexpr std::size_t mostWays =
        10;  // each asks for the curves in which its faces meet, which between splines takes long
    if (ways.size() > mostWays) ways.resize(mostWays);
    for (const Cells& way : ways) {
        std::vector<Fresh> diagonals;
        std::vector<char> alongIsJ;
        bool possible = true;
        for (const auto& [i, j, from, to] : way.diagonals) {
            const gp_Pnt first = way.points[static_cast<std::size_t>(from)],
                         second = way.points[static_cast<std::size_t>(to)];
            const auto piece = first.Distance(second) > 10.0 * m_tolerance
                                   ? curveBetween(ring[i].face, ring[j].face, first, second, m_tolerance)
                                   : std::nullopt;
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
    return stopped("The faces at its end never meet.", "Remove the features at its end first, or together with it.",
                   faces, start);
}

std::optional<CurvePiece> Contraction::curveBetween(int a, int b, const gp_Pnt& from, const gp_Pnt& to,
                                                    double tolerance) const {
    if (auto piece = meetingCurve(surfaceOf(a), surfaceOf(b), from, to, tolerance)) return piece;
    const double length = from.Distance(to);
    if (length <= tolerance) return std::nullopt;
    const Handle(Geom_Line) line = new Geom_Line(from, gp_Dir(gp_Vec(from, to)));
    for (int i = 0; i <= 8; ++i)
        for (const int face : {a, b})
            if (offSurface(face, line->Value(length * i / 8.0)) > tolerance) return std::nullopt;
    return CurvePiece{Handle(Geom_Curve)(line), 0.0, length};
}

}  // namespace rasoir::heal
