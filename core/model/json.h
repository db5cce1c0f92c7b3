// JSON, as the ledger, the reports and the command line use it: keys stay in the order they were written.
#pragma once
#include <nlohmann/json.hpp>

#include "common/problem.h"

namespace rasoir {

using Json = nlohmann::ordered_json;

Json toJson(const Problem& problem);

}  // namespace rasoir
