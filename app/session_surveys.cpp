// The surveys of a session that are made when somebody asks for them: of the whole model, in the background, once for
// the model shown. What is asked for while something else runs is asked for again when that has ended.
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "mesh/mesh_files.h"
#include "model/places.h"
#include "session.h"
#include "survey/hidden.h"

namespace rasoir::app {

void Session::requestInnerPlaces() {
    if (m_inner || isEmpty()) return;
    start("Looking for inner parts", [this, model = model()](Progress& progress) -> Finish {
        auto found = guarded("Looking for inner parts", [&] { return survey::hiddenPlaces(model, progress); });
        return [this, found = std::move(found)]() mutable {
            if (!found) return;
            m_inner = std::move(*found);
            emit knowledgeChanged();
        };
    });
}

template <class Found>
void Session::request(WholeSurvey<Found>& survey, const QString& doing,
                      std::function<Result<Found>(const Model&, Progress&)> look, void (Session::*signal)()) {
    if (isEmpty()) return;
    // A bench asks again as soon as the work has ended, and that is told before its result is put in place.
    const bool arriving = survey.job == m_job && !survey.found;
    survey.wanted = !survey.found && !arriving;
    if (arriving) return;
    // Surveys of parts come first; when they have ended, this is asked again.
    if (survey.found || isBusy()) return;
    survey.wanted = false;
    start(
        doing,
        [this, &survey, look = std::move(look), signal, model = model()](Progress& progress) -> Finish {
            auto found = look(model, progress);
            return [this, &survey, signal, found = std::move(found)]() mutable {
                survey.job = 0;
                if (!found) return;
                survey.found = std::move(*found);
                emit(this->*signal)();
            };
        },
        Kind::Background);
    survey.job = m_job;
}

void Session::requestContacts() {
    request<join::ContactReport>(
        m_contacts, "Looking for contacts",
        [](const Model& model, Progress& progress) {
            return join::findContacts(model, join::ContactSearch::everything(model.targetSize), progress);
        },
        &Session::contactsChanged);
}

void Session::requestOpenings() {
    request<std::vector<join::Opening>>(
        m_openings, "Looking for openings",
        [](const Model& model, Progress& progress) -> Result<std::vector<join::Opening>> {
            const auto places = placesMeant(model, {});
            if (!places) return tl::unexpected(places.error());
            auto found = join::findOpenings(model, *places, progress);
            if (found)
                if (auto told = join::tellInner(model, *places, *found, progress); !told)
                    return tl::unexpected(told.error());
            return found;
        },
        &Session::openingsChanged);
}

void Session::requestFlowLook(const FlowWish& wish) {
    if (wish != m_flowWish) {
        // What is being looked for is of another wish: its answer must not be taken for this one's.
        for (const std::uint64_t job : {m_reach.job, m_leaks.job})
            if (job != 0 && job == m_job) return;
        m_reach.found.reset();
        m_leaks.found.reset();
        m_flowWish = wish;
    }
    if (!m_openings.found) return;
    std::vector<TopoDS_Face> lids;
    for (const std::size_t l : wish.lids)
        if (l < m_openings.found->size()) lids.push_back((*m_openings.found)[l].lid);
    for (const auto& loop : wish.byHand)
        if (const auto opening = join::openingOf(model(), loop)) lids.push_back(opening->lid);
    struct Begin {
        std::vector<std::size_t> walls;
        gp_Pnt seed;
    };
    const auto begin = [wish](const Model& model, Progress& progress) -> Result<Begin> {
        Begin from{wish.walls, {}};
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
    };
    // Only what was stopped is no answer.
    const auto answered = [](auto found) -> Result<decltype(found)> {
        if (!found && found.error().kind == ProblemKind::Cancelled) return tl::unexpected(found.error());
        return found;
    };
    using Reach = Result<join::ReachReport>;
    request<Reach>(
        m_reach, "Looking for what is reached",
        [=](const Model& model, Progress& progress) -> Result<Reach> {
            const auto from = begin(model, progress);
            if (!from) return answered(Reach(tl::unexpected(from.error())));
            return answered(join::findReach(model, from->walls, lids, from->seed, progress));
        },
        &Session::reachChanged);
    using Leaks = Result<join::LeakReport>;
    if (!m_reach.found) return;
    request<Leaks>(
        m_leaks, "Looking for leaks",
        [=](const Model& model, Progress& progress) -> Result<Leaks> {
            const auto from = begin(model, progress);
            if (!from) return answered(Leaks(tl::unexpected(from.error())));
            return answered(join::findLeaks(model, from->walls, lids, from->seed, join::finestLeak(model), progress));
        },
        &Session::leaksChanged);
}

void Session::requestBars() {
    using Bars = std::vector<reduce::Slender>;
    request<Bars>(
        m_bars, "Looking for slender bodies",
        [](const Model& model, Progress& progress) -> Result<Bars> {
            Bars all;
            for (std::size_t p = 0; p < model.parts.size(); ++p) {
                if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped.");
                if (model.isAside(p) || model.parts[p]->lump) continue;
                progress.report(static_cast<double>(p) / static_cast<double>(model.parts.size()),
                                "Looking for slender bodies");
                if (auto found = reduce::findBars(model, p, 5.0, progress))
                    for (reduce::Slender& bar : *found) all.push_back(std::move(bar));
            }
            return all;
        },
        &Session::barsChanged);
}

void Session::requestProofs() {
    using Proofs = std::vector<Proven>;
    request<Proofs>(
        m_proofs, "Holding sheets against their solids",
        [work = work()](const Model&, Progress& progress) -> Result<Proofs> {
            Proofs all;
            const auto standIns = reduce::standIns(work);
            for (const reduce::StandIn& one : standIns) {
                progress.report(static_cast<double>(all.size()) / static_cast<double>(standIns.size()),
                                "Holding sheets against their solids");
                auto proof = reduce::proofOf(work.current(), one, progress);
                if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped.");
                all.push_back({one, std::move(proof),
                               std::make_shared<const reduce::DrawnBody>(
                                   reduce::drawnBodyOf(work.current(), one, 1e-3, progress))});
            }
            return all;
        },
        &Session::proofsChanged);
}

void Session::requestWalls() {
    using Walls = std::map<std::size_t, std::vector<reduce::Wall>>;
    request<Walls>(
        m_walls, "Looking for walls",
        [](const Model& model, Progress& progress) -> Result<Walls> {
            Walls all;
            for (std::size_t p = 0; p < model.parts.size(); ++p) {
                if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped.");
                if (model.isAside(p) || model.parts[p]->lump || model.parts[p]->kind() != BodyKind::Solid) continue;
                progress.report(static_cast<double>(p) / static_cast<double>(model.parts.size()), "Looking for walls");
                if (auto found = reduce::findWalls(*model.parts[p], 0.0, 0.0, progress))
                    all.emplace(p, std::move(*found));
            }
            return all;
        },
        &Session::wallsChanged);
}

void Session::requestLayers() {
    request<std::vector<divide::BodyLayers>>(
        m_layers, "Looking for layers",
        [](const Model& model, Progress& progress) { return divide::findLayers(model, progress); },
        &Session::layersChanged);
}

void Session::requestSmallBeside() {
    request<std::vector<divide::SmallBeside>>(
        m_smallBeside, "Looking for what could be one",
        [](const Model& model, Progress& progress) {
            return divide::findSmallBeside(model, model.targetSize, progress);
        },
        &Session::smallBesideChanged);
}

void Session::requestSymmetries(const std::set<std::size_t>& places) {
    if (places != m_symmetricPlaces) {
        // What is being looked for is of other places: its answer must not be taken for these.
        if (m_symmetries.job != 0 && m_symmetries.job == m_job) return;
        m_symmetries.found.reset();
        m_symmetricPlaces = places;
    }
    request<std::vector<survey::Symmetry>>(
        m_symmetries, "Looking for symmetries",
        [places](const Model& model, Progress& progress) {
            return survey::findSymmetries(model, places, 0.01 * model.targetSize, progress);
        },
        &Session::symmetriesChanged);
}

void Session::requestCheck() {
    request<std::vector<handover::CheckFinding>>(
        m_check, "Checking", [](const Model& model, Progress& progress) { return handover::check(model, progress); },
        &Session::checkChanged);
}

void Session::requestWelds() {
    request<join::WeldPlan>(
        m_welds, "Looking for lines to weld",
        [](const Model& model, Progress& progress) { return join::findWelds(model, {}, {}, progress); },
        &Session::weldsChanged);
}

void Session::requestBolts() {
    request<std::vector<join::BoltedJoint>>(
        m_bolts, "Looking for bolts",
        [](const Model& model, Progress& progress) { return join::findBolts(model, progress); },
        &Session::boltsChanged);
}

void Session::requestStiffeners() {
    request<std::vector<reduce::BeamOnSheet>>(
        m_stiffeners, "Looking for beams along sheets",
        [](const Model& model, Progress& progress) {
            return reduce::findBeamsOnSheets(model, join::safeLimit(model).mm, progress);
        },
        &Session::stiffenersChanged);
}

void Session::requestShortEnds() {
    using Ends = std::vector<reduce::ShortEnd>;
    request<Ends>(
        m_shortEnds, "Looking for edges of sheets that end short",
        [](const Model& model, Progress& progress) -> Result<Ends> {
            std::vector<std::size_t> places;
            for (std::size_t o = 0; o < model.occurrences.size(); ++o)
                if (!model.occurrences[o].aside && model.parts[model.occurrences[o].part]->kind() == BodyKind::Sheet)
                    places.push_back(o);
            if (places.size() < 2) return Ends{};
            return guarded("Looking for edges of sheets that end short", [&]() -> Result<Ends> {
                return reduce::findShortEnds(model, places, 2.0 * model.targetSize, progress);
            });
        },
        &Session::shortEndsChanged);
}

namespace {

/// A mesh, or why there is none; only being stopped is no answer.
Result<Result<Session::MeshPointer>> meshed(const Model& model, const std::vector<std::size_t>& parts, double size,
                                            Progress& progress) {
    mesh::SizeRules rules;
    rules.target = size;
    auto made = mesh::makeTrialMesh(model, parts, rules, progress);
    if (!made && made.error().kind == ProblemKind::Cancelled) return tl::unexpected(made.error());
    if (!made) return Result<Session::MeshPointer>(tl::unexpected(made.error()));
    return Result<Session::MeshPointer>(std::make_shared<const mesh::TrialMesh>(std::move(*made)));
}

}  // namespace

void Session::requestTrialMesh() {
    if (meshProblem() != nullptr) m_mesh.found.reset();  // asked once more, perhaps of other parts
    if (!m_mesh.wanted && !m_mesh.found) {
        const auto selected = selectedParts();
        m_meshParts.assign(selected.begin(), selected.end());
    }
    request<Result<MeshPointer>>(
        m_mesh, "Making a trial mesh",
        [parts = m_meshParts](const Model& model, Progress& progress) {
            return meshed(model, parts, model.targetSize, progress);
        },
        &Session::meshChanged);
}

void Session::requestReceivedMesh() {
    request<Result<MeshPointer>>(
        m_meshReceived, "Meshing the model as received",
        [received = work().received()](const Model& model, Progress& progress) {
            return meshed(received, {}, model.targetSize, progress);
        },
        &Session::meshChanged);
}

bool Session::writeTrialMesh(const QString& path) {
    const MeshPointer made = trialMesh();
    if (!made) return false;
    const auto written = mesh::writeMesh(model(), *made, path.toStdString());
    if (!written) emit failed(written.error());
    return written.has_value();
}

void Session::requestThickness(const std::set<std::size_t>& wanted) {
    std::vector<std::shared_ptr<const Part>> missing;
    for (std::size_t p = 0; p < model().parts.size(); ++p) {
        if (!wanted.empty() && !wanted.contains(p)) continue;
        const PartKnowledge* known = knowledge(p);
        if (known == nullptr || !known->thickness) missing.push_back(model().parts[p]);
    }
    if (missing.empty()) return;
    start("Measuring walls", [this, missing](Progress& progress) -> Finish {
        std::vector<std::pair<std::shared_ptr<const Part>, measure::ThicknessMap>> found;
        for (const auto& part : missing)
            if (auto map = guarded("Measuring walls", [&] { return measure::thicknessMap(part, progress); }))
                found.emplace_back(part, std::move(*map));
        return [this, found = std::move(found)]() mutable {
            for (auto& [part, map] : found) {
                auto& entry = m_known[part.get()];
                entry.first = part;
                entry.second.thickness = std::move(map);
            }
            emit knowledgeChanged();
        };
    });
}

}  // namespace rasoir::app
