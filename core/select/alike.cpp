#include "select/alike.h"

#include <BRepAdaptor_Curve.hxx>
#include <GCPnts_AbscissaPoint.hxx>

#include "common/tolerance.h"
#include "geometry/integrals.h"

namespace rasoir::select {

Traits traitsOf(const Part& part) {
    Traits traits;
    const Incidence& topology = part.incidence();
    traits.faces.resize(static_cast<std::size_t>(topology.faceCount()) + 1);
    traits.edges.resize(static_cast<std::size_t>(topology.edgeCount()) + 1);
    for (int f = 1; f <= topology.faceCount(); ++f) {
        const TopoDS_Face face = topology.face(f);
        Traits::Face& own = traits.faces[static_cast<std::size_t>(f)];
        own.kind = surfaceKind(face);
        own.area = areaOf(face);
        if (const auto round = roundSurface(face)) {
            own.kind = round->kind;
            own.radius = round->kind == SurfaceKind::Cone ? 0.0 : round->radius;
            own.inward = round->inward;
        }
    }
    for (int e = 1; e <= topology.edgeCount(); ++e) {
        const TopoDS_Edge edge = topology.edge(e);
        Traits::Edge& own = traits.edges[static_cast<std::size_t>(e)];
        own.faces = topology.facesAt(e);
        double first = 0.0, last = 0.0;
        if (BRep_Tool::Degenerated(edge) || BRep_Tool::Curve(edge, first, last).IsNull()) continue;
        const BRepAdaptor_Curve curve(edge);
        own.kind = static_cast<int>(curve.GetType()) + 1;
        own.length = GCPnts_AbscissaPoint::Length(curve, Tolerance::least);
        if (curve.GetType() == GeomAbs_Circle) own.radius = curve.Circle().Radius();
    }
    return traits;
}

double sizeOf(const Traits& traits, const Pick& item, Likeness by) {
    if (item.face > 0 && static_cast<std::size_t>(item.face) < traits.faces.size()) {
        const Traits::Face& face = traits.faces[static_cast<std::size_t>(item.face)];
        return by == Likeness::Area ? face.area : by == Likeness::Radius ? face.radius : 0.0;
    }
    if (item.edge > 0 && static_cast<std::size_t>(item.edge) < traits.edges.size()) {
        const Traits::Edge& edge = traits.edges[static_cast<std::size_t>(item.edge)];
        return by == Likeness::Length ? edge.length : by == Likeness::Radius ? edge.radius : 0.0;
    }
    return 0.0;
}

std::optional<Colour> drawnColour(const Model& model, std::size_t occurrence, int face) {
    const Occurrence& o = model.occurrences[occurrence];
    const Part& part = *model.parts[o.part];
    if (const auto own = part.colourOf(face)) return own;
    return o.colour ? o.colour : part.colour;
}

std::vector<Pick> findAlike(const Model& model, const std::vector<std::shared_ptr<const Traits>>& traits,
                            const std::vector<const std::vector<survey::Hole>*>& holes, const Pick& sample,
                            const AlikeWanted& wanted, const std::set<std::size_t>& hidden) {
    std::vector<Pick> found;
    const std::size_t samplePart = model.occurrences[sample.occurrence].part;
    const auto& sampleTraits = traits[samplePart];
    if (!sampleTraits || (sample.face == 0 && sample.edge == 0)) return found;
    const bool sized = wanted.by == Likeness::Area || wanted.by == Likeness::Radius || wanted.by == Likeness::Length;
    const double own = sizeOf(*sampleTraits, sample, wanted.by);
    if (sized && own <= 0.0) return found;
    const double unit = wanted.absolute ? 1.0 : own;
    const double low = wanted.low * unit * (1.0 - wanted.slack), high = wanted.high * unit * (1.0 + wanted.slack);
    const auto within = [low, high](double size) { return size > 0.0 && size >= low && size <= high; };
    const Traits::Face sampleFace =
        sample.face > 0 ? sampleTraits->faces[static_cast<std::size_t>(sample.face)] : Traits::Face{};
    const Traits::Edge sampleEdge =
        sample.edge > 0 ? sampleTraits->edges[static_cast<std::size_t>(sample.edge)] : Traits::Edge{};
    const std::optional<Colour> colour =
        sample.face > 0 ? drawnColour(model, sample.occurrence, sample.face) : std::nullopt;
    const survey::Hole* hole = nullptr;
    if (wanted.by == Likeness::Feature && sample.face > 0 && samplePart < holes.size() && holes[samplePart] != nullptr)
        for (const survey::Hole& one : *holes[samplePart])
            if (std::binary_search(one.faces.begin(), one.faces.end(), sample.face)) hole = &one;
    if (wanted.by == Likeness::Feature && hole == nullptr) return found;
    if (wanted.by == Likeness::Colour && sample.face == 0) return found;

    // Once for each part, then for each of its places: colours alone can differ between places.
    std::map<std::size_t, std::vector<int>> numbersOf;
    const auto matching = [&](std::size_t part) -> const std::vector<int>& {
        const auto [it, fresh] = numbersOf.try_emplace(part);
        if (!fresh || !traits[part]) return it->second;
        const Traits& t = *traits[part];
        std::vector<int>& numbers = it->second;
        if (wanted.by == Likeness::Feature) {
            std::set<int> faces;
            if (part < holes.size() && holes[part] != nullptr)
                for (const survey::Hole& one : *holes[part])
                    if (one.kind == hole->kind && one.through == hole->through &&
                        std::abs(one.size - hole->size) <= wanted.slack * hole->size)
                        faces.insert(one.faces.begin(), one.faces.end());
            numbers.assign(faces.begin(), faces.end());
        } else if (sample.face > 0) {
            for (std::size_t f = 1; f < t.faces.size(); ++f) {
                const Traits::Face& face = t.faces[f];
                bool fits = false;
                switch (wanted.by) {
                    case Likeness::Area:
                        fits = within(face.area);
                        break;
                    case Likeness::Radius:
                        fits = face.kind == sampleFace.kind && face.inward == sampleFace.inward && within(face.radius);
                        break;
                    case Likeness::Kind:
                        fits = face.kind == sampleFace.kind && face.inward == sampleFace.inward;
                        break;
                    case Likeness::Colour:
                        fits = true;
                        break;
                    default:
                        break;
                }
                if (fits) numbers.push_back(static_cast<int>(f));
            }
        } else {
            for (std::size_t e = 1; e < t.edges.size(); ++e) {
                const Traits::Edge& edge = t.edges[e];
                bool fits = false;
                switch (wanted.by) {
                    case Likeness::Length:
                        fits = within(edge.length);
                        break;
                    case Likeness::Radius:
                        fits = within(edge.radius);
                        break;
                    case Likeness::Kind:
                        fits = edge.kind == sampleEdge.kind && edge.faces == sampleEdge.faces && edge.kind > 0;
                        break;
                    default:
                        break;
                }
                if (fits) numbers.push_back(static_cast<int>(e));
            }
        }
        return numbers;
    };
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const std::size_t part = model.occurrences[o].part;
        if (model.occurrences[o].aside || hidden.contains(o) || (!wanted.parts.empty() && !wanted.parts.contains(part)))
            continue;
        for (const int number : matching(part)) {
            if (wanted.by == Likeness::Colour && drawnColour(model, o, number) != colour) continue;
            Pick item;
            item.occurrence = o;
            (sample.face > 0 ? item.face : item.edge) = number;
            found.push_back(item);
        }
    }
    return found;
}

std::string likenessName(Likeness by) {
    switch (by) {
        case Likeness::Area:
            return "area";
        case Likeness::Radius:
            return "radius";
        case Likeness::Length:
            return "length";
        case Likeness::Kind:
            return "kind";
        case Likeness::Colour:
            return "colour";
        case Likeness::Feature:
            return "feature";
    }
    return "area";
}

}  // namespace rasoir::select
