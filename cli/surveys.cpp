#include "surveys.h"

#include <fmt/format.h>

#include <numeric>
#include <set>

#include "divide/layers.h"
#include "divide/small_beside.h"
#include "exchange/groups.h"
#include "join/bolts.h"
#include "join/contacts.h"
#include "join/leaks.h"
#include "join/openings.h"
#include "join/reach.h"
#include "join/welds.h"
#include "measure/facts.h"
#include "measure/mass.h"
#include "model/places.h"
#include "model/reference.h"
#include "reduce/frame_members.h"
#include "reduce/not_flush.h"
#include "reduce/proof.h"
#include "reduce/walls.h"
#include "survey/copies.h"
#include "survey/defects.h"
#include "survey/fasteners.h"
#include "survey/hidden.h"
#include "survey/holes.h"
#include "survey/receiving.h"
#include "survey/reliefs.h"
#include "survey/rounds.h"
#include "survey/small.h"
#include "survey/symmetry.h"
#include "survey/threads.h"
#include "terminal.h"

namespace rasoir::cli {
namespace {

/// What a survey found goes into `out`, and, unless JSON is asked for, onto the terminal.
Result<void> surveyHoles(const Model& model, const SurveyWanted& wanted, double upTo, bool json, Json& out,
                         Progress& progress) {
    Json all = Json::array();
    std::vector<std::string> lines;
    for (const auto& part : model.parts) {
        if (!wanted.part.empty() && part->name != wanted.part) continue;
        const auto holes = survey::findHoles(*part, model.targetSize, {}, progress);
        if (!holes) return tl::unexpected(holes.error());
        for (const survey::Hole& hole : *holes) {
            if (upTo > 0.0 && hole.size > upTo * (1.0 + 1e-6)) continue;
            Json one{{"part", part->name},
                     {"kind", survey::holeKindName(hole.kind)},
                     {"size_mm", hole.size},
                     {"diameters_mm", hole.diameters},
                     {"depth_mm", hole.depth},
                     {"through", hole.through},
                     {"bore", hole.bore},
                     {"openSide", hole.openSide},
                     {"drillPoint", hole.drillPoint},
                     {"ballEnd", hole.ballEnd},
                     {"rimChamfer", hole.rimChamfer},
                     {"rimRound", hole.rimRound}};
            if (hole.sinkDiameter > 0.0) one["sinkDiameter_mm"] = hole.sinkDiameter;
            if (hole.length > 0.0) one["length_mm"] = hole.length;
            if (hole.group >= 0) one["group"] = hole.group;
            if (!hole.pattern.empty()) one["pattern"] = hole.pattern;
            if (hole.kind == survey::HoleKind::Sheet) {
                one["sheetFace"] = hole.sheetFace;
                one["rim"] = hole.rim;
            }
            const gp_Dir& d = hole.axis.Direction();
            one["axis"] = {{"through_mm", {hole.middle.X(), hole.middle.Y(), hole.middle.Z()}},
                           {"direction", {d.X(), d.Y(), d.Z()}}};
            one["faces"] = hole.faces;
            one["mouths"] = Json::array();
            for (const survey::Mouth& mouth : hole.mouths) one["mouths"].push_back(mouth.neighbours);
            one["elements"] = std::round(hole.elements);
            all.push_back(std::move(one));
            lines.push_back(fmt::format("{:>9} mm  {:<40} {:>10} elements  {}", readable(hole.size),
                                        survey::describe(hole), readable(std::round(hole.elements)), part->name));
        }
    }
    out["upTo_mm"] = upTo;
    out["holes"] = std::move(all);
    lines.push_back(fmt::format("{}{}.", counted(lines.size(), "hole"),
                                upTo > 0.0 ? fmt::format(" up to {} mm", readable(upTo)) : ""));
    if (!json)
        for (const std::string& line : lines) fmt::print("{}\n", line);
    return {};
}

Result<void> surveyReceived(const Model& model, bool json, Json& out, Progress& progress) {
    const auto facts = measure::factsOfParts(model, false, progress);
    if (!facts) return tl::unexpected(facts.error());
    const auto report = survey::receivingReport(model, *facts, progress);
    if (!report) return tl::unexpected(report.error());
    out["received"] = survey::toJson(*report, model);
    if (json) return {};
    fmt::print("{}, {} ({}), {}, {}, unit {}\n", counted(report->parts, "part"), counted(report->places, "place"),
               counted(report->copies, "copy", "copies"), counted(report->solids, "solid"),
               counted(report->sheets, "sheet"), report->unit ? unitName(*report->unit) : "not stated");
    fmt::print("from {} to {} mm, {} kg\n", vectorText(report->low), vectorText(report->high), readable(report->mass));
    for (const survey::OddFinding& odd : report->odd)
        fmt::print("{}: {}{}{}\n", survey::oddityName(odd.kind), odd.what, odd.remedy.empty() ? "" : " ", odd.remedy);
    if (report->odd.empty()) fmt::print("Nothing odd.\n");
    return {};
}

Result<void> surveyCopies(const Model& model, bool json, Json& out, Progress& progress) {
    const auto groups = survey::findCopies(model, 0.0, progress);
    if (!groups) return tl::unexpected(groups.error());
    out["copies"] = Json::array();
    for (const survey::CopyGroup& group : *groups) {
        Json one{{"original", model.parts[group.original]->name}, {"copies", Json::array()}};
        if (!json) fmt::print("{}:\n", model.parts[group.original]->name);
        for (const survey::Copy& copy : group.copies) {
            one["copies"].push_back({{"part", model.parts[copy.part]->name},
                                     {"mirrored", copy.mirrored},
                                     {"deviation_mm", copy.deviation}});
            if (!json)
                fmt::print("  {}{}, within {} mm\n", model.parts[copy.part]->name, copy.mirrored ? ", mirrored" : "",
                           readable(copy.deviation));
        }
        out["copies"].push_back(std::move(one));
    }
    if (!json && groups->empty()) fmt::print("No two parts are the same shape.\n");
    return {};
}

void surveyFasteners(const Model& model, bool json, Json& out) {
    out["fasteners"] = Json::array();
    for (const auto& part : model.parts)
        for (const survey::Fastener& f : survey::fastenersIn(*part).value_or(std::vector<survey::Fastener>{})) {
            out["fasteners"].push_back({{"part", part->name},
                                        {"body", f.body},
                                        {"kind", survey::fastenerName(f.kind)},
                                        {"diameter_mm", f.diameter},
                                        {"length_mm", f.length}});
            if (!json)
                fmt::print("{}: {}, {} mm, {} mm long\n", part->name, survey::fastenerName(f.kind),
                           readable(f.diameter), readable(f.length));
        }
    if (!json && out["fasteners"].empty()) fmt::print("No fasteners.\n");
}

Result<void> surveyHidden(const Model& model, bool json, Json& out, Progress& progress) {
    const auto hidden = survey::hiddenPlaces(model, progress);
    if (!hidden) return tl::unexpected(hidden.error());
    out["hidden"] = placeNames(model, *hidden);
    if (json) return {};
    for (const std::string& name : placeNames(model, *hidden)) fmt::print("{}\n", name);
    fmt::print("{} cannot be seen from outside.\n", counted(hidden->size(), "place"));
    return {};
}

Result<void> surveyDefects(const Model& model, const SurveyWanted& wanted, bool json, Json& out, Progress& progress) {
    out["defects"] = Json::array();
    for (const auto& part : model.parts) {
        if (!wanted.part.empty() && part->name != wanted.part) continue;
        const auto report =
            survey::findDefects(*part, {model.targetSize, std::max(1e-6, model.samePoint()), 0.0}, true, progress);
        if (!report) return tl::unexpected(report.error());
        Json one{{"part", part->name},
                 {"watertight", report->watertight},
                 {"openEdges", report->openEdges},
                 {"safeLimit_mm", report->safeLimit},
                 {"safeLimitBy", report->safeWhy},
                 {"found", Json::array()}};
        for (const survey::Defect& defect : report->defects) {
            Json found{{"kind", survey::defectKindName(defect.kind)},
                       {"size", defect.size},
                       {"faces", defect.faces},
                       {"edges", defect.edges},
                       {"at_mm", {defect.where.X(), defect.where.Y(), defect.where.Z()}},
                       {"what", defect.what}};
            if (defect.kind == survey::DefectKind::Gap) found["width_mm"] = {defect.least, defect.mean, defect.size};
            if (defect.length > 0.0) found["length_mm"] = defect.length;
            if (!defect.remedy.empty()) found["remedy"] = defect.remedy;
            one["found"].push_back(std::move(found));
        }
        if (!json) {
            std::map<survey::DefectKind, int> counts;
            for (const survey::Defect& defect : report->defects) ++counts[defect.kind];
            fmt::print("{}: {}\n", part->name,
                       report->watertight
                           ? "watertight"
                           : fmt::format("not watertight, {}, safe limit {} mm ({})",
                                         counted(static_cast<std::size_t>(report->openEdges), "open edge"),
                                         readable(report->safeLimit), report->safeWhy));
            for (const auto& [kind, count] : counts) fmt::print("  {:>5}  {}\n", count, survey::defectKindName(kind));
            for (const survey::Defect& defect : report->defects)
                if (counts[defect.kind] <= 12) fmt::print("  {}\n", defect.what);
        }
        out["defects"].push_back(std::move(one));
    }
    return {};
}

Result<void> surveyRounds(const Model& model, const SurveyWanted& wanted, double upTo, bool json, Json& out,
                          Progress& progress) {
    Json all = Json::array();
    std::vector<std::string> lines;
    for (const auto& part : model.parts) {
        if (!wanted.part.empty() && part->name != wanted.part) continue;
        const auto chains = survey::findStrips(*part, model.targetSize, progress);
        if (!chains) return tl::unexpected(chains.error());
        for (const survey::StripChain& chain : *chains) {
            if (upTo > 0.0 && chain.size > upTo * (1.0 + 1e-6)) continue;
            const std::string kind = chain.kind == survey::StripKind::Round ? "round" : "chamfer";
            all.push_back({{"part", part->name},
                           {"kind", kind},
                           {"size_mm", chain.size},
                           {"least_mm", chain.least},
                           {"outer", chain.convex},
                           {"bend", chain.bend},
                           {"length_mm", chain.length},
                           {"turn_deg", chain.turn * 180.0 / M_PI},
                           {"faces", chain.faces},
                           {"along", chain.along},
                           {"at_mm", {chain.middle.X(), chain.middle.Y(), chain.middle.Z()}},
                           {"elements", std::round(chain.elements)}});
            lines.push_back(fmt::format("{:>9} mm  {:<40} {:>10} elements  {}", readable(chain.size),
                                        kind + ", " + survey::describe(chain), readable(std::round(chain.elements)),
                                        part->name));
        }
    }
    out["upTo_mm"] = upTo;
    out["rounds"] = std::move(all);
    lines.push_back(fmt::format("{}{}.", counted(lines.size(), "round or chamfer", "rounds and chamfers"),
                                upTo > 0.0 ? fmt::format(" up to {} mm", readable(upTo)) : ""));
    if (!json)
        for (const std::string& line : lines) fmt::print("{}\n", line);
    return {};
}

Result<void> surveyReliefs(const Model& model, const SurveyWanted& wanted, double upTo, bool json, Json& out,
                           Progress& progress) {
    Json all = Json::array();
    for (const auto& part : model.parts) {
        if (!wanted.part.empty() && part->name != wanted.part) continue;
        const auto holes = survey::findHoles(*part, model.targetSize, {}, progress);
        if (!holes) return tl::unexpected(holes.error());
        const auto reliefs = survey::findReliefs(*part, model.targetSize, *holes, progress);
        if (!reliefs) return tl::unexpected(reliefs.error());
        for (const survey::Relief& relief : *reliefs) {
            if (upTo > 0.0 && relief.size() > upTo * (1.0 + 1e-6)) continue;
            all.push_back({{"part", part->name},
                           {"kind", survey::reliefKindName(relief.kind)},
                           {"size_mm", relief.size()},
                           {"height_mm", relief.height},
                           {"breadth_mm", relief.breadth},
                           {"raised", relief.raised},
                           {"pieces", relief.pieces},
                           {"faces", relief.faces},
                           {"bases", relief.bases},
                           {"gain_mm3", relief.gain},
                           {"at_mm", {relief.middle.X(), relief.middle.Y(), relief.middle.Z()}},
                           {"elements", std::round(relief.elements)}});
            if (!json)
                fmt::print("{:>9} mm  {:<40} {:>10} elements  {}\n", readable(relief.size()),
                           survey::reliefKindName(relief.kind) + ", " + survey::describe(relief),
                           readable(std::round(relief.elements)), part->name);
        }
    }
    if (!json)
        fmt::print("{}{}.\n",
                   counted(all.size(), "mark, boss, pocket, cutout, notch, rib or step",
                           "marks, bosses, pockets, cutouts, notches, ribs and steps"),
                   upTo > 0.0 ? fmt::format(" up to {} mm", readable(upTo)) : "");
    out["upTo_mm"] = upTo;
    out["reliefs"] = std::move(all);
    return {};
}

Result<void> surveyThreads(const Model& model, const SurveyWanted& wanted, double upTo, bool json, Json& out,
                           Progress& progress) {
    Json all = Json::array();
    for (const auto& part : model.parts) {
        if (!wanted.part.empty() && part->name != wanted.part) continue;
        const auto threads = survey::findThreads(*part, model.targetSize, progress);
        if (!threads) return tl::unexpected(threads.error());
        for (const survey::Thread& thread : *threads) {
            if (upTo > 0.0 && thread.major > upTo * (1.0 + 1e-6)) continue;
            all.push_back({{"part", part->name},
                           {"major_mm", thread.major},
                           {"minor_mm", thread.minor},
                           {"lead_mm", thread.lead},
                           {"length_mm", thread.length()},
                           {"outer", thread.outer},
                           {"rightHanded", thread.rightHanded},
                           {"faces", thread.faces},
                           {"at_mm", {thread.middle.X(), thread.middle.Y(), thread.middle.Z()}},
                           {"elements", std::round(thread.elements)}});
            if (!json)
                fmt::print("Ø{:>9} mm  {:<48} {:>10} elements  {}\n", readable(thread.major), survey::describe(thread),
                           readable(std::round(thread.elements)), part->name);
        }
    }
    if (!json) fmt::print("{}.\n", counted(all.size(), "modelled thread"));
    out["upTo_mm"] = upTo;
    out["threads"] = std::move(all);
    return {};
}

Result<void> surveySmall(const Model& model, const SurveyWanted& wanted, double upTo, bool json, Json& out,
                         Progress& progress) {
    Json all = Json::array();
    for (const auto& part : model.parts) {
        if (!wanted.part.empty() && part->name != wanted.part) continue;
        const auto small = survey::findUnnamedSmall(*part, model.targetSize, progress);
        if (!small) return tl::unexpected(small.error());
        for (const survey::Small& one : *small) {
            if (upTo > 0.0 && one.size > upTo * (1.0 + 1e-6)) continue;
            const std::string kind = one.kind == survey::SmallKind::Face ? "face" : "edge";
            all.push_back({{"part", part->name},
                           {"kind", kind},
                           {"size_mm", one.size},
                           {"way", survey::smallWayName(one.way)},
                           {"number", one.number},
                           {"at_mm", {one.middle.X(), one.middle.Y(), one.middle.Z()}},
                           {"elements", std::round(one.elements)}});
            if (!json)
                fmt::print("{:>9} mm  {:<40} {:>10} elements  {}\n", readable(one.size),
                           kind + ", " + survey::describe(one), readable(std::round(one.elements)), part->name);
        }
    }
    if (!json)
        fmt::print("{}{}.\n", counted(all.size(), "small face or short edge", "small faces and short edges"),
                   upTo > 0.0 ? fmt::format(" up to {} mm", readable(upTo)) : "");
    out["upTo_mm"] = upTo;
    out["small"] = std::move(all);
    return {};
}

/// What touches and how much, after the names of the two.
std::string toldOf(const join::Contact& contact) {
    std::string told;
    if (contact.placeA == contact.placeB) told += fmt::format(", its bodies {} and {}", contact.bodyA, contact.bodyB);
    if (contact.kind == join::ContactKind::Overlap)
        return contact.volume > 0.0
                   ? fmt::format("{}, about {} mm³, {} mm deep", told, readable(contact.volume), readable(contact.gap))
                   : told;
    told +=
        fmt::format(", {} {} and {} {}", contact.faceA > 0 ? "face" : "edge", std::max(contact.faceA, contact.edgeA),
                    contact.faceB > 0 ? "face" : "edge", std::max(contact.faceB, contact.edgeB));
    if (contact.area > 0.0) told += fmt::format(", about {} mm²", readable(contact.area));
    if (contact.length > 0.0) told += fmt::format(", about {} mm long", readable(contact.length));
    if (contact.kind == join::ContactKind::Near)
        told += fmt::format(", gap {} to {} mm{}", readable(contact.gap), readable(contact.widest),
                            contact.isWedge() ? ", a wedge" : "");
    return told;
}

Result<void> surveyContacts(const Model& model, double upTo, bool asJson, Json& out, Progress& progress) {
    const auto found = join::findContacts(
        model, join::ContactSearch::everything(upTo > 0.0 ? upTo : join::safeLimit(model).mm), progress);
    if (!found) return tl::unexpected(found.error());
    out["contacts"] = Json::array();
    for (const join::Contact& contact : found->contacts) {
        const std::string a = placeName(model, contact.placeA), b = placeName(model, contact.placeB);
        Json one{{"kind", join::contactKindName(contact.kind)},
                 {"a", a},
                 {"b", b},
                 {"at_mm", {contact.where.X(), contact.where.Y(), contact.where.Z()}}};
        if (contact.placeA == contact.placeB) one["bodies"] = {contact.bodyA, contact.bodyB};
        for (const auto& [key, number] : {std::pair{"faceA", contact.faceA},
                                          {"faceB", contact.faceB},
                                          {"edgeA", contact.edgeA},
                                          {"edgeB", contact.edgeB}})
            if (number > 0) one[key] = number;
        for (const auto& [key, value] :
             {std::pair{"area_mm2", contact.area}, {"length_mm", contact.length}, {"volume_mm3", contact.volume}})
            if (value > 0.0) one[key] = value;
        if (contact.kind == join::ContactKind::Overlap)
            one["depth_mm"] = contact.gap;
        else
            one.update(
                {{"gap_mm", contact.gap}, {"widest_mm", contact.widest}, {"angle_deg", contact.angle * 180.0 / M_PI}});
        out["contacts"].push_back(std::move(one));
        if (!asJson) fmt::print("{}: {} and {}{}\n", join::contactKindName(contact.kind), a, b, toldOf(contact));
    }
    return {};
}

Result<void> surveyOpenings(const Model& model, bool asJson, Json& out, Progress& progress) {
    std::vector<std::size_t> all(model.occurrences.size());
    std::iota(all.begin(), all.end(), 0);
    auto found = join::findOpenings(model, all, progress);
    if (!found) return tl::unexpected(found.error());
    if (auto told = join::tellInner(model, all, *found, progress); !told) return tl::unexpected(told.error());
    out["openings"] = Json::array();
    for (const join::Opening& opening : *found) {
        out["openings"].push_back({{"place", placeName(model, opening.place)},
                                   {"face", opening.face},
                                   {"edges", opening.edges},
                                   {"inner", opening.inner},
                                   {"area_mm2", opening.area},
                                   {"hydraulicDiameter_mm", opening.hydraulicDiameter()},
                                   {"at_mm", {opening.middle.X(), opening.middle.Y(), opening.middle.Z()}}});
        if (!asJson)
            fmt::print("{:>9} mm  {} mm², in face {} of {}{}\n", readable(opening.hydraulicDiameter()),
                       readable(opening.area), opening.face, placeName(model, opening.place),
                       opening.inner ? ", into another channel" : "");
    }
    if (!asJson) fmt::print("{}.\n", counted(found->size(), "opening"));
    return {};
}

struct FlowLook {
    gp_Pnt seed;
    std::vector<std::size_t> walls;
    std::vector<TopoDS_Face> lids;  // on all mouths that lead outside
};
/// What leaks and reach are asked of: a point in the fluid, all bodies, and lids on their mouths.
Result<FlowLook> flowLook(const Model& model, const SurveyWanted& wanted, Progress& progress) {
    double x = 0.0, y = 0.0, z = 0.0;
    char beyond = 0;
    if (std::sscanf(wanted.seed.c_str(), "%lf,%lf,%lf%c", &x, &y, &z, &beyond) != 3 || !std::isfinite(x + y + z))
        return fail(ProblemKind::BadInput, "Leaks and what is reached are looked for from a point in the fluid.",
                    "Give it as --seed x,y,z in mm.");
    const auto walls = placesMeant(model, {});
    if (!walls) return tl::unexpected(walls.error());
    auto openings = join::findOpenings(model, *walls, progress);
    if (!openings) return tl::unexpected(openings.error());
    if (auto told = join::tellInner(model, *walls, *openings, progress); !told) return tl::unexpected(told.error());
    FlowLook look{gp_Pnt(x, y, z), *walls, {}};
    for (const join::Opening& opening : *openings)
        if (!opening.inner) look.lids.push_back(opening.lid);
    return look;
}

Result<void> surveyReach(const Model& model, const SurveyWanted& wanted, bool asJson, Json& out, Progress& progress) {
    const auto look = flowLook(model, wanted, progress);
    if (!look) return tl::unexpected(look.error());
    const auto found = join::findReach(model, look->walls, look->lids, look->seed, progress);
    if (!found) return tl::unexpected(found.error());
    out["reached"] = Json::array();
    for (const join::ReachedFace& face : found->faces) {
        out["reached"].push_back({{"place", placeName(model, face.place)}, {"face", face.face}, {"way_mm", face.way}});
        if (!asJson)
            fmt::print("{:>9} mm  face {} of {}\n", readable(face.way), face.face, placeName(model, face.place));
    }
    out["reachNotNarrowerThan_mm"] = found->narrowest;
    out["reachesOutside"] = found->outside;
    out["reachesMore"] = found->more;
    if (!asJson)
        fmt::print("{} reached through passages of {} mm and more, with lids on {}{}.\n",
                   counted(found->faces.size(), "face"), readable(found->narrowest),
                   counted(look->lids.size(), "opening"),
                   found->outside ? "; it gets outside"
                   : found->more  ? "; it goes on from there"
                                  : "");
    return {};
}

Result<void> surveyLeaks(const Model& model, const SurveyWanted& wanted, bool asJson, Json& out, Progress& progress) {
    const auto look = flowLook(model, wanted, progress);
    if (!look) return tl::unexpected(look.error());
    const auto found = join::findLeaks(model, look->walls, look->lids, look->seed, join::finestLeak(model), progress);
    if (!found) return tl::unexpected(found.error());
    out["leaks"] = Json::array();
    for (const join::Leak& leak : found->leaks) {
        Json way = Json::array();
        for (const gp_Pnt& at : leak.way) way.push_back({at.X(), at.Y(), at.Z()});
        out["leaks"].push_back({{"width_mm", leak.width},
                                {"at_mm", {leak.where.X(), leak.where.Y(), leak.where.Z()}},
                                {"faces", {leak.faceA, leak.faceB}},
                                {"what", join::describe(model, leak)},
                                {"way_mm", std::move(way)}});
        if (!asJson) fmt::print("{:>9} mm  {}\n", readable(leak.width), join::describe(model, leak));
    }
    out["leaksWiderThan_mm"] = found->finest;
    if (!asJson)
        fmt::print("{}{} wider than {} mm, with lids on {}.\n", found->more ? "More than " : "",
                   counted(found->leaks.size(), "leak"), readable(found->finest),
                   counted(look->lids.size(), "opening"));
    return {};
}

Result<void> surveyBeams(const Model& model, const SurveyWanted& wanted, bool asJson, Json& out, Progress& progress) {
    out["beams"] = Json::array();
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const std::string& name = model.parts[p]->name;
        if (!wanted.part.empty() && name != wanted.part) continue;
        const auto found = reduce::findBars(model, p, 5.0, progress);
        if (!found) return tl::unexpected(found.error());
        for (const reduce::Slender& bar : *found) {
            const Section& section = bar.section.section;
            out["beams"].push_back({{"part", name},
                                    {"member", bar.member},
                                    {"length_mm", bar.length()},
                                    {"pieces", bar.line.pieces().size()},
                                    {"ratio", bar.ratio},
                                    {"shape", section.shape},
                                    {"sizes_mm", section.sizes},
                                    {"area_mm2", section.area},
                                    {"secondUp_mm4", section.secondUp},
                                    {"secondAcross_mm4", section.secondAcross},
                                    {"torsion_mm4", section.torsion},
                                    {"torsionEstimated", bar.section.torsionEstimated}});
            if (!asJson)
                fmt::print("{:>9} mm  {}{} times as long as deep, {}, {} mm², {}\n", readable(bar.length()),
                           bar.line.isStraight() ? "" : "bent, ", readable(std::round(bar.ratio)), section.shape,
                           readable(section.area),
                           bar.member > 0 ? fmt::format("{}, member {}", name, bar.member) : name);
        }
    }
    if (!asJson) fmt::print("{}.\n", counted(out["beams"].size(), "slender body", "slender bodies"));
    return {};
}

Result<void> surveyWalls(const Model& model, const SurveyWanted& wanted, double upTo, bool asJson, Json& out,
                         Progress& progress) {
    out["walls"] = Json::array();
    for (const auto& part : model.parts) {
        if (!wanted.part.empty() && part->name != wanted.part) continue;
        if (part->shape.IsNull() || part->kind() != BodyKind::Solid) continue;
        const auto found = reduce::findWalls(*part, 0.0, upTo, progress);
        if (!found) return tl::unexpected(found.error());
        for (const reduce::Wall& wall : *found) {
            const char* kind = wall.slenderness == reduce::Slenderness::Thin       ? "thin"
                               : wall.slenderness == reduce::Slenderness::Doubtful ? "doubtful"
                                                                                   : "thick";
            out["walls"].push_back({{"part", part->name},
                                    {"kind", kind},
                                    {"thickness_mm", wall.thickness},
                                    {"area_mm2", wall.area},
                                    {"breadth_mm", wall.breadth},
                                    {"sideA", wall.sideA},
                                    {"sideB", wall.sideB}});
            if (!asJson)
                fmt::print("{}: {} mm thick, {} mm², {}\n", part->name, readable(wall.thickness), readable(wall.area),
                           kind);
        }
        if (std::none_of(found->begin(), found->end(),
                         [](const reduce::Wall& wall) { return wall.slenderness == reduce::Slenderness::Thin; }))
            continue;
        for (const reduce::FaceWithoutWall& face : reduce::facesWithoutWall(*part, *found)) {
            out["withoutWall"].push_back(
                {{"part", part->name}, {"face", face.face}, {"area_mm2", face.area}, {"why", face.why}});
            if (!asJson)
                fmt::print("{}: face {}, {} mm², makes no wall and ends none: {}\n", part->name, face.face,
                           readable(face.area), face.why);
        }
    }
    return {};
}

Result<void> surveyNotFlush(const Model& model, double upTo, bool asJson, Json& out, Progress& progress) {
    const auto places = placesMeant(model, {});
    if (!places) return tl::unexpected(places.error());
    const auto found = reduce::findNotFlush(model, *places, upTo, progress);
    if (!found) return tl::unexpected(found.error());
    out["notFlush"] = Json::array();
    for (const reduce::Flaw& flaw : *found) {
        Json one{{"kind", reduce::flawName(flaw.kind)},
                 {"place", placeName(model, flaw.place)},
                 {"size_mm", flaw.size},
                 {"expected", flaw.expected},
                 {"at_mm", {flaw.where.X(), flaw.where.Y(), flaw.where.Z()}}};
        if (flaw.other) one["other"] = placeName(model, *flaw.other);
        if (!asJson)
            fmt::print("{}{}: {}{}\n", placeName(model, flaw.place),
                       flaw.other && *flaw.other != flaw.place ? " and " + placeName(model, *flaw.other) : "",
                       reduce::flawWords(flaw.kind), flaw.size > 0.0 ? ", " + readable(flaw.size) + " mm" : "");
        out["notFlush"].push_back(std::move(one));
    }
    if (!asJson && found->empty()) fmt::print("Nothing of its sheets is out of flush.\n");
    return {};
}

Result<void> surveySymmetry(const Model& model, bool asJson, Json& out, Progress& progress) {
    const auto found = survey::findSymmetries(model, {}, 0.01 * model.targetSize, progress);
    if (!found) return tl::unexpected(found.error());
    const auto numbers = [](const gp_XYZ& v) { return Json{v.X(), v.Y(), v.Z()}; };
    out["symmetries"] = Json::array();
    for (const survey::Symmetry& one : *found) {
        const gp_Ax1 axis = one.mirror ? one.plane.Axis() : one.axis;
        Json item{{"kind", one.mirror ? "mirror" : "turn"},
                  {"through", numbers(axis.Location().XYZ())},
                  {one.mirror ? "normal" : "direction", numbers(axis.Direction().XYZ())},
                  {"deviation_mm", one.deviation},
                  {"without_partner", one.without.size()}};
        if (!one.mirror) item["order"] = one.order;
        out["symmetries"].push_back(std::move(item));
        if (!asJson) fmt::print("{}\n", survey::describe(one));
    }
    const auto axis = survey::commonAxis(model, {});
    if (axis) {
        out["common_axis"] = {{"through", numbers(axis->axis.Location().XYZ())},
                              {"direction", numbers(axis->axis.Direction().XYZ())},
                              {"share", axis->share}};
        if (!asJson) fmt::print("{} % of the round skin has one axis.\n", std::round(100.0 * axis->share));
    }
    if (found->empty() && !axis && !asJson) fmt::print("No symmetry.\n");
    return {};
}

Result<void> surveyLayers(const Model& model, bool asJson, Json& out, Progress& progress) {
    const auto found = divide::findLayers(model, progress);
    if (!found) return tl::unexpected(found.error());
    const auto numbers = [](const gp_XYZ& v) { return Json{v.X(), v.Y(), v.Z()}; };
    out["layers"] = Json::array();
    for (const divide::BodyLayers& one : *found) {
        const Part& part = *model.parts[one.part];
        Json item{{"part", part.name},
                  {"body", one.body},
                  {"works", one.way.works()},
                  {"turned", one.way.turned},
                  {"direction", numbers(one.way.axis.Direction().XYZ())},
                  {"ends", {one.way.from, one.way.to}},
                  {"in_the_way", one.way.forbidding}};
        if (one.way.turned) item["through"] = numbers(one.way.axis.Location().XYZ());
        if (!one.cuts.empty()) {
            item["cuts"] = Json::array();
            for (const gp_Pln& cut : one.cuts)
                item["cuts"].push_back(
                    {{"through", numbers(cut.Location().XYZ())}, {"normal", numbers(cut.Axis().Direction().XYZ())}});
            item["pieces"] = one.pieces;
            item["pieces_in_layers"] = one.freed;
        }
        out["layers"].push_back(std::move(item));
        if (!asJson)
            fmt::print("{}{}: {}\n", part.name,
                       part.incidence().bodyCount() > 1 ? fmt::format(", body {}", one.body) : "", one.told());
    }
    return {};
}

Result<void> surveySmallBeside(const Model& model, bool asJson, Json& out, Progress& progress) {
    const auto found = divide::findSmallBeside(model, model.targetSize, progress);
    if (!found) return tl::unexpected(found.error());
    out["small_beside"] = Json::array();
    for (const divide::SmallBeside& one : *found) {
        const Part& part = *model.parts[one.part];
        const char* kind = one.small.kind == EntityKind::Face ? "face" : "edge";
        out["small_beside"].push_back({{"part", part.name},
                                       {"kind", kind},
                                       {"small", makeRef(part, one.small)},
                                       {"with", makeRef(part, one.with)},
                                       {"width_mm", one.width}});
        if (!asJson)
            fmt::print("{}: {} {} is {} mm {} and runs on to {} {}\n", part.name, kind, one.small.number,
                       readable(one.width), one.small.kind == EntityKind::Face ? "wide" : "long", kind,
                       one.with.number);
    }
    if (found->empty() && !asJson) fmt::print("Nothing small runs on to a neighbour.\n");
    return {};
}

Result<void> surveyBolts(const Model& model, bool asJson, Json& out, Progress& progress) {
    const auto found = join::findBolts(model, progress);
    if (!found) return tl::unexpected(found.error());
    out["bolts"] = Json::array();
    for (const join::BoltedJoint& joint : *found) {
        Json through = Json::array();
        std::set<std::string> names;
        for (const auto& member : joint.clamped) {
            through.push_back({{"place", placeName(model, member.place)},
                               {"face", member.face},
                               {"diameter_mm", member.diameter},
                               {"from_mm", member.from},
                               {"to_mm", member.to}});
            names.insert(placeName(model, member.place));
        }
        const gp_Pnt at = joint.axis.Location();
        const gp_Dir d = joint.axis.Direction();
        out["bolts"].push_back({{"bolt", placeName(model, joint.bolt)},
                                {"diameter_mm", joint.diameter},
                                {"clamped_mm", joint.length},
                                {"nut", joint.nut},
                                {"through", std::move(through)},
                                {"at_mm", {at.X(), at.Y(), at.Z()}},
                                {"direction", {d.X(), d.Y(), d.Z()}}});
        if (asJson) continue;
        std::string list;
        for (const std::string& name : names) list += (list.empty() ? "" : ", ") + name;
        fmt::print("{}: Ø {} mm, {} mm clamped, {}, through {}\n", placeName(model, joint.bolt),
                   readable(joint.diameter), readable(joint.length), joint.nut ? "with a nut" : "by its thread", list);
    }
    if (!asJson && found->empty()) fmt::print("No bolt goes through anything.\n");
    return {};
}

Result<void> surveyWelds(const Model& model, bool asJson, Json& out, Progress& progress) {
    const auto found = join::findWelds(model, {}, {}, progress);
    if (!found) return tl::unexpected(found.error());
    const Model& parted = found->parted.model;
    out["welds"] = Json::array();
    for (const join::WeldLine& line : found->lines) {
        const std::string a = placeName(parted, line.place), b = placeName(parted, line.on);
        out["welds"].push_back({{"place", a},
                                {"on", b},
                                {"length_mm", line.length},
                                {"angle_deg", line.angle * 180.0 / M_PI},
                                {"thickness_mm", {line.thicknessA, line.thicknessB}},
                                {"throat_mm", line.proposedThroat()},
                                {"bead", line.bead ? Json(placeName(parted, *line.bead)) : Json()},
                                {"at_mm", {line.where.X(), line.where.Y(), line.where.Z()}}});
        if (!asJson && line.bead)
            fmt::print("{} on {}: {} mm long under the bead \"{}\", throat {} mm\n", a, b, readable(line.length),
                       placeName(parted, *line.bead), readable(line.proposedThroat()));
        else if (!asJson)
            fmt::print("{} on {}: {} mm long, walls of {} and {} mm, throat {} mm\n", a, b, readable(line.length),
                       readable(line.thicknessA), readable(line.thicknessB), readable(line.proposedThroat()));
    }
    if (!asJson && found->lines.empty()) fmt::print("No body ends on another so that a seam could hold it.\n");
    return {};
}

}  // namespace

