#include "survey/defects.h"

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <BRep_Tool.hxx>
#include <BRepBndLib.hxx>
#include <numeric>
#include <set>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "model/on_purpose.h"
#include "survey/overruns.h"
#include "topology/edge_angle.h"
#include "topology/soundness.h"

namespace rasoir::survey {
namespace {

constexpr double thinShare = 0.02;  // of the target size

struct FaceSize {
    double area = 0.0, perimeter = 0.0;
    gp_Pnt centre;
    std::array<gp_Pnt, 2> box;
};

class Surveyor {
public:
    Surveyor(const Part& part, const DefectLimits& limits, bool checkFaces, Progress& progress)
        : m_part(part),
          m_topology(part.incidence()),
          m_limits(limits),
          m_checkFaces(checkFaces),
          m_progress(progress),
          m_isWalls(standsForWalls(part)),
          m_onPurpose(partedOnPurpose(part)) {}

    Result<DefectReport> run() {
        measureFaces();
        if (m_progress.cancelled()) return cancelled();
        double upTo = m_limits.gapsUpTo;
        if (!(upTo > 0.0)) upTo = std::min(0.5 * m_limits.targetSize, 0.02 * m_diagonal);
        findDoubled();  // first: the surplus one of a double is no partner for anything
        auto rims = pairRims(m_topology, upTo, m_limits.exact, m_progress, m_surplus);
        if (!rims) return tl::unexpected(rims.error());
        m_rims = std::move(*rims);
        std::tie(m_report.safeLimit, m_report.safeWhy) = safeGapLimit(m_rims, m_limits.targetSize);
        cutAtCrossings(m_rims, m_limits.exact);
        findGaps();
        findRunningOver();
        findOpenings();
        findEdges();
        findNeedlessVertices();
        findThin();
        findBodies();
        findVoids();
        findTouching();
        if (m_progress.cancelled()) return cancelled();
        if (m_checkFaces) {
            auto unsound = findUnsound(m_part, m_progress);
            m_report.defects.insert(m_report.defects.end(), unsound.begin(), unsound.end());
        }
        if (m_progress.cancelled()) return cancelled();
        m_report.watertight = m_topology.solidCount() > 0 && m_report.openEdges == 0;
        for (int f = 1; f <= m_topology.faceCount() && m_report.watertight; ++f)
            m_report.watertight = m_topology.bodyOf(f) >= 0;
        std::stable_sort(m_report.defects.begin(), m_report.defects.end(), [](const Defect& a, const Defect& b) {
            return std::tuple(a.kind, -a.size) < std::tuple(b.kind, -b.size);
        });
        return std::move(m_report);
    }

private:
    static tl::unexpected<Problem> cancelled() { return fail(ProblemKind::Cancelled, "Stopped."); }

    const Part& m_part;
    const Incidence& m_topology;
    const DefectLimits& m_limits;
    bool m_checkFaces;
    Progress& m_progress;
    const bool m_isWalls;
    const std::set<Entity> m_onPurpose;
    std::vector<FaceSize> m_faces;
    double m_diagonal = 0.0;
    Rims m_rims;
    DefectReport m_report;
    std::set<int> m_doubledFaces, m_surplus;
    std::set<int> m_explained;  // pieces that belong to a face that runs over

    [[nodiscard]] std::string size(double millimetres) const { return readable(millimetres) + " mm"; }
    void add(Defect defect) { m_report.defects.push_back(std::move(defect)); }
    [[nodiscard]] gp_Pnt middleOf(int edge) const {
        const BRepAdaptor_Curve curve(m_topology.edge(edge));
        return curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()));
    }
    [[nodiscard]] double lengthOf(int edge) const { return rasoir::lengthOf(m_topology.edge(edge)); }

    void measureFaces() {
        m_faces.resize(static_cast<std::size_t>(m_topology.faceCount()) + 1);
        tbb::parallel_for(1, m_topology.faceCount() + 1, [&](int f) {
            if (m_progress.cancelled()) return;
            FaceSize& own = m_faces[f];
            (void)guarded("Measuring a face", [&]() -> Result<void> {
                const Skin& skin = m_topology.skin(f);
                own.area = skin.area;
                own.centre = skin.centre;
                for (const int e : m_topology.edgesOf(f)) own.perimeter += lengthOf(e);
                Bnd_Box box;
                BRepBndLib::Add(m_topology.face(f), box, false);
                if (!box.IsVoid()) own.box = {box.CornerMin(), box.CornerMax()};
                return {};
            });
        });
        Bnd_Box all;
        for (int f = 1; f <= m_topology.faceCount(); ++f) {
            all.Add(m_faces[f].box[0]);
            all.Add(m_faces[f].box[1]);
        }
        m_diagonal = all.IsVoid() ? 0.0 : std::sqrt(all.SquareExtent());
    }

