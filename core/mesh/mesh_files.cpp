#include "mesh/mesh_files.h"

#include <fmt/format.h>

#include <cstring>
#include <fstream>
#include <iterator>

#include "common/safe_file.h"
#include "common/text.h"
#include "common/xml.h"
#include "mesh/quality.h"

namespace rasoir::mesh {
namespace {

template <class Values>
void addArray(std::string& out, const char* type, const std::string& name, int components, const Values& values) {
    fmt::format_to(std::back_inserter(out), "<DataArray type=\"{}\" Name=\"{}\"{} format=\"ascii\">\n", type,
                   escapedXml(name), components > 1 ? fmt::format(" NumberOfComponents=\"{}\"", components) : "");
    std::size_t inLine = 0;
    for (const auto value : values) {
        fmt::format_to(std::back_inserter(out), "{}{}", value, ++inLine % 12 == 0 ? '\n' : ' ');
    }
    out += "\n</DataArray>\n";
}

/// Whether an element is a group's: its face or edge is, or its body.
std::vector<int> membersOf(const Model& model, const AssembledMesh& all, const Group& group) {
    std::vector<int> in;
    const auto isIn = [&](const AssembledMesh::Source& source, EntityKind kind) {
        const Occurrence& place = model.occurrences[source.place];
        const Part& part = *model.parts[place.part];
        for (const PlaceId at : {everyPlace, place.id}) {
            if (group.members.contains({part.id, at, {kind, source.number}})) return 1;
            if (kind != EntityKind::Face) continue;
            // Bodies are solids, sheets and wires in their order; a face of no solid belongs to the sheet that holds
            // it.
            if (const int solid = part.incidence().bodyOf(source.number);
                solid >= 0 && group.members.contains({part.id, at, {EntityKind::Body, solid + 1}}))
                return 1;
        }
        return 0;
    };
    for (const auto& source : all.triangleOf) in.push_back(isIn(source, EntityKind::Face));
    for (const auto& source : all.lineOf) in.push_back(isIn(source, EntityKind::Edge));
    return in;
}

std::string asVtu(const Model& model, const TrialMesh& mesh) {
    const AssembledMesh all = assembled(model, mesh);
    const std::size_t cells = all.triangles.size() + all.lines.size();
    std::string out = fmt::format(
        "<?xml version=\"1.0\"?>\n<VTKFile type=\"UnstructuredGrid\" version=\"1.0\" byte_order=\"LittleEndian\">\n"
        "<UnstructuredGrid>\n<Piece NumberOfPoints=\"{}\" NumberOfCells=\"{}\">\n<Points>\n",
        all.points.size(), cells);
    std::vector<double> coordinates;
    for (const gp_Pnt& p : all.points) coordinates.insert(coordinates.end(), {p.X(), p.Y(), p.Z()});
    addArray(out, "Float64", "points", 3, coordinates);
    out += "</Points>\n<Cells>\n";
    std::vector<int> corners, ends, types, places, faces;
    for (const auto& t : all.triangles) {
        corners.insert(corners.end(), t.begin(), t.end());
        ends.push_back(static_cast<int>(corners.size()));
        types.push_back(5);
    }
    for (const auto& line : all.lines) {
        corners.insert(corners.end(), line.begin(), line.end());
        ends.push_back(static_cast<int>(corners.size()));
        types.push_back(3);
    }
    for (const auto& source : all.triangleOf) {
        places.push_back(static_cast<int>(source.place) + 1);
        faces.push_back(source.number);
    }
    for (const auto& source : all.lineOf) {
        places.push_back(static_cast<int>(source.place) + 1);
        faces.push_back(0);
    }
    addArray(out, "Int32", "connectivity", 1, corners);
    addArray(out, "Int32", "offsets", 1, ends);
    addArray(out, "UInt8", "types", 1, types);
    out += "</Cells>\n<CellData>\n";
    addArray(out, "Int32", "place", 1, places);
    addArray(out, "Int32", "face", 1, faces);
    for (const Measure measure : measures) {
        std::vector<double> values;
        for (const auto& t : all.triangles)
            values.push_back(measured(measure, all.points[static_cast<std::size_t>(t[0])],
                                      all.points[static_cast<std::size_t>(t[1])],
                                      all.points[static_cast<std::size_t>(t[2])]));
        for (const auto& line : all.lines)
            values.push_back(measure == Measure::ShortestSide ? all.points[static_cast<std::size_t>(line[0])].Distance(
                                                                    all.points[static_cast<std::size_t>(line[1])])
                                                              : 0.0);
        addArray(out, "Float32", measureName(measure), 1, values);
    }
    for (const Group& group : model.groups)
        addArray(out, "UInt8", "group " + group.name, 1, membersOf(model, all, group));
    out += "</CellData>\n</Piece>\n</UnstructuredGrid>\n</VTKFile>\n";
    return out;
}

std::string asStl(const Model& model, const TrialMesh& mesh) {
    const AssembledMesh all = assembled(model, mesh);
    std::string out(80, ' ');
    out.replace(0, 10, "trial mesh");
    const auto add = [&out](const void* data, std::size_t size) { out.append(static_cast<const char*>(data), size); };
    const auto count = static_cast<std::uint32_t>(all.triangles.size());
    add(&count, 4);
    const std::uint16_t none = 0;
    for (const auto& t : all.triangles) {
        const gp_Pnt &a = all.points[static_cast<std::size_t>(t[0])], &b = all.points[static_cast<std::size_t>(t[1])],
                     &c = all.points[static_cast<std::size_t>(t[2])];
        gp_Vec normal = gp_Vec(a, b).Crossed(gp_Vec(a, c));
        if (const double size = normal.Magnitude(); size > 0.0) normal /= size;
        for (const gp_XYZ& xyz : {normal.XYZ(), a.XYZ(), b.XYZ(), c.XYZ()})
            for (const int k : {1, 2, 3}) {
                const auto value = static_cast<float>(xyz.Coord(k));
                add(&value, 4);
            }
        add(&none, 2);
    }
    return out;
}

}  // namespace

Result<void> writeMesh(const Model& model, const TrialMesh& mesh, const std::filesystem::path& path) {
    std::string suffix = path.extension().string();
    std::transform(suffix.begin(), suffix.end(), suffix.begin(), [](unsigned char c) { return std::tolower(c); });
    if (suffix == ".vtu") return writeText(path, asVtu(model, mesh));
    if (suffix == ".stl") return writeText(path, asStl(model, mesh));
    return fail(ProblemKind::BadInput, fmt::format("A mesh cannot be written as \"{}\".", suffix), "Use .vtu or .stl.");
}

}  // namespace rasoir::mesh
