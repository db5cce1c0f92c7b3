// Which things of a model a group's rule takes in.
#pragma once
#include "model/model.h"

namespace rasoir::handover {

/// All things, in all places that are not set aside, of which everything holds that the rule states.
/// A rule on directions or coordinates is asked in each place; one that is not names each part's things once.
[[nodiscard]] std::set<Member> membersByRule(const Model& model, const GroupRule& rule);

}  // namespace rasoir::handover