Result<void> surveyAll(const Model& model, const SurveyWanted& wanted, double upTo, bool json, Json& out,
                       Progress& progress) {
    Result<void> done;
    if (wanted.received) done = surveyReceived(model, json, out, progress);
    if (done && wanted.copies) done = surveyCopies(model, json, out, progress);
    if (done && wanted.fasteners) surveyFasteners(model, json, out);
    if (done && wanted.hidden) done = surveyHidden(model, json, out, progress);
    if (done && wanted.defects) done = surveyDefects(model, wanted, json, out, progress);
    if (done && wanted.contacts) done = surveyContacts(model, upTo, json, out, progress);
    if (done && wanted.bolts) done = surveyBolts(model, json, out, progress);
    if (done && wanted.welds) done = surveyWelds(model, json, out, progress);
    if (done && wanted.walls) done = surveyWalls(model, wanted, upTo, json, out, progress);
    if (done && wanted.notFlush) done = surveyNotFlush(model, upTo, json, out, progress);
    if (done && wanted.openings) done = surveyOpenings(model, json, out, progress);
    if (done && wanted.reach) done = surveyReach(model, wanted, json, out, progress);
    if (done && wanted.leaks) done = surveyLeaks(model, wanted, json, out, progress);
    if (done && wanted.beams) done = surveyBeams(model, wanted, json, out, progress);
    if (done && wanted.layers) done = surveyLayers(model, json, out, progress);
    if (done && wanted.smallBeside) done = surveySmallBeside(model, json, out, progress);
    if (done && wanted.symmetry) done = surveySymmetry(model, json, out, progress);
    if (done && wanted.holes) done = surveyHoles(model, wanted, upTo, json, out, progress);
    if (done && wanted.rounds) done = surveyRounds(model, wanted, upTo, json, out, progress);
    if (done && wanted.reliefs) done = surveyReliefs(model, wanted, upTo, json, out, progress);
    if (done && wanted.threads) done = surveyThreads(model, wanted, upTo, json, out, progress);
    if (done && wanted.small) done = surveySmall(model, wanted, upTo, json, out, progress);
    return done;
}

