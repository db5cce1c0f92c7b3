// What is known of a part beyond its shape, and how each piece of that knowledge fares when the shape changes.
//
// There is one list of attributes: `PartAttributes::each`. Saving, moving, mirroring, carrying over a step, telling
// what was lost, all walk that list, so that a new attribute is one member, one line there, and its rules below.
#pragma once
#include <array>
#include <compare>
#include <gp_Pnt.hxx>
#include <gp_Trsf.hxx>
#include <gp_Vec.hxx>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "model/json.h"
#include "model/lineage.h"

namespace rasoir {

struct Colour {
    double red = 0.0, green = 0.0, blue = 0.0;  ///< linear, 0..1
    friend bool operator==(const Colour&, const Colour&) = default;
};
[[nodiscard]] std::string hexText(const Colour& colour);  ///< "#rrggbb", as screens count it

/// A thing of a part, by number.
struct Entity {
    EntityKind kind = EntityKind::Face;
    int number = 0;
    friend auto operator<=>(const Entity&, const Entity&) = default;
};

/// Thickness of a sheet's face: `at` + gradient · (point - from), and where the sheet lies in it.
struct Thickness {
    double at = 0.0;      ///< [mm] at `from`
    gp_Pnt from;          ///< [mm, part coordinates]
    gp_Vec gradient;      ///< [1] growth per mm; null for a constant one
    double offset = 0.0;  ///< [mm] from the sheet to the middle of the wall, along the face's normal
    friend bool operator==(const Thickness& a, const Thickness& b);
};

/// Section of a beam along an edge.
struct Section {
    std::string shape;          ///< "round", "tube", "rectangle", "box", "I", ... ; see docs/formats/attributes.md
    std::vector<double> sizes;  ///< [mm] in the order that the shape's name asks for
    double area = 0.0;          ///< [mm^2]
    double secondUp = 0.0, secondAcross = 0.0;  ///< [mm^4] for bending that moves along, and across, `up`
    double product = 0.0;                       ///< [mm^4] of those two directions
    double torsion = 0.0;                       ///< [mm^4]
    gp_Vec up{0.0, 0.0, 1.0};                   ///< the direction of its height, part coordinates
    /// [mm] Corners along `up` and across it, about the centroid: the outer loop counterclockwise, then holes the other
    /// way. Across is along the edge times up. Empty: what the shape and its sizes say.
    std::vector<std::vector<std::array<double, 2>>> outline;
    gp_Vec startOffset, endOffset;  ///< [mm] from the edge's ends to the section's centre
    friend bool operator==(const Section& a, const Section& b);
};

/// What fills a body.
enum class RegionKind { Solid, Fluid, Porous, Void };
std::string regionKindName(RegionKind kind);
std::optional<RegionKind> regionKindFromName(const std::string& name);

/// What stands in for a body that only weighs: in the part's coordinates.
struct Lump {
    double mass = 0.0;                ///< [kg]
    gp_Pnt centre;                    ///< [mm]
    std::array<double, 6> inertia{};  ///< [kg mm^2] about the centre: xx yy zz xy xz yz
};

/// An inner corner that was round as designed: the stress at it is fictitious.
struct Sharpened {
    std::vector<gp_Pnt> along;  ///< [mm, part coordinates] points of its edge
    double radius = 0.0;        ///< [mm] of the round that was there
};

/// One attribute of the things of a part.
template <class Value>
using ByEntity = std::map<Entity, Value>;

/// The rules of a value. `moved`: in other coordinates (also mirrored and scaled). `turned`: its face or edge has been
/// reversed. `merged`: two things that carry it become one; none when they do not agree, which is told. A thing that is
/// split hands its value to every piece.
template <class Value>
struct CarryRule {
    static Value moved(const Value& value, const gp_Trsf&) { return value; }
    static Value turned(const Value& value) { return value; }
    static std::optional<Value> merged(const Value& a, const Value& b) {
        return a == b ? std::optional(a) : std::nullopt;
    }
};
template <>
struct CarryRule<Thickness> {
    static Thickness moved(const Thickness& value, const gp_Trsf& move);
    static Thickness turned(Thickness value) {
        value.offset = -value.offset;
        return value;
    }
    static std::optional<Thickness> merged(const Thickness& a, const Thickness& b);
};
template <>
struct CarryRule<Section> {
    static Section moved(const Section& value, const gp_Trsf& move);
    static Section turned(Section value) {
        std::swap(value.startOffset, value.endOffset);
        return value;
    }
    static std::optional<Section> merged(const Section& a, const Section& b);
};

/// A size in mm: scales with the part; of two the smaller one holds.
struct Size {
    double mm = 0.0;
    friend bool operator==(const Size&, const Size&) = default;
};
template <>
struct CarryRule<Size> {
    static Size moved(const Size& value, const gp_Trsf& move);
    static Size turned(const Size& value) { return value; }
    static std::optional<Size> merged(const Size& a, const Size& b) { return a.mm < b.mm ? a : b; }
};

/// Mass that is not modelled, spread over a face or an edge: what it weighs follows its area or length.
struct AddedMass {
    double perMeasure = 0.0;  ///< [kg/mm^2] of a face, [kg/mm] of an edge
    bool perLength = false;
    friend bool operator==(const AddedMass&, const AddedMass&) = default;
};
template <>
struct CarryRule<AddedMass> {
    static AddedMass moved(AddedMass value, const gp_Trsf& move) {
        const double scale = std::abs(move.ScaleFactor());  // the mass stays, the area does not
        value.perMeasure /= value.perLength ? scale : scale * scale;
        return value;
    }
    static AddedMass turned(const AddedMass& value) { return value; }
    static std::optional<AddedMass> merged(const AddedMass& a, const AddedMass& b) {
        return a == b ? std::optional(a) : std::nullopt;
    }
};

/// A mark without a value.
struct Mark {
    friend bool operator==(const Mark&, const Mark&) = default;
};

/// What did not come through a step.
struct AttributeLoss {
    const char* attribute = "";  ///< as in `PartAttributes::each`
    Entity of;                   ///< in the part before
    bool disagreed = false;      ///< two that became one carried different values; else what carried it is gone
};

struct PartAttributes {
    ByEntity<Colour> colours;
    ByEntity<std::string> names;      ///< of faces and bodies, as they came in the file or were given
    ByEntity<std::string> materials;  ///< of bodies whose material is not the part's
    ByEntity<Size> sizes;             ///< element size wanted there
    ByEntity<Thickness> thickness;    ///< of faces of sheets
    ByEntity<Section> sections;       ///< of edges that are beams
    ByEntity<RegionKind> regions;     ///< of bodies
    ByEntity<AddedMass> added;        ///< of faces, or of edges
    ByEntity<Size> wasRound;          ///< edges that stand for a round of this radius
    ByEntity<std::string> asOne;      ///< faces, or edges, of one name that hang together are meshed as one
    ByEntity<Mark> parted;            ///< edges and vertices that part something on purpose: never needless