    /// Pairs along the same two faces are one gap.
    void findGaps() {
        std::map<std::pair<int, int>, Defect> byFaces;
        std::map<std::pair<int, int>, double> weight;
        for (std::size_t p = 0; p < m_rims.pieces.size(); ++p) {
            const RimPiece& piece = m_rims.pieces[p];
            if (piece.partner < static_cast<int>(p)) continue;
            const RimPiece& other = m_rims.pieces[piece.partner];
            const std::pair<int, int> key = std::minmax(piece.face, other.face);
            const auto [it, fresh] = byFaces.try_emplace(key);
            Defect& gap = it->second;
            if (fresh) {
                gap.kind = DefectKind::Gap;
                gap.faces = {key.first, key.second};
                gap.least = piece.least;
            }
            gap.edges.push_back(piece.edge);
            gap.edges.push_back(other.edge);
            if (piece.most >= gap.size) gap.where = m_rims.probes[piece.edge]->value(0.5 * (piece.first + piece.last));
            gap.size = std::max(gap.size, piece.most);
            gap.least = std::min(gap.least, piece.least);
            gap.mean += piece.mean * piece.length;
            gap.length += piece.length;
        }
        for (auto& [key, gap] : byFaces) {
            if (gap.length > 0.0) gap.mean /= gap.length;
            std::sort(gap.edges.begin(), gap.edges.end());
            gap.edges.erase(std::unique(gap.edges.begin(), gap.edges.end()), gap.edges.end());
            gap.what = fmt::format("Faces {} and {} do not share their edge: {} apart over {}.", key.first, key.second,
                                   gap.size <= m_limits.exact ? std::string("nothing") : "up to " + size(gap.size),
                                   size(gap.length));
            gap.remedy = gap.size <= m_report.safeLimit ? "Stitch it."
                                                        : "It is wider than the safe limit: look before you stitch it.";
            ++m_report.gaps;
            add(std::move(gap));
        }
    }

    void findRunningOver() {
        for (const Overrun& overrun : findOverruns(m_topology, m_rims, std::max(m_report.safeLimit, m_limits.exact))) {
            Defect defect;
            defect.kind = overrun.over > 0 ? DefectKind::PartlyDoubled : DefectKind::RunsOver;
            defect.faces = {overrun.face};
            if (overrun.over > 0) defect.faces.push_back(overrun.over);
            m_explained.insert(overrun.surplus.begin(), overrun.surplus.end());
            for (const Stop& stop : overrun.stops) {
                if (stop.piece < 0) continue;  // where two run over each other there is no edge yet
                m_explained.insert(stop.piece);
                defect.edges.push_back(m_rims.pieces[static_cast<std::size_t>(stop.piece)].edge);
                defect.length += m_rims.pieces[static_cast<std::size_t>(stop.piece)].length;
            }
            defect.where = overrun.where;
            defect.size = overrun.past;
            defect.what = overrun.over > 0
                              ? fmt::format("Face {} reaches {} over face {} on the same surface.", overrun.face,
                                            size(overrun.past), overrun.over)
                              : fmt::format("Face {} runs {} past its neighbours.", overrun.face, size(overrun.past));
            defect.remedy = "Trim it.";
            add(std::move(defect));
        }
    }

