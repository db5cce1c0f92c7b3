#include "exchange/work_file.h"

#include <fmt/format.h>
#include <zip.h>

#include <BRepTools.hxx>
#include <fstream>
#include <sstream>

#include "common/guard.h"
#include "common/safe_file.h"
#include "exchange/assembly.h"
#include "exchange/brep.h"

namespace rasoir::exchange {
namespace {
namespace fs = std::filesystem;

constexpr int ourVersion = 3;                            // 2: without variants; written still where there is but one
constexpr zip_uint64_t largest = zip_uint64_t{4} << 30;  // [bytes] of one member; more is damage or malice

std::string partFile(std::size_t id) {
    return fmt::format("parts/{:05}.brep", id);
}

Json toJson(const gp_Trsf& placement) {
    Json rows = Json::array();
    for (int r = 1; r <= 3; ++r)
        for (int c = 1; c <= 4; ++c) rows.push_back(placement.Value(r, c));
    return rows;
}

gp_Trsf placementFrom(const Json& json) {
    const auto v = json.get<std::array<double, 12>>();
    for (const double x : v)
        if (!std::isfinite(x)) throw std::invalid_argument("a place is not finite");
    gp_Trsf placement;
    placement.SetValues(v[0], v[1], v[2], v[3], v[4], v[5], v[6], v[7], v[8], v[9], v[10], v[11]);
    return placement;
}

Json toJson(const Colour& colour) {
    return Json{colour.red, colour.green, colour.blue};
}
Colour colourFrom(const Json& json) {
    const auto v = json.get<std::array<double, 3>>();
    return {v[0], v[1], v[2]};
}

Json toJson(const Part& part) {
    Json json{{"name", part.name}};
    if (part.colour) json["colour"] = toJson(*part.colour);
    json["id"] = part.id;
    if (!part.known.isEmpty()) json["known"] = rasoir::toJson(part.known);
    if (!part.attributes.empty()) json["attributes"] = part.attributes;
    if (!part.material.empty()) json["material"] = part.material;
    for (const gp_Pnt& at : part.meantOpen) json["meantOpen_mm"].push_back({at.X(), at.Y(), at.Z()});
    for (const Sharpened& corner : part.sharpened) {
        Json along = Json::array();
        for (const gp_Pnt& at : corner.along) along.push_back({at.X(), at.Y(), at.Z()});
        json["sharpened"].push_back({{"radius_mm", corner.radius}, {"along_mm", std::move(along)}});
    }
    if (part.lump)
        json["lump"] = {{"mass_kg", part.lump->mass},
                        {"centre_mm", {part.lump->centre.X(), part.lump->centre.Y(), part.lump->centre.Z()}},
                        {"inertia_kg_mm2", part.lump->inertia}};
    return json;
}

void fill(Part& part, const Json& json) {
    if (json.contains("colour")) part.colour = colourFrom(json["colour"]);
    part.id = json.value("id", PartId{0});
    if (json.contains("known")) part.known = attributesFromJson(json["known"]);
    if (json.contains("faceColours"))  // as version 1 wrote them
        for (const auto& [face, colour] : json["faceColours"].items())
            part.known.colours[{EntityKind::Face, std::stoi(face)}] = colourFrom(colour);
    part.attributes = json.value("attributes", std::map<std::string, std::string>{});
    part.material = json.value("material", "");
    const auto points = [](const Json& list) {
        std::vector<gp_Pnt> made;
        for (const Json& one : list) {
            const auto at = one.get<std::array<double, 3>>();
            if (!std::isfinite(at[0]) || !std::isfinite(at[1]) || !std::isfinite(at[2]))
                throw std::invalid_argument("a point is not finite");
            made.emplace_back(at[0], at[1], at[2]);
        }
        return made;
    };
    part.meantOpen = points(json.value("meantOpen_mm", Json::array()));
    const Json sharpened = json.value("sharpened", Json::array());
    for (const Json& corner : sharpened)
        part.sharpened.push_back({points(corner.at("along_mm")), corner.at("radius_mm").get<double>()});
    if (json.contains("lump")) {
        const Json& lump = json["lump"];
        const auto centre = lump.at("centre_mm").get<std::array<double, 3>>();
        part.lump = Lump{lump.at("mass_kg").get<double>(), gp_Pnt(centre[0], centre[1], centre[2]),
                         lump.at("inertia_kg_mm2").get<std::array<double, 6>>()};
    }
}

Json toJson(const Model& model, const std::map<const Part*, std::size_t>& ids) {
    Json json{{"name", model.name},
              {"targetSize_mm", model.targetSize},
              {"density_kg_m3", model.density},
              {"materials", model.materials},
              {"notes", model.notes}};
    if (model.fileUnit) json["unit"] = unitName(*model.fileUnit);
    if (model.unitAssumed) json["unitAssumed"] = true;
    if (!model.fileHashes.empty()) json["sha256"] = model.fileHashes;
    json["parts"] = Json::array();
    for (const auto& part : model.parts) json["parts"].push_back(ids.at(part.get()));
    json["places"] = Json::array();
    for (const Occurrence& o : model.occurrences) {
        Json one{{"part", o.part}, {"name", o.name}, {"placement", toJson(o.placement)}};
        if (!o.path.empty()) one["path"] = o.path;
        if (o.colour) one["colour"] = toJson(*o.colour);
        if (o.aside) one["aside"] = true;
        one["id"] = o.id;
        json["places"].push_back(std::move(one));
    }
    for (const MirrorPair& pair : model.mirrors)
        json["mirrorPairs"].push_back(
            Json{{"original", pair.original}, {"image", pair.image}, {"across", toJson(pair.across)}});
    for (const Group& group : model.groups) json["groups"].push_back(rasoir::toJson(group));
    for (const Joint& joint : model.joints) json["joints"].push_back(rasoir::toJson(joint));
    for (const Pairing& pairing : model.pairings) json["pairings"].push_back(rasoir::toJson(pairing));
    json["nextId"] = model.nextId;
    return json;
}

/// [[before, after, flags], ...]: 1 for changed, 2 for reversed.
Json toJson(const std::vector<PartLineage>& lineage) {
    Json json = Json::array();
    for (const PartLineage& own : lineage) {
        Json one{{"part", own.part}, {"into", own.into}};
        if (own.untouched) one["untouched"] = true;
        for (const EntityKind kind : entityKinds)
            for (const Link& link : own.of(kind))
                one[entityKindName(kind)].push_back(
                    {link.before, link.after, (link.changed ? 1 : 0) + (link.reversed ? 2 : 0)});
        json.push_back(std::move(one));
    }
    return json;
}

std::vector<PartLineage> lineageFrom(const Json& json) {
    std::vector<PartLineage> lineage;
    for (const Json& one : json) {
        PartLineage own{
            one.at("part").get<std::size_t>(), one.at("into").get<std::size_t>(), one.value("untouched", false), {}};
        for (const EntityKind kind : entityKinds)
            for (const Json& link : one.value(entityKindName(kind), Json::array())) {
                const auto v = link.get<std::array<int, 3>>();
                own.of(kind).push_back({v[0], v[1], (v[2] & 1) != 0, (v[2] & 2) != 0});
            }
        lineage.push_back(std::move(own));
    }
    return lineage;
}

Model modelFrom(const Json& json, const std::map<std::size_t, std::shared_ptr<const Part>>& parts) {
    Model model;
    model.name = json.value("name", "");
    model.targetSize = json.value("targetSize_mm", 4.0);
    model.density = json.value("density_kg_m3", 7850.0);
    model.materials = json.value("materials", std::vector<Material>{});
    model.notes = json.value("notes", std::vector<std::string>{});
    model.fileHashes = json.value("sha256", std::vector<std::string>{});
    model.unitAssumed = json.value("unitAssumed", false);
    if (json.contains("unit")) model.fileUnit = unitFromName(json["unit"].get<std::string>());
    if (!(model.targetSize > 0.0) || !(model.density > 0.0))
        throw std::invalid_argument("its target size or density is absurd");
    for (const Json& id : json.at("parts")) {
        const auto found = parts.find(id.get<std::size_t>());
        if (found == parts.end())
            throw std::invalid_argument(fmt::format("its part number {} is damaged", id.get<std::size_t>()));
        model.parts.push_back(found->second);
    }
    for (const Json& one : json.at("places")) {
        Occurrence o;
        o.part = one.at("part").get<std::size_t>();
        if (o.part >= model.parts.size()) throw std::invalid_argument("a place belongs to no part");
        o.name = one.value("name", model.parts[o.part]->name);
        o.placement = placementFrom(one.at("placement"));
        o.path = one.value("path", std::vector<std::string>{});
        if (one.contains("colour")) o.colour = colourFrom(one["colour"]);
        o.aside = one.value("aside", false);
        o.id = one.value("id", PlaceId{0});
        model.occurrences.push_back(std::move(o));
    }
    for (const Json& one : json.value("mirrorPairs", Json::array())) {
        MirrorPair pair{one.at("original").get<std::size_t>(),
                        one.at("image").get<std::size_t>(),
                        placementFrom(one.at("across")),
                        {},
                        {}};
        if (pair.original >= model.parts.size() || pair.image >= model.parts.size())
            throw std::invalid_argument("a mirror image belongs to no part");
        pair.originalShape = model.parts[pair.original]->shape;
        pair.imageShape = model.parts[pair.image]->shape;
        model.mirrors.push_back(std::move(pair));
    }
    for (const Json& group : json.value("groups", Json::array())) model.groups.push_back(groupFromJson(group));
    for (const Json& joint : json.value("joints", Json::array())) model.joints.push_back(jointFromJson(joint));
    for (const Json& pairing : json.value("pairings", Json::array()))
        model.pairings.push_back(pairingFromJson(pairing));
    model.nextId = json.value("nextId", std::uint64_t{1});
    return model;
}

/// The states after each step, with their lineage.
Json statesJson(const std::vector<State>& after, const std::map<const Part*, std::size_t>& ids) {
    Json states = Json::array();
    for (const State& state : after) {
        states.push_back(toJson(*state.model, ids));
        if (state.lineage) states.back()["lineage"] = toJson(*state.lineage);
    }
    return states;
}

/// As many states as can be understood, at most one a step; the first that cannot is told.
std::vector<State> statesFrom(const Json& states, const std::map<std::size_t, std::shared_ptr<const Part>>& parts,
                              std::size_t steps, std::vector<std::string>& notes) {
    std::vector<State> after;
    for (const Json& one : states) {
        if (after.size() == steps) break;
        try {
            State state{std::make_shared<const Model>(modelFrom(one, parts)), nullptr};
            if (one.contains("lineage"))
                state.lineage = std::make_shared<const std::vector<PartLineage>>(lineageFrom(one["lineage"]));
            after.push_back(std::move(state));
        } catch (const std::exception& error) {
            notes.push_back(
                fmt::format("The state after step {} is damaged ({}); it and the later ones wait to be run again.",
                            after.size() + 1, error.what()));
            break;
        }
    }
    return after;
}

/// A zip being written: members are kept until it is closed.
class ZipWriter {
public:
    explicit ZipWriter(const fs::path& path) {
        int error = 0;
        m_zip = zip_open(path.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &error);
    }
    ~ZipWriter() {
        if (m_zip != nullptr) zip_discard(m_zip);
    }
    ZipWriter(const ZipWriter&) = delete;
    ZipWriter& operator=(const ZipWriter&) = delete;
    [[nodiscard]] bool isOpen() const { return m_zip != nullptr; }