Result<void> surveyProof(const Work& work, const SurveyWanted& wanted, bool json, Json& out, Progress& progress) {
    out["proof"] = Json::array();
    const auto worst = [](const reduce::Worst& one) {
        return Json{{"by_mm", one.by}, {"at_mm", {one.at.X(), one.at.Y(), one.at.Z()}}};
    };
    for (const reduce::StandIn& one : reduce::standIns(work)) {
        const std::string& name = work.current().parts[one.parts.front()]->name;
        if (!wanted.part.empty() && name != wanted.part) continue;
        const auto proof = reduce::proofOf(work.current(), one, progress);
        if (!proof) return tl::unexpected(proof.error());
        Json told{{"part", name},
                  {"solid_mm3", proof->solidVolume},
                  {"drawn_mm3", proof->drawnVolume},
                  {"centreMoved_mm", proof->centreShift},
                  {"inertiaChanged", proof->largestMoment},
                  {"pieces", proof->pieces},
                  {"elements", {{"before", proof->elementsBefore}, {"after", proof->elementsAfter}}},
                  {"stations", Json::array()}};
        const auto cut = [](const reduce::CutNumbers& own) {
            return Json{{"area_mm2", own.area}, {"largest_mm4", own.largest}, {"least_mm4", own.least}};
        };
        for (const reduce::Station& station : proof->stations)
            told["stations"].push_back({{"across", std::string(1, "xyz"[station.axis])},
                                        {"at_mm", station.at},
                                        {"solid", cut(station.solid)},
                                        {"now", cut(station.drawn)}});
        told["covered"] = proof->covered;
        told["left"] = worst(proof->left);
        told["beyond"] = worst(proof->beyond);
        if (proof->sheets) {
            told["thickness"] = worst(proof->thickness);
            told["freeEdges"] = proof->freeEdges;
            told["freeLength_mm"] = proof->freeLength;
            for (const reduce::WallProof& wall : proof->walls)
                told["walls"].push_back({{"thickness_mm", wall.thickness},
                                         {"area_mm2", wall.area},
                                         {"covered", wall.covered},
                                         {"thicknessOff", worst(wall.off)},
                                         {"at_mm", {wall.where.X(), wall.where.Y(), wall.where.Z()}}});
        }
        out["proof"].push_back(std::move(told));
        if (json) continue;
        fmt::print("{}\n", name);
        for (const std::string& line : reduce::proofLines(*proof)) fmt::print("  {}\n", line);
        // The whole list is in the JSON.
        const auto walls = reduce::wallLines(*proof);
        constexpr std::size_t most = 8;
        for (std::size_t w = 0; w < std::min(walls.size(), most); ++w) fmt::print("  {}\n", walls[w]);
        if (walls.size() > most) fmt::print("  and {} walls that are covered no less\n", walls.size() - most);
    }
    if (!json && out["proof"].empty())
        fmt::print(
            "No sheet or beam here stands for a solid that the ledger knows. Name a work file with its steps.\n");
    return {};
}

}  // namespace rasoir::cli
