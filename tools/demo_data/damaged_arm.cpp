#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepGProp.hxx>
#include <BRepTools_WireExplorer.hxx>
#include <GProp_GProps.hxx>
#include <map>
#include <random>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TopTools_IndexedMapOfShape.hxx>

#include "shapes.h"
#include "truth.h"

namespace rasoir::demo {
namespace {

double areaOf(const TopoDS_Shape& face) {
    GProp_GProps props;
    BRepGProp::SurfaceProperties(face, props);
    return props.Mass();
}
int edgesOf(const TopoDS_Shape& face) {
    TopTools_IndexedMapOfShape edges;
    TopExp::MapShapes(face, TopAbs_EDGE, edges);
    return edges.Extent();
}

/// The corners of a flat face with four straight sides, in order; empty for any other.
std::vector<gp_Pnt> cornersOf(const TopoDS_Face& face) {
    std::vector<gp_Pnt> corners;
    int wires = 0;
    for (TopExp_Explorer it(face, TopAbs_WIRE); it.More(); it.Next()) {
        ++wires;
        for (BRepTools_WireExplorer at(TopoDS::Wire(it.Current()), face); at.More(); at.Next()) {
            if (BRepAdaptor_Curve(at.Current()).GetType() != GeomAbs_Line) return {};
            corners.push_back(BRep_Tool::Pnt(at.CurrentVertex()));
        }
    }
    if (wires != 1 || corners.size() != 4 || BRepAdaptor_Surface(face).GetType() != GeomAbs_Plane) return {};
    return corners;
}
TopoDS_Face flatFace(const TopoDS_Face& like, const std::vector<gp_Pnt>& corners) {
    BRepBuilderAPI_MakePolygon polygon;
    for (const gp_Pnt& corner : corners) polygon.Add(corner);
    polygon.Close();
    TopoDS_Face made = BRepBuilderAPI_MakeFace(BRepAdaptor_Surface(like).Plane(), polygon.Wire()).Face();
    return made;
}
gp_Pnt along(const gp_Pnt& from, const gp_Pnt& to, double distance) {
    return from.Translated(gp_Vec(from, to).Normalized() * distance);
}

}  // namespace

DamagedArm damagedArm(const TopoDS_Shape& arm) {
    DamagedArm out;
    std::mt19937_64 random(20261123);
    const auto uniform = [&random](double low, double high) {
        return low + (high - low) * static_cast<double>(random() >> 11) * 0x1.0p-53;
    };
    std::vector<TopoDS_Face> faces;
    for (TopExp_Explorer it(arm, TopAbs_FACE); it.More(); it.Next()) faces.push_back(TopoDS::Face(it.Current()));
    std::vector<char> touched(faces.size(), false);
    const auto kindOf = [&](std::size_t f) { return BRepAdaptor_Surface(faces[f]).GetType(); };
    const auto away = [&](std::size_t f) {  // damaged faces do not touch each other, so that each defect can be told
        TopTools_IndexedMapOfShape own;
        TopExp::MapShapes(faces[f], TopAbs_EDGE, own);
        for (std::size_t k = 0; k < faces.size(); ++k) {
            if (!touched[k]) continue;
            for (TopExp_Explorer it(faces[k], TopAbs_EDGE); it.More(); it.Next())
                if (own.Contains(it.Current())) return false;
        }
        return true;
    };
    // Missing: the wall of a through hole, a flat face, a round along a straight edge.
    std::vector<char> missing(faces.size(), false);
    const auto takeOut = [&](const std::string& what, auto fits) {
        for (std::size_t f = 0; f < faces.size(); ++f)
            if (!touched[f] && fits(f) && away(f)) {
                missing[f] = touched[f] = true;
                out.missing.push_back({what, areaOf(faces[f])});
                return;
            }
    };
    takeOut("wall of a hole", [&](std::size_t f) {
        return kindOf(f) == GeomAbs_Cylinder && edgesOf(faces[f]) == 3 && areaOf(faces[f]) < 600.0;
    });
    takeOut("flat face", [&](std::size_t f) {
        return kindOf(f) == GeomAbs_Plane && edgesOf(faces[f]) >= 4 && areaOf(faces[f]) > 300.0;
    });
    takeOut("round", [&](std::size_t f) { return kindOf(f) == GeomAbs_Cylinder && edgesOf(faces[f]) == 4; });
    // Apart: small faces shifted. The last is too far away to be closed without a look.
    std::vector<double> shift(faces.size(), 0.0);
    for (const double by : {0.003, 0.012, 0.012, 0.031, 0.031, 0.052, 0.075, 0.45})
        for (std::size_t f = 0; f < faces.size(); ++f)
            if (!touched[f] && kindOf(f) == GeomAbs_Plane && areaOf(faces[f]) > 40.0 &&
                areaOf(faces[f]) < (by > 0.1 ? 120.0 : 900.0) && edgesOf(faces[f]) >= 4 && away(f)) {
                touched[f] = true;
                shift[f] = by;
                out.shifted.push_back(by);
                break;
            }
    // Doubled.
    std::vector<char> doubled(faces.size(), false);
    for (int i = 0; i < 2; ++i)
        for (std::size_t f = faces.size() / 2; f < faces.size(); ++f)
            if (!touched[f] && areaOf(faces[f]) > 200.0 && away(f)) {
                touched[f] = doubled[f] = true;
                ++out.doubled;
                break;
            }
    // Too long, with a strip cut off, cut in two: flat faces with four corners.
    std::map<std::size_t, std::vector<TopoDS_Face>> instead;
    const auto replace = [&](auto made) {
        for (std::size_t f = 0; f < faces.size(); ++f) {
            if (touched[f] || !away(f)) continue;
            const auto corners = cornersOf(faces[f]);
            if (corners.empty() || corners[0].Distance(corners[1]) < 6.0 || corners[1].Distance(corners[2]) < 6.0)
                continue;
            touched[f] = true;
            instead[f] = made(faces[f], corners);
            return;
        }
    };
    for (const double by : {2.5, 4.0})
        replace([&](const TopoDS_Face& like, const std::vector<gp_Pnt>& c) {
            out.overlong.push_back(by);
            return std::vector{flatFace(like, {c[0], along(c[1], c[0], -by), along(c[2], c[3], -by), c[3]})};
        });
    for (const double width : {0.02, 0.05})
        replace([&](const TopoDS_Face& like, const std::vector<gp_Pnt>& c) {
            out.slivers.push_back(width);
            const gp_Pnt a = along(c[0], c[1], width), b = along(c[3], c[2], width);
            return std::vector{flatFace(like, {c[0], a, b, c[3]}), flatFace(like, {a, c[1], c[2], b})};
        });
    for (int i = 0; i < 2; ++i)
        replace([&](const TopoDS_Face& like, const std::vector<gp_Pnt>& c) {
            ++out.needless;
            const gp_Pnt a = along(c[0], c[1], 0.4 * c[0].Distance(c[1])),
                         b = along(c[3], c[2], 0.6 * c[3].Distance(c[2]));
            return std::vector{flatFace(like, {c[0], a, b, c[3]}), flatFace(like, {a, c[1], c[2], b})};
        });
    TopoDS_Compound all;
    const BRep_Builder builder;
    builder.MakeCompound(all);
    for (std::size_t f = 0; f < faces.size(); ++f) {
        if (missing[f]) continue;
        if (const auto others = instead.find(f); others != instead.end()) {
            for (const TopoDS_Face& face : others->second) builder.Add(all, face);
            continue;
        }
        const auto put = [&](bool turned) {
            TopoDS_Shape copy = BRepBuilderAPI_Copy(faces[f]).Shape();
            if (shift[f] > 0.0) {
                gp_Vec by(uniform(-1, 1), uniform(-1, 1), uniform(-1, 1));
                gp_Trsf move;
                move.SetTranslation(by.Normalized() * shift[f]);
                copy = BRepBuilderAPI_Transform(copy, move, true).Shape();
            }
            if (turned) {
                copy.Reverse();
                ++out.turned;
            }
            builder.Add(all, copy);
        };
        put(random() % 8 == 0);
        if (doubled[f]) put(false);
    }
    // A stray splinter beside it.
    builder.Add(all, box(200, 80, 0, 201, 80.8, 0.7));
    out.shape = all;
    return out;
}

Json truthOf(const DamagedArm& damaged, const PartWithTruth& arm) {
    TopTools_IndexedMapOfShape faces;
    TopExp::MapShapes(arm.shape, TopAbs_FACE, faces);
    Json json{
        {"faces", faces.Extent()},         {"volume_mm3", volumeOf(arm.shape)}, {"missing", Json::array()},
        {"shifted_mm", damaged.shifted},   {"doubled", damaged.doubled},        {"stray", 1},
        {"overlong_mm", damaged.overlong}, {"slivers_mm", damaged.slivers},     {"needless_edges", damaged.needless}};
    for (const auto& [what, area] : damaged.missing) json["missing"].push_back({{"what", what}, {"area_mm2", area}});
    return json;
}

}  // namespace rasoir::demo