    bool add(const std::string& name, std::string contents, bool compressed = true) {
        m_contents.push_back(std::make_unique<std::string>(std::move(contents)));
        zip_source_t* source = zip_source_buffer(m_zip, m_contents.back()->data(), m_contents.back()->size(), 0);
        if (source == nullptr) return false;
        const zip_int64_t index = zip_file_add(m_zip, name.c_str(), source, ZIP_FL_OVERWRITE | ZIP_FL_ENC_UTF_8);
        if (index < 0) {
            zip_source_free(source);
            return false;
        }
        return zip_set_file_compression(m_zip, static_cast<zip_uint64_t>(index),
                                        compressed ? ZIP_CM_DEFLATE : ZIP_CM_STORE, compressed ? 3 : 0) == 0;
    }
    /// The reason it could not be written; empty when it was.
    std::string close() {
        if (zip_close(m_zip) == 0) {
            m_zip = nullptr;
            return {};
        }
        std::string reason = zip_strerror(m_zip);
        return reason.empty() ? "the disk did not take it" : reason;
    }

private:
    zip_t* m_zip = nullptr;
    std::vector<std::unique_ptr<std::string>> m_contents;
};

class ZipReader {
public:
    explicit ZipReader(const fs::path& path) {
        int error = 0;
        m_zip = zip_open(path.c_str(), ZIP_RDONLY, &error);
    }
    ~ZipReader() {
        if (m_zip != nullptr) zip_discard(m_zip);
    }
    ZipReader(const ZipReader&) = delete;
    ZipReader& operator=(const ZipReader&) = delete;
    [[nodiscard]] bool isOpen() const { return m_zip != nullptr; }