    /// Chains of open edges without a partner.
    void findOpenings() {
        std::vector<std::vector<int>> atCorner(m_rims.corners.size());
        std::vector<int> alone;
        for (std::size_t p = 0; p < m_rims.pieces.size(); ++p) {
            const RimPiece& piece = m_rims.pieces[p];
            if (piece.partner >= 0 || m_explained.contains(static_cast<int>(p))) continue;
            alone.push_back(static_cast<int>(p));
            atCorner[piece.from].push_back(static_cast<int>(p));
            if (piece.to != piece.from) atCorner[piece.to].push_back(static_cast<int>(p));
        }
        for (int e = 1; e <= m_topology.edgeCount(); ++e) m_report.openEdges += m_topology.facesAt(e) == 1 ? 1 : 0;
        std::vector<char> used(m_rims.pieces.size(), false);
        std::vector<int> skinOf = skins();
        std::map<int, double> skinArea;
        double largestSkin = 0.0;
        for (int f = 1; f <= m_topology.faceCount(); ++f)
            largestSkin = std::max(largestSkin, skinArea[skinOf[f]] += m_faces[f].area);
        for (const int seed : alone) {
            if (used[seed]) continue;
            // All that hangs together at corners; a closed chain has two pieces at every corner.
            std::vector<int> chain{seed};
            used[seed] = true;
            bool closed = true;
            for (std::size_t at = 0; at < chain.size(); ++at) {
                const RimPiece& piece = m_rims.pieces[chain[at]];
                for (const int c : {piece.from, piece.to}) {
                    std::size_t ends = 0;
                    for (const int p : atCorner[c]) ends += m_rims.pieces[p].from == m_rims.pieces[p].to ? 2 : 1;
                    if (ends % 2 == 1) closed = false;
                    for (const int p : atCorner[c])
                        if (!used[p]) {
                            used[p] = true;
                            chain.push_back(p);
                        }
                }
            }
            Defect defect;
            Bnd_Box box;
            gp_XYZ sum(0, 0, 0), spanned(0, 0, 0);
            std::set<int> faces, edges;
            std::vector<gp_Pnt> outline;
            for (const int p : chain) {
                const RimPiece& piece = m_rims.pieces[p];
                faces.insert(piece.face);
                edges.insert(piece.edge);
                defect.length += piece.length;
                const bool forward = m_topology.usesOf(piece.edge).front().forward;
                for (int i = 0; i < 16; ++i) {
                    const auto at = [&](double share) {
                        return m_rims.probes[piece.edge]->value(piece.first +
                                                                (piece.last - piece.first) * share / 16.0);
                    };
                    const gp_Pnt point = at(i + 0.5), before = at(i), behind = at(i + 1);
                    spanned += before.XYZ().Crossed(behind.XYZ()) * (forward ? 1.0 : -1.0);
                    box.Add(point);
                    outline.push_back(point);
                    sum += point.XYZ() * (piece.length / 16.0);
                }
            }
            defect.faces.assign(faces.begin(), faces.end());
            defect.edges.assign(edges.begin(), edges.end());
            defect.where = gp_Pnt(sum / std::max(defect.length, Tolerance::noLength));
            const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
            defect.size = std::max({high.X() - low.X(), high.Y() - low.Y(), high.Z() - low.Z()});
            // The area that any skin over the loop shows along the direction in which it shows most: exact for flat
            // loops. A loop that is not flat may enclose more than it shows: there, at most what a circle of its length
            // would.
            double lowest = 0.0, highest = 0.0;
            for (const gp_Pnt& point : outline) {
                const double height =
                    spanned.Modulus() > 0.0 ? gp_Vec(defect.where, point).XYZ().Dot(spanned) / spanned.Modulus() : 0.0;
                lowest = std::min(lowest, height);
                highest = std::max(highest, height);
            }
            const bool isFlat = highest - lowest < 0.1 * std::max(defect.size, Tolerance::noLength);
            const double covers = isFlat ? 0.5 * spanned.Modulus() : defect.length * defect.length / (4.0 * M_PI),
                         skin = skinArea[skinOf[defect.faces.front()]];
            if (m_isWalls) {
                defect.kind = DefectKind::Rim;
                defect.what = fmt::format("A rim {} long of the walls that it stands for.", size(defect.length));
            } else if (!closed) {
                defect.kind = DefectKind::LooseEnd;
                defect.size = defect.length;
                defect.what = fmt::format("{} of open edge in {} that no other edge runs alongside.",
                                          size(defect.length), counted(chain.size(), "piece"));
                defect.remedy = "Raise the largest gap, trim the face that runs over, or patch it from its edges.";
            } else if (std::any_of(m_part.meantOpen.begin(), m_part.meantOpen.end(),
                                   [&](const gp_Pnt& at) { return at.Distance(defect.where) <= 0.02 * defect.size; })) {
                defect.kind = DefectKind::Rim;
                defect.what = fmt::format("A rim {} long, declared as meant open.", size(defect.length));
            } else if (covers > 0.5 * skin && skin > 0.2 * largestSkin) {
                defect.kind = DefectKind::Rim;
                defect.what =
                    fmt::format("A rim {} long bounds a sheet: what it leaves open is as large as the sheet itself.",
                                size(defect.length));
            } else {
                defect.kind = DefectKind::Opening;
                defect.what = fmt::format("A face is missing: {} round an opening {} across.",
                                          counted(edges.size(), "open edge"), size(defect.size));
                defect.remedy = "Patch it.";
                ++m_report.openings;
            }
            add(std::move(defect));
        }
    }

