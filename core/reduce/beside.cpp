#include "reduce/beside.h"

#include "model/places.h"

namespace rasoir::reduce {

std::shared_ptr<Part> remade(const Part& part, const TopoDS_Shape& shape, const PartLineage& lineage) {
    auto fresh = part.copy();
    fresh->setShape(shape);
    fresh->known = {};
    fresh->meantOpen.clear();
    fresh->sharpened.clear();
    fresh->inherit(part, lineage, gp_Trsf());
    return fresh;
}

std::size_t addBeside(Outcome& outcome, std::size_t p, const TopoDS_Shape& shape, PartLineage&& lineage,
                      const std::string& name) {
    Model& model = outcome.model;
    const std::size_t fresh = model.parts.size();
    auto beside = remade(*model.parts[p], shape, lineage);
    beside->id = 0;
    beside->name = freeName(model, name);
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        if (model.occurrences[o].part != p) continue;
        Occurrence place = model.occurrences[o];
        place.part = fresh;
        place.name = beside->name;
        place.id = 0;
        model.occurrences.insert(++o, std::move(place));
    }
    model.parts.push_back(std::move(beside));
    lineage.part = p;
    lineage.into = fresh;
    outcome.lineage.push_back(std::move(lineage));
    return fresh;
}

}  // namespace rasoir::reduce
