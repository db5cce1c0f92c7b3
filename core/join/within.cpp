#include "join/within.h"

#include "geometry/integrals.h"
#include "model/places.h"

namespace rasoir::join {

std::vector<SheetWithin> sheetsWithin(const arrange::Arrangement& all,
                                      const std::vector<std::optional<arrange::Chosen>>& bodies,
                                      const std::vector<double>& rank) {
    const auto solidAt = [&](int cell) {
        int solid = -1;
        for (const int input : all.cells[static_cast<std::size_t>(cell)].inputs)
            if (solid < 0 || rank[static_cast<std::size_t>(input)] < rank[static_cast<std::size_t>(solid)])
                solid = input;
        return solid;
    };
    std::map<std::size_t, Incidence> made;  // by input, of sheets that were made anew
    std::map<std::pair<std::size_t, std::size_t>, SheetWithin> found;
    for (std::size_t p = 0; p < all.pieces.size(); ++p) {
        const arrange::Piece& piece = all.pieces[p];
        const int solid = solidAt(piece.plusCell);
        if (solid < 0 || solid != solidAt(piece.minusCell)) continue;
        for (const arrange::Owner& owner : piece.owners) {
            const auto sheet = static_cast<std::size_t>(owner.input);
            // Where two bodies that both keep a cell meet, the piece is a face of theirs.
            if (owner.input == solid ||
                all.cells[static_cast<std::size_t>(piece.plusCell)].inputs.contains(owner.input) ||
                all.cells[static_cast<std::size_t>(piece.minusCell)].inputs.contains(owner.input))
                continue;
            int face = owner.number;
            TopoDS_Face shape = all.faceOf(owner);
            if (const auto& body = bodies[sheet]) {
                const auto known = body->faceOfPiece.find(static_cast<int>(p));
                if (known == body->faceOfPiece.end()) continue;
                face = known->second;
                shape = made.try_emplace(sheet, body->shape).first->second.face(face);
            }
            SheetWithin& own = found[{sheet, static_cast<std::size_t>(solid)}];
            own.sheet = sheet;
            own.solid = static_cast<std::size_t>(solid);
            if (own.faces.insert(face).second) own.area += areaOf(shape);
        }
    }
    std::vector<SheetWithin> sheets;
    for (auto& [pair, own] : found) sheets.push_back(std::move(own));
    return sheets;
}

std::string keepWithin(Model& model, std::size_t sheetPlace, const std::set<int>& faces, std::size_t solidPlace) {
    const Occurrence &sheet = model.occurrences[sheetPlace], &solid = model.occurrences[solidPlace];
    const std::string name = placeName(model, sheetPlace) + " in " + placeName(model, solidPlace);
    Group inner{name + ", sheet", "within", std::nullopt, {}, std::nullopt},
        outer{name + ", body", "within", std::nullopt, {}, std::nullopt};
    for (const int face : faces)
        inner.members.insert({model.parts[sheet.part]->id, sheet.id, {EntityKind::Face, face}});
    for (int b = 1; b <= model.parts[solid.part]->incidence().bodyCount(); ++b)
        outer.members.insert({model.parts[solid.part]->id, solid.id, {EntityKind::Body, b}});
    Pairing within;
    within.name = name;
    within.kind = PairingKind::Within;
    within.first = inner.name;
    within.second = outer.name;
    within.behaviour = "the body's elements share the sheet's nodes";
    putByName(model.pairings, std::move(within));
    putByName(model.groups, std::move(inner));
    putByName(model.groups, std::move(outer));
    return name;
}

}  // namespace rasoir::join
