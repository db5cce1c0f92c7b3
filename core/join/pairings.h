// Contacts and links: what shall stay two things in the mesh, and yet be known to belong together.
#pragma once
#include "model/operation.h"
#include "model/reference.h"

namespace rasoir::join {

/// Parameters of `join.contact`.
struct MakeContact {
    std::vector<std::string> places;                         ///< empty: all that are not set aside
    std::vector<std::pair<std::string, std::string>> pairs;  ///< of parts or places; empty: all that are found
    double upTo = 0.0;      ///< [mm] widest gap, and deepest overlap, that counts as contact; 0: what touches
    bool parted = true;     ///< faces that touch are parted at each other's outline; else they are taken as they are
    std::string behaviour;  ///< "bonded", "sliding", ...: free text for the next program
    std::optional<double> friction;
    std::string name;   ///< of the contact; of several, followed by a number. Empty: "cover to body"
    bool link = false;  ///< the two sides move together: links instead of contacts

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const MakeContact& step);
void from_json(const Json& json, MakeContact& step);

/// Keeps each pair of places that touch, or come as near as `upTo`, as a contact: a group of faces on either side, with
/// the gap, or the interference of what reaches into one another. What is joined already is no contact. A pair that
/// already has a contact gets this one instead. With `link` the same two groups are tied to each other.
/// Returns   an item for each pair. Copies whose faces had to be parted become parts of their own, told.
/// Refuses   names that fit nothing, a limit beyond the safe one, and, as nothing to do, when nothing touches.
[[nodiscard]] Result<Outcome> makeContact(const Model& model, const MakeContact& step, Progress& progress);

/// Parameters of `join.link`.
struct MakeLink {
    std::string name;
    std::string behaviour;                 ///< "rigid", "spring", ...: free text for the next program
    std::vector<EntityRef> first, second;  ///< picked things of either side
    std::string firstGroup, secondGroup;   ///< or groups that there are
    bool drop = false;                     ///< forgets the contact or link of that name; its groups stay

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const MakeLink& step);
void from_json(const Json& json, MakeLink& step);

/// Ties two groups that never meet: a lump to the faces it hangs on, the end of a beam to a solid.
/// Refuses   a side that is empty or not there, and a link of a group to itself.
[[nodiscard]] Result<Outcome> makeLink(const Model& model, const MakeLink& step, Progress& progress);

}  // namespace rasoir::join
