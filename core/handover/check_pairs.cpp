#include "handover/check_pairs.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRepBndLib.hxx>
#include <BRepClass3d_SolidClassifier.hxx>

#include "common/text.h"
#include "common/tolerance.h"
#include "geometry/face_points.h"
#include "geometry/integrals.h"
#include "join/contacts.h"
#include "model/places.h"

namespace rasoir::handover {
namespace {

using PlacePair = std::pair<std::size_t, std::size_t>;

/// Pairs of places that have something in common, or are kept as a pair of groups.
std::set<PlacePair> decidedPairs(const Model& model) {
    std::set<PlacePair> decided;
    for (const Joint& joint : model.joints)
        for (std::size_t i = 0; i < joint.uses.size(); ++i)
            for (std::size_t k = i + 1; k < joint.uses.size(); ++k) {
                const auto a = model.placeOf(joint.uses[i].place), b = model.placeOf(joint.uses[k].place);
                if (a && b) decided.insert(std::minmax(*a, *b));
            }
    for (const auto& [pair, kind] : pairedPlaces(model)) decided.insert(pair);
    return decided;
}

/// What a sheet with thickness fills, and a point of each of its faces. None where a face has no thickness.
struct Filled {
    double volume = 0.0;         // [mm^3]
    std::vector<gp_Pnt> points;  // [mm, model coordinates]
};
std::optional<Filled> filledBy(const Part& sheet, const gp_Trsf& placement) {
    Filled filled;
    for (int f = 1; f <= sheet.incidence().faceCount(); ++f) {
        const auto thickness = sheet.known.thickness.find({EntityKind::Face, f});
        if (thickness == sheet.known.thickness.end()) return std::nullopt;
        const std::vector<SkinSample> samples = skinSamples(sheet.incidence().face(f), 3);
        for (const SkinSample& one : samples) filled.volume += one.area * thickness->second.at;
        if (!samples.empty()) filled.points.push_back(samples[samples.size() / 2].at.Transformed(placement));
    }
    return filled.points.empty() ? std::nullopt : std::optional(filled);
}

/// Whether a sheet is what a solid was reduced to: it lies within the solid, and with its thickness it fills the same
/// volume to a quarter. The box is asked first: most pairs lie apart.
bool isSheetOf(const Filled& sheet, const Part& solid, const gp_Trsf& placement) {
    Bnd_Box box;
    BRepBndLib::Add(solid.shape, box, false);
    std::vector<gp_Pnt> points;
    for (const gp_Pnt& at : sheet.points) {
        points.push_back(at.Transformed(placement.Inverted()));
        if (box.IsOut(points.back())) return false;
    }
    const double volume = volumeOf(solid.shape);
    if (std::abs(sheet.volume - volume) > 0.25 * volume) return false;
    BRepClass3d_SolidClassifier within(solid.shape);
    const auto inside = std::count_if(points.begin(), points.end(), [&](const gp_Pnt& at) {
        within.Perform(at, Tolerance::samePlace);
        return within.State() == TopAbs_IN;
    });
    return 2 * static_cast<std::size_t>(inside) > points.size();
}

/// Solids that are handed over together with what they were reduced to: the mesh would count them twice.
void checkTwice(const Model& model, std::vector<CheckFinding>& findings) {
    for (std::size_t s = 0; s < model.occurrences.size(); ++s) {
        const Occurrence& sheet = model.occurrences[s];
        const Part& own = *model.parts[sheet.part];
        if (sheet.aside || own.lump || own.kind() != BodyKind::Sheet || own.known.thickness.empty()) continue;
        const auto filled = filledBy(own, sheet.placement);
        if (!filled) continue;
        for (const Occurrence& solid : model.occurrences) {
            const Part& other = *model.parts[solid.part];
            if (solid.aside || other.lump || other.kind() != BodyKind::Solid ||
                !isSheetOf(*filled, other, solid.placement))
                continue;
            findings.push_back({Severity::Error,
                                fmt::format("\"{}\" is handed over as a solid and as its sheet \"{}\".", other.name,
                                            placeName(model, s)),
                                "It would be meshed twice: set the solid aside.",
                                "Intake",
                                solid.part,
                                std::nullopt,
                                {},
                                std::nullopt});
        }
    }
}

/// Pairs of places of the same two parts.
struct Fold {
    std::set<PlacePair> pairs;
    double least = 1e300, volume = 0.0;
    const join::Contact* first = nullptr;
};

}  // namespace

Result<std::vector<CheckFinding>> checkPairs(const Model& model, Progress& progress) {
    std::vector<CheckFinding> findings;
    if (model.occurrences.size() < 2) return findings;
    checkTwice(model, findings);
    join::ContactSearch search;
    search.upTo = join::safeLimit(model).mm;
    search.fromSkins = true;
    search.overlaps = true;
    const auto report = join::findContacts(model, search, progress);
    if (!report) return tl::unexpected(report.error());
    const std::set<PlacePair> decided = decidedPairs(model);
    std::map<std::pair<std::size_t, std::size_t>, Fold> overlaps, gaps;
    std::set<PlacePair> touching;
    const join::Contact* firstTouching = nullptr;
    for (const join::Contact& contact : report->contacts) {
        const PlacePair pair = std::minmax(contact.placeA, contact.placeB);
        if (pair.first == pair.second || decided.contains(pair)) continue;
        if (contact.kind == join::ContactKind::Touching) {
            touching.insert(pair);
            if (firstTouching == nullptr) firstTouching = &contact;
            continue;
        }
        const bool overlap = contact.kind == join::ContactKind::Overlap;
        if (!overlap && (contact.kind != join::ContactKind::Near || contact.past)) continue;
        Fold& fold =
            (overlap ? overlaps
                     : gaps)[std::minmax(model.occurrences[pair.first].part, model.occurrences[pair.second].part)];
        fold.pairs.insert(pair);
        fold.least = std::min(fold.least, contact.gap);
        fold.volume = std::max(fold.volume, contact.volume);
        if (fold.first == nullptr) fold.first = &contact;
    }
    const auto say = [&](Severity severity, std::string what, std::string why, const join::Contact& contact) {
        const Occurrence& place = model.occurrences[contact.placeA];
        findings.push_back({severity,
                            std::move(what),
                            std::move(why),
                            "Join",
                            place.part,
                            contact.placeA,
                            {},
                            contact.where.Transformed(place.placement.Inverted())});
        if (contact.faceA > 0) findings.back().things.push_back({EntityKind::Face, contact.faceA});
    };
    const auto namesOf = [&](const Fold& fold) {
        const std::string a = placeName(model, fold.first->placeA), b = placeName(model, fold.first->placeB);
        return fold.pairs.size() == 1
                   ? fmt::format("\"{}\" and \"{}\"", a, b)
                   : fmt::format("\"{}\" and \"{}\", and {} like them,", a, b, counted(fold.pairs.size() - 1, "pair"));
    };
    for (const auto& [parts, fold] : overlaps)
        say(Severity::Warning,
            fold.volume > 0.0 ? fmt::format("{} reach into one another by about {} mm³.", namesOf(fold),
                                            readable(fold.volume > 100.0 ? std::round(fold.volume) : fold.volume))
                              : fmt::format("{} reach into one another.", namesOf(fold)),
            "Two meshes would fill the same place, and its mass counts twice.", *fold.first);
    for (const auto& [parts, fold] : gaps)
        // Joined they are one, in contact they may rest on each other: as it is they know nothing of one another.
        if (!overlaps.contains(parts))
            say(Severity::Warning, fmt::format("{} are {} mm apart.", namesOf(fold), readable(fold.least)),
                "Meant to touch, they would hold nothing: join them, or keep them as a contact.", *fold.first);
    if (!touching.empty())
        say(Severity::Note,
            fmt::format("{} touch and are neither joined nor kept as a contact, \"{}\" and \"{}\" among them.",
                        counted(touching.size(), "pair of bodies", "pairs of bodies"),
                        placeName(model, firstTouching->placeA), placeName(model, firstTouching->placeB)),
            "Their meshes would not know of each other.", *firstTouching);
    return findings;
}

}  // namespace rasoir::handover
