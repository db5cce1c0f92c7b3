#include "divide/parted.h"

#include <BRep_Builder.hxx>
#include <TopoDS_Compound.hxx>

#include "arrange/choice.h"
#include "model/lineage_builder.h"
#include "model/on_purpose.h"

namespace rasoir::divide {

Result<Parted> putTogether(const Part& part, const arrange::Arrangement& all) {
    std::vector<arrange::Chosen> chosen;
    const auto cells = arrange::cellsIn(all, 0);
    if (!cells.empty()) {
        auto solids = arrange::solidsOf(all, cells);
        if (!solids) return tl::unexpected(solids.error());
        chosen.push_back(std::move(*solids));
    }
    auto sheets = arrange::sheetsOf(all, 0, {});
    if (!sheets) return tl::unexpected(sheets.error());
    for (arrange::Chosen& sheet : *sheets) chosen.push_back(std::move(sheet));
    const Incidence& before = part.incidence();
    const BRep_Builder builder;
    TopoDS_Compound bag;
    builder.MakeCompound(bag);
    int count = 0;
    TopoDS_Shape only;
    const auto put = [&](const TopoDS_Shape& shape) {
        builder.Add(bag, shape);
        only = shape;
        ++count;
    };
    for (const arrange::Chosen& one : chosen) {
        const Incidence now(one.shape);
        for (int b = 1; b <= now.bodyCount(); ++b) put(now.body(b));
    }
    for (int b = 1; b <= before.bodyCount(); ++b)
        if (const auto kind = before.body(b).ShapeType();
            kind == TopAbs_WIRE || kind == TopAbs_EDGE || kind == TopAbs_VERTEX)
            put(before.body(b));
    const TopoDS_Shape shape = count == 1 ? only : TopoDS_Shape(bag);
    LineageBuilder lineage(before, shape);
    Parted parted;
    const Incidence after(shape);
    for (const arrange::Chosen& one : chosen) {
        const Incidence now(one.shape);
        const auto own = one.lineage.find(0);
        if (own == one.lineage.end()) continue;
        for (const Link& link : own->second.faces())
            lineage.face(link.before, now.face(link.after), link.changed, link.reversed);
        for (const Link& link : own->second.edges())
            lineage.edge(link.before, now.edge(link.after), link.changed, link.reversed);
        for (const auto& [p, face] : one.faceOfPiece)
            if (!all.pieces[p].whole)
                parted.pieces.emplace_back(after.faceNumber(now.face(face)), all.pieces[p].inside);
    }
    parted.lineage = lineage.finish();
    auto made = part.withShape(shape, parted.lineage)->copy();
    markParted(*made, parted.lineage);
    parted.part = std::move(made);
    return parted;
}

void replacePart(Outcome& outcome, std::size_t index, Parted parted) {
    parted.lineage.part = index;
    outcome.model.parts[index] = std::move(parted.part);
    outcome.lineage.push_back(std::move(parted.lineage));
}

std::optional<Problem> badNumber(std::initializer_list<double> values) {
    for (const double value : values)
        if (!std::isfinite(value) || std::abs(value) > 1e9)
            return Problem{
                ProblemKind::BadInput, "A number is beyond any machine.", {}, "Lengths go up to 1 000 000 m."};
    return std::nullopt;
}

}  // namespace rasoir::divide
