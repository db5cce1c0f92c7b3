// Which things of a model a group's rule takes in.
#pragma once
#include <optional>

#include "common/problem.h"
#include "common/progress.h"
#include "model/model.h"

namespace rasoir::handover {

/// A rule that takes a picked thing in with its like: of a hole its diameter in that part, of a plane across an axis
/// its place, of another plane where it looks, of anything else its kind of surface in that part. None for a vertex.
[[nodiscard]] std::optional<GroupRule> ruleFor(const Model& model, std::size_t occurrence, const Entity& thing);
/// "planes at x = 0, of parts \"rib*\"": what a rule says, for people.
[[nodiscard]] std::string ruleText(const GroupRule& rule);

/// All things, in all places that are not set aside, of which everything holds that the rule states.
/// Where a rule asks what faces a part, contacts are searched within the safe limit between the parts concerned.
/// A rule on directions or coordinates is asked in each place; one that is not names each part's things once, as does
/// any rule for a part that stands in one place.
/// Refuses   what the search for contacts refuses, and being stopped; only such rules search.
[[nodiscard]] Result<std::set<Member>> membersByRule(const Model& model, const GroupRule& rule, Progress& progress);

/// Whether a step can have changed the answer of a rule that asks what faces a part: whether it moved, changed, brought
/// or took away a place that the rule speaks of. The search is the one costly thing about rules.
[[nodiscard]] bool mayAnswerOtherwise(const Model& before, const Model& after, const GroupRule& rule);

}  // namespace rasoir::handover
