#include "shave/on_surfaces.h"

#include <fmt/format.h>

#include "geometry/integrals.h"
#include "survey/rounds.h"

namespace rasoir::shave {
namespace {

using Surface = Handle(Geom_Surface);

/// Faces of a part on new surfaces.
Result<OnSurfaces> resurfaced(const Part& part, const std::map<int, Surface>& surfaces, double tolerance,
                              const SurfaceObjection& objection) {
    auto made = heal::resurface(part, surfaces, tolerance);
    if (!made) return tl::unexpected(made.error());
    if (objection)
        if (const auto why = objection(*made)) return impossible(part, surfaces.begin()->first, *why);
    auto fresh = part.withShape(made->shape, made->lineage);
    return OnSurfaces{{std::move(fresh), std::move(made->lineage)}, made->moved};
}

/// The same where rounds rest on those faces: they are taken off, and put back when the faces have moved.
Result<OnSurfaces> resurfacedUnderRounds(const Part& part, const std::map<int, Surface>& surfaces, double tolerance,
                                         const SurfaceObjection& objection, Progress& progress) {
    auto all = survey::findStrips(part, 1.0, progress);
    if (!all) return tl::unexpected(all.error());
    std::vector<survey::StripChain> resting;
    for (survey::StripChain& chain : *all) {
        const auto rests =
            std::any_of(chain.along.begin(), chain.along.end(), [&](int f) { return surfaces.contains(f); });
        const auto moves =
            std::any_of(chain.faces.begin(), chain.faces.end(), [&](int f) { return surfaces.contains(f); });
        if (chain.kind == survey::StripKind::Round && rests && !moves) resting.push_back(std::move(chain));
    }
    if (resting.empty()) return fail(ProblemKind::NotPossible, "No round rests on it.");
    auto sharp = withoutRounds(part, resting, tolerance, progress);
    if (!sharp) return tl::unexpected(sharp.error());
    std::map<int, Surface> now;
    for (const Link& link : sharp->made.lineage.faces())
        if (const auto own = surfaces.find(link.before); own != surfaces.end() && link.after > 0)
            now.emplace(link.after, own->second);
    if (now.empty()) return fail(ProblemKind::NotPossible, "It would vanish with its rounds.");
    auto moved = resurfaced(*sharp->made.part, now, tolerance, objection);
    if (!moved) return moved;
    std::map<int, double> edges;
    for (const Link& link : moved->made.lineage.edges())
        if (const auto own = sharp->edges.find(link.before); own != sharp->edges.end() && link.after > 0)
            edges.emplace(link.after, own->second);
    auto round = edges.size() == sharp->edges.size()
                     ? rounded(*moved->made.part, edges)
                     : fail(ProblemKind::NotPossible, "Its rounds could not be put back.");
    if (!round) return tl::unexpected(round.error());
    return OnSurfaces{then(then(sharp->made, std::move(moved->made)), std::move(*round)), moved->moved};
}

}  // namespace

tl::unexpected<Problem> impossible(const Part& part, int face, const std::string& why) {
    return fail(ProblemKind::NotPossible, fmt::format("Face {} of \"{}\" {}.", face, part.name, why),
                "Choose another face.", {part.name, {face}, skinOf(part.incidence().face(face)).centre});
}

Result<OnSurfaces> onSurfaces(const Part& part, const std::map<int, Surface>& surfaces, double tolerance,
                              const SurfaceObjection& objection, Progress* withRounds) {
    auto made = resurfaced(part, surfaces, tolerance, objection);
    if (made || withRounds == nullptr) return made;
    auto under = resurfacedUnderRounds(part, surfaces, tolerance, objection, *withRounds);
    // Where no place is told, the plain way says best what is in the way.
    if (!under && under.error().where.faces.empty()) return made;
    return under;
}

}  // namespace rasoir::shave
