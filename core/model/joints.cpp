#include "model/joints.h"

namespace rasoir {

Json toJson(const Joint& joint) {
    Json uses = Json::array();
    for (const JointUse& use : joint.uses) {
        Json one{{"place", use.place}, {"number", use.number}};
        if (use.reversed) one["reversed"] = true;
        uses.push_back(std::move(one));
    }
    return Json{{"kind", entityKindName(joint.kind)}, {"uses", std::move(uses)}, {"deviation_mm", joint.deviation}};
}

Joint jointFromJson(const Json& json) {
    Joint joint;
    const auto kind = entityKindFromName(json.at("kind").get<std::string>());
    if (!kind || *kind == EntityKind::Body) throw std::invalid_argument("a joint is of faces, edges or vertices");
    joint.kind = *kind;
    joint.deviation = json.value("deviation_mm", 0.0);
    for (const Json& one : json.at("uses"))
        joint.uses.push_back(
            {one.at("place").get<PlaceId>(), one.at("number").get<int>(), one.value("reversed", false)});
    if (joint.uses.size() < 2) throw std::invalid_argument("a joint has fewer than two uses");
    return joint;
}

}  // namespace rasoir
