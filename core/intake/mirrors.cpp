#include "intake/mirrors.h"

#include <BRepBuilderAPI_Transform.hxx>

#include "model/lineage_builder.h"

namespace rasoir::intake {
namespace {

TopoDS_Shape mirrored(const TopoDS_Shape& shape, const gp_Trsf& across) {
    return BRepBuilderAPI_Transform(shape, across, true).Shape();
}

/// The image of `source` under the name and looks of `part`.
std::shared_ptr<const Part> imageOf(const Part& source, const Part& part, const gp_Trsf& across) {
    auto changed = part.copy();
    changed->setShape(mirrored(source.shape, across));
    changed->known = {};
    changed->meantOpen.clear();
    changed->sharpened.clear();
    changed->standsFor = nullptr;  // it was not mirrored
    changed->inherit(source, sameNumbering(source.incidence(), false), across);
    return changed;
}

}  // namespace

void pairMirrored(Model& model, std::size_t original, std::size_t image, const gp_Trsf& across) {
    model.parts[image] = imageOf(*model.parts[original], *model.parts[image], across);
    model.mirrors.push_back({original, image, across, model.parts[original]->shape, model.parts[image]->shape});
}

void followMirrors(Outcome& outcome) {
    Model& model = outcome.model;
    std::erase_if(model.mirrors, [&model](const MirrorPair& pair) {
        return model.parts[pair.original]->lump || model.parts[pair.image]->lump;
    });
    for (MirrorPair& pair : model.mirrors) {
        const bool fromOriginal = !model.parts[pair.original]->shape.IsPartner(pair.originalShape);
        if (!fromOriginal && model.parts[pair.image]->shape.IsPartner(pair.imageShape)) continue;
        const std::size_t changed = fromOriginal ? pair.original : pair.image;
        const std::size_t following = fromOriginal ? pair.image : pair.original;
        const Part& source = *model.parts[changed];
        model.parts[following] =
            imageOf(source, *model.parts[following], fromOriginal ? pair.across : pair.across.Inverted());
        pair.originalShape = model.parts[pair.original]->shape;
        pair.imageShape = model.parts[pair.image]->shape;
        std::erase_if(outcome.lineage, [following](const PartLineage& lineage) { return lineage.part == following; });
        const auto own = std::find_if(outcome.lineage.begin(), outcome.lineage.end(),
                                      [changed](const PartLineage& lineage) { return lineage.part == changed; });
        if (own != outcome.lineage.end()) {
            PartLineage same = *own;
            same.part = following;
            outcome.lineage.push_back(std::move(same));
        }
    }
}

}  // namespace rasoir::intake
