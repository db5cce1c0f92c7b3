#include "operations.h"

#include "exchange/files.h"
#include "shave/holes.h"

namespace rasoir {

const std::vector<Operation>& operations() {
    static const std::vector<Operation> all = {
        operation<exchange::CorrectUnit>("intake.correctUnit", "Correct the unit", exchange::CorrectUnit::infos(), &exchange::correctUnit),
        operation<shave::RemoveHoles>("shave.removeHoles", "Remove holes", shave::RemoveHoles::infos(), &shave::removeHoles),
    };
    return all;
}

const Operation* findOperation(const std::string& id) {
    for (const Operation& operation : operations())
        if (operation.id == id) return &operation;
    return nullptr;
}

Json toJson(const Operation& operation) {
    Json parameters = Json::array();
    for (const ParameterInfo& info : operation.parameters) {
        Json one{{"name", info.name}, {"type", info.type}, {"meaning", info.meaning}, {"default", info.standard}};
        if (!info.unit.empty()) one["unit"] = info.unit;
        parameters.push_back(std::move(one));
    }
    return Json{{"id", operation.id}, {"title", operation.title}, {"parameters", std::move(parameters)}};
}

}  // namespace rasoir
