// What touches what: places whose faces lie on each other, nearly do, or that reach into one another.
#pragma once
#include "common/problem.h"
#include "common/progress.h"
#include "model/model.h"

namespace rasoir::join {

enum class ContactKind {
    Touching,  ///< faces lie on each other, within the tolerance
    Near,      ///< faces face each other across a gap
    Overlap    ///< bodies reach into one another
};
const char* contactKindName(ContactKind kind);

/// One pair of faces of two places (or of one place with itself) that touch or nearly do.
struct Contact {
    ContactKind kind = ContactKind::Touching;
    std::size_t placeA = 0, placeB = 0;  ///< occurrences; A before B
    int faceA = 0, faceB = 0;            ///< numbers in their parts; 0 for an overlap of bodies
    double gap = 0.0;                    ///< [mm] least distance over the facing area; of an overlap its depth
    double widest = 0.0;                 ///< [mm] largest distance there
    double area = 0.0;                   ///< [mm^2] of A's face that faces B's, by sampling: a few per cent
    bool past = false;  ///< of a near miss: the faces have passed one another, and `gap` tells how deep they reach in
    gp_Pnt where;       ///< [mm, model coordinates] a point of it
};

struct ContactReport {
    std::vector<Contact> contacts;  ///< by pair of places, touching first
    std::size_t pairsTried = 0;     ///< pairs of faces that were measured: what the growth is judged by
};

/// Surveys all places that are not set aside. `upTo` [mm]: wider gaps are no contact.
/// Pairs come from a tree over the faces' boxes, never from all pairs. Faces count as facing when their normals look at
/// each other within 30 degrees where they are near.
/// Cost: near n log n in the faces, plus the pairs whose boxes come near.
[[nodiscard]] Result<ContactReport> findContacts(const Model& model, double upTo, Progress& progress);

/// How wide a gap may be joined without asking, and why: a tenth of the target size, and at most a third of the
/// thinnest box side of the bodies concerned, rounded down to the 1, 2 or 5 times a power of ten.
struct SafeLimit {
    double mm = 0.0;
    std::string why;
};
[[nodiscard]] SafeLimit safeLimit(const Model& model);

}  // namespace rasoir::join
