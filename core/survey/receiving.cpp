#include "survey/receiving.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>

#include "common/tolerance.h"
#include "geometry/extent.h"
#include "intake/copies.h"
#include "intake/placing.h"
#include "model/on_purpose.h"
#include "model/places.h"
#include "survey/copies.h"

namespace rasoir::survey {
namespace {

Bnd_Box boxOf(const measure::Facts& facts, const gp_Trsf& placement) {
    Bnd_Box box;
    if (facts.faces + facts.wires == 0) return box;
    box.Update(facts.low[0], facts.low[1], facts.low[2], facts.high[0], facts.high[1], facts.high[2]);
    return box.Transformed(placement);
}

void findFarParts(const Model& model, const std::vector<measure::Facts>& facts, ReceivingReport& report) {
    // Far: farther from the nearest other part than ten times the box of the middle nine tenths.
    std::vector<Bnd_Box> boxes;
    std::vector<double> xs, ys, zs;
    for (const Occurrence& occurrence : model.occurrences) {
        boxes.push_back(boxOf(facts[occurrence.part], occurrence.placement));
        if (boxes.back().IsVoid()) continue;
        const gp_XYZ middle = 0.5 * (boxes.back().CornerMin().XYZ() + boxes.back().CornerMax().XYZ());
        xs.push_back(middle.X());
        ys.push_back(middle.Y());
        zs.push_back(middle.Z());
    }
    if (xs.empty()) return;
    const auto medianOf = [](std::vector<double> v) {
        std::nth_element(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2), v.end());
        return v[v.size() / 2];
    };
    const gp_Pnt middle(medianOf(xs), medianOf(ys), medianOf(zs));
    std::vector<std::pair<double, std::size_t>> reach;
    for (std::size_t o = 0; o < boxes.size(); ++o) {
        if (boxes[o].IsVoid()) continue;
        const gp_Pnt own(0.5 * (boxes[o].CornerMin().XYZ() + boxes[o].CornerMax().XYZ()));
        reach.emplace_back(own.Distance(middle) + 0.5 * boxes[o].CornerMin().Distance(boxes[o].CornerMax()), o);
    }
    std::sort(reach.begin(), reach.end());
    if (reach.size() >= 3) {
        // The first big gap in the distances from the middle.
        for (std::size_t i = reach.size() / 2; i + 1 < reach.size(); ++i) {
            if (reach[i + 1].first < 10.0 * std::max(reach[i].first, Tolerance::noWay)) continue;
            for (std::size_t j = i + 1; j < reach.size(); ++j) {
                const std::size_t o = reach[j].second;
                report.odd.push_back({Oddity::FarAway,
                                      fmt::format("\"{}\" stands {} mm away from all the rest.", placeName(model, o),
                                                  readable(std::round(reach[j].first))),
                                      "Move it, or set it aside.",
                                      {o},
                                      {},
                                      gp_Pnt(0.5 * (boxes[o].CornerMin().XYZ() + boxes[o].CornerMax().XYZ())),
                                      reach[j].first,
                                      "intake.setAside",
                                      Json{{"places", Json::array({placeName(model, o)})}}});
            }
            break;
        }
    }
    Bnd_Box all;
    for (const Bnd_Box& box : boxes)
        if (!box.IsVoid()) all.Add(box);
    const double size = all.CornerMin().Distance(all.CornerMax());
    const gp_Pnt centre(0.5 * (all.CornerMin().XYZ() + all.CornerMax().XYZ()));
    const double away = centre.Distance(gp_Pnt(0, 0, 0));
    if (away > 20.0 * size && size > 0.0) {
        intake::Move move;
        move.shift = {-centre.X(), -centre.Y(), -centre.Z()};
        Json parameters;
        to_json(parameters, move);
        report.odd.push_back({Oddity::FarAway,
                              fmt::format("Everything stands {} mm from the origin, {} times its own size.",
                                          readable(std::round(away)), readable(std::round(away / size))),
                              "Move its middle to the origin.",
                              {},
                              {},
                              centre,
                              away,
                              "intake.move",
                              std::move(parameters)});
    }
}

void findAskewParts(const Model& model, ReceivingReport& report) {
    // Off by a little: more than rounding, less than a designer would mean. Its three main directions decide.
    constexpr double rounding = 2e-6, meant = 1.0 * M_PI / 180.0;
    std::vector<std::vector<WeighedDirection>> main;
    for (const auto& part : model.parts)
        main.push_back(part->shape.IsNull() ? std::vector<WeighedDirection>{} : mainDirections(part->incidence()));
    const std::pair<gp_Dir, const char*> axes[] = {
        {gp_Dir(1, 0, 0), "X"}, {gp_Dir(0, 1, 0), "Y"}, {gp_Dir(0, 0, 1), "Z"}};
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const Occurrence& occurrence = model.occurrences[o];
        const auto& directions = main[occurrence.part];
        bool said = false;
        for (std::size_t d = 0; d < std::min<std::size_t>(3, directions.size()) && !said; ++d) {
            for (const auto& [axis, name] : axes) {
                if (directions[d].weight < 0.1 * directions.front().weight) break;
                const gp_Dir along = directions[d].along.Transformed(occurrence.placement);
                const double off = std::asin(std::min(1.0, gp_Vec(along).Crossed(gp_Vec(axis)).Magnitude()));
                if (off <= rounding || off >= meant || said) continue;
                said = true;
                gp_Pnt about;
                about.Transform(occurrence.placement);
                intake::Move move = intake::turnParallel(about, along, axis);
                move.places = {placeName(model, o)};
                Json parameters;
                to_json(parameters, move);
                report.odd.push_back({Oddity::Askew,
                                      fmt::format("\"{}\" is off the {} axis by {}°.", placeName(model, o), name,
                                                  readable(off * 180.0 / M_PI)),
                                      fmt::format("Turn it parallel to {}.", name),
                                      {o},
                                      {},
                                      about,
                                      off * 180.0 / M_PI,
                                      "intake.move",
                                      std::move(parameters)});
            }
        }
    }
}

