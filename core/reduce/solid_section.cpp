#include "reduce/solid_section.h"

#include <BRepBuilderAPI_MakeFace.hxx>
#include <gp_Pln.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "arrange/choice.h"
#include "geometry/integrals.h"

namespace rasoir::reduce {

Result<std::vector<TopoDS_Face>> sectionsAt(const TopoDS_Shape& solid, const gp_Pnt& at, const gp_Dir& direction,
                                            double size, double tolerance, Progress& progress) {
    const TopoDS_Face plane = BRepBuilderAPI_MakeFace(gp_Pln(at, direction), -size, size, -size, size).Face();
    const auto all = arrange::arrange({{solid, "the body"}, {plane, "the plane"}}, tolerance, progress);
    if (!all) return tl::unexpected(all.error());
    const auto pieces = arrange::piecesWithin(*all, 1, 0);
    if (pieces.empty()) return std::vector<TopoDS_Face>();
    const auto sheet = arrange::sheetOf(*all, pieces);
    if (!sheet) return tl::unexpected(sheet.error());
    std::vector<std::pair<double, TopoDS_Face>> byArea;
    for (TopExp_Explorer face(sheet->shape, TopAbs_FACE); face.More(); face.Next())
        byArea.emplace_back(areaOf(face.Current()), TopoDS::Face(face.Current()));
    std::stable_sort(byArea.begin(), byArea.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    std::vector<TopoDS_Face> faces;
    for (auto& [area, face] : byArea) faces.push_back(std::move(face));
    return faces;
}

}  // namespace rasoir::reduce
