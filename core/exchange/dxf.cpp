#include "exchange/dxf.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <GCPnts_QuasiUniformDeflection.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Ax3.hxx>
#include <gp_Circ.hxx>
#include <gp_Pln.hxx>
#include <set>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "common/safe_file.h"
#include "common/tolerance.h"
#include "model/places.h"

namespace rasoir::exchange {
namespace {

/// The plane in which a part's faces lie, in its own coordinates; of wires, that of the first bent edge or of two
/// lines.
std::optional<gp_Pln> planeOfPart(const Part& part, double exact) {
    const Incidence& topology = part.incidence();
    std::optional<gp_Pln> plane;
    for (int f = 1; f <= topology.faceCount(); ++f) {
        const GeomAdaptor_Surface surface(BRep_Tool::Surface(topology.face(f)));
        if (surface.GetType() != GeomAbs_Plane) return std::nullopt;
        if (!plane) plane = surface.Plane();
        if (!plane->Axis().Direction().IsParallel(surface.Plane().Axis().Direction(), Tolerance::exactDirection) ||
            plane->Distance(surface.Plane().Location()) > exact)
            return std::nullopt;
    }
    return plane;
}

/// One drawing: what its entities say, in the plane's coordinates.
class Drawing {
public:
    Drawing(const gp_Trsf& toDrawing, double exact) : m_toDrawing(toDrawing), m_exact(exact) {}

