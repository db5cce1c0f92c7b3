#include "reduce/beams_on_sheets.h"

#include <BRepAdaptor_Curve.hxx>
#include <GCPnts_AbscissaPoint.hxx>

#include "join/contacts.h"

// How they are found and what a step asks; the placing is in put_beams_on_sheets.cpp.

namespace rasoir::reduce {
namespace {

using PlacePair = std::pair<std::size_t, std::size_t>;

}  // namespace

Result<std::vector<BeamOnSheet>> findBeamsOnSheets(const Model& model, double upTo, Progress& progress) {
    Model seen = model;
    std::set<std::size_t> beams, sheets;
    for (std::size_t o = 0; o < seen.occurrences.size(); ++o) {
        const Occurrence& place = seen.occurrences[o];
        const BodyKind kind = seen.parts[place.part]->kind();
        if (place.aside) continue;
        if (kind == BodyKind::Wire && !seen.parts[place.part]->known.sections.empty())
            beams.insert(o);
        else if (kind == BodyKind::Sheet)
            sheets.insert(o);
        else
            seen.occurrences.change(o).aside = true;
    }
    std::vector<BeamOnSheet> all;
    if (beams.empty() || sheets.empty()) return all;
    join::ContactSearch search;
    search.upTo = upTo;
    search.fromSkins = search.linesAndPoints = true;
    const auto report = join::findContacts(seen, search, progress);
    if (!report) return tl::unexpected(report.error());
    std::map<PlacePair, BeamOnSheet> found;
    std::map<PlacePair, std::map<int, double>> along;  // by edge
    for (const join::Contact& contact : report->contacts) {
        const bool first = beams.contains(contact.placeA);
        const std::size_t beam = first ? contact.placeA : contact.placeB,
                          sheet = first ? contact.placeB : contact.placeA;
        const int edge = first ? contact.edgeA : contact.edgeB, face = first ? contact.faceB : contact.faceA;
        if (!beams.contains(beam) || !sheets.contains(sheet) || edge == 0 || face == 0) continue;
        const auto [at, fresh] = found.try_emplace({beam, sheet});
        BeamOnSheet& one = at->second;
        if (fresh || contact.gap < one.gap) {
            one.gap = contact.gap;
            one.where = contact.where;
        }
        one.beam = beam;
        one.sheet = sheet;
        one.faces.insert(face);
        one.length += contact.length;
        along[{beam, sheet}][edge] += contact.length;
    }
    for (auto& [pair, one] : found) {
        const Incidence& topology = model.parts[model.occurrences[one.beam].part]->incidence();
        // A foot or a cap is near for no more than the beam is deep; what is longer lies along.
        const Part& beam = *model.parts[model.occurrences[one.beam].part];
        for (const auto& [edge, length] : along[pair]) {
            const BRepAdaptor_Curve curve(topology.edge(edge));
            const double whole = GCPnts_AbscissaPoint::Length(curve);
            const auto section = beam.known.sections.find({EntityKind::Edge, edge});
            double depth = 0.0;
            if (section != beam.known.sections.end())
                for (const double size : section->second.sizes) depth = std::max(depth, size);
            // Half a depth on either side is the foot itself; a thousandth of the line is drawing.
            if (length > std::min(0.5 * whole, 1.5 * depth + 1e-3 * whole)) one.edges.insert(edge);
        }
        const PlaceId beamId = model.occurrences[one.beam].id, sheetId = model.occurrences[one.sheet].id;
        const bool known = std::any_of(model.joints.begin(), model.joints.end(), [&](const Joint& joint) {
            const auto has = [&](PlaceId id) {
                return std::any_of(joint.uses.begin(), joint.uses.end(),
                                   [id](const JointUse& use) { return use.place == id; });
            };
            return has(beamId) && has(sheetId);
        });
        if (!known) all.push_back(std::move(one));
    }
    std::stable_sort(all.begin(), all.end(), [](const BeamOnSheet& a, const BeamOnSheet& b) { return a.gap < b.gap; });
    return all;
}

std::vector<ParameterInfo> BeamsOnSheets::infos() {
    return {
        {"parts", "list of names", "", "Beams, by parts or places; empty: all that come near a sheet.", Json::array()},
        {"upTo", "number", "mm", "Widest gap from skin to skin; 0: the safe gap.", 0.0},
        {"otherwise", "text", "", "What cannot share nodes: link, tied rigidly; or leave.", "link"}};
}
void to_json(Json& json, const BeamsOnSheets& step) {
    json = Json{{"upTo", step.upTo}};
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (step.otherwise != "link") json["otherwise"] = step.otherwise;
}
void from_json(const Json& json, BeamsOnSheets& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
    step.otherwise = json.value("otherwise", "link");
    if (step.otherwise != "link" && step.otherwise != "leave")
        throw std::invalid_argument("otherwise is link or leave");
}

}  // namespace rasoir::reduce
