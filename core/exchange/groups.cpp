#include "exchange/groups.h"

#include <BRep_Tool.hxx>
#include <TopoDS.hxx>

#include "common/safe_file.h"
#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/edge_probe.h"
#include "measure/frames.h"
#include "measure/mass.h"
#include "model/lineage_builder.h"
#include "model/reference.h"
#include "survey/stress_notes.h"

namespace rasoir::exchange {

std::filesystem::path groupsBeside(const std::filesystem::path& geometry) {
    std::filesystem::path beside = geometry;
    return beside.replace_extension(".groups.json");
}

namespace {

Json triple(const gp_XYZ& v) {
    return Json{v.X(), v.Y(), v.Z()};
}

/// A thing as another program can find it: by a point of it, its measure, and of a face the way it looks there.
Json memberToJson(const Part& part, const Occurrence& place, const Entity& entity) {
    const EntityRef reference = makeRef(part, entity);
    Json json{{"part", part.name},
              {"place", place.name},
              {"kind", entityKindName(entity.kind)},
              {"point_mm", triple(reference.at.Transformed(place.placement).XYZ())}};
    if (entity.kind == EntityKind::Body) json["volume_mm3"] = reference.measure;
    if (entity.kind == EntityKind::Edge) json["length_mm"] = reference.measure;
    if (entity.kind != EntityKind::Face) return json;
    json["area_mm2"] = reference.measure;
    const TopoDS_Face face = part.incidence().face(entity.number);
    // The centre of a bent face lies off it: the foot is the point that is given.
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
    if (const auto foot = footOn(surface, reference.at, Tolerance::samePlace)) {
        gp_Pnt point;
        gp_Vec du, dv;
        surface->D1(foot->X(), foot->Y(), point, du, dv);
        gp_Vec normal = du.Crossed(dv);
        if (face.Orientation() == TopAbs_REVERSED) normal.Reverse();
        normal.Transform(place.placement);
        if (normal.SquareMagnitude() > Tolerance::divisible) json["normal"] = triple(normal.Normalized().XYZ());
        json["point_mm"] = triple(point.Transformed(place.placement).XYZ());
    }
    return json;
}

}  // namespace

std::vector<std::string> namesIn(const std::string& borne) {
    std::vector<std::string> names;
    for (std::size_t from = 0, to = 0; from < borne.size(); from = to + 2) {
        to = std::min(borne.find("; ", from), borne.size());
        names.push_back(borne.substr(from, to - from));
    }
    return names;
}

Json groupsOf(const Model& model) {
    Json corners = Json::array();
    std::map<std::size_t, std::vector<survey::StressNote>> notes;
    for (const Occurrence& occurrence : model.occurrences) {
        const Part& part = *model.parts[occurrence.part];
        if (occurrence.aside || part.lump || part.sharpened.empty()) continue;
        const auto [known, fresh] = notes.try_emplace(occurrence.part);
        if (fresh) known->second = survey::stressNotes(part);
        for (const survey::StressNote& note : known->second)
            for (const int e : note.edges) {
                const EdgeProbe probe(part.incidence().edge(e));
                Json points = Json::array();
                for (const double share : {0.0, 0.25, 0.5, 0.75, 1.0}) {
                    const gp_Pnt at = probe.value(probe.first() + share * (probe.last() - probe.first()))
                                          .Transformed(occurrence.placement);
                    points.push_back({at.X(), at.Y(), at.Z()});
                }
                corners.push_back({{"part", part.name},
                                   {"place", occurrence.name},
                                   {"radius_mm", note.radius},
                                   {"length_mm", probe.length()},
                                   {"points_mm", std::move(points)}});
            }
    }
    Json groups = Json::array();
    if (!corners.empty())
        groups.push_back(
            {{"name", "fictitious stress"},
             {"why",
              "Inner corners that were round as designed: the stress there grows without end as the mesh gets finer."},
             {"edges", std::move(corners)}});
    for (const Group& group : model.groups) {
        Json members = Json::array();
        for (const Member& member : group.members)
            for (const Occurrence& place : model.occurrences) {
                const Part& part = *model.parts[place.part];
                if (part.id != member.part || place.aside || (member.place != everyPlace && member.place != place.id))
                    continue;
                members.push_back(memberToJson(part, place, member.entity));
            }
        Json one{{"name", group.name}};
        if (!group.purpose.empty()) one["purpose"] = group.purpose;
        one["members"] = std::move(members);
        groups.push_back(std::move(one));
    }
    return groups;
}

/// Coordinate systems, in the coordinates that the geometry is written in.
Json framesIn(const Model& model) {
    Json all = Json::array();
    for (const measure::Frame& frame : measure::framesOf(model))
        all.push_back({{"name", frame.name},
                       {"origin_mm", triple(frame.axes.Location().XYZ())},
                       {"x", triple(frame.axes.XDirection().XYZ())},
                       {"y", triple(frame.axes.YDirection().XYZ())},
                       {"z", triple(frame.axes.Direction().XYZ())}});
    return all;
}

/// What is meshed as one, by part and name.
Json asOneOf(const Model& model) {
    Json all = Json::array();
    for (const Occurrence& place : model.occurrences) {
        const Part& part = *model.parts[place.part];
        if (place.aside || part.lump) continue;
        std::map<std::string, Json> byName;
        for (const auto& [thing, name] : part.known.asOne) byName[name].push_back(memberToJson(part, place, thing));
        for (auto& [name, members] : byName) all.push_back({{"name", name}, {"members", std::move(members)}});
    }
    return all;
}

/// What bodies have in common: the same face or edge seen from each of them, by the same curve and surface.
Json jointsOf(const Model& model) {
    Json all = Json::array();
    for (const Joint& joint : model.joints) {
        if (joint.kind == EntityKind::Vertex) continue;
        Json uses = Json::array();
        for (const JointUse& use : joint.uses) {
            const auto place = model.placeOf(use.place);
            if (!place || model.occurrences[*place].aside) continue;
            const Occurrence& stands = model.occurrences[*place];
            uses.push_back(memberToJson(*model.parts[stands.part], stands, {joint.kind, use.number}));
            uses.back()["reversed"] = use.reversed;
        }
        if (uses.size() > 1)
            all.push_back(
                {{"kind", entityKindName(joint.kind)}, {"deviation_mm", joint.deviation}, {"uses", std::move(uses)}});
    }
    return all;
}

/// What stands in the work by its mass alone, in the coordinates of the whole model, with the groups that name it: a
/// link ties those to the faces by which it was held.
Json lumpsOf(const Model& model) {
    Json all = Json::array();
    for (const Occurrence& place : model.occurrences) {
        const Part& part = *model.parts[place.part];
        if (place.aside || !part.lump) continue;
        measure::MassProperties own;
        own.mass = part.lump->mass;
        own.centre = part.lump->centre;
        own.inertia = part.lump->inertia;
        own = own.transformed(place.placement);
        Json one{{"part", part.name},
                 {"place", place.name},
                 {"mass_kg", own.mass},
                 {"centre_mm", triple(own.centre.XYZ())},
                 {"inertia_kg_mm2", own.inertia}};
        for (const Group& group : model.groups)
            if (std::any_of(group.members.begin(), group.members.end(), [&](const Member& member) {
                    return member.part == part.id && (member.place == everyPlace || member.place == place.id);
                }))
                one["groups"].push_back(group.name);
        all.push_back(std::move(one));
    }
    return all;
}

/// What things are: thickness of sheets, sections of beams, regions, materials of bodies, sizes. In the coordinates of
/// the whole model.
Json attributesOf(const Model& model) {
    static const std::set<std::string> told{"thickness", "section", "region", "material", "size", "addedMass"};
    Json all = Json::array();
    for (const Occurrence& place : model.occurrences) {
        const Part& part = *model.parts[place.part];
        if (place.aside || part.lump || part.known.isEmpty()) continue;
        PartAttributes moved;
        moved.inherit(part.known, sameNumbering(part.incidence(), false), place.placement);
        const Json known = rasoir::toJson(moved);
        for (const auto& [attribute, values] : known.items()) {
            if (!told.contains(attribute)) continue;
            for (const auto& [thing, value] : values.items()) {
                const std::size_t space = thing.find(' ');
                const auto kind = entityKindFromName(thing.substr(0, space));
                if (!kind || space == std::string::npos) continue;
                Json one = memberToJson(part, place, {*kind, std::stoi(thing.substr(space + 1))});
                one["attribute"] = attribute;
                one["value"] = value;
                all.push_back(std::move(one));
            }
        }
    }
    return all;
}

Result<void> writeGroups(const Model& model, const std::filesystem::path& geometry, const Model& whole) {
    const Json groups = groupsOf(model);
    const std::filesystem::path beside = groupsBeside(geometry);
    std::error_code unknown;
    const Json asOne = asOneOf(model);
    const Json attributes = attributesOf(model);
    Json joints = jointsOf(model), lumps = lumpsOf(whole);
    if (groups.empty() && asOne.empty() && attributes.empty() && joints.empty() && lumps.empty() &&
        !std::filesystem::exists(beside, unknown))
        return {};
    Json file{
        {"format", "rasoir-groups"}, {"version", 1}, {"geometry", geometry.filename().string()}, {"groups", groups}};
    if (!attributes.empty()) file["attributes"] = attributes;
    if (!asOne.empty()) file["asOne"] = asOne;
    if (!lumps.empty()) file["lumps"] = std::move(lumps);
    if (!joints.empty()) file["joints"] = std::move(joints);
    if (Json frames = framesIn(model); !frames.empty()) file["coordinateSystems"] = std::move(frames);
    for (const Pairing& pairing : model.pairings) file["pairings"].push_back(rasoir::toJson(pairing));
    return writeText(beside, file.dump(2, ' ', false, Json::error_handler_t::replace) + "\n");
}

}  // namespace rasoir::exchange
