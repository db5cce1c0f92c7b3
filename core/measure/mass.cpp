#include "measure/mass.h"

#include <BRepGProp.hxx>
#include <Eigen/Eigenvalues>
#include <gp_Mat.hxx>
#include <GProp_GProps.hxx>

#include "common/text.h"
#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "geometry/trimmed_quadrature.h"

namespace rasoir::measure {
namespace {

gp_Mat matrixOf(const std::array<double, 6>& i) {
    return gp_Mat(i[0], i[3], i[4], i[3], i[1], i[5], i[4], i[5], i[2]);
}
std::array<double, 6> packed(const gp_Mat& m) {
    return {m(1, 1), m(2, 2), m(3, 3), m(1, 2), m(1, 3), m(2, 3)};
}

/// What a point mass at `d` from the reference adds to the tensor.
gp_Mat pointMass(double mass, const gp_XYZ& d) {
    const double dd = d.Dot(d);
    return gp_Mat(mass * (dd - d.X() * d.X()), -mass * d.X() * d.Y(), -mass * d.X() * d.Z(), -mass * d.X() * d.Y(),
                  mass * (dd - d.Y() * d.Y()), -mass * d.Y() * d.Z(), -mass * d.X() * d.Z(), -mass * d.Y() * d.Z(),
                  mass * (dd - d.Z() * d.Z()));
}

}  // namespace

std::array<double, 6> MassProperties::about(const gp_Pnt& point) const {
    return packed(matrixOf(inertia) + pointMass(mass, centre.XYZ() - point.XYZ()));
}

std::array<double, 3> MassProperties::principal() const {
    Eigen::Matrix3d m;
    m << inertia[0], inertia[3], inertia[4], inertia[3], inertia[1], inertia[5], inertia[4], inertia[5], inertia[2];
    const Eigen::Vector3d values = Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d>(m).eigenvalues();
    return {values[0], values[1], values[2]};
}

MassProperties MassProperties::transformed(const gp_Trsf& placement) const {
    MassProperties moved = *this;
    moved.centre.Transform(placement);
    const gp_Mat turn = placement.HVectorialPart();
    moved.inertia = packed(turn * matrixOf(inertia) * turn.Transposed());
    return moved;
}

MassProperties& MassProperties::operator+=(const MassProperties& other) {
    const double sum = mass + other.mass;
    if (sum <= 0.0) return *this;
    const gp_Pnt together((centre.XYZ() * mass + other.centre.XYZ() * other.mass) / sum);
    const gp_Mat both = matrixOf(about(together)) + matrixOf(other.about(together));
    mass = sum;
    centre = together;
    inertia = packed(both);
    return *this;
}

std::string massText(double mass, const Facts& facts) {
    if (mass <= 0.0 && facts.solids == 0 && facts.bareSheets > 0) return "none: open skins weigh nothing";
    return readable(mass) + (facts.bareSheets > 0 ? " kg, without open skins" : " kg");
}

double densityOf(const Model& model, const Part& part) {
    const Material* material = findMaterial(model.materials, part.material);
    if (material != nullptr) return material->density;
    // The model's own density is that of its solids: a flow space that nobody gave a fluid weighs nothing.
    const auto region = part.known.regions.find({EntityKind::Body, 1});
    return region == part.known.regions.end() || region->second == RegionKind::Solid ? model.density : 0.0;
}

namespace {

/// A face of a sheet as a body that is as thick as it says: its inertia is that of the face, plus what lies off it.
MassProperties sheetMass(const TopoDS_Face& face, const Thickness& thickness, double density) {
    GProp_GProps surface;
    BRepGProp::SurfaceProperties(face, surface);
    MassProperties own;
    const double area = std::abs(surface.Mass());
    own.centre = surface.CentreOfMass();
    // How its normals lie: the mean of them, and of their products.
    gp_Vec mean;
    std::array<double, 6> square{};
    (void)overTrimmedFace(face, [&](const gp_Pnt&, const gp_Vec& normal, double weight) {
        mean += weight * normal;
        const double length = normal.Magnitude();
        if (length < Tolerance::divisible) return;
        const double x = normal.X(), y = normal.Y(), z = normal.Z(), share = weight / length;
        const double products[] = {x * x, y * y, z * z, x * y, x * z, y * z};
        for (std::size_t i = 0; i < 6; ++i) square[i] += share * products[i];
    });
    if (face.Orientation() == TopAbs_REVERSED) mean.Reverse();
    // The wall's middle may lie beside the sheet.
    if (area > 0.0) own.centre.Translate(mean * (thickness.offset / area));
    const double thick = thickness.at + thickness.gradient.Dot(gp_Vec(thickness.from, own.centre));
    own.mass = area * thick * density;
    const gp_Mat matrix = surface.MatrixOfInertia();
    // Its thickness adds to what turns about axes in it, not to what turns about its normal.
    const double scale = thick * density, across = own.mass * thick * thick / 12.0;
    for (double& one : square) one *= area > 0.0 ? across / area : 0.0;
    own.inertia = {matrix.Value(1, 1) * scale + across - square[0], matrix.Value(2, 2) * scale + across - square[1],
                   matrix.Value(3, 3) * scale + across - square[2], matrix.Value(1, 2) * scale - square[3],
                   matrix.Value(1, 3) * scale - square[4],          matrix.Value(2, 3) * scale - square[5]};
    return own;
}

/// An edge that is a beam: its section's area along it. How the section itself resists turning about the line is left
/// out: of a slender member that is a hundredth and less.
MassProperties beamMass(const TopoDS_Edge& edge, const Section& section, double density) {
    GProp_GProps line;
    BRepGProp::LinearProperties(edge, line);
    MassProperties own;
    const double perLength = section.area * density;
    own.mass = line.Mass() * perLength;
    own.centre = line.CentreOfMass().Translated(0.5 * (section.startOffset + section.endOffset));
    const gp_Mat matrix = line.MatrixOfInertia();
    own.inertia = {matrix.Value(1, 1) * perLength, matrix.Value(2, 2) * perLength, matrix.Value(3, 3) * perLength,
                   matrix.Value(1, 2) * perLength, matrix.Value(1, 3) * perLength, matrix.Value(2, 3) * perLength};
    return own;
}

/// What is spread over a face or an edge: its inertia is that of the skin or the line.
MassProperties addedMass(const TopoDS_Shape& over, const AddedMass& added) {
    GProp_GProps integral;
    if (added.perLength)
        BRepGProp::LinearProperties(over, integral);
    else
        BRepGProp::SurfaceProperties(over, integral);
    // What was spread by our own measure has to come back by it: of the kernel's integral only the shape of the tensor
    // is taken, whose plain rule is off by a thousandth on long splines.
    MassProperties own;
    const Skin skin = added.perLength ? Skin{lengthOf(over), integral.CentreOfMass()} : skinOf(over);
    own.mass = skin.area * added.perMeasure;
    own.centre = skin.centre;
    if (const double plain = std::abs(integral.Mass()); plain > 0.0)
        own.inertia = packed(integral.MatrixOfInertia() * (own.mass / plain));
    return own;
}

MassProperties allAdded(const Part& part) {
    MassProperties sum;
    const Incidence& topology = part.incidence();
    for (const auto& [thing, added] : part.known.added) {
        if (thing.kind == EntityKind::Face && thing.number <= topology.faceCount())
            sum += addedMass(topology.face(thing.number), added);
        if (thing.kind == EntityKind::Edge && thing.number <= topology.edgeCount())
            sum += addedMass(topology.edge(thing.number), added);
    }
    return sum;
}

}  // namespace

MassProperties massOf(const Model& model, const Part& part, const Facts& facts) {
    MassProperties own;
    if (part.lump) {
        own.mass = part.lump->mass;
        own.centre = part.lump->centre;
        own.inertia = part.lump->inertia;
        return own;
    }
    const double density = densityOf(model, part) * 1e-9;  // kg/m3 to kg/mm3
    own.mass = facts.volume * density;
    own.centre = facts.centre;
    for (std::size_t i = 0; i < 6; ++i) own.inertia[i] = facts.inertia[i] * density;
    for (const auto& [thing, thickness] : part.known.thickness)
        if (thing.kind == EntityKind::Face && thing.number <= part.incidence().faceCount())
            own += sheetMass(part.incidence().face(thing.number), thickness, density);
    for (const auto& [thing, section] : part.known.sections)
        if (thing.kind == EntityKind::Edge && thing.number <= part.incidence().edgeCount())
            own += beamMass(part.incidence().edge(thing.number), section, density);
    own += allAdded(part);
    return own;
}

MassProperties massOf(const Model& model, const std::vector<Facts>& parts,
                      const std::optional<std::vector<std::size_t>>& occurrences) {
    MassProperties sum;
    const auto add = [&](std::size_t o) {
        const Occurrence& occurrence = model.occurrences[o];
        sum += massOf(model, *model.parts[occurrence.part], parts[occurrence.part]).transformed(occurrence.placement);
    };
    if (occurrences) {
        for (const std::size_t o : *occurrences) add(o);
    } else {
        for (std::size_t o = 0; o < model.occurrences.size(); ++o)
            if (!model.occurrences[o].aside) add(o);
    }
    return sum;
}

double addedMassOf(const Part& part) {
    return allAdded(part).mass;
}

void to_json(Json& json, const MassProperties& properties) {
    json = Json{{"mass_kg", properties.mass},
                {"centre_mm", {properties.centre.X(), properties.centre.Y(), properties.centre.Z()}},
                {"inertia_kg_mm2", properties.inertia},
                {"principal_kg_mm2", properties.principal()}};
}

}  // namespace rasoir::measure