    /// False where the edge does not lie in the plane of the drawing.
    bool add(const TopoDS_Edge& edge, const gp_Trsf& placement, const std::string& layer) {
        if (BRep_Tool::Degenerated(edge)) return true;
        BRepAdaptor_Curve curve(edge);
        gp_Trsf move = m_toDrawing * placement;
        const double first = curve.FirstParameter(), last = curve.LastParameter();
        const auto at = [&](double u) { return curve.Value(u).Transformed(move); };
        for (int i = 0; i <= 8; ++i)
            if (std::abs(at(first + (last - first) * i / 8).Z()) > m_exact) return false;
        const gp_Pnt a = at(first), b = at(last);
        if (curve.GetType() == GeomAbs_Line) {
            m_text += fmt::format("0\nLINE\n8\n{}\n10\n{:.9g}\n20\n{:.9g}\n30\n0\n11\n{:.9g}\n21\n{:.9g}\n31\n0\n",
                                  layer, a.X(), a.Y(), b.X(), b.Y());
        } else if (curve.GetType() == GeomAbs_Circle) {
            const gp_Circ circle = curve.Circle().Transformed(move);
            const gp_Pnt c = circle.Location();
            if (last - first > 2.0 * M_PI - Tolerance::parameter) {
                m_text += fmt::format("0\nCIRCLE\n8\n{}\n10\n{:.9g}\n20\n{:.9g}\n30\n0\n40\n{:.9g}\n", layer, c.X(),
                                      c.Y(), circle.Radius());
            } else {
                // An arc runs against the clock from its start to its end.
                const bool seenFromAbove = circle.Axis().Direction().Z() > 0.0;
                const auto angle = [&c](const gp_Pnt& p) {
                    const double degrees = std::atan2(p.Y() - c.Y(), p.X() - c.X()) * 180.0 / M_PI;
                    return degrees < 0.0 ? degrees + 360.0 : degrees;
                };
                m_text += fmt::format(
                    "0\nARC\n8\n{}\n10\n{:.9g}\n20\n{:.9g}\n30\n0\n40\n{:.9g}\n50\n{:.9g}\n51\n{:.9g}\n", layer, c.X(),
                    c.Y(), circle.Radius(), angle(seenFromAbove ? a : b), angle(seenFromAbove ? b : a));
            }
        } else {
            const GCPnts_QuasiUniformDeflection points(curve, std::max(m_exact, m_deflection));
            m_text += fmt::format("0\nPOLYLINE\n8\n{}\n66\n1\n10\n0\n20\n0\n30\n0\n", layer);
            for (int i = 1; i <= points.NbPoints(); ++i) {
                const gp_Pnt p = points.Value(i).Transformed(move);
                m_text += fmt::format("0\nVERTEX\n8\n{}\n10\n{:.9g}\n20\n{:.9g}\n30\n0\n", layer, p.X(), p.Y());
            }
            m_text += fmt::format("0\nSEQEND\n8\n{}\n", layer);
        }
        return true;
    }
    void setDeflection(double millimetres) { m_deflection = millimetres; }
    [[nodiscard]] const std::string& text() const { return m_text; }

private:
    gp_Trsf m_toDrawing;
    double m_exact, m_deflection = 0.01;
    std::string m_text;
};

/// Layers of release 12 are named in capitals, digits, dollar, hyphen and underscore.
std::string layerOf(const std::string& name, std::set<std::string>& taken) {
    std::string layer;
    for (const char c : name)
        layer += std::isalnum(static_cast<unsigned char>(c)) != 0
                     ? static_cast<char>(std::toupper(static_cast<unsigned char>(c)))
                     : '_';
    if (layer.empty()) layer = "PART";
    std::string own = layer.substr(0, 28);
    for (int n = 2; !taken.insert(own).second; ++n) own = fmt::format("{}_{}", layer.substr(0, 26), n);
    return own;
}

}  // namespace

Result<void> writeDxf(const Model& model, const std::filesystem::path& path) {
    return guarded("Writing DXF", [&]() -> Result<void> {
        const double exact = 10.0 * model.samePoint();
        std::optional<gp_Pln> common;
        std::vector<std::size_t> places;
        for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
            const Occurrence& place = model.occurrences[o];
            const Part& part = *model.parts[place.part];
            if (place.aside || part.lump || part.shape.IsNull()) continue;
            const BodyKind kind = part.kind();
            if (kind != BodyKind::Sheet && kind != BodyKind::Wire)
                return fail(ProblemKind::NotPossible,
                            fmt::format("\"{}\" is no flat sheet: DXF is for sections.", placeName(model, o)),
                            "Make a cross-section in Divide, or write STEP.", {part.name, {}, {}});
            if (const auto plane = planeOfPart(part, exact)) {
                const gp_Pln here = plane->Transformed(place.placement);
                if (!common) common = here;
                if (!common->Axis().Direction().IsParallel(here.Axis().Direction(), Tolerance::sameDirection) ||
                    common->Distance(here.Location()) > exact)
                    return fail(ProblemKind::NotPossible,
                                fmt::format("\"{}\" lies in another plane than the first sheet.", placeName(model, o)),
                                "Write them one by one.", {part.name, {}, {}});
            } else if (kind == BodyKind::Sheet) {
                return fail(ProblemKind::NotPossible, fmt::format("\"{}\" is not flat.", placeName(model, o)),
                            "Make a cross-section in Divide, or write STEP.", {part.name, {}, {}});
            }
            places.push_back(o);
        }
        if (places.empty()) return fail(ProblemKind::NotPossible, "There is nothing to draw.");
        gp_Ax3 frame(gp_Pnt(0, 0, common ? common->Distance(gp_Pnt(0, 0, 0)) : 0.0), gp::DZ());
        if (common && !common->Axis().Direction().IsParallel(gp::DZ(), Tolerance::exactDirection)) {
            frame = common->Position();
        } else if (common) {
            frame = gp_Ax3(gp_Pnt(0, 0, common->Location().Z()), gp::DZ(), gp::DX());
        }
        gp_Trsf toDrawing;
        toDrawing.SetTransformation(frame, gp_Ax3(gp::Origin(), gp::DZ(), gp::DX()));
        Drawing drawing(toDrawing, exact);
        // Of the extent: a drawing is looked at as a whole, a pixel is coarser.
        drawing.setDeflection(1e-4 * std::max(model.extent(), Tolerance::samePlace));
        std::set<std::pair<PlaceId, int>> again;
        for (const Joint& joint : model.joints)
            if (joint.kind == EntityKind::Edge)
                for (std::size_t u = 1; u < joint.uses.size(); ++u)
                    again.insert({joint.uses[u].place, joint.uses[u].number});
        std::set<std::string> taken;
        std::map<std::size_t, std::string> layers;
        for (const std::size_t o : places) {
            const Occurrence& place = model.occurrences[o];
            const Part& part = *model.parts[place.part];
            if (!layers.contains(place.part)) layers[place.part] = layerOf(part.name, taken);
            for (int e = 1; e <= part.incidence().edgeCount(); ++e)
                if (!again.contains({place.id, e}) &&
                    !drawing.add(part.incidence().edge(e), place.placement, layers[place.part]))
                    return fail(ProblemKind::NotPossible,
                                fmt::format("An edge of \"{}\" leaves the plane of the drawing.", placeName(model, o)),
                                "Write STEP instead.", {part.name, {}, {}});
        }
        std::string text = "0\nSECTION\n2\nHEADER\n9\n$ACADVER\n1\nAC1009\n9\n$INSUNITS\n70\n4\n0\nENDSEC\n";
        text += fmt::format("0\nSECTION\n2\nTABLES\n0\nTABLE\n2\nLAYER\n70\n{}\n", layers.size());
        for (const auto& [part, layer] : layers)
            text += fmt::format("0\nLAYER\n2\n{}\n70\n0\n62\n7\n6\nCONTINUOUS\n", layer);
        text += "0\nENDTAB\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n" + drawing.text() + "0\nENDSEC\n0\nEOF\n";
        return writeText(path, text);
    });
}

}  // namespace rasoir::exchange
