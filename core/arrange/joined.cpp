#include "arrange/joined.h"

// Bodies made from one arrangement have a thing in common where they were given the same piece, arc or node. Nothing is
// compared: that is the point of having arranged them together.

namespace rasoir::arrange {

std::vector<Shared> sharedBy(const Arrangement& all, const std::vector<std::optional<Chosen>>& bodies,
                             const std::vector<PlaceId>& places) {
    std::vector<Shared> shared;
    std::vector<std::unique_ptr<Incidence>> topology(bodies.size());
    for (std::size_t i = 0; i < bodies.size(); ++i)
        if (bodies[i]) topology[i] = std::make_unique<Incidence>(bodies[i]->shape);
    const auto share = [&](EntityKind kind, int source, auto numbersIn, double deviation, auto reversedIn) {
        Shared one{{kind, {}, deviation}, {}, source};
        for (std::size_t i = 0; i < bodies.size(); ++i) {
            if (!bodies[i]) continue;
            const auto& numbers = numbersIn(*bodies[i]);
            const auto number = numbers.find(source);
            if (number == numbers.end() || number->second == 0) continue;
            one.joint.uses.push_back({places[i], number->second, reversedIn(i, number->second)});
            one.users.push_back(i);
        }
        if (one.users.size() < 2) return;
        const bool first = one.joint.uses.front().reversed;
        for (JointUse& use : one.joint.uses) use.reversed = use.reversed != first;
        shared.push_back(std::move(one));
    };
    for (std::size_t p = 0; p < all.pieces.size(); ++p)
        share(
            EntityKind::Face, static_cast<int>(p), [](const Chosen& body) -> auto& { return body.faceOfPiece; },
            all.pieces[p].owners.size() > 1 ? all.widest : 0.0,
            [&](std::size_t i, int number) { return topology[i]->face(number).Orientation() == TopAbs_REVERSED; });
    for (std::size_t a = 0; a < all.arcs.size(); ++a)
        share(
            EntityKind::Edge, static_cast<int>(a), [](const Chosen& body) -> auto& { return body.edgeOfArc; },
            all.arcs[a].tolerance, [](std::size_t, int) { return false; });
    for (std::size_t n = 0; n < all.nodes.size(); ++n)
        share(
            EntityKind::Vertex, static_cast<int>(n), [](const Chosen& body) -> auto& { return body.vertexOfNode; },
            all.nodes[n].tolerance, [](std::size_t, int) { return false; });
    return shared;
}

}  // namespace rasoir::arrange
