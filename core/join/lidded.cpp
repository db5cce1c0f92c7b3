#include "join/lidded.h"

#include <fmt/format.h>

#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepClass3d_SolidClassifier.hxx>

#include "common/tolerance.h"
#include "model/places.h"

namespace rasoir::join {

Model withLids(const Model& model, const std::vector<TopoDS_Face>& lids, std::vector<std::size_t>& taken) {
    Model all = model;
    for (const std::size_t o : taken) {
        std::shared_ptr<const Part>& part = all.parts[all.occurrences[o].part];
        if (part == model.parts[model.occurrences[o].part])
            part = std::make_shared<Part>(part->name, BRepBuilderAPI_Copy(part->shape, false, false).Shape());
    }
    for (const TopoDS_Face& lid : lids) {
        Occurrence place;
        place.part = all.parts.size();
        place.name = "lid";
        all.parts.push_back(std::make_shared<Part>("lid", lid));
        taken.push_back(all.occurrences.size());
        all.occurrences.push_back(place);
    }
    return all;
}

Bnd_Box boxOf(const Model& model, const std::vector<std::size_t>& places) {
    Bnd_Box box;
    for (const std::size_t o : places) {
        Bnd_Box own;
        BRepBndLib::Add(model.parts[model.occurrences[o].part]->shape, own, false);
        if (!own.IsVoid()) box.Add(own.Transformed(model.occurrences[o].placement));
    }
    return box;
}

double largestPart(const Model& model, const std::vector<std::size_t>& places) {
    double largest = 0.0;
    for (const std::size_t o : places)
        if (const Bnd_Box box = boxOf(model, {o}); !box.IsVoid())
            largest = std::max(largest, std::sqrt(box.SquareExtent()));
    return largest;
}

Result<Bnd_Box> boxRoundSeed(const Model& model, const std::vector<std::size_t>& walls, const gp_Pnt& seed) {
    const Bnd_Box box = boxOf(model, walls);
    if (box.IsVoid()) return fail(ProblemKind::NotPossible, "There is no wall.", "Name solids or sheets.");
    if (box.IsOut(seed))
        return fail(ProblemKind::NotPossible, "The seed lies outside of all walls.", "Take a point or a face inside.",
                    {{}, {}, seed});
    return box;
}

Bnd_Box roomRound(const Bnd_Box& box) {
    Bnd_Box room = box;
    room.SetGap(0.0);
    room.Enlarge(0.05 * std::sqrt(box.SquareExtent()) + Tolerance::samePlace);
    return room;
}

std::set<std::size_t> sheetsAmong(const Model& model, const std::vector<std::size_t>& walls) {
    std::set<std::size_t> sheets;
    for (const std::size_t o : walls)
        if (model.parts[model.occurrences[o].part]->kind() != BodyKind::Solid) sheets.insert(o);
    return sheets;
}

Result<void> seedInTheAir(const Model& model, const std::vector<std::size_t>& walls, const RayField& field,
                          const gp_Pnt& seed, double least) {
    for (const std::size_t o : walls) {
        const Occurrence& place = model.occurrences[o];
        const Part& part = *model.parts[place.part];
        if (part.kind() != BodyKind::Solid) continue;
        BRepClass3d_SolidClassifier within(part.shape, seed.Transformed(place.placement.Inverted()), model.samePoint());
        if (within.State() == TopAbs_IN || within.State() == TopAbs_ON)
            return fail(ProblemKind::NotPossible,
                        fmt::format("The seed lies in the material of \"{}\".", placeName(model, o)),
                        "Take a point in the space itself.", {part.name, {}, seed});
    }
    if (const auto near = field.nearest(seed); near && near->distance < least)
        return fail(ProblemKind::NotPossible, "The seed lies on a wall or a lid.", "Take a point in the space itself.",
                    {{}, {}, seed});
    return {};
}

}  // namespace rasoir::join
