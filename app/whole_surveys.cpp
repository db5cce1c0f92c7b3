#include "whole_surveys.h"

#include <QTimer>

#include "common/guard.h"
#include "model/places.h"
#include "survey/hidden.h"

namespace rasoir::app {

WholeSurveyBase::WholeSurveyBase(Session& session, QString doing, std::function<void()> again)
    : m_session(session), m_doing(std::move(doing)) {
    if (!again) again = [this] { request(); };
    connect(&session, &Session::changed, this, [this] { forget(); });
    connect(&session, &Session::finished, this, [this, again = std::move(again)] {
        if (m_wanted) QTimer::singleShot(0, this, again);
    });
}

void WholeSurveyBase::request() {
    if (m_session.isEmpty()) return;
    // A bench asks again as soon as the work has ended, and that is told before its result is put in place.
    const bool arriving = isRunning() && !isFound();
    m_wanted = !isFound() && !arriving;
    if (arriving) return;
    // Surveys of parts come first; when they have ended, this is asked again.
    if (isFound() || m_session.isBusy()) return;
    m_wanted = false;
    m_session.runBehind(m_doing, job());
    m_job = m_session.lastJob();
}

namespace {

/// Asks each part that takes part, and tells how far it is.
void eachPart(const Model& model, const char* doing, Progress& progress,
              const std::function<void(std::size_t part)>& look) {
    for (std::size_t p = 0; p < model.parts.size() && !progress.cancelled(); ++p) {
        if (model.isAside(p) || model.parts[p]->lump) continue;
        progress.report(static_cast<double>(p) / static_cast<double>(model.parts.size()), doing);
        look(p);
    }
}

Result<std::vector<join::Opening>> openingsOf(const Model& model, Progress& progress) {
    const auto places = placesMeant(model, {});
    if (!places) return tl::unexpected(places.error());
    auto found = join::findOpenings(model, *places, progress);
    if (found)
        if (auto told = join::tellInner(model, *places, *found, progress); !told) return tl::unexpected(told.error());
    return found;
}

Result<std::map<std::size_t, std::vector<reduce::Wall>>> wallsOf(const Model& model, Progress& progress) {
    std::map<std::size_t, std::vector<reduce::Wall>> all;
    eachPart(model, "Looking for walls", progress, [&](std::size_t p) {
        if (model.parts[p]->kind() != BodyKind::Solid) return;
        if (auto found = reduce::findWalls(*model.parts[p], 0.0, 0.0, progress)) all.emplace(p, std::move(*found));
    });
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped.");
    return all;
}

Result<std::vector<reduce::Slender>> barsOf(const Model& model, Progress& progress) {
    std::vector<reduce::Slender> all;
    eachPart(model, "Looking for slender bodies", progress, [&](std::size_t p) {
        if (auto found = reduce::findBars(model, p, 5.0, progress))
            for (reduce::Slender& bar : *found) all.push_back(std::move(bar));
    });
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped.");
    return all;
}

Result<std::vector<Proven>> proofsOf(const Work& work, Progress& progress) {
    std::vector<Proven> all;
    const auto standIns = reduce::standIns(work);
    for (const reduce::StandIn& one : standIns) {
        progress.report(static_cast<double>(all.size()) / static_cast<double>(standIns.size()),
                        "Holding sheets against their solids");
        auto proof = reduce::proofOf(work.current(), one, progress);
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped.");
        all.push_back(
            {one, std::move(proof),
             std::make_shared<const reduce::DrawnBody>(reduce::drawnBodyOf(work.current(), one, 1e-3, progress))});
    }
    return all;
}

Result<std::vector<reduce::Flaw>> notFlushIn(const Model& model, Progress& progress) {
    std::vector<std::size_t> places;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o)
        if (!model.occurrences[o].aside && model.parts[model.occurrences[o].part]->kind() == BodyKind::Sheet)
            places.push_back(o);
    return reduce::findNotFlush(model, places, 2.0 * model.targetSize, progress);
}

/// A mesh, or why there is none; only being stopped is no answer.
Result<Result<WholeSurveys::MeshPointer>> meshed(const Model& model, const std::vector<std::size_t>& parts, double size,
                                                 Progress& progress) {
    mesh::SizeRules rules;
    rules.target = size;
    auto made = mesh::makeTrialMesh(model, parts, rules, progress);
    if (!made && made.error().kind == ProblemKind::Cancelled) return tl::unexpected(made.error());
    if (!made) return Result<WholeSurveys::MeshPointer>(tl::unexpected(made.error()));
    return Result<WholeSurveys::MeshPointer>(std::make_shared<const mesh::TrialMesh>(std::move(*made)));
}

/// Where a flow begins: a point before the face that was picked, among the bodies that hold it.
struct FlowBegin {
    std::vector<std::size_t> walls;
    gp_Pnt seed;
};
Result<FlowBegin> flowBegin(const FlowWish& wish, const Model& model, Progress& progress) {
    FlowBegin from{wish.walls, {}};
    if (from.walls.empty()) {
        auto all = placesMeant(model, {});
        if (!all) return tl::unexpected(all.error());
        from.walls = std::move(*all);
    }
    const auto seed = join::pointBefore(model, wish.place, wish.face, from.walls, progress);
    if (!seed)
        return fail(ProblemKind::NotPossible, "Something lies on all of that face.",
                    "Pick another face that the fluid wets.");
    from.seed = *seed;
    return from;
}

std::vector<TopoDS_Face> lidsOf(const FlowWish& wish, const Model& model, const std::vector<join::Opening>& openings) {
    std::vector<TopoDS_Face> lids;
    for (const std::size_t l : wish.lids)
        if (l < openings.size()) lids.push_back(openings[l].lid);
    for (const auto& loop : wish.byHand)
        if (const auto opening = join::openingOf(model, loop)) lids.push_back(opening->lid);
    return lids;
}

/// A refusal is an answer; only what was stopped is none.
template <class Report>
Result<Result<Report>> answered(Result<Report> found) {
    if (!found && found.error().kind == ProblemKind::Cancelled) return tl::unexpected(found.error());
    return found;
}

}  // namespace

