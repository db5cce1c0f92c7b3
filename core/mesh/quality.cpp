#include "mesh/quality.h"

#include <BRep_Tool.hxx>
#include <GeomAdaptor_Surface.hxx>

#include "geometry/integrals.h"

namespace rasoir::mesh {

const char* measureName(Measure measure) {
    switch (measure) {
        case Measure::ShortestSide:
            return "shortest side";
        case Measure::LeastAngle:
            return "least angle";
        case Measure::LargestAngle:
            return "largest angle";
        case Measure::Skewness:
            return "skewness";
        case Measure::AspectRatio:
            return "aspect ratio";
        case Measure::ScaledJacobian:
            return "scaled Jacobian";
    }
    return "";
}

const char* measureUnit(Measure measure) {
    return measure == Measure::ShortestSide                                     ? "mm"
           : measure == Measure::LeastAngle || measure == Measure::LargestAngle ? "deg"
                                                                                : "";
}

bool smallIsBad(Measure measure) {
    return measure == Measure::ShortestSide || measure == Measure::LeastAngle || measure == Measure::ScaledJacobian;
}

double customaryLimit(Measure measure, double target) {
    switch (measure) {
        case Measure::ShortestSide:
            return 0.2 * target;
        case Measure::LeastAngle:
            return 20.0;
        case Measure::LargestAngle:
            return 130.0;
        case Measure::Skewness:
            return 0.7;
        case Measure::AspectRatio:
            return 5.0;
        case Measure::ScaledJacobian:
            return 0.35;
    }
    return 0.0;
}

double measured(Measure measure, const gp_Pnt& a, const gp_Pnt& b, const gp_Pnt& c) {
    std::array<double, 3> side{b.Distance(c), c.Distance(a), a.Distance(b)};
    if (measure == Measure::ShortestSide) return *std::min_element(side.begin(), side.end());
    const double twice = gp_Vec(a, b).Crossed(gp_Vec(a, c)).Magnitude();
    if (measure == Measure::AspectRatio) {
        const double longest = *std::max_element(side.begin(), side.end());
        return twice > 0.0 ? longest * (side[0] + side[1] + side[2]) / (2.0 * std::sqrt(3.0) * twice) : 1e9;
    }
    std::sort(side.begin(), side.end());
    const auto angle = [&](double opposite, double x, double y) {
        const double cosine = x > 0.0 && y > 0.0 ? (x * x + y * y - opposite * opposite) / (2.0 * x * y) : 1.0;
        return std::acos(std::clamp(cosine, -1.0, 1.0)) * 180.0 / M_PI;
    };
    const double least = angle(side[0], side[1], side[2]), largest = angle(side[2], side[0], side[1]);
    switch (measure) {
        case Measure::LeastAngle:
            return least;
        case Measure::LargestAngle:
            return largest;
        case Measure::Skewness:
            return std::max((largest - 60.0) / 120.0, (60.0 - least) / 60.0);
        default:
            return std::min(std::sin(least * M_PI / 180.0), std::sin(largest * M_PI / 180.0)) / (std::sqrt(3.0) / 2.0);
    }
}

namespace {

const char* kindOfSurface(const TopoDS_Face& face) {
    switch (GeomAdaptor_Surface(BRep_Tool::Surface(face)).GetType()) {
        case GeomAbs_Plane:
            return "flat face";
        case GeomAbs_Cylinder:
            return "cylinder";
        case GeomAbs_Cone:
            return "cone";
        case GeomAbs_Sphere:
            return "ball";
        case GeomAbs_Torus:
            return "torus";
        default:
            return "freeform face";
    }
}

/// Whom to blame for a bad element of one part: a known feature at it, else the smallest face at it.
class Blame {
public:
    Blame(const Part& part, const PartMesh& mesh, std::size_t p, const std::vector<KnownFeature>& features)
        : m_part(part), m_mesh(mesh) {
        for (std::size_t i = 0; i < features.size(); ++i)
            if (features[i].part == p)
                for (const int f : features[i].faces) m_featureOf.emplace(f, i);
    }
    /// The key of a place: a feature's index, or minus a face.
    int of(std::size_t triangle) {
        std::set<int> faces{m_mesh.faceOf[triangle]};
        for (const int p : m_mesh.triangles[triangle]) {
            const PointOrigin& origin = m_mesh.origins[static_cast<std::size_t>(p)];
            if (origin.kind == EntityKind::Edge)
                for (const EdgeUse& use : m_part.incidence().usesOf(origin.number)) faces.insert(use.face);
        }
        for (const int f : faces)
            if (const auto feature = m_featureOf.find(f); feature != m_featureOf.end())
                return static_cast<int>(feature->second);
        return -*std::min_element(faces.begin(), faces.end(), [this](int a, int b) { return area(a) < area(b); });
    }

private:
    const Part& m_part;
    const PartMesh& m_mesh;
    std::map<int, std::size_t> m_featureOf;
    std::map<int, double> m_area;
    double area(int face) {
        const auto [it, fresh] = m_area.try_emplace(face, 0.0);
        if (fresh) it->second = areaOf(m_part.incidence().face(face));
        return it->second;
    }
};

}  // namespace

QualityFigures qualityOf(const Model& model, const TrialMesh& mesh, Measure measure, double limit,
                         const std::vector<KnownFeature>& features) {
    QualityFigures figures;
    figures.measure = measure;
    figures.limit = limit;
    const bool small = smallIsBad(measure);
    double sum = 0.0;
    for (const auto& [p, own] : mesh.parts) {
        Blame blame(*model.parts[p], own, p, features);
        std::map<int, BadPlace> places;
        for (std::size_t t = 0; t < own.triangles.size(); ++t) {
            const auto& corners = own.triangles[t];
            const gp_Pnt &a = own.points[static_cast<std::size_t>(corners[0])],
                         &b = own.points[static_cast<std::size_t>(corners[1])],
                         &c = own.points[static_cast<std::size_t>(corners[2])];
            const double value = measured(measure, a, b, c);
            figures.values.push_back(value);
            sum += value;
            if (small ? value >= limit : value <= limit) continue;
            ++figures.bad;
            const int key = blame.of(t);
            const auto [it, fresh] = places.try_emplace(key);
            BadPlace& place = it->second;
            if (fresh) {
                place.part = p;
                place.faces = key >= 0 ? features[static_cast<std::size_t>(key)].faces : std::vector<int>{-key};
                place.what = key >= 0 ? features[static_cast<std::size_t>(key)].name
                                      : kindOfSurface(model.parts[p]->incidence().face(-key));
                place.worst = value;
            }
            ++place.elements;
            if (fresh || (small ? value < place.worst : value > place.worst)) {
                place.worst = value;
                place.where = gp_Pnt((a.XYZ() + b.XYZ() + c.XYZ()) / 3.0);
            }
        }
        for (auto& [key, place] : places) figures.places.push_back(std::move(place));
    }
    figures.elements = figures.values.size();
    std::sort(figures.values.begin(), figures.values.end());
    if (figures.elements > 0) {
        figures.worst = small ? figures.values.front() : figures.values.back();
        figures.mean = sum / static_cast<double>(figures.elements);
    }
    std::stable_sort(figures.places.begin(), figures.places.end(),
                     [](const BadPlace& a, const BadPlace& b) { return a.elements > b.elements; });
    return figures;
}

}  // namespace rasoir::mesh
