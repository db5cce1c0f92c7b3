#include "model/model.h"

#include <Bnd_Box.hxx>
#include <BRepBndLib.hxx>
#include <set>
#include <TopExp_Explorer.hxx>

#include "common/tolerance.h"

namespace rasoir {

Part::Part(std::string partName, TopoDS_Shape partShape) : name(std::move(partName)), shape(std::move(partShape)) {}

BodyKind Part::kind() const {
    if (shape.IsNull()) return BodyKind::Empty;
    const bool solid = TopExp_Explorer(shape, TopAbs_SOLID).More();
    const bool sheet = TopExp_Explorer(shape, TopAbs_FACE, TopAbs_SOLID).More();
    const bool wire = TopExp_Explorer(shape, TopAbs_EDGE, TopAbs_FACE).More();
    if (solid + sheet + wire > 1) return BodyKind::Mixed;
    if (solid) return BodyKind::Solid;
    if (sheet) return BodyKind::Sheet;
    return wire ? BodyKind::Wire : BodyKind::Empty;
}

const Incidence& Part::incidence() const {
    std::call_once(m_derived->once, [this] { m_derived->incidence = std::make_unique<Incidence>(shape); });
    return *m_derived->incidence;
}

std::shared_ptr<const Part> Part::withShape(TopoDS_Shape changed, const PartLineage& lineage) const {
    auto part = std::make_shared<Part>(*this);
    part->setShape(std::move(changed));
    part->lump.reset();
    part->known = {};
    part->known.inherit(known, lineage, gp_Trsf());
    return part;
}

void Part::setShape(TopoDS_Shape changed) {
    shape = std::move(changed);
    m_derived = std::make_shared<Derived>();
}

void Part::inherit(const Part& from, const PartLineage& lineage, const gp_Trsf& move) {
    known.inherit(from.known, lineage, move);
    for (const gp_Pnt& point : from.meantOpen) meantOpen.push_back(point.Transformed(move));
    for (Sharpened corner : from.sharpened) {
        for (gp_Pnt& point : corner.along) point.Transform(move);
        corner.radius *= std::abs(move.ScaleFactor());
        sharpened.push_back(std::move(corner));
    }
}

std::optional<Colour> Part::colourOf(int face) const {
    const auto own = known.colours.find({EntityKind::Face, face});
    return own == known.colours.end() ? std::nullopt : std::optional(own->second);
}

std::size_t Part::faceColourCount() const {
    return static_cast<std::size_t>(std::count_if(known.colours.begin(), known.colours.end(),
                                                  [](const auto& one) { return one.first.kind == EntityKind::Face; }));
}

double Model::extent() const {
    Bnd_Box box;
    std::vector<Bnd_Box> boxes(parts.size());
    for (std::size_t p = 0; p < parts.size(); ++p)
        if (!parts[p]->shape.IsNull()) BRepBndLib::Add(parts[p]->shape, boxes[p], false);
    for (const Occurrence& occurrence : occurrences)
        if (!boxes[occurrence.part].IsVoid()) box.Add(boxes[occurrence.part].Transformed(occurrence.placement));
    if (box.IsVoid()) return 0.0;
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
    return std::max({high.X() - low.X(), high.Y() - low.Y(), high.Z() - low.Z()});
}

double Model::samePoint() const {
    constexpr double ofExtent = 1e-7, most = 1e-3;  // the reasons stand in the header
    return std::clamp(ofExtent * extent(), Tolerance::least, most);
}

void Model::giveIds() {
    // A part that is shared with an older model is never written to: it is copied when it needs an id.
    std::set<std::uint64_t> taken;
    const auto next = [this] { return nextId++; };
    for (const auto& part : parts) nextId = std::max(nextId, part->id + 1);
    for (const Occurrence& place : occurrences) nextId = std::max(nextId, place.id + 1);
    for (auto& part : parts) {
        if (part->id != 0 && taken.insert(part->id).second) continue;
        auto own = part->copy();
        own->id = next();
        taken.insert(own->id);
        part = std::move(own);
    }
    occurrences.changeWhere(
        [&taken](const Occurrence& place) { return place.id == 0 || !taken.insert(place.id).second; },
        [&](Occurrence& place) {
            place.id = next();
            taken.insert(place.id);
        });
}

std::optional<std::size_t> Model::partOf(PartId id) const {
    for (std::size_t p = 0; p < parts.size(); ++p)
        if (parts[p]->id == id) return p;
    return std::nullopt;
}

std::optional<std::size_t> Model::placeOf(PlaceId id) const {
    for (std::size_t o = 0; o < occurrences.size(); ++o)
        if (occurrences[o].id == id) return o;
    return std::nullopt;
}

void Model::dropUnusedParts() {
    std::vector<bool> used(parts.size(), false);
    for (const Occurrence& occurrence : occurrences) used[occurrence.part] = true;
    std::erase_if(mirrors, [&used](const MirrorPair& pair) { return !used[pair.original] || !used[pair.image]; });
    std::vector<std::size_t> order;
    for (std::size_t p = 0; p < parts.size(); ++p)
        if (used[p]) order.push_back(p);
    reorderParts(order);
}

void Model::reorderParts(const std::vector<std::size_t>& order) {
    std::vector<std::size_t> place(parts.size(), 0);
    std::vector<std::shared_ptr<const Part>> ordered;
    for (const std::size_t p : order) {
        place[p] = ordered.size();
        ordered.push_back(parts[p]);
    }
    parts = std::move(ordered);
    occurrences.changeWhere([&place](const Occurrence& one) { return one.part != place[one.part]; },
                            [&place](Occurrence& one) { one.part = place[one.part]; });
    for (MirrorPair& pair : mirrors) {
        pair.original = place[pair.original];
        pair.image = place[pair.image];
    }
}

const MirrorPair* Model::mirrorPairOf(std::size_t part) const {
    for (const MirrorPair& pair : mirrors)
        if (pair.original == part || pair.image == part) return &pair;
    return nullptr;
}

bool Model::isAside(std::size_t part) const {
    bool any = false;
    for (const Occurrence& occurrence : occurrences) {
        if (occurrence.part != part) continue;
        if (!occurrence.aside) return false;
        any = true;
    }
    return any;
}

std::optional<std::size_t> Model::partNamed(const std::string& wanted) const {
    std::optional<std::size_t> found;
    for (std::size_t p = 0; p < parts.size(); ++p)
        if (parts[p]->name == wanted) {
            if (found) return std::nullopt;
            found = p;
        }
    return found;
}

std::string bodyKindName(BodyKind kind) {
    switch (kind) {
        case BodyKind::Solid:
            return "solid";
        case BodyKind::Sheet:
            return "sheet";
        case BodyKind::Wire:
            return "wire";
        case BodyKind::Mixed:
            return "mixed";
        case BodyKind::Empty:
            return "empty";
    }
    return "unknown";
}

double suggestedTargetSize(const Model& model) {
    const double wanted = model.extent() / 100.0 * 1.001;
    if (!(wanted > 0.0)) return 4.0;
    const double decade = std::pow(10.0, std::floor(std::log10(wanted)));
    for (const double step : {5.0, 2.0})
        if (wanted >= step * decade) return step * decade;
    return decade;
}

}  // namespace rasoir
