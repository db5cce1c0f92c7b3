#include "session.h"

#include <BRepBndLib.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRepTools.hxx>
#include <Bnd_Box.hxx>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QStandardPaths>

#include "common/safe_file.h"

namespace rasoir::app {

void tessellate(const Model& model, Progress& progress) {
    for (std::size_t p = 0; p < model.parts.size() && !progress.cancelled(); ++p) {
        const Part& part = *model.parts[p];
        if (part.shape.IsNull()) continue;
        progress.report(static_cast<double>(p) / static_cast<double>(model.parts.size()), "Drawing " + part.name);
        Bnd_Box box;
        BRepBndLib::Add(part.shape, box, false);
        if (box.IsVoid()) continue;
        const double size = box.CornerMin().Distance(box.CornerMax());
        IMeshTools_Parameters parameters;
        parameters.Deflection = std::max(1e-3 * size, 1e-7);
        parameters.Angle = 0.35;
        parameters.InParallel = true;
        parameters.AllowQualityDecrease = true;
        (void)guarded("Drawing", [&]() -> Result<void> {
            BRepMesh_IncrementalMesh mesh(part.shape, parameters);
            return {};
        });
    }
}

Session::Session(QObject* parent) : QObject(parent) { qRegisterMetaType<rasoir::Problem>(); }

Session::~Session() {
    if (m_progress) m_progress->cancel();
    if (m_thread.joinable()) m_thread.join();
}

void Session::start(const QString& doing, std::function<Finish(Progress&)> work) {
    if (m_thread.joinable()) return;  // one at a time; the window shows which
    m_progress = std::make_shared<Progress>([this](double fraction, const std::string& what) {
        QMetaObject::invokeMethod(this, [this, fraction, text = QString::fromStdString(what)] { emit progressed(fraction, text); });
    });
    emit started(doing);
    m_thread = std::thread([this, progress = m_progress, work = std::move(work)] {
        Finish finish = work(*progress);
        QMetaObject::invokeMethod(this, [this, finish = std::move(finish)] {
            m_thread.join();
            m_thread = std::thread();
            m_progress.reset();
            emit finished();
            finish();
            if (m_targetWanted > 0.0 && !isBusy()) setTargetSize(std::exchange(m_targetWanted, 0.0));
            if (m_surveyWanted) requestSurvey();
        });
    });
}

void Session::cancel() {
    if (m_progress) m_progress->cancel();
}

void Session::open(const QString& path, std::optional<Unit> unit, std::optional<Ledger> ledger) {
    start("Opening " + QFileInfo(path).fileName(), [this, path, unit, ledger = std::move(ledger)](Progress& progress) -> Finish {
        auto model = exchange::readFile(path.toStdString(), {unit}, progress);
        if (model && !progress.cancelled()) tessellate(*model, progress);
        if (model && progress.cancelled()) model = fail(ProblemKind::Cancelled, "Opening was stopped; what was open before still is.");
        return [this, path, ledger, model = std::move(model)]() mutable {
            if (!model) {
                if (model.error().kind == ProblemKind::NeedsUnit) emit unitWanted(path, model.error());
                else emit failed(model.error());
                return;
            }
            restart(Work(std::move(*model), path.toStdString()), path);
            if (ledger) replay(work().withLedger(std::move(*ledger)), "Replay a ledger", false);
            else requestSurvey();
        };
    });
}

void Session::restart(Work work, const QString& file) {
    m_file = file;
    m_ledgerPath.clear();
    m_history.reset(std::move(work));
    m_marker = 0;
    m_unsaved = false;
    m_selected.clear();
    m_hidden.clear();
    m_known.clear();
    emit opened();
    emit changed();
    emit selectionChanged();
}

void Session::openWithLedger(const QString& path) {
    auto ledger = loadLedger(path.toStdString());
    if (!ledger) {
        emit failed(ledger.error());
        return;
    }
    // A ledger moved together with its model is found beside it.
    QString source = QString::fromStdString(ledger->source);
    const QString beside = QFileInfo(path).path() + "/" + QFileInfo(source).fileName();
    if (!QFileInfo::exists(source) && QFileInfo::exists(beside)) source = beside;
    if (source.isEmpty()) {
        emit failed({ProblemKind::BadInput, "This ledger does not say which file it was made on.", {}, "Open that file, then replay the ledger on it."});
        return;
    }
    const auto unit = ledger->unit;
    open(source, unit, std::move(*ledger));
}

void Session::replay(Work work, QString title, bool pushes) {
    start(title, [this, work = std::move(work), title, pushes, facts = m_facts](Progress& progress) -> Finish {
        auto done = guarded("Replaying the ledger", [&] { return work.replayed(*facts, progress); });
        if (done) tessellate(done->current(), progress);
        if (done && progress.cancelled()) done = fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        return [this, title, pushes, done = std::move(done)]() mutable {
            if (!done) {
                emit failed(done.error());
                return;
            }
            const auto& steps = done->ledger().steps;
            const bool appended = steps.size() > this->work().ledger().steps.size();
            // A new step that does not fit changes nothing, so it leaves no card; its reason is shown where it was asked for.
            if (appended && pushes && steps.back().state == StepState::Failed) {
                emit failed(*steps.back().problem);
                return;
            }
            m_history.push(std::move(*done), title.toStdString());
            m_unsaved = true;
            showPresent();
        };
    });
}

void Session::apply(const std::string& operation, const Json& parameters) {
    // A step is added at the end; an earlier state is only being looked at.
    replay(work().withStep(operation, parameters), "Working");
}
void Session::switchStep(std::size_t step, bool on) { replay(work().withStepSwitched(step, on), on ? "Switch a step on" : "Switch a step off"); }
void Session::editStep(std::size_t step, const Json& parameters) { replay(work().withStepEdited(step, parameters), "Edit a step"); }
void Session::removeStep(std::size_t step) { replay(work().withoutStep(step), "Delete a step"); }
void Session::replayWaiting() { replay(work(), "Replay"); }

void Session::replayLedger(const QString& path) {
    auto ledger = loadLedger(path.toStdString());
    if (!ledger) {
        emit failed(ledger.error());
        return;
    }
    replay(work().withLedger(std::move(*ledger)), "Replay a ledger", false);
}

void Session::exportTo(const QString& path) {
    start("Writing " + QFileInfo(path).fileName(), [this, path, model = model()](Progress& progress) -> Finish {
        auto written = exchange::writeFile(model, path.toStdString(), {}, progress);
        return [this, path, written = std::move(written)] {
            if (written) emit saved(path);
            else emit failed(written.error());
        };
    });
}

void Session::undo() {
    if (isBusy()) return;
    m_history.undo();
    showPresent();
}

void Session::redo() {
    if (isBusy()) return;
    m_history.redo();
    showPresent();
}

void Session::showPresent() {
    m_marker = work().ledger().steps.size();
    prune();
    autosave();
    emit changed();
    requestSurvey();
}

void Session::moveMarker(std::size_t steps) {
    const std::size_t wanted = std::min(steps, work().ledger().steps.size());
    if (isBusy() || wanted == m_marker) return;
    m_marker = wanted;
    emit changed();
    requestSurvey();
}

void Session::setTargetSize(double millimetres) {
    if (isEmpty() || !(millimetres > 0.0) || millimetres == model().targetSize) return;
    if (isBusy()) {  // taken up when the running work is done; a typed number must not get lost
        m_targetWanted = millimetres;
        return;
    }
    m_history.replacePresent(work().withTargetSize(millimetres));
    m_known.clear();  // costs are counted at the target size
    emit changed();
    requestSurvey();
}

bool Session::saveLedgerTo(const QString& path) {
    const auto done = saveLedger(work().ledger(), path.toStdString());
    if (!done) {
        emit failed(done.error());
        return false;
    }
    m_ledgerPath = path;
    m_unsaved = false;
    emit saved(path);
    emit changed();
    return true;
}

void Session::close() {
    if (isBusy()) return;
    restart(Work(), {});
}

const PartKnowledge* Session::knowledge(std::size_t part) const {
    if (part >= model().parts.size()) return nullptr;
    const auto found = m_known.find(model().parts[part].get());
    return found == m_known.end() ? nullptr : &found->second.second;
}

void Session::prune() {
    std::erase_if(m_known, [](const auto& entry) { return entry.second.first.expired(); });
}

void Session::requestSurvey() {
    m_surveyWanted = false;
    if (isEmpty()) return;
    std::vector<std::shared_ptr<const Part>> missing;
    for (const auto& part : model().parts)
        if (!m_known.contains(part.get())) missing.push_back(part);
    if (missing.empty()) return;
    if (isBusy()) {
        m_surveyWanted = true;
        return;
    }
    start("Surveying", [this, missing, size = model().targetSize](Progress& progress) -> Finish {
        std::vector<std::pair<std::shared_ptr<const Part>, PartKnowledge>> found;
        for (std::size_t p = 0; p < missing.size() && !progress.cancelled(); ++p) {
            progress.report(static_cast<double>(p) / static_cast<double>(missing.size()), "Surveying " + missing[p]->name);
            PartKnowledge known;
            (void)guarded("Surveying", [&]() -> Result<void> {
                auto holes = survey::findHoles(*missing[p], size, {}, progress);
                if (holes) known.holes = std::move(*holes);
                if (!progress.cancelled()) known.facts = measure::factsOf(*missing[p], size, false);
                return {};
            });
            if (!progress.cancelled()) found.emplace_back(missing[p], std::move(known));
        }
        return [this, found = std::move(found)]() mutable {
            for (auto& [part, known] : found) m_known[part.get()] = {part, std::move(known)};
            emit knowledgeChanged();
        };
    });
}

std::optional<std::vector<measure::Facts>> Session::facts() const {
    std::vector<measure::Facts> all;
    for (std::size_t p = 0; p < model().parts.size(); ++p) {
        const PartKnowledge* known = knowledge(p);
        if (known == nullptr || !known->facts) return std::nullopt;
        all.push_back(*known->facts);
    }
    return all;
}

double Session::forecast() const {
    double elements = 0.0;
    for (const Occurrence& occurrence : model().occurrences) {
        if (occurrence.aside) continue;
        const PartKnowledge* known = knowledge(occurrence.part);
        if (known == nullptr || !known->facts) return 0.0;
        elements += known->facts->elements;
    }
    return elements;
}

void Session::selectOccurrences(std::set<std::size_t> occurrences) {
    if (occurrences == m_selected) return;
    m_selected = std::move(occurrences);
    emit selectionChanged();
}

void Session::setHidden(const std::set<std::size_t>& occurrences) {
    if (occurrences == m_hidden) return;
    m_hidden = occurrences;
    emit visibilityChanged();
}

std::set<std::size_t> Session::selectedParts() const {
    std::set<std::size_t> parts;
    for (const std::size_t occurrence : m_selected)
        if (occurrence < model().occurrences.size()) parts.insert(model().occurrences[occurrence].part);
    return parts;
}

QString Session::autosavePath() {
    const QString folder = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation);
    QDir().mkpath(folder);
    return folder + "/autosave.ledger.json";
}

void Session::autosave() const {
    // Small and quick: after a crash the steps can be replayed on the file. Failing to write it must not disturb the work.
    (void)saveLedger(work().ledger(), autosavePath().toStdString());
}

}  // namespace rasoir::app