bool samePlacement(const gp_Trsf& a, const gp_Trsf& b, double size) {
    const gp_Trsf apart = a.Inverted() * b;
    for (const gp_Pnt& probe : {gp_Pnt(0, 0, 0), gp_Pnt(size, 0, 0), gp_Pnt(0, size, 0)})
        if (probe.Distance(probe.Transformed(apart)) > Tolerance::sameSize * size) return false;
    return true;
}

}  // namespace

Result<ReceivingReport> receivingReport(const Model& model, const std::vector<measure::Facts>& facts,
                                        Progress& progress) {
    ReceivingReport report;
    report.parts = model.parts.size();
    report.places = model.occurrences.size();
    std::vector<std::size_t> count(model.parts.size(), 0);
    std::vector<std::vector<std::size_t>> placesOf(model.parts.size());
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        ++count[model.occurrences[o].part];
        placesOf[model.occurrences[o].part].push_back(o);
    }
    std::set<std::array<double, 3>> colours;
    const auto addColour = [&colours](const std::optional<Colour>& c) {
        if (c) colours.insert({c->red, c->green, c->blue});
    };
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const Part& part = *model.parts[p];
        if (count[p] > 1) report.copies += count[p] - 1;
        report.solids += static_cast<std::size_t>(facts[p].solids);
        report.wires += static_cast<std::size_t>(facts[p].wires);
        std::size_t loose = 0;
        if (!part.shape.IsNull())
            for (TopExp_Explorer face(part.shape, TopAbs_FACE, TopAbs_SHELL); face.More(); face.Next()) ++loose;
        report.looseFaces += loose;
        report.sheets += static_cast<std::size_t>(facts[p].sheets) - loose;
        addColour(part.colour);
        for (const auto& [thing, colour] : part.known.colours) addColour(colour);

        const auto say = [&](Oddity kind, std::string what, std::string remedy, double size) {
            report.odd.push_back(
                {kind, std::move(what), std::move(remedy), placesOf[p], {}, std::nullopt, size, {}, {}});
        };
        if (loose > 0 && !standsForWalls(part))
            say(Oddity::NotClosed, fmt::format("\"{}\" is made of {}.", part.name, counted(loose, "loose face")),
                "Mend stitches them.", static_cast<double>(loose));
        else if (facts[p].solids > 0 && facts[p].openEdges > 0)
            say(Oddity::NotClosed,
                fmt::format("\"{}\" calls itself solid and has {}.", part.name,
                            counted(static_cast<std::size_t>(facts[p].openEdges), "open edge")),
                "Mend closes it.", facts[p].openEdges);
        const double boxVolume = (facts[p].high[0] - facts[p].low[0]) * (facts[p].high[1] - facts[p].low[1]) *
                                 (facts[p].high[2] - facts[p].low[2]);
        // For the same reason.
        if (facts[p].solids > 0 && facts[p].volume <= 1e-9 * boxVolume)  // of the box: what doubles leave of nothing
            say(Oddity::NoVolume,
                facts[p].volume < -1e-9 * boxVolume ? fmt::format("\"{}\" is inside out.", part.name)
                                                    : fmt::format("\"{}\" has no volume.", part.name),
                "Mend it, or set it aside.", 0.0);
        const double size = std::max({facts[p].high[0] - facts[p].low[0], facts[p].high[1] - facts[p].low[1],
                                      facts[p].high[2] - facts[p].low[2]});
        if (facts[p].tolerance > 1e-3 * size && facts[p].tolerance > 0.01)  // of the part: more will be seen in a mesh
            say(Oddity::Tolerance,
                fmt::format("\"{}\" claims a tolerance of {} mm.", part.name, readable(facts[p].tolerance)),
                "Look at its edges in Mend.", facts[p].tolerance);
    }
    for (const Occurrence& occurrence : model.occurrences) addColour(occurrence.colour);
    report.colours = colours.size();
    report.unit = model.fileUnit;
    Model everything = model;
    everything.occurrences.changeWhere([](const Occurrence& place) { return place.aside; },
                                       [](Occurrence& place) { place.aside = false; });
    const measure::Facts whole = measure::factsOf(everything, facts);
    report.low = whole.low;
    report.high = whole.high;
    report.volume = whole.volume;
    report.mass = measure::massOf(everything, facts).mass;

    for (const std::string& note : model.notes) {
        const auto has = [&note](const char* word) { return note.find(word) != std::string::npos; };
        const Oddity kind = has("unit")       ? Oddity::Unit
                            : has("name")     ? Oddity::Name
                            : has("left out") ? Oddity::Dropped
                                              : Oddity::Note;
        OddFinding finding{kind, note, {}, {}, {}, std::nullopt, 0.0, {}, {}};
        if (has("is the unit right")) {
            // The other units that would make it a machine one can touch.
            const double extent = model.extent();
            finding.size = extent;
            const double factor = extent > 1e6 ? 0.001 : extent < 0.1 ? 1000.0 : 1.0;
            finding.remedy = fmt::format("Correct the unit: times {} it would be {} mm across.", readable(factor),
                                         readable(extent * factor));
            finding.operation = "intake.correctUnit";
            finding.parameters = Json{{"factor", factor}};
        }
        report.odd.push_back(std::move(finding));
    }
    findFarParts(model, facts, report);
    findAskewParts(model, report);
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Taking stock was stopped.");
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const double size = std::max(Tolerance::samePlace,
                                     std::hypot(facts[p].high[0] - facts[p].low[0], facts[p].high[1] - facts[p].low[1],
                                                facts[p].high[2] - facts[p].low[2]));
        // Sorted by where they stand, doubles are neighbours.
        std::vector<std::size_t> sorted = placesOf[p];
        const auto key = [&model](std::size_t o) {
            const gp_XYZ& t = model.occurrences[o].placement.TranslationPart();
            return std::tuple(t.X(), t.Y(), t.Z());
        };
        std::sort(sorted.begin(), sorted.end(), [&key](std::size_t a, std::size_t b) { return key(a) < key(b); });
        for (std::size_t i = 0; i + 1 < sorted.size(); ++i)
            for (std::size_t j = i + 1;
                 j < sorted.size() &&
                 std::get<0>(key(sorted[j])) - std::get<0>(key(sorted[i])) <= Tolerance::sameSize * size;
                 ++j)
                if (samePlacement(model.occurrences[sorted[i]].placement, model.occurrences[sorted[j]].placement, size))
                    report.odd.push_back({Oddity::SamePlace,
                                          fmt::format("\"{}\" stands twice in the same place.", model.parts[p]->name),
                                          "Set one of the two aside.",
                                          {sorted[i], sorted[j]},
                                          {},
                                          std::nullopt,
                                          0.0,
                                          "intake.setAside",
                                          Json{{"places", Json::array({placeName(model, sorted[j])})}}});
    }
    const auto copies = findCopies(model, 0.0, progress);
    if (!copies) return tl::unexpected(copies.error());
    std::set<std::size_t> joined;  // each in its own way: as copies they would come apart
    for (const Joint& joint : model.joints)
        for (const JointUse& use : joint.uses)
            if (const auto place = model.placeOf(use.place)) joined.insert(model.occurrences[*place].part);
    for (const CopyGroup& group : *copies) {
        if (joined.contains(group.original)) continue;
        std::vector<std::string> names{model.parts[group.original]->name};
        std::vector<std::size_t> occurrences = placesOf[group.original];
        std::size_t mirrored = 0;
        for (const Copy& copy : group.copies) {
            if (joined.contains(copy.part)) continue;
            if (copy.mirrored && model.mirrorPairOf(copy.part) != nullptr) continue;  // known, and they change together
            names.push_back(model.parts[copy.part]->name);
            occurrences.insert(occurrences.end(), placesOf[copy.part].begin(), placesOf[copy.part].end());
            mirrored += copy.mirrored;
        }
        const std::size_t found = names.size() - 1;
        if (found == 0) continue;
        OddFinding finding{
            Oddity::SameShape,
            fmt::format(
                "{} have the shape of \"{}\"{}: {}.", counted(found, "part"), names.front(),
                mirrored == 0 ? "" : fmt::format(", {} mirrored", mirrored == found ? "all" : std::to_string(mirrored)),
                names[1] + (names.size() > 2 ? ", …" : "")),
            {},
            std::move(occurrences),
            {},
            std::nullopt,
            static_cast<double>(found),
            {},
            {}};
        if (found == 1)
            finding.what =
                fmt::format("\"{}\" has the shape of \"{}\"{}.", names[1], names[0], mirrored > 0 ? ", mirrored" : "");
        finding.remedy = "Make them copies: they are then edited once.";
        finding.operation = "intake.makeCopies";
        finding.parameters = Json{{"parts", names}};
        report.odd.push_back(std::move(finding));
    }
    std::stable_sort(report.odd.begin(), report.odd.end(),
                     [](const OddFinding& a, const OddFinding& b) { return a.kind < b.kind; });
    return report;
}

