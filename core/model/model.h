// The model is a value: parts by shared immutable handle, and where each of them occurs.
#pragma once
#include <array>
#include <gp_Trsf.hxx>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <TopoDS_Shape.hxx>
#include <vector>

#include "common/shared_vector.h"
#include "common/text.h"
#include "model/attributes.h"
#include "model/groups.h"
#include "model/joints.h"
#include "model/lineage.h"
#include "model/material.h"
#include "model/pairings.h"
#include "topology/incidence.h"

namespace rasoir {

enum class BodyKind { Solid, Sheet, Wire, Mixed, Empty };

/// One part as designed, in its own coordinates. Never changed after it is made; derived data is made once, on demand.
class Part {
public:
    Part(std::string name, TopoDS_Shape shape);

    PartId id = 0;  ///< never reused within a work; 0: not given yet (see Model::giveIds)
    std::string name;
    TopoDS_Shape shape;  ///< [mm] solids, shells, faces, wires or a compound of them
    std::optional<Colour> colour;
    PartAttributes known;                           ///< of its bodies, faces, edges and vertices
    std::map<std::string, std::string> attributes;  ///< further properties that came with the file
    std::string material;                           ///< a name in Model::materials; empty: the model's own density
    std::vector<gp_Pnt> meantOpen;                  ///< [mm] middles of openings that are meant to stay
    std::vector<Sharpened> sharpened;               ///< what steps have made sharp; see survey/stress_notes
    std::optional<Lump> lump;  ///< only weighs: its shape is left out of the export, its mass is not
    /// The solid whose walls its sheets stand for, in the same coordinates; what was cut off from it as too thick has
    /// it as well. Null: none is known. It may have steps behind it that this part has not.
    std::shared_ptr<const Part> standsFor;

    [[nodiscard]] BodyKind kind() const;
    /// Thread-safe; the first caller pays for the numbering.
    [[nodiscard]] const Incidence& incidence() const;
    /// The same part with another shape; what is known of its things follows the lineage.
    [[nodiscard]] std::shared_ptr<const Part> withShape(TopoDS_Shape changed, const PartLineage& lineage) const;
    /// Only for a part that is being made.
    void setShape(TopoDS_Shape changed);
    /// Takes over what is known of another part's things, along the lineage and by place, moved. Used for parts that
    /// were made from others; what is known of the part as a whole (name, material, colour) is not touched.
    void inherit(const Part& from, const PartLineage& lineage, const gp_Trsf& move);
    [[nodiscard]] std::optional<Colour> colourOf(int face) const;  ///< its own; none: the part's
    [[nodiscard]] std::size_t faceColourCount() const;
    /// The same part, same shape and numbering, for changing its name, material or colour.
    [[nodiscard]] std::shared_ptr<Part> copy() const { return std::make_shared<Part>(*this); }

private:
    struct Derived {
        std::once_flag once;
        std::unique_ptr<Incidence> incidence;
    };
    std::shared_ptr<Derived> m_derived = std::make_shared<Derived>();
};

/// One place where a part stands in the assembly.
struct Occurrence {
    std::size_t part = 0;
    gp_Trsf placement;              ///< from part to model coordinates, mm
    std::string name;               ///< of the instance; often the part's
    std::vector<std::string> path;  ///< names of the assemblies above it, outermost first
    std::optional<Colour> colour;   ///< overrides the part's
    bool aside = false;             ///< set aside: out of the work and of the export, kept in the model
    PlaceId id = 0;                 ///< never reused within a work; 0: not given yet
};

/// Two parts of which one is the other's mirror image: a place can turn but not mirror, so each is a part; they change
/// together.
struct MirrorPair {
    std::size_t original = 0, image = 0;     ///< indices in the model
    gp_Trsf across;                          ///< from the original's coordinates to the image's; mirrors
    TopoDS_Shape originalShape, imageShape;  ///< as they were when they last agreed
};

struct Model {
    std::vector<std::shared_ptr<const Part>> parts;
    SharedVector<Occurrence> occurrences;  ///< copies of the model share those that no step changed
    std::vector<MirrorPair> mirrors;
    std::string name;                     ///< of the file's root product, or the file
    std::optional<Unit> fileUnit;         ///< as stated in the file; none: the file states none
    bool unitAssumed = false;             ///< no file stated it: somebody said it, or millimetres were taken
    double targetSize = 4.0;              ///< [mm] the element size the analyst intends
    double density = 7850.0;              ///< [kg/m^3] where a part states no other
    std::vector<Material> materials;      ///< those its parts are made of
    std::vector<std::string> notes;       ///< what was odd when it was received
    std::vector<std::string> fileHashes;  ///< SHA-256 of the files that were read, in their order
    std::vector<Group> groups;
    std::vector<Joint> joints;
    std::vector<Pairing> pairings;  ///< contacts and links
    std::uint64_t nextId = 1;       ///< of parts and places alike

    /// Largest side of the box round everything [mm]; 0 for an empty model.
    [[nodiscard]] double extent() const;
    /// [mm] Closer points are one: a ten-millionth of the extent, so that a file's digits suffice for it; from the
    /// least the kernel honours up to a thousandth of a millimetre. What does not depend on the size: common/tolerance.
    [[nodiscard]] double samePoint() const;
    /// Gives an id to every part and place that has none, or one that an earlier one has as well.
    void giveIds();
    [[nodiscard]] std::optional<std::size_t> partOf(PartId id) const;    ///< index
    [[nodiscard]] std::optional<std::size_t> placeOf(PlaceId id) const;  ///< index
    /// Parts that stand nowhere go; the others keep their order.
    void dropUnusedParts();
    /// Parts in another order: part `order[i]` becomes part i. Places and mirror pairs follow.
    void reorderParts(const std::vector<std::size_t>& order);
    [[nodiscard]] const MirrorPair* mirrorPairOf(std::size_t part) const;
    /// Every place of the part is set aside.
    [[nodiscard]] bool isAside(std::size_t part) const;
    /// Index of the part of this name, if there is exactly one.
    [[nodiscard]] std::optional<std::size_t> partNamed(const std::string& name) const;
};

std::string bodyKindName(BodyKind kind);

/// Suggests an element size for a model: the 1, 2 or 5 times a power of ten next below a hundredth of its extent.
double suggestedTargetSize(const Model& model);

}  // namespace rasoir