    /// The member's contents; none when it is missing or fails its checksum.
    std::optional<std::string> read(const std::string& name) {
        zip_stat_t stat;
        if (m_zip == nullptr || zip_stat(m_zip, name.c_str(), 0, &stat) != 0 || (stat.valid & ZIP_STAT_SIZE) == 0 ||
            stat.size > largest)
            return std::nullopt;
        zip_file_t* file = zip_fopen(m_zip, name.c_str(), 0);
        if (file == nullptr) return std::nullopt;
        // Grown as it comes: a size that lies does not take the memory.
        std::string contents;
        std::array<char, 1 << 16> buffer{};
        zip_int64_t got = 0;
        while ((got = zip_fread(file, buffer.data(), buffer.size())) > 0)
            contents.append(buffer.data(), static_cast<std::size_t>(got));
        zip_fclose(file);
        if (got < 0 || contents.size() != stat.size) return std::nullopt;
        return contents;
    }

private:
    zip_t* m_zip = nullptr;
};

std::string dumped(const Json& json) {
    return json.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

/// The work with the variants that its file holds beside the one in hand; those that are damaged are left out, told.
Work withVariantsOf(const Work& work, ZipReader& zip, const std::map<std::size_t, std::shared_ptr<const Part>>& parts,
                    std::vector<std::string>& notes) {
    const auto text = zip.read("variants.json");
    const Json json = text ? Json::parse(*text, nullptr, false) : Json();
    std::vector<Variant> others;
    std::string name = work.variantNames().front();
    std::size_t position = 0;
    try {
        const std::size_t inHand = json.at("inHand").get<std::size_t>();
        const Json& list = json.at("variants");
        for (std::size_t v = 0; v < list.size(); ++v) {
            const std::string own = list[v].at("name").get<std::string>();
            if (v == inHand) {
                name = own;
                position = others.size();
                continue;
            }
            auto ledger = ledgerFromJson(list[v].at("ledger").dump());
            if (!ledger) {
                notes.push_back(fmt::format("The variant \"{}\" was left out: {}", own, sentence(ledger.error())));
                continue;
            }
            std::vector<State> after = statesFrom(list[v].at("states"), parts, ledger->steps.size(), notes);
            others.push_back({own, std::move(*ledger), std::move(after)});
        }
    } catch (const std::exception&) {
        notes.emplace_back("Its other variants are damaged; those that cannot be understood were left out.");
    }
    return work.withVariants(std::move(others), name, position);
}

}  // namespace

bool looksLikeWorkFile(const std::string& head) {
    return head.starts_with("PK\x03\x04");
}

Result<void> saveWork(const Work& work, const Json& view, const fs::path& path, Progress& progress) {
    std::map<const Part*, std::size_t> ids;
    std::vector<const Part*> parts;
    const auto collect = [&](const Model& model) {
        for (const auto& part : model.parts)
            for (const Part* one = part.get(); one != nullptr; one = one->standsFor.get())
                if (ids.emplace(one, parts.size()).second) parts.push_back(one);
    };
    collect(work.received());
    const std::size_t variants = work.variantNames().size();
    for (std::size_t v = 0; v < variants; ++v)
        for (const State& state : work.variantAt(v).after) collect(*state.model);
    return writeBeside(path, [&](const fs::path& beside) -> Result<void> {
        const std::scoped_lock lock(translatorLock());
        return guarded(fmt::format("Saving \"{}\"", path.filename().string()), [&]() -> Result<void> {
            ZipWriter zip(beside);
            const auto full = [](const std::string& why) { return fail(ProblemKind::Storage, why); };
            if (!zip.isOpen()) return full("the disk did not take it");
            bool fine = zip.add("ledger.json", dumped(rasoir::toJson(work.ledger())), false);
            fine = fine && zip.add("work.json",
                                   dumped(Json{{"format", "rasoir-work"}, {"version", variants > 1 ? ourVersion : 2}}));
            Json table = Json::array();
            // Parts of one shape (renamed, another material) share its file.
            std::map<const TopoDS_TShape*, std::size_t> shapes;
            for (std::size_t id = 0; id < parts.size() && fine; ++id) {
                if (progress.cancelled())
                    return fail(ProblemKind::Cancelled, "Saving was stopped; what was there before is untouched.");
                progress.report(0.9 * static_cast<double>(id) / static_cast<double>(parts.size()),
                                "Saving " + parts[id]->name);
                Json one = toJson(*parts[id]);
                if (parts[id]->standsFor) one["standsFor"] = ids.at(parts[id]->standsFor.get());
                const TopoDS_Shape& shape = parts[id]->shape;
                if (!shape.IsNull()) {
                    const bool plain = shape.Location().IsIdentity() && shape.Orientation() == TopAbs_FORWARD;
                    const auto [known, fresh] =
                        plain ? shapes.try_emplace(shape.TShape().get(), id) : std::pair(shapes.end(), true);
                    one["shape"] = fresh ? partFile(id) : partFile(known->second);
                    if (fresh) {
                        std::ostringstream out;
                        out.imbue(std::locale::classic());
                        BRepTools::Write(shape, out, false, false, TopTools_FormatVersion_CURRENT);
                        fine = zip.add(partFile(id), std::move(out).str());
                    }
                }
                table.push_back(std::move(one));
            }
            fine = fine && zip.add("parts.json", dumped(table));
            Json states = statesJson(work.variantAt(work.variant()).after, ids);
            states.insert(states.begin(), toJson(work.received(), ids));
            fine = fine && zip.add("states.json", dumped(states)) && zip.add("view.json", dumped(view));
            if (variants > 1) {
                Json others = Json::array();
                for (std::size_t v = 0; v < variants; ++v) {
                    const Variant variant = work.variantAt(v);
                    others.push_back({{"name", variant.name}});
                    if (v == work.variant()) continue;  // its ledger and states have members of their own
                    others.back()["ledger"] = rasoir::toJson(variant.ledger);
                    others.back()["states"] = statesJson(variant.after, ids);
                }
                fine = fine && zip.add("variants.json", dumped({{"inHand", work.variant()}, {"variants", others}}));
            }
            if (!fine) return full("the disk did not take it");
            const std::string why = zip.close();
            if (!why.empty()) return full(why);
            progress.report(1.0, "Saved");
            return {};
        });
    });
}

Result<Ledger> ledgerOfWorkFile(const fs::path& path) {
    if (ZipReader zip(path); zip.isOpen())
        if (const auto text = zip.read("ledger.json")) return ledgerFromJson(*text);
    // The directory at its end is lost: the first member stands at the very beginning, as it is.
    std::ifstream in(path, std::ios::binary);
    std::string head(std::size_t{64} << 20, '\0');
    in.read(head.data(), static_cast<std::streamsize>(head.size()));
    head.resize(static_cast<std::size_t>(std::max<std::streamsize>(0, in.gcount())));
    const std::size_t from = head.find("{\n"), to = head.find("\n}\n", from);
    if (!looksLikeWorkFile(head) || from == std::string::npos || to == std::string::npos)
        return fail(ProblemKind::BadInput,
                    fmt::format("\"{}\" is damaged, and its ledger is lost with it.", path.filename().string()),
                    "Open an older copy.");
    return ledgerFromJson(head.substr(from, to + 3 - from));
}

Result<Ledger> readLedger(const fs::path& path) {
    std::ifstream in(path, std::ios::binary);
    std::string head(4, '\0');
    in.read(head.data(), 4);
    return in && looksLikeWorkFile(head) ? ledgerOfWorkFile(path) : loadLedger(path);
}

Result<WorkFile> openWork(const fs::path& path, Progress& progress) {
    const std::string name = path.filename().string();
    const auto lost = [&](const std::string& why) -> tl::unexpected<Problem> {
        const auto ledger = ledgerOfWorkFile(path);
        return fail(
            ProblemKind::BadInput, fmt::format("\"{}\" is damaged: {}.", name, why),
            ledger
                ? fmt::format("Its ledger of {} can still be read: open \"{}\" and replay the ledger from this file.",
                              counted(ledger->steps.size(), "step"), fs::path(ledger->source).filename().string())
                : "Open an older copy.");
    };
    ZipReader zip(path);
    if (!zip.isOpen()) return lost("it is not complete");
    const auto about = zip.read("work.json"), ledgerText = zip.read("ledger.json"), partsText = zip.read("parts.json"),
               statesText = zip.read("states.json");
    if (!about) return lost("it lacks the page that says what it is");
    const Json header = Json::parse(*about, nullptr, false);
    if (header.is_discarded() || header.value("format", "") != "rasoir-work")
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" is a zip, but not one of ours.", name));
    if (header.value("version", 0) > ourVersion)
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" was written by a newer version of this program.", name),
                    "Open it with that version.");
    if (!ledgerText) return lost("its ledger does not pass its checksum");
    auto ledger = ledgerFromJson(*ledgerText);
    if (!ledger) return tl::unexpected(ledger.error());
    if (!partsText || !statesText) return lost("the list of its parts does not pass its checksum");
    WorkFile file;
    const std::scoped_lock lock(translatorLock());
    return guarded(fmt::format("Opening \"{}\"", name), [&]() -> Result<WorkFile> {
        std::map<std::size_t, std::shared_ptr<const Part>> parts;
        std::map<std::shared_ptr<Part>, std::size_t> standFor;  // a part's number
        std::map<std::string, std::optional<TopoDS_Shape>> shapes;
        std::size_t damaged = 0;
        const Json table = Json::parse(*partsText, nullptr, false), states = Json::parse(*statesText, nullptr, false);
        if (!table.is_array() || !states.is_array() || states.empty())
            return lost("the list of its parts cannot be understood");
        try {
            for (std::size_t id = 0; id < table.size(); ++id) {
                if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Opening was stopped.");
                progress.report(0.9 * static_cast<double>(id) / static_cast<double>(table.size()), "Opening " + name);
                const std::string stored = table[id].value("shape", "");
                TopoDS_Shape shape;
                if (!stored.empty()) {
                    auto [known, fresh] = shapes.try_emplace(stored);
                    if (fresh) {
                        if (const auto text = zip.read(stored)) {
                            std::istringstream in(*text);
                            known->second = readBrepShape(in);
                        }
                        damaged += !known->second.has_value();
                    }
                    if (!known->second) continue;
                    shape = *known->second;
                }
                auto part = std::make_shared<Part>(table[id].at("name").get<std::string>(), shape);
                fill(*part, table[id]);
                if (table[id].contains("standsFor")) standFor.emplace(part, table[id]["standsFor"].get<std::size_t>());
                parts.emplace(id, std::move(part));
            }
            // A solid stands for nothing itself, and a damaged file must not make a ring of parts.
            for (const auto& [part, id] : standFor)
                if (const auto solid = parts.find(id);
                    solid != parts.end() && std::none_of(standFor.begin(), standFor.end(), [&](const auto& other) {
                        return other.first == solid->second;
                    }))
                    part->standsFor = solid->second;
        } catch (const std::exception& error) {
            return lost(fmt::format("the list of its parts cannot be understood: {}", error.what()));
        }
        Model received;
        try {
            received = modelFrom(states[0], parts);
        } catch (const std::exception& error) {
            return lost(fmt::format("the model as received cannot be restored: {}", error.what()));
        }
        std::vector<State> after =
            statesFrom(Json(states.begin() + 1, states.end()), parts, ledger->steps.size(), file.notes);
        if (damaged > 0) file.notes.push_back(counted(damaged, "shape") + " in the file did not pass the checksum.");
        file.work = Work::restored(std::move(received), std::move(*ledger), std::move(after));
        if (header.value("version", 0) > 2) file.work = withVariantsOf(file.work, zip, parts, file.notes);
        if (const auto viewText = zip.read("view.json")) {
            const Json view = Json::parse(*viewText, nullptr, false);
            if (view.is_object())
                file.view = view;
            else
                file.notes.emplace_back("Its views are damaged and were left out.");
        } else {
            file.notes.emplace_back("Its views are damaged and were left out.");
        }
        progress.report(1.0, "Opened " + name);
        return std::move(file);
    });
}

}  // namespace rasoir::exchange
