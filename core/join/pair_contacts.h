// Where two bodies touch or nearly do: along faces, along lines, in points.
#pragma once
#include "common/progress.h"
#include "join/contacts.h"
#include "join/touchable.h"

namespace rasoir::join {

/// The contacts of two bodies, A placed by `placed` in the coordinates of B; `where` is in those of B. The numbers of
/// places are left open.
/// `exact` [mm]: what is no farther apart touches. Lines and points are looked for where `search` says so.
/// `tried`   the number of pairs that were measured is added.
[[nodiscard]] std::vector<Contact> contactsBetween(const Touchable& a, const Touchable& b, const gp_Trsf& placed,
                                                   const ContactSearch& search, double exact, std::size_t& tried,
                                                   const Progress& progress);

}  // namespace rasoir::join
