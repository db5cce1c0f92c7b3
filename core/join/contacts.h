// What touches what: places whose faces lie on each other, nearly do, or that reach into one another.
#pragma once
#include "common/problem.h"
#include "common/progress.h"
#include "model/model.h"

namespace rasoir::join {

enum class ContactKind {
    Touching,  ///< faces lie on each other, within the tolerance
    Line,      ///< along a line: a rod on a flat, a body on its edge, a sheet that ends on a face
    Point,     ///< in a point: a ball on a flat, corner on corner
    Near,      ///< across a gap
    Overlap    ///< bodies reach into one another, or a sheet passes through something
};
const char* contactKindName(ContactKind kind);

/// One place where two bodies touch or nearly do.
struct Contact {
    ContactKind kind = ContactKind::Touching;
    std::size_t placeA = 0, placeB = 0;  ///< occurrences, A before B; the same for two bodies of one part
    int bodyA = 1, bodyB = 1;            ///< numbers in their parts
    int faceA = 0, faceB = 0;            ///< numbers in their parts; 0 where it is an edge, and for overlaps
    int edgeA = 0, edgeB = 0;            ///< the edge that touches, where it is one
    double gap = 0.0;                    ///< [mm] least distance over what faces each other; of an overlap its depth
    double widest = 0.0;                 ///< [mm] largest distance there
    double angle = 0.0;                  ///< [rad] by how much, at most, the two faces are turned against each other
    double area = 0.0;                   ///< [mm^2] of A's face that faces B's, by sampling: a few per cent
    double length = 0.0;                 ///< [mm] of a line, and of an edge near a face
    double volume = 0.0;                 ///< [mm^3] of an overlap, by rays: some per cent
    bool past = false;  ///< of a near miss: the faces have passed one another, and `gap` tells how deep they reach in
    gp_Pnt where;       ///< [mm, model coordinates] a point of it

    /// Two curved faces that touch along a line or in a point of neither's rim: nothing there can become one.
    [[nodiscard]] bool isTangent() const {
        return (kind == ContactKind::Line || kind == ContactKind::Point) && faceA > 0 && faceB > 0;
    }
    /// Whether the gap widens: the faces are turned against each other by more than a degree.
    [[nodiscard]] bool isWedge() const { return kind == ContactKind::Near && angle > M_PI / 180.0; }
};

/// What is looked for. As it stands: faces of different places that lie on or near each other.
struct ContactSearch {
    double upTo = 0.0;            ///< [mm] wider gaps are no contact
    bool fromSkins = false;       ///< gaps of sheets and beams count from their skins: thickness, offset, section
    bool linesAndPoints = false;  ///< also edges, and curved faces that touch without lying on each other
    bool overlaps = false;        ///< also bodies that reach into one another
    bool ownBodies = false;       ///< also between the bodies of one part
    [[nodiscard]] static ContactSearch everything(double upTo) { return {upTo, true, true, true, true}; }
};

/// How wide a gap may be joined without asking, and why: a tenth of the target size, and at most a third of the
/// thinnest wall of the bodies concerned, rounded down to the 1, 2 or 5 times a power of ten. How thick a body's walls
/// are is taken from its volume and its skin, which for plates and tubes is exact and for stout bodies on the safe
/// side.
struct SafeLimit {
    double mm = 0.0;
    std::string why;
};

struct ContactReport {
    std::vector<Contact> contacts;  ///< by pair of places, touching first
    std::size_t pairsTried = 0;     ///< pairs of faces and edges that were measured: what the growth is judged by
    SafeLimit safe;                 ///< of all that was surveyed
    std::size_t pairsKnown = 0;     ///< pairs of bodies that lay to each other as another pair did: measured once
};

/// Surveys all places that are not set aside. Pairs come from trees over the boxes of bodies and of faces, never from
/// all pairs; copies that lie to each other in the same way are measured once. Faces count as facing when their normals
/// look at each other within 30 degrees where they are near. Lines and points are told only of bodies of which no faces
/// lie on each other.
/// Refuses   a width that is none; being cancelled.
/// Cost      near n log n in the faces, plus the pairs whose boxes come near.
[[nodiscard]] Result<ContactReport> findContacts(const Model& model, const ContactSearch& search, Progress& progress);

/// See SafeLimit. `places`: those concerned; empty: all that are not set aside.
/// Cost      the volume and the area of each part.
[[nodiscard]] SafeLimit safeLimit(const Model& model, const std::vector<std::size_t>& places = {});

}  // namespace rasoir::join