    /// Faces that hang together by shared edges or by gaps: by face number, the number of one of them.
    std::vector<int> skins() const {
        std::vector<int> parent(static_cast<std::size_t>(m_topology.faceCount()) + 1);
        std::iota(parent.begin(), parent.end(), 0);
        const auto root = [&parent](int f) {
            while (parent[f] != f) f = parent[f] = parent[parent[f]];
            return f;
        };
        for (int e = 1; e <= m_topology.edgeCount(); ++e)
            for (const EdgeUse& use : m_topology.usesOf(e))
                parent[root(use.face)] = root(m_topology.usesOf(e).front().face);
        for (const RimPiece& piece : m_rims.pieces)
            if (piece.partner >= 0) parent[root(piece.face)] = root(m_rims.pieces[piece.partner].face);
        for (int f = 1; f <= m_topology.faceCount(); ++f) parent[f] = root(f);
        return parent;
    }

    void findEdges() {
        const double tiny = thinShare * m_limits.targetSize;
        for (int e = 1; e <= m_topology.edgeCount(); ++e) {
            const auto uses = m_topology.usesOf(e);
            if (uses.empty()) continue;
            const double length = lengthOf(e);
            const auto base = [&](DefectKind kind) {
                Defect defect;
                defect.kind = kind;
                defect.edges = {e};
                for (const EdgeUse& use : uses)
                    if (std::find(defect.faces.begin(), defect.faces.end(), use.face) == defect.faces.end())
                        defect.faces.push_back(use.face);
                defect.where = middleOf(e);
                defect.size = defect.length = length;
                return defect;
            };
            if (uses.size() > 2 && !m_isWalls) {
                Defect defect = base(DefectKind::ManyFaces);
                defect.what = fmt::format("{} faces meet at edge {}.", uses.size(), e);
                defect.remedy = "Meant where a rib stands on a skin; else one of the faces is surplus.";
                add(std::move(defect));
            } else if (uses.size() == 2 && uses[0].face != uses[1].face && uses[0].forward == uses[1].forward) {
                Defect defect = base(DefectKind::WrongWay);
                defect.what = fmt::format("Faces {} and {} look opposite ways.", uses[0].face, uses[1].face);
                defect.remedy = "Make solids: it turns them.";
                add(std::move(defect));
            } else if (uses.size() == 2 && uses[0].face != uses[1].face &&
                       !m_onPurpose.contains({EntityKind::Edge, e}) &&
                       edgeAngle(m_topology, e).kind == EdgeKind::Smooth &&
                       sameSurface(m_topology.face(uses[0].face), m_topology.face(uses[1].face),
                                   std::max(m_limits.exact, Tolerance::sameSkin))) {
                Defect defect = base(DefectKind::NeedlessEdge);
                defect.what = fmt::format("Edge {} divides one {} in two.", e,
                                          surfaceKindName(surfaceKind(m_topology.face(uses[0].face))));
                defect.remedy = "Merge the faces.";
                add(std::move(defect));
            }
            if (length < tiny && length > 0.0) {
                Defect defect = base(DefectKind::TinyEdge);
                defect.what = fmt::format("Edge {} is only {} long.", e, size(length));
                add(std::move(defect));
            }
        }
    }

