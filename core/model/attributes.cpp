#include "model/attributes.h"

#include <fmt/format.h>

#include <charconv>
#include <cmath>
#include <type_traits>

#include "common/tolerance.h"

namespace rasoir {

std::string hexText(const Colour& colour) {
    const auto level = [](double linear) {  // IEC 61966-2-1
        const double screen = linear <= 0.0031308 ? 12.92 * linear : 1.055 * std::pow(linear, 1.0 / 2.4) - 0.055;
        return static_cast<int>(std::lround(255.0 * std::clamp(screen, 0.0, 1.0)));
    };
    return fmt::format("#{:02x}{:02x}{:02x}", level(colour.red), level(colour.green), level(colour.blue));
}

namespace {

bool same(const gp_XYZ& a, const gp_XYZ& b) {
    return a.IsEqual(b, 1e-12);  // written and read again as text, a number keeps its digits
}

Json valueToJson(const Colour& colour) {
    return Json{colour.red, colour.green, colour.blue};
}
Json valueToJson(const std::string& text) {
    return text;
}
Json valueToJson(const AddedMass& value) {
    return Json{{value.perLength ? "kg_per_mm" : "kg_per_mm2", value.perMeasure}};
}
Json valueToJson(const Size& size) {
    return size.mm;
}
Json valueToJson(const Thickness& value) {
    Json json{{"at_mm", value.at}, {"from_mm", toJson(value.from.XYZ())}};
    if (value.gradient.SquareMagnitude() > 0.0) json["gradient"] = toJson(value.gradient.XYZ());
    if (value.offset != 0.0) json["offset_mm"] = value.offset;
    return json;
}
Json valueToJson(const Section& section) {
    Json json{{"shape", section.shape},
              {"sizes_mm", section.sizes},
              {"area_mm2", section.area},
              {"secondUp_mm4", section.secondUp},
              {"secondAcross_mm4", section.secondAcross},
              {"product_mm4", section.product},
              {"torsion_mm4", section.torsion},
              {"up", toJson(section.up.XYZ())},
              {"startOffset_mm", toJson(section.startOffset.XYZ())},
              {"endOffset_mm", toJson(section.endOffset.XYZ())}};
    if (!section.outline.empty()) json["outline_mm"] = section.outline;
    return json;
}
Json valueToJson(const Mark&) {
    return true;
}
Json valueToJson(RegionKind kind) {
    return regionKindName(kind);
}

double finite(const Json& json) {
    const double value = json.get<double>();
    if (!std::isfinite(value)) throw std::invalid_argument("a number is not finite");
    return value;
}

void valueFromJson(const Json& json, Colour& colour) {
    const gp_XYZ triple = tripleFromJson(json);
    colour = {triple.X(), triple.Y(), triple.Z()};
}
void valueFromJson(const Json& json, std::string& text) {
    text = json.get<std::string>();
}
void valueFromJson(const Json& json, Size& size) {
    size.mm = finite(json);
}
void valueFromJson(const Json& json, AddedMass& value) {
    value.perLength = json.contains("kg_per_mm");
    value.perMeasure = finite(json.at(value.perLength ? "kg_per_mm" : "kg_per_mm2"));
}
void valueFromJson(const Json& json, Thickness& value) {
    value.at = finite(json.at("at_mm"));
    value.from.SetXYZ(tripleFromJson(json.at("from_mm")));
    if (json.contains("gradient")) value.gradient.SetXYZ(tripleFromJson(json.at("gradient")));
    if (json.contains("offset_mm")) value.offset = finite(json.at("offset_mm"));
}
void valueFromJson(const Json& json, Section& section) {
    section.shape = json.at("shape").get<std::string>();
    for (const Json& size : json.at("sizes_mm")) section.sizes.push_back(finite(size));
    const auto number = [&json](const char* key) { return json.contains(key) ? finite(json.at(key)) : 0.0; };
    section.area = number("area_mm2");
    section.secondUp = number("secondUp_mm4");
    section.secondAcross = number("secondAcross_mm4");
    section.product = number("product_mm4");
    section.torsion = number("torsion_mm4");
    section.up.SetXYZ(tripleFromJson(json.at("up")));
    section.startOffset.SetXYZ(tripleFromJson(json.at("startOffset_mm")));
    section.endOffset.SetXYZ(tripleFromJson(json.at("endOffset_mm")));
    for (const Json& loop : json.value("outline_mm", Json::array())) {
        auto& corners = section.outline.emplace_back();
        for (const Json& corner : loop) corners.push_back({finite(corner.at(0)), finite(corner.at(1))});
    }
}
void valueFromJson(const Json&, Mark&) {}
void valueFromJson(const Json& json, RegionKind& kind) {
    const auto known = regionKindFromName(json.get<std::string>());
    if (!known) throw std::invalid_argument("a kind of region is unknown");
    kind = *known;
}

std::string entityName(const Entity& entity) {
    return fmt::format("{} {}", entityKindName(entity.kind), entity.number);
}

Entity entityFromName(const std::string& name) {
    for (const EntityKind kind : entityKinds) {
        const std::string start = std::string(entityKindName(kind)) + " ";
        int number = 0;
        if (name.starts_with(start)) {
            std::from_chars(name.data() + start.size(), name.data() + name.size(), number);
            if (number > 0) return {kind, number};
        }
    }
    throw std::invalid_argument(fmt::format("\"{}\" is no thing of a part", name));
}

}  // namespace

Json toJson(const gp_XYZ& triple) {
    return Json{triple.X(), triple.Y(), triple.Z()};
}

gp_XYZ tripleFromJson(const Json& json) {
    if (!json.is_array() || json.size() != 3) throw std::invalid_argument("three numbers are wanted");
    return {finite(json[0]), finite(json[1]), finite(json[2])};
}

bool operator==(const Thickness& a, const Thickness& b) {
    return a.at == b.at && a.offset == b.offset && same(a.from.XYZ(), b.from.XYZ()) &&
           same(a.gradient.XYZ(), b.gradient.XYZ());
}

bool operator==(const Section& a, const Section& b) {
    return a.shape == b.shape && a.sizes == b.sizes && a.area == b.area && a.secondUp == b.secondUp &&
           a.secondAcross == b.secondAcross && a.product == b.product && a.torsion == b.torsion &&
           same(a.up.XYZ(), b.up.XYZ()) && same(a.startOffset.XYZ(), b.startOffset.XYZ()) &&
           same(a.endOffset.XYZ(), b.endOffset.XYZ()) && a.outline == b.outline;
}

std::string regionKindName(RegionKind kind) {
    switch (kind) {
        case RegionKind::Solid:
            return "solid";
        case RegionKind::Fluid:
            return "fluid";
        case RegionKind::Porous:
            return "porous";
        case RegionKind::Void:
            return "void";
    }
    return "solid";
}

std::optional<RegionKind> regionKindFromName(const std::string& name) {
    for (const RegionKind kind : {RegionKind::Solid, RegionKind::Fluid, RegionKind::Porous, RegionKind::Void})
        if (regionKindName(kind) == name) return kind;
    return std::nullopt;
}

Thickness CarryRule<Thickness>::moved(const Thickness& value, const gp_Trsf& move) {
    const double scale = std::abs(move.ScaleFactor());
    Thickness now = value;
    now.at *= scale;
    now.offset *= scale;
    now.from.Transform(move);
    // A gradient is a length by a length: turned, not scaled.
    now.gradient.Transform(move);
    if (scale > 0.0) now.gradient /= scale;
    return now;
}

std::optional<Thickness> CarryRule<Thickness>::merged(const Thickness& a, const Thickness& b) {
    // One field of thickness may be told from two places.
    const double there = a.at + a.gradient.Dot(gp_Vec(a.from, b.from));
    const double size = Tolerance::rounding * std::max({std::abs(a.at), std::abs(b.at), Tolerance::noWay});
    const bool one = std::abs(there - b.at) <= size && std::abs(a.offset - b.offset) <= size &&
                     (a.gradient - b.gradient).Magnitude() <= Tolerance::rounding;
    return one ? std::optional(a) : std::nullopt;
}

Section CarryRule<Section>::moved(const Section& value, const gp_Trsf& move) {
    const double scale = std::abs(move.ScaleFactor());
    Section now = value;
    const double square = scale * scale;
    for (double& size : now.sizes) size *= scale;
    now.area *= square;
    for (double* second : {&now.secondUp, &now.secondAcross, &now.product, &now.torsion}) *second *= square * square;
    // In a mirror, along times up points the other way.
    const double across = move.IsNegative() ? -1.0 : 1.0;
    now.product *= across;
    for (auto& loop : now.outline) {
        for (auto& corner : loop) corner = {corner[0] * scale, corner[1] * scale * across};
        if (across < 0.0) std::reverse(loop.begin(), loop.end());
    }
    now.up.Transform(move);
    if (scale > 0.0) now.up /= scale;
    now.startOffset.Transform(move);
    now.endOffset.Transform(move);
    return now;
}

std::optional<Section> CarryRule<Section>::merged(const Section& a, const Section& b) {
    if (a.shape != b.shape || a.sizes != b.sizes ||
        !a.up.IsEqual(b.up, Tolerance::exactDirection, Tolerance::exactDirection))
        return std::nullopt;
    return a;
}

Size CarryRule<Size>::moved(const Size& value, const gp_Trsf& move) {
    return {value.mm * std::abs(move.ScaleFactor())};
}

void PartAttributes::inherit(const PartAttributes& from, const PartLineage& lineage, const gp_Trsf& move,
                             std::vector<AttributeLoss>* losses) {
    std::array<std::optional<Descents>, 4> relation;
    const auto heirsOf = [&](const Entity& entity) -> std::vector<Link> {
        if (lineage.untouched) return {{entity.number, entity.number, false, false}};
        auto& own = relation[static_cast<std::size_t>(entity.kind)];
        if (!own) own.emplace(lineage.of(entity.kind));
        const auto heirs = own->heirsOf(entity.number);
        return {heirs.begin(), heirs.end()};
    };
    each([&](const char* name, auto attribute) {
        auto& mine = this->*attribute;
        using Value = typename std::decay_t<decltype(mine)>::mapped_type;
        using Rule = CarryRule<Value>;
        for (const auto& [entity, value] : from.*attribute) {
            const auto heirs = heirsOf(entity);
            if (heirs.empty() && losses != nullptr) losses->push_back({name, entity, false});
            for (const Link& link : heirs) {
                Value now = Rule::moved(value, move);
                if (link.reversed) now = Rule::turned(now);
                const auto [known, fresh] = mine.try_emplace({entity.kind, link.after}, now);
                if (fresh) continue;
                if (const auto one = Rule::merged(known->second, now))
                    known->second = *one;
                else if (losses != nullptr)
                    losses->push_back({name, entity, true});  // the first one holds
            }
        }
    });
}

bool PartAttributes::isEmpty() const {
    bool empty = true;
    each([&](const char*, auto attribute) { empty = empty && (this->*attribute).empty(); });
    return empty;
}

Json toJson(const PartAttributes& attributes) {
    Json json = Json::object();
    PartAttributes::each([&](const char* name, auto attribute) {
        for (const auto& [entity, value] : attributes.*attribute) json[name][entityName(entity)] = valueToJson(value);
    });
    return json;
}

PartAttributes attributesFromJson(const Json& json) {
    PartAttributes attributes;
    PartAttributes::each([&](const char* name, auto attribute) {
        if (!json.contains(name)) return;
        for (const auto& [entity, value] : json.at(name).items())
            valueFromJson(value, (attributes.*attribute)[entityFromName(entity)]);
    });
    return attributes;
}

}  // namespace rasoir