std::string oddityName(Oddity kind) {
    switch (kind) {
        case Oddity::Unit:
            return "unit";
        case Oddity::Name:
            return "name";
        case Oddity::Dropped:
            return "dropped";
        case Oddity::FarAway:
            return "far away";
        case Oddity::Askew:
            return "askew";
        case Oddity::NotClosed:
            return "not closed";
        case Oddity::NoVolume:
            return "no volume";
        case Oddity::SameShape:
            return "same shape";
        case Oddity::SamePlace:
            return "same place";
        case Oddity::Tolerance:
            return "tolerance";
        case Oddity::Note:
            return "note";
    }
    return "note";
}

Json toJson(const ReceivingReport& report, const Model& model) {
    Json json{{"parts", report.parts},           {"places", report.places},     {"copies", report.copies},
              {"solids", report.solids},         {"sheets", report.sheets},     {"wires", report.wires},
              {"looseFaces", report.looseFaces}, {"colours", report.colours},   {"low_mm", report.low},
              {"high_mm", report.high},          {"volume_mm3", report.volume}, {"mass_kg", report.mass}};
    json["unit"] = report.unit ? Json(unitName(*report.unit)) : Json();
    json["odd"] = Json::array();
    for (const OddFinding& finding : report.odd) {
        Json one{{"kind", oddityName(finding.kind)}, {"what", finding.what}};
        if (!finding.remedy.empty()) one["remedy"] = finding.remedy;
        if (!finding.occurrences.empty()) one["places"] = placeNames(model, finding.occurrences);
        if (finding.point) one["point_mm"] = {finding.point->X(), finding.point->Y(), finding.point->Z()};
        if (finding.size != 0.0) one["size"] = finding.size;
        if (!finding.operation.empty())
            one["step"] = {{"operation", finding.operation}, {"parameters", finding.parameters}};
        json["odd"].push_back(std::move(one));
    }
    return json;
}

}  // namespace rasoir::survey