    void findNeedlessVertices() {
        std::vector<std::vector<int>> edgesAt(static_cast<std::size_t>(m_topology.vertexCount()) + 1);
        for (int e = 1; e <= m_topology.edgeCount(); ++e) {
            if (m_topology.facesAt(e) != 2) continue;
            for (TopExp_Explorer it(m_topology.edge(e), TopAbs_VERTEX); it.More(); it.Next())
                edgesAt[m_topology.vertexNumber(it.Current())].push_back(e);
        }
        std::vector<char> other(edgesAt.size(), false);  // an open or many-faced edge ends there too
        for (int e = 1; e <= m_topology.edgeCount(); ++e)
            if (m_topology.facesAt(e) != 2)
                for (TopExp_Explorer it(m_topology.edge(e), TopAbs_VERTEX); it.More(); it.Next())
                    other[m_topology.vertexNumber(it.Current())] = true;
        for (std::size_t v = 1; v < edgesAt.size(); ++v) {
            if (other[v] || edgesAt[v].size() != 2 || edgesAt[v][0] == edgesAt[v][1] ||
                m_onPurpose.contains({EntityKind::Vertex, static_cast<int>(v)}))
                continue;
            const int a = edgesAt[v][0], b = edgesAt[v][1];
            const auto facesOf = [&](int e) {
                return std::minmax(m_topology.usesOf(e)[0].face, m_topology.usesOf(e)[1].face);
            };
            const std::pair<int, int> fa = facesOf(a), fb = facesOf(b);
            if (fa != fb || fa.first == fa.second) continue;
            const BRepAdaptor_Curve one(m_topology.edge(a)), two(m_topology.edge(b));
            if (one.GetType() != two.GetType() || (one.GetType() != GeomAbs_Line && one.GetType() != GeomAbs_Circle))
                continue;
            const EdgeProbe probe(m_topology.edge(a));
            const double tolerance = 10.0 * std::max(m_limits.exact, Tolerance::samePlace);
            if (one.GetType() == GeomAbs_Line &&
                !one.Line().Direction().IsParallel(two.Line().Direction(), Tolerance::sameDirection))
                continue;
            if (one.GetType() == GeomAbs_Circle &&
                (one.Circle().Location().Distance(two.Circle().Location()) > tolerance ||
                 std::abs(one.Circle().Radius() - two.Circle().Radius()) > tolerance))
                continue;
            Defect defect;
            defect.kind = DefectKind::NeedlessVertex;
            defect.edges = {a, b};
            defect.faces = {fa.first, fa.second};
            const TopoDS_Edge edge = m_topology.edge(a);
            const TopoDS_Vertex vertex = m_topology.vertexNumber(TopExp::FirstVertex(edge)) == static_cast<int>(v)
                                             ? TopExp::FirstVertex(edge)
                                             : TopExp::LastVertex(edge);
            defect.where = BRep_Tool::Pnt(vertex);
            defect.size = defect.length = std::min(lengthOf(a), lengthOf(b));
            defect.what =
                fmt::format("A vertex divides one {} in two.", one.GetType() == GeomAbs_Line ? "line" : "arc");
            defect.remedy = "Merge the edges.";
            add(std::move(defect));
        }
    }

    /// The one that fits worse: with more open edges, else the later.
    [[nodiscard]] int surplusOf(int a, int b) const {
        const auto open = [this](int f) {
            return std::count_if(m_topology.edgesOf(f).begin(), m_topology.edgesOf(f).end(),
                                 [this](int e) { return m_topology.facesAt(e) == 1; });
        };
        return open(a) != open(b) ? (open(a) > open(b) ? a : b) : std::max(a, b);
    }

    void findDoubled() {
        std::vector<int> order(static_cast<std::size_t>(m_topology.faceCount()));
        std::iota(order.begin(), order.end(), 1);
        std::sort(order.begin(), order.end(),
                  [&](int a, int b) { return m_faces[a].centre.X() < m_faces[b].centre.X(); });
        for (std::size_t i = 0; i < order.size(); ++i)
            for (std::size_t j = i + 1; j < order.size(); ++j) {
                const FaceSize &a = m_faces[order[i]], &b = m_faces[order[j]];
                // Of the face: one that came twice may have been converted twice.
                const double tolerance = std::max(10.0 * m_limits.exact, 1e-3 * std::sqrt(std::max(a.area, b.area)));
                if (b.centre.X() - a.centre.X() > tolerance) break;
                // Of the area, for the same reason.
                if (a.centre.Distance(b.centre) > tolerance ||
                    std::abs(a.area - b.area) > 2e-3 * std::max(a.area, b.area) || a.area <= 0.0)
                    continue;
                if (surfaceKind(m_topology.face(order[i])) != surfaceKind(m_topology.face(order[j]))) continue;
                if (a.box[0].Distance(b.box[0]) > 4.0 * tolerance || a.box[1].Distance(b.box[1]) > 4.0 * tolerance)
                    continue;
                if (m_doubledFaces.contains(order[i]) || m_doubledFaces.contains(order[j])) continue;
                m_doubledFaces.insert({order[i], order[j]});
                m_surplus.insert(surplusOf(order[i], order[j]));
                Defect defect;
                defect.kind = DefectKind::Doubled;
                // The surplus one last.
                defect.faces = {order[i], order[j]};
                if (m_surplus.contains(order[i])) std::swap(defect.faces[0], defect.faces[1]);
                defect.where = a.centre;
                defect.size = a.area;
                defect.what = fmt::format("Faces {} and {} lie on one another.", defect.faces[0], defect.faces[1]);
                defect.remedy = "Drop one of them.";
                add(std::move(defect));
            }
    }