    /// Calls `visit(name, pointer to the member)` for each attribute there is.
    template <class Visit>
    static void each(Visit&& visit) {
        visit("colour", &PartAttributes::colours);
        visit("name", &PartAttributes::names);
        visit("material", &PartAttributes::materials);
        visit("size", &PartAttributes::sizes);
        visit("thickness", &PartAttributes::thickness);
        visit("section", &PartAttributes::sections);
        visit("region", &PartAttributes::regions);
        visit("addedMass", &PartAttributes::added);
        visit("wasRound", &PartAttributes::wasRound);
        visit("asOne", &PartAttributes::asOne);
        visit("parted", &PartAttributes::parted);
    }

    /// Takes over what `from` carries along the links, moved by `move`. What finds no heir, or disagrees with what is
    /// there already, is added to `losses`.
    void inherit(const PartAttributes& from, const PartLineage& lineage, const gp_Trsf& move,
                 std::vector<AttributeLoss>* losses = nullptr);
    [[nodiscard]] bool isEmpty() const;
    friend bool operator==(const PartAttributes&, const PartAttributes&) = default;
};

/// {"colour": {"face 3": [r, g, b]}, "thickness": {...}}; attributes that nothing carries are left out.
[[nodiscard]] Json toJson(const PartAttributes& attributes);
/// Throws std::invalid_argument with a reason where something is not as it should be.
[[nodiscard]] PartAttributes attributesFromJson(const Json& json);

Json toJson(const gp_XYZ& triple);
gp_XYZ tripleFromJson(const Json& json);  ///< throws where it is not three finite numbers

}  // namespace rasoir