WholeSurveys::WholeSurveys(Session& session)
    : inner(session, "Looking for inner parts",
            [](const Model& model, Progress& progress) {
                return guarded("Looking for inner parts", [&] { return survey::hiddenPlaces(model, progress); });
            }),
      contacts(session, "Looking for contacts",
               [](const Model& model, Progress& progress) {
                   return join::findContacts(model, join::ContactSearch::everything(model.targetSize), progress);
               }),
      openings(session, "Looking for openings", openingsOf),
      reach(
          session, "Looking for what is reached",
          [this] {
              return [wish = m_flowWish, lids = lidsOf(m_flowWish, m_session.model(), *openings.found())](
                         const Model& model, Progress& progress) -> Result<Result<join::ReachReport>> {
                  const auto from = flowBegin(wish, model, progress);
                  return answered(from ? join::findReach(model, from->walls, lids, from->seed, progress)
                                       : Result<join::ReachReport>(tl::unexpected(from.error())));
              };
          },
          [this] { lookAtFlow(m_flowWish); }),
      leaks(
          session, "Looking for leaks",
          [this] {
              return [wish = m_flowWish, lids = lidsOf(m_flowWish, m_session.model(), *openings.found())](
                         const Model& model, Progress& progress) -> Result<Result<join::LeakReport>> {
                  const auto from = flowBegin(wish, model, progress);
                  return answered(
                      from ? join::findLeaks(model, from->walls, lids, from->seed, join::finestLeak(model), progress)
                           : Result<join::LeakReport>(tl::unexpected(from.error())));
              };
          },
          [this] { lookAtFlow(m_flowWish); }),
      walls(session, "Looking for walls", wallsOf),
      bars(session, "Looking for slender bodies", barsOf),
      proofs(session, "Holding sheets against their solids",
             [this] {
                 return
                     [work = m_session.work()](const Model&, Progress& progress) { return proofsOf(work, progress); };
             },
             {}),
      symmetries(
          session, "Looking for symmetries",
          [this] {
              return [places = m_symmetricPlaces](const Model& model, Progress& progress) {
                  return survey::findSymmetries(model, places, 0.01 * model.targetSize, progress);
              };
          },
          [this] { askSymmetries(m_symmetricPlaces); }),
      layers(session, "Looking for layers",
             [](const Model& model, Progress& progress) { return divide::findLayers(model, progress); }),
      smallBeside(session, "Looking for what could be one",
                  [](const Model& model, Progress& progress) {
                      return divide::findSmallBeside(model, model.targetSize, progress);
                  }),
      check(session, "Checking",
            [](const Model& model, Progress& progress) { return handover::check(model, progress); }),
      notFlush(session, "Looking for what is not flush", notFlushIn),
      stiffeners(session, "Looking for beams along sheets",
                 [](const Model& model, Progress& progress) {
                     return reduce::findBeamsOnSheets(model, join::safeLimit(model).mm, progress);
                 }),
      bolts(session, "Looking for bolts",
            [](const Model& model, Progress& progress) { return join::findBolts(model, progress); }),
      welds(session, "Looking for lines to weld",
            [](const Model& model, Progress& progress) { return join::findWelds(model, {}, {}, progress); }),
      mesh(
          session, "Making a trial mesh",
          [this] {
              return [parts = m_meshParts](const Model& model, Progress& progress) {
                  return meshed(model, parts, model.targetSize, progress);
              };
          },
          [this] { askMesh(); }),
      meshReceived(session, "Meshing the model as received",
                   [this] {
                       return [received = m_session.work().received()](const Model& model, Progress& progress) {
                           return meshed(received, {}, model.targetSize, progress);
                       };
                   },
                   {}),
      m_session(session) {}

void WholeSurveys::lookAtFlow(const FlowWish& wish) {
    if (wish != m_flowWish) {
        // What is being looked for is of another wish: its answer must not be taken for this one's.
        if (reach.isRunning() || leaks.isRunning()) return;
        reach.forget();
        leaks.forget();
        m_flowWish = wish;
    }
    if (!openings.found()) return;
    reach.request();
    if (reach.found()) leaks.request();
}

void WholeSurveys::askSymmetries(const std::set<std::size_t>& places) {
    if (places != m_symmetricPlaces) {
        // As above.
        if (symmetries.isRunning()) return;
        symmetries.forget();
        m_symmetricPlaces = places;
    }
    symmetries.request();
}

void WholeSurveys::askMesh() {
    if (meshProblem() != nullptr) mesh.forget();  // asked once more, perhaps of other parts
    if (!mesh.isWanted() && !mesh.found()) {
        const auto selected = m_session.places().selectedParts();
        m_meshParts.assign(selected.begin(), selected.end());
    }
    mesh.request();
}

}  // namespace rasoir::app