    void findThin() {
        const double thin = thinShare * m_limits.targetSize;
        for (int f = 1; f <= m_topology.faceCount(); ++f) {
            const FaceSize& own = m_faces[f];
            if (!(own.perimeter > 0.0)) continue;
            const double width = 2.0 * own.area / own.perimeter;
            if (width >= thin) continue;
            Defect defect;
            defect.kind = DefectKind::Sliver;
            defect.faces = {f};
            defect.where = own.centre;
            defect.size = width;
            defect.length = 0.5 * own.perimeter;
            defect.what = fmt::format("Face {} is {} wide and {} long.", f, size(width), size(defect.length));
            defect.remedy = "Give it to its neighbours.";
            add(std::move(defect));
        }
    }

    void findBodies() {
        std::vector<std::tuple<TopoDS_Shape, double>> bodies;
        for (TopExp_Explorer it(m_part.shape, TopAbs_SOLID); it.More(); it.Next()) {
            const auto volume = guarded("Measuring a body", [&]() -> Result<double> { return volumeOf(it.Current()); });
            bodies.emplace_back(it.Current(), volume ? *volume : 0.0);
        }
        for (const auto& [body, volume] : bodies) {
            Bnd_Box box;
            BRepBndLib::Add(body, box, false);
            Defect defect;
            for (TopExp_Explorer face(body, TopAbs_FACE); face.More(); face.Next())
                defect.faces.push_back(m_topology.faceNumber(face.Current()));
            const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
            defect.where = gp_Pnt(0.5 * (low.XYZ() + high.XYZ()));
            if (volume < 0.0) {
                Defect inside = defect;
                inside.kind = DefectKind::InsideOut;
                inside.size = -volume;
                inside.what = "A body is inside out: its faces look inwards.";
                inside.remedy = "Make solids: it turns it.";
                add(std::move(inside));
            }
        }
        findStray();
    }

    /// Skins that are next to nothing beside the largest.
    void findStray() {
        const std::vector<int> skinOf = skins();
        std::map<int, std::pair<double, std::vector<int>>> bySkin;
        double largest = 0.0;
        for (int f = 1; f <= m_topology.faceCount(); ++f) {
            auto& [area, faces] = bySkin[skinOf[f]];
            area += m_faces[f].area;
            faces.push_back(f);
            largest = std::max(largest, area);
        }
        for (const auto& [skin, own] : bySkin) {
            const auto& [area, faces] = own;
            if (area > 1e-3 * largest ||  // of the largest body: a speck beside it
                std::any_of(faces.begin(), faces.end(), [&](int f) { return m_doubledFaces.contains(f); }))
                continue;
            Bnd_Box box;
            for (const int f : faces) {
                box.Add(m_faces[f].box[0]);
                box.Add(m_faces[f].box[1]);
            }
            Defect defect;
            defect.kind = DefectKind::StrayBody;
            defect.faces = faces;
            const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
            defect.where = gp_Pnt(0.5 * (low.XYZ() + high.XYZ()));
            defect.size = std::max({high.X() - low.X(), high.Y() - low.Y(), high.Z() - low.Z()});
            if (defect.size > 0.02 * m_diagonal) continue;
            defect.what =
                fmt::format("A stray body of {}, {} across.", counted(defect.faces.size(), "face"), size(defect.size));
            defect.remedy = "Drop it.";
            add(std::move(defect));
        }
    }

