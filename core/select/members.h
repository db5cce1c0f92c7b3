// Between what is picked on the stage and what a step or a group names.
#pragma once
#include <set>

#include "model/model.h"
#include "model/reference.h"
#include "select/pick.h"

namespace rasoir::select {

/// Picked things as a step names them, each once. A whole place is all its bodies. Of a part in several places a thing
/// is named with its place, unless it was picked in all of them.
[[nodiscard]] std::vector<EntityRef> thingsOf(const Model& model, const std::vector<Pick>& picks);
/// The same as members of a group, each in its place.
[[nodiscard]] std::set<Member> membersOf(const Model& model, const std::vector<Pick>& picks);
/// Members as picks, in every place where they stand and that is not set aside.
[[nodiscard]] std::vector<Pick> picksOf(const Model& model, const std::set<Member>& members);

/// Faces that a step made: those that come from none of the model before it. `lineage`: of that step.
[[nodiscard]] std::set<Member> facesMade(const Model& after, const std::vector<PartLineage>& lineage);

}  // namespace rasoir::select
