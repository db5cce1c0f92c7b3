#include "arrange/catalogue.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepBndLib.hxx>
#include <BRepTools.hxx>
#include <ElSLib.hxx>
#include <numeric>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "common/tolerance.h"
#include "geometry/box_tree.h"
#include "geometry/curves.h"

// Boxes decide what is looked at: a tree over the faces of all inputs gives the pairs of different inputs whose boxes
// touch. Only those faces, and their edges, get records; all else of a body is walked later but never measured.

namespace rasoir::arrange {
std::optional<gp_Pnt2d> elementaryParameters(const GeomAdaptor_Surface& surface, const gp_Pnt& point) {
    double u = 0.0, v = 0.0;
    switch (surface.GetType()) {
        case GeomAbs_Plane:
            ElSLib::Parameters(surface.Plane(), point, u, v);
            return gp_Pnt2d(u, v);
        case GeomAbs_Cylinder:
            ElSLib::Parameters(surface.Cylinder(), point, u, v);
            return gp_Pnt2d(u, v);
        case GeomAbs_Cone:
            ElSLib::Parameters(surface.Cone(), point, u, v);
            return gp_Pnt2d(u, v);
        case GeomAbs_Sphere:
            ElSLib::Parameters(surface.Sphere(), point, u, v);
            return gp_Pnt2d(u, v);
        case GeomAbs_Torus:
            ElSLib::Parameters(surface.Torus(), point, u, v);
            return gp_Pnt2d(u, v);
        default:
            return std::nullopt;
    }
}

int Catalogue::faceRecord(int input, int number) const {
    const auto known = m_faceAt.find({input, number});
    return known == m_faceAt.end() ? -1 : known->second;
}

int Catalogue::edgeRecord(int input, int number) const {
    const auto known = m_edgeAt.find({input, number});
    return known == m_edgeAt.end() ? -1 : known->second;
}

int Catalogue::recordFace(int input, int number) {
    const auto [known, fresh] = m_faceAt.try_emplace({input, number}, static_cast<int>(faces.size()));
    if (!fresh) return known->second;
    FaceRecord face;
    face.input = input;
    face.number = number;
    face.shape = TopoDS::Face(m_all.topology[input]->face(number).Oriented(TopAbs_FORWARD));
    face.surface = BRep_Tool::Surface(face.shape);
    face.adaptor.Load(face.surface);
    face.tolerance = BRep_Tool::Tolerance(face.shape);
    BRepTools::UVBounds(face.shape, face.low[0], face.high[0], face.low[1], face.high[1]);
    face.period[0] = face.surface->IsUPeriodic() ? face.surface->UPeriod() : 0.0;
    face.period[1] = face.surface->IsVPeriodic() ? face.surface->VPeriod() : 0.0;
    faces.push_back(std::move(face));
    const int record = known->second;
    for (const int e : m_all.topology[input]->edgesOf(number)) {
        const int own = recordEdge(input, e);
        faces[record].edges.push_back(own);
    }
    return record;
}

int Catalogue::recordEdge(int input, int number) {
    const auto [known, fresh] = m_edgeAt.try_emplace({input, number}, static_cast<int>(edges.size()));
    if (!fresh) return known->second;
    EdgeRecord edge;
    edge.input = input;
    edge.number = number;
    edge.shape = TopoDS::Edge(m_all.topology[input]->edge(number).Oriented(TopAbs_FORWARD));
    if (!BRep_Tool::Degenerated(edge.shape)) edge.curve = BRep_Tool::Curve(edge.shape, edge.first, edge.last);
    edge.tolerance = BRep_Tool::Tolerance(edge.shape);
    TopoDS_Vertex from, to;
    TopExp::Vertices(edge.shape, from, to);
    if (!from.IsNull()) edge.from = nodeOf(input, from);
    if (!to.IsNull()) edge.to = nodeOf(input, to);
    BRepBndLib::Add(edge.shape, edge.box, false);
    edge.box.SetGap(0.0);
    edges.push_back(std::move(edge));
    return known->second;
}

EdgeProbe& Catalogue::probe(EdgeRecord& edge) {
    if (!edge.probe) edge.probe = std::make_unique<EdgeProbe>(edge.shape);
    return *edge.probe;
}

void Catalogue::index(int node) {
    const gp_Pnt& p = m_all.nodes[node].point;
    m_grid.emplace(
        std::array<long, 3>{std::lround(p.X() / m_cell), std::lround(p.Y() / m_cell), std::lround(p.Z() / m_cell)},
        node);
    m_largest = std::max(m_largest, m_all.nodes[node].tolerance);
}

double Catalogue::reach(int node, double tolerance) const {
    return m_tolerance + m_all.nodes[node].tolerance + tolerance;
}

std::vector<int> Catalogue::nodesNear(const gp_Pnt& point, double reach) const {
    std::vector<int> found;
    const auto low = [&](double x) { return std::lround((x - reach) / m_cell); };
    const auto high = [&](double x) { return std::lround((x + reach) / m_cell); };
    for (long x = low(point.X()); x <= high(point.X()); ++x)
        for (long y = low(point.Y()); y <= high(point.Y()); ++y)
            for (long z = low(point.Z()); z <= high(point.Z()); ++z) {
                const auto [from, to] = m_grid.equal_range({x, y, z});
                for (auto it = from; it != to; ++it) found.push_back(it->second);
            }
    return found;
}

int Catalogue::nodeOf(int input, const TopoDS_Shape& vertex) {
    const int number = m_all.topology[input]->vertexNumber(vertex);
    const auto [known, fresh] = m_nodeAt.try_emplace({input, number}, static_cast<int>(m_all.nodes.size()));
    if (!fresh) return known->second;
    const TopoDS_Vertex shape = TopoDS::Vertex(vertex);
    m_all.nodes.push_back({BRep_Tool::Pnt(shape), BRep_Tool::Tolerance(shape), {{input, number, false}}});
    index(known->second);
    return known->second;
}

std::optional<int> Catalogue::knownNode(const gp_Pnt& point, double tolerance) const {
    std::optional<int> best;
    double nearest = 0.0;
    for (const int node : nodesNear(point, m_tolerance + m_largest + tolerance)) {
        const double off = point.Distance(m_all.nodes[node].point);
        if (off > reach(node, tolerance) || (best && off >= nearest)) continue;
        best = node;
        nearest = off;
    }
    return best;
}

int Catalogue::nodeAt(const gp_Pnt& point, double reach, double tolerance) {
    if (const auto known = knownNode(point, reach)) {
        Node& node = m_all.nodes[*known];
        node.tolerance = std::max(node.tolerance, point.Distance(node.point));
        m_largest = std::max(m_largest, node.tolerance);
        return *known;
    }
    m_all.nodes.push_back({point, tolerance, {}});
    index(static_cast<int>(m_all.nodes.size()) - 1);
    return static_cast<int>(m_all.nodes.size()) - 1;
}

void Catalogue::mergeNodes() {
    // Nearest first, and never two of one input into one: a chain of close vertices must not swallow an edge.
    struct Near {
        double distance;
        int a, b;
    };
    std::vector<Near> close;
    for (int n = 0; n < static_cast<int>(m_all.nodes.size()); ++n)
        for (const int other : nodesNear(m_all.nodes[n].point, m_tolerance + m_largest + m_all.nodes[n].tolerance)) {
            if (other >= n || m_all.nodes[other].owners[0].input == m_all.nodes[n].owners[0].input) continue;
            const double off = m_all.nodes[n].point.Distance(m_all.nodes[other].point);
            if (off <= reach(n, m_all.nodes[other].tolerance)) close.push_back({off, other, n});
        }
    std::stable_sort(close.begin(), close.end(), [](const Near& x, const Near& y) { return x.distance < y.distance; });
    std::vector<int> into(m_all.nodes.size());
    std::iota(into.begin(), into.end(), 0);
    const auto root = [&into](int n) {
        while (into[n] != n) n = into[n];
        return n;
    };
    for (const Near& pair : close) {
        const int a = std::min(root(pair.a), root(pair.b)), b = std::max(root(pair.a), root(pair.b));
        if (a == b) continue;
        Node &stays = m_all.nodes[a], &goes = m_all.nodes[b];
        const bool clash = std::any_of(goes.owners.begin(), goes.owners.end(), [&stays](const Owner& one) {
            return std::any_of(stays.owners.begin(), stays.owners.end(),
                               [&one](const Owner& two) { return one.input == two.input; });
        });
        if (clash) continue;
        stays.tolerance = std::max(stays.tolerance, stays.point.Distance(goes.point) + goes.tolerance);
        m_largest = std::max(m_largest, stays.tolerance);
        stays.owners.insert(stays.owners.end(), goes.owners.begin(), goes.owners.end());
        goes.owners.clear();
        into[b] = a;
    }
    for (auto& [vertex, node] : m_nodeAt) node = root(node);
    for (EdgeRecord& edge : edges) {
        if (edge.from >= 0) edge.from = root(edge.from);
        if (edge.to >= 0) edge.to = root(edge.to);
    }
    m_grid.clear();
    for (int n = 0; n < static_cast<int>(m_all.nodes.size()); ++n)
        if (into[n] == n) index(n);
}

std::optional<double> Catalogue::offSurface(const FaceRecord& face, const gp_Pnt& point, gp_Pnt2d& uv) const {
    auto found = elementaryParameters(face.adaptor, point);
    if (!found) found = parametersOn(face.surface, point, m_tolerance);
    if (!found) return std::nullopt;
    double at[2]{found->X(), found->Y()};
    for (const int way : {0, 1}) {
        if (face.period[way] <= 0.0) continue;
        const double middle = 0.5 * (face.low[way] + face.high[way]);
        at[way] -= face.period[way] * std::round((at[way] - middle) / face.period[way]);
    }
    uv.SetCoord(at[0], at[1]);
    return face.surface->Value(at[0], at[1]).Distance(point);
}

Where Catalogue::locate(FaceRecord& face, const gp_Pnt& point, double tolerance, gp_Pnt2d* at) {
    gp_Pnt2d uv;
    const auto off = offSurface(face, point, uv);
    if (!off || *off > m_tolerance + face.tolerance + tolerance) return Where::Out;
    if (at != nullptr) *at = uv;
    for (const int e : face.edges) {
        EdgeRecord& edge = edges[e];
        const double reach = m_tolerance + edge.tolerance + tolerance;
        Bnd_Box near = edge.box;
        near.Enlarge(reach);
        if (edge.curve.IsNull() || near.IsOut(point)) continue;
        if (probe(edge).nearest(point).distance <= reach) return Where::On;
    }
    if (!face.classifier) face.classifier = std::make_unique<BRepTopAdaptor_FClass2d>(face.shape, Tolerance::parameter);
    return face.classifier->Perform(uv) == TopAbs_IN ? Where::In : Where::Out;
}

tl::unexpected<Problem> Catalogue::refuse(const std::string& what, int faceA, int faceB, const gp_Pnt& at) const {
    const FaceRecord &a = faces[faceA], &b = faces[faceB];
    return fail(ProblemKind::NotPossible,
                fmt::format("{}: face {} of \"{}\" and face {} of \"{}\".", what, a.number, m_all.inputs[a.input].name,
                            b.number, m_all.inputs[b.input].name),
                "Move one of them a little, or mend those faces first.", {m_all.inputs[a.input].name, {a.number}, at});
}

Result<void> Catalogue::fill(Progress& progress) {
    double size = 0.0;
    std::vector<Bnd_Box> boxes;
    std::vector<std::pair<int, int>> boxed;  // input and face of each
    std::vector<Bnd_Box> whole(m_all.inputs.size());
    for (std::size_t i = 0; i < m_all.inputs.size(); ++i) {
        BRepBndLib::Add(m_all.inputs[i].shape, whole[i], false);
        whole[i].Enlarge(m_tolerance);
    }
    std::map<std::pair<int, int>, Bnd_Box> faceBox;
    for (std::size_t i = 0; i < m_all.inputs.size(); ++i) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        bool met = false;
        for (std::size_t k = 0; k < m_all.inputs.size(); ++k) met = met || (k != i && !whole[i].IsOut(whole[k]));
        if (!met) continue;
        for (int f = 1; f <= m_all.topology[i]->faceCount(); ++f) {
            Bnd_Box box;
            BRepBndLib::Add(m_all.topology[i]->face(f), box, false);
            if (box.IsVoid()) continue;
            box.Enlarge(m_tolerance);
            const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
            size = std::max({size, high.X() - low.X(), high.Y() - low.Y(), high.Z() - low.Z()});
            boxes.push_back(box);
            boxed.emplace_back(static_cast<int>(i), f);
            faceBox.emplace(std::pair(static_cast<int>(i), f), box);
        }
    }
    // A grid cell a little wider than what is ever asked for near a node.
    m_cell = std::max(1e-3 * size, 10.0 * m_tolerance);
    const BoxTree tree(boxes);
    std::vector<std::pair<std::pair<int, int>, std::pair<int, int>>> found;
    for (std::size_t own = 0; own < boxes.size(); ++own)
        for (const std::size_t other : tree.near(boxes[own]))
            if (boxed[other].first > boxed[own].first) found.emplace_back(boxed[own], boxed[other]);
    std::erase_if(found, [this](const auto& pair) {
        const auto& [a, b] = pair;
        const std::set<int>& only = m_all.inputs[b.first].only;
        if (!only.empty() && (a.first != 0 || !only.contains(a.second))) return true;
        const auto meets = [this](const auto& face) { return m_all.inputs[face.first].meets; };
        if (meets(a) == Meets::Nothing || meets(b) == Meets::Nothing) return true;
        const auto cuts = [&](const auto& face) { return meets(face) == Meets::Sheets; };
        const auto isSolid = [this](const auto& face) { return m_all.topology[face.first]->bodyOf(face.second) >= 0; };
        return (cuts(a) && (cuts(b) || isSolid(b))) || (cuts(b) && isSolid(a));
    });
    std::sort(found.begin(), found.end());  // the same order on every machine
    for (const auto& [a, b] : found) {
        const int one = recordFace(a.first, a.second), two = recordFace(b.first, b.second);
        faces[one].box = faceBox.at(a);
        faces[two].box = faceBox.at(b);
        pairs.emplace_back(one, two);
    }
    // Faces that meet nothing themselves, though an edge of theirs will be divided: at a stop, or beside a face that
    // alone is to be met.
    const auto besides = [this](int input, int face) {
        const int record = recordFace(input, face);
        if (faces[record].box.IsVoid()) BRepBndLib::Add(faces[record].shape, faces[record].box, false);
    };
    for (std::size_t i = 0; i < m_all.inputs.size(); ++i) {
        for (const auto& [edge, at] : m_all.inputs[i].stops)
            for (const EdgeUse& use : m_all.topology[i]->usesOf(edge)) besides(static_cast<int>(i), use.face);
        for (const int face : m_all.inputs[i].only)
            for (const int neighbour : m_all.topology[0]->neighboursOf(face)) besides(0, neighbour);
    }
    mergeNodes();
    for (std::size_t i = 0; i < m_all.inputs.size(); ++i)
        for (const auto& [number, at] : m_all.inputs[i].stops) {
            const int record = recordEdge(static_cast<int>(i), number);
            EdgeRecord& edge = edges[record];
            if (edge.curve.IsNull() || at <= edge.first || at >= edge.last) continue;
            const int node = nodeAt(edge.curve->Value(at), 0.0, edge.tolerance);
            if (node != edge.from && node != edge.to) edge.paves.push_back({at, node});
        }
    return {};
}

}  // namespace rasoir::arrange