    void findVoids() {
        for (TopExp_Explorer solid(m_part.shape, TopAbs_SOLID); solid.More(); solid.Next()) {
            std::vector<std::pair<double, TopoDS_Shape>> shells;
            for (TopoDS_Iterator it(solid.Current()); it.More(); it.Next())
                if (it.Value().ShapeType() == TopAbs_SHELL) shells.emplace_back(0.0, it.Value());
            if (shells.size() < 2) continue;
            for (auto& [volume, shell] : shells) {
                const auto measured =
                    guarded("Measuring a void", [&]() -> Result<double> { return std::abs(volumeOf(shell)); });
                volume = measured ? *measured : 0.0;
            }
            std::sort(shells.begin(), shells.end(), [](const auto& a, const auto& b) {
                return a.first > b.first;
            });  // the outermost holds all others
            for (std::size_t s = 1; s < shells.size(); ++s) {
                Defect defect;
                defect.kind = DefectKind::InnerVoid;
                defect.size = shells[s].first;
                Bnd_Box box;
                for (TopExp_Explorer face(shells[s].second, TopAbs_FACE); face.More(); face.Next()) {
                    defect.faces.push_back(m_topology.faceNumber(face.Current()));
                    for (const gp_Pnt& corner : m_faces[defect.faces.back()].box) box.Add(corner);
                }
                defect.where = gp_Pnt(0.5 * (box.CornerMin().XYZ() + box.CornerMax().XYZ()));
                defect.what = fmt::format("A void of {} inside, {} cm³.", counted(defect.faces.size(), "face"),
                                          readable(1e-3 * defect.size));  // mm3 to cm3
                defect.remedy = "Delete its faces if it is to be filled.";
                add(std::move(defect));
            }
        }
    }

    /// Round a vertex of a closed skin the faces form one fan; two fans touch there and share no edge.
    void findTouching() {
        std::vector<std::vector<int>> edgesAt(static_cast<std::size_t>(m_topology.vertexCount()) + 1);
        for (int e = 1; e <= m_topology.edgeCount(); ++e)
            for (TopoDS_Iterator it(m_topology.edge(e)); it.More(); it.Next())
                if (auto& at = edgesAt[m_topology.vertexNumber(it.Value())]; at.empty() || at.back() != e)
                    at.push_back(e);
        for (int v = 1; v <= m_topology.vertexCount(); ++v) {
            const auto& edges = edgesAt[v];
            if (edges.size() < 4 || std::any_of(edges.begin(), edges.end(), [&](int e) {
                    return m_topology.facesAt(e) == 1 && !BRep_Tool::Degenerated(m_topology.edge(e));
                }))
                continue;
            std::map<int, int> parent;
            const auto root = [&parent](int f) {
                while (parent.at(f) != f) f = parent.at(f);
                return f;
            };
            for (const int e : edges) {
                for (const EdgeUse& use : m_topology.usesOf(e)) parent.try_emplace(use.face, use.face);
                for (const EdgeUse& use : m_topology.usesOf(e))
                    parent[root(use.face)] = root(m_topology.usesOf(e).front().face);
            }
            std::set<int> fans;
            std::set<int> bodies;
            for (const auto& [face, up] : parent) {
                fans.insert(root(face));
                bodies.insert(m_topology.bodyOf(face));
            }
            if (fans.size() < 2 || bodies.size() > 1) continue;  // bodies that share a point are none of ours
            Defect defect;
            defect.kind = DefectKind::TouchesItself;
            for (const auto& [face, up] : parent) defect.faces.push_back(face);
            for (TopoDS_Iterator it(m_topology.edge(edges.front())); it.More(); it.Next())
                if (m_topology.vertexNumber(it.Value()) == v) defect.where = BRep_Tool::Pnt(TopoDS::Vertex(it.Value()));
            defect.what = fmt::format("The skin touches itself in one point: {} meet there in {} fans.",
                                      counted(defect.faces.size(), "face"), fans.size());
            defect.remedy = "Remove the feature that just reaches it, or leave it.";
            add(std::move(defect));
        }
    }
};

}  // namespace

