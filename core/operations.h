// The one list of operations that window, ledger and command line read.
#pragma once
#include "model/operation.h"

namespace rasoir {

const std::vector<Operation>& operations();
/// Null when there is none of this id.
const Operation* findOperation(const std::string& id);
Json toJson(const Operation& operation);

}  // namespace rasoir