namespace {

/// Least distance between two open edges of one face that run alongside each other and have no corner in common;
/// infinite: none within `upTo`.
double narrowest(const Rims& rims, double upTo) {
    std::map<int, std::vector<const RimPiece*>> byFace;
    for (const RimPiece& piece : rims.pieces) byFace[piece.face].push_back(&piece);
    double least = upTo;
    const auto probe = [&rims](const RimPiece& piece) -> const EdgeProbe& {
        return *rims.probes[static_cast<std::size_t>(piece.edge)];
    };
    for (const auto& [face, pieces] : byFace)
        for (std::size_t i = 0; i < pieces.size(); ++i)
            for (std::size_t j = i + 1; j < pieces.size(); ++j) {
                const RimPiece *a = pieces[i], *b = pieces[j];
                if (a->length > b->length) std::swap(a, b);
                if (a->edge == b->edge) continue;
                if (a->from == b->from || a->from == b->to || a->to == b->from || a->to == b->to) continue;
                if (probe(*a).box().Distance(probe(*b).box()) >= least) continue;
                for (const double share : {0.25, 0.5, 0.75}) {
                    const double at = a->first + share * (a->last - a->first);
                    const EdgeProbe::Near near = probe(*b).nearest(probe(*a).value(at), b->first, b->last);
                    if (near.distance < least && std::abs(probe(*a).tangent(at).Normalized().Dot(
                                                     probe(*b).tangent(near.parameter).Normalized())) > 0.9)
                        least = near.distance;
                }
            }
    return least < upTo ? least : std::numeric_limits<double>::max();
}

}  // namespace

std::pair<double, std::string> safeGapLimit(const Rims& rims, double targetSize) {
    double shortest = std::numeric_limits<double>::max();
    for (const auto& probe : rims.probes)
        if (probe && probe->length() > 0.0) shortest = std::min(shortest, probe->length());
    const double byTarget = 0.1 * targetSize, narrow = narrowest(rims, std::min(shortest, 2.0 * byTarget));
    if (narrow < shortest && 0.5 * narrow < byTarget)
        return {0.5 * narrow, fmt::format("half of the narrowest face, {} mm across", readable(narrow))};
    if (0.5 * shortest < byTarget)
        return {0.5 * shortest, fmt::format("half of the shortest open edge, {} mm", readable(shortest))};
    return {byTarget, "a tenth of the target size"};
}

std::vector<Defect> findUnsound(const Part& part, const Progress& progress) {
    const Incidence& topology = part.incidence();
    std::vector<char> unsound(static_cast<std::size_t>(topology.faceCount()) + 1, false);
    tbb::parallel_for(1, topology.faceCount() + 1, [&](int f) {
        if (progress.cancelled()) return;
        unsound[static_cast<std::size_t>(f)] = !soundFace(topology.face(f));
    });
    std::vector<Defect> found;
    for (int f = 1; f <= topology.faceCount(); ++f) {
        if (!unsound[static_cast<std::size_t>(f)]) continue;
        Defect defect;
        defect.kind = DefectKind::Unsound;
        defect.faces = {f};
        (void)guarded("Measuring a face", [&]() -> Result<void> {
            const Skin& skin = topology.skin(f);
            defect.where = skin.centre;
            defect.size = skin.area;
            return {};
        });
        defect.what = fmt::format("The loops of face {} cross themselves, do not close, or leave its surface.", f);
        defect.remedy = "Delete it and patch the opening.";
        found.push_back(std::move(defect));
    }
    return found;
}

Result<DefectReport> findDefects(const Part& part, const DefectLimits& limits, bool checkFaces, Progress& progress) {
    return guarded("Looking for defects", [&] { return Surveyor(part, limits, checkFaces, progress).run(); });
}

std::string defectKindName(DefectKind kind) {
    switch (kind) {
        case DefectKind::Gap:
            return "gap";
        case DefectKind::Opening:
            return "opening";
        case DefectKind::Rim:
            return "rim";
        case DefectKind::LooseEnd:
            return "loose end";
        case DefectKind::ManyFaces:
            return "edge of many faces";
        case DefectKind::Doubled:
            return "doubled face";
        case DefectKind::RunsOver:
            return "face that runs over";
        case DefectKind::PartlyDoubled:
            return "partly doubled face";
        case DefectKind::Sliver:
            return "sliver";
        case DefectKind::TinyEdge:
            return "tiny edge";
        case DefectKind::NeedlessEdge:
            return "needless edge";
        case DefectKind::NeedlessVertex:
            return "needless vertex";
        case DefectKind::WrongWay:
            return "face turned round";
        case DefectKind::InsideOut:
            return "inside out";
        case DefectKind::Unsound:
            return "unsound face";
        case DefectKind::StrayBody:
            return "stray body";
        case DefectKind::InnerVoid:
            return "inner void";
        case DefectKind::TouchesItself:
            return "skin that touches itself";
    }
    return "defect";
}

}  // namespace rasoir::survey
