#include "session.h"

#include <atomic>
#include <BRepTools.hxx>
#include <chrono>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QSaveFile>
#include <QStandardPaths>
#include <QTimer>

#include "common/safe_file.h"
#include "exchange/work_file.h"
#include "handover/export.h"
#include "handover/report.h"
#include "mesh/mesh_files.h"
#include "model/places.h"
#include "print/pdf.h"
#include "tessellate.h"
#include "whole_surveys.h"

namespace rasoir::app {

Session::Session(QObject* parent) : QObject(parent) {
    qRegisterMetaType<rasoir::Problem>();
    m_materials.load();
    m_surveys = std::make_unique<WholeSurveys>(*this);
}

Session::~Session() {
    if (m_progress) m_progress->cancel();
    if (m_thread.joinable()) m_thread.join();
}

bool Session::blocked() {
    if (m_makingWay) return true;
    if (!m_thread.joinable()) return false;
    if (!m_inBackground) return true;
    m_progress->cancel();
    m_thread.join();
    m_thread = std::thread();
    m_progress.reset();
    ++m_job;  // what it still has to tell is not listened to any more
    m_surveyWanted = true;
    // Benches that hear of it ask anew at once; they have to wait until the work has been done that it was stopped for.
    m_makingWay = true;
    emit finished();
    m_makingWay = false;
    return false;
}

void Session::start(const QString& doing, Job work, Kind kind) {
    if (blocked()) return;  // one at a time; the window shows which
    m_inBackground = kind == Kind::Background;
    const std::uint64_t job = ++m_job;
    // The work may tell of itself thousands of times in a second; nobody reads that, and drawing it takes longer.
    using Clock = std::chrono::steady_clock;
    const auto told = std::make_shared<std::atomic<Clock::time_point>>(Clock::time_point());
    m_progress = std::make_shared<Progress>([this, job, told](double fraction, const std::string& what) {
        constexpr std::chrono::milliseconds often(40);
        const auto now = Clock::now();
        if (now - told->load() < often) return;
        told->store(now);
        QMetaObject::invokeMethod(this, [this, job, fraction, text = QString::fromStdString(what)] {
            if (job == m_job) emit progressed(fraction, text);
        });
    });
    m_thread = std::thread([this, job, progress = m_progress, work = std::move(work)] {
        Finish finish = work(*progress);
        QMetaObject::invokeMethod(this, [this, job, finish = std::move(finish)] {
            if (job != m_job) return;
            m_thread.join();
            m_thread = std::thread();
            m_progress.reset();
            emit finished();
            finish();
            if (m_targetWanted > 0.0 && !isBusy()) setTargetSize(std::exchange(m_targetWanted, 0.0));
            if (m_surveyWanted) requestSurvey();
        });
    });
    // Only now: who hears of it and asks for something more must find this session busy.
    emit started(doing);
}

void Session::cancel() {
    if (m_progress) m_progress->cancel();
}

void Session::openFiles(const QStringList& paths, std::optional<Unit> unit, std::optional<Ledger> ledger) {
    if (paths.isEmpty()) return;
    if (!ledger) m_viewToRestore = Json::object();
    if (paths.size() == 1 && !ledger)
        if (const auto kind = exchange::fileKind(paths[0].toStdString()); kind && *kind == exchange::FileKind::Work) {
            openWorkFile(paths[0]);
            return;
        }
    start("Opening " + QFileInfo(paths[0]).fileName(),
          [this, paths, unit, ledger = std::move(ledger)](Progress& progress) -> Finish {
              std::vector<std::filesystem::path> files;
              for (const QString& path : paths) files.emplace_back(path.toStdString());
              auto model = exchange::readFiles(files, {unit}, progress);
              if (model && !progress.cancelled()) tessellate(*model, progress);
              if (model && progress.cancelled())
                  model = fail(ProblemKind::Cancelled, "Opening was stopped; what was open before still is.");
              return [this, paths, ledger, model = std::move(model)]() mutable {
                  if (!model) {
                      if (model.error().kind == ProblemKind::NeedsUnit)
                          emit unitWanted(paths, model.error());
                      else
                          emit failed(model.error());
                      return;
                  }
                  std::vector<std::string> more;
                  for (const QString& path : paths.mid(1)) more.push_back(path.toStdString());
                  restart(Work(std::move(*model), paths[0].toStdString(), std::move(more)), paths[0]);
                  if (ledger)
                      replay(work().withLedger(std::move(*ledger)), "Replay a ledger", false);
                  else
                      requestSurvey();
              };
          });
}

void Session::openWorkFile(const QString& path) {
    start("Opening " + QFileInfo(path).fileName(), [this, path](Progress& progress) -> Finish {
        auto file = exchange::openWork(path.toStdString(), progress);
        if (file && !progress.cancelled()) tessellate(file->work.current(), progress);
        if (file && progress.cancelled())
            file = fail(ProblemKind::Cancelled, "Opening was stopped; what was open before still is.");
        return [this, path, file = std::move(file)]() mutable {
            if (!file) {
                emit failed(file.error());
                return;
            }
            restart(std::move(file->work), path, file->view);
            m_workPath = path;
            if (!file->notes.empty())
                emit failed({ProblemKind::BadInput, file->notes.front(), {}, "What could be saved is open."});
            emit changed();
            requestSurvey();
        };
    });
}

void Session::saveWorkTo(const QString& path, const Json& view) {
    start("Saving " + QFileInfo(path).fileName(), [this, path, view, work = work()](Progress& progress) -> Finish {
        auto written = exchange::saveWork(work, view, path.toStdString(), progress);
        return [this, path, view, written = std::move(written)] {
            if (!written) {
                emit failed(written.error());
                return;
            }
            m_workPath = path;
            m_view = view;
            m_unsaved = false;
            emit saved(path);
            emit changed();
        };
    });
}

void Session::restart(Work work, const QString& file, Json view) {
    m_file = file;
    m_ledgerPath.clear();
    m_history.reset(std::move(work));
    m_unsaved = false;
    m_workPath.clear();
    m_lastExport.clear();
    m_view = view.empty() ? std::exchange(m_viewToRestore, Json::object()) : std::move(view);
    QFile::remove(viewBeside(autosavePath()));
    m_marker = this->work().ledger().steps.size();
    m_comparedVariants.reset();
    m_beside.reset();
    m_places.clear();
    m_known.clear();
    m_report.reset();
    m_revision.reset();
    m_places.follow(model());
    emit opened();
    emit changed();
    emit m_places.selectionChanged();
}

void Session::openWithLedger(const QString& path) {
    auto ledger = exchange::readLedger(path.toStdString());
    if (!ledger) {
        emit failed(ledger.error());
        return;
    }
    // A ledger moved together with its model is found beside it.
    QStringList sources;
    std::vector<std::string> named = ledger->moreSources;
    named.insert(named.begin(), ledger->source);
    for (const std::string& name : named) {
        const QString source = QString::fromStdString(name),
                      beside = QFileInfo(path).path() + "/" + QFileInfo(source).fileName();
        sources << (!QFileInfo::exists(source) && QFileInfo::exists(beside) ? beside : source);
    }
    if (sources[0].isEmpty()) {
        emit failed({ProblemKind::BadInput,
                     "This ledger does not say which file it was made on.",
                     {},
                     "Open that file, then replay the ledger on it."});
        return;
    }
    QFile view(viewBeside(path));
    m_viewToRestore =
        view.open(QIODevice::ReadOnly) ? Json::parse(view.readAll().toStdString(), nullptr, false) : Json::object();
    if (!m_viewToRestore.is_object()) m_viewToRestore = Json::object();  // damaged: the steps matter more
    const auto unit = ledger->unit;
    openFiles(sources, unit, std::move(*ledger));
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
            // A new step that does not fit changes nothing, so it leaves no card; its reason is shown where it was
            // asked for.
            if (appended && pushes &&
                (steps.back().state == StepState::Failed || steps.back().state == StepState::Nothing)) {
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
void Session::switchStep(std::size_t step, bool on) {
    replay(work().withStepSwitched(step, on), on ? "Switch a step on" : "Switch a step off");
}
void Session::editStep(std::size_t step, const Json& parameters) {
    replay(work().withStepEdited(step, parameters), "Edit a step");
}
void Session::removeStep(std::size_t step) {
    replay(work().withoutStep(step), "Delete a step");
}
void Session::replayWaiting() {
    replay(work(), "Replay");
}

void Session::replayLedger(const QString& path) {
    auto ledger = exchange::readLedger(path.toStdString());
    if (!ledger) {
        emit failed(ledger.error());
        return;
    }
    replay(work().withLedger(std::move(*ledger)), "Replay a ledger", false);
}

void Session::exportTo(const QString& path) {
    handover::ExportWanted wanted;
    wanted.path = path.toStdString();
    for (std::size_t o = 0; o < model().occurrences.size(); ++o)
        if (!model().occurrences[o].aside) wanted.places.push_back(o);
    exportAll(wanted);
}

void Session::exportAll(const handover::ExportWanted& wanted) {
    const QString path = QString::fromStdString(wanted.path.string());
    start("Writing " + QFileInfo(path).fileName(), [this, path, wanted, model = model()](Progress& progress) -> Finish {
        auto written = handover::exportAll(model, wanted, progress);
        return [this, path, written = std::move(written)] {
            if (!written) {
                emit failed(written.error());
            } else {
                // Of many, what is said of the first holds for all: they were written in one way.
                const QString told = QString::fromStdString(written->front().told);
                m_lastExport = written->size() == 1 && !path.endsWith(".dxf") ? path : QString();
                emit saved(path, written->size() == 1
                                     ? told
                                     : QString("%1 files; the first: %2").arg(written->size()).arg(told));
            }
        };
    });
}

void Session::lookAtRevision(const QString& path) {
    start("Looking at " + QFileInfo(path).fileName(),
          [this, path, work = work(), facts = m_facts](Progress& progress) -> Finish {
              auto model = exchange::readFiles({path.toStdString()}, {work.ledger().unit}, progress);
              Result<handover::Revision> revision = tl::unexpected(Problem{});
              if (model)
                  revision = handover::onRevision(work, std::move(*model), path.toStdString(), *facts, progress);
              else
                  revision = tl::unexpected(model.error());
              std::vector<handover::Offer> offers;
              if (revision) {
                  tessellate(revision->work.current(), progress);
                  offers = handover::offersOf(revision->work);
              }
              return [this, path, offers = std::move(offers), revision = std::move(revision)]() mutable {
                  if (!revision) {
                      emit failed(revision.error());
                      return;
                  }
                  m_revision = std::move(*revision);
                  m_offers = std::move(offers);
                  m_revisionPath = path;
                  emit revisionChanged();
              };
          });
}

void Session::pushVariant(Work work, const std::string& title) {
    m_history.push(std::move(work), title);
    m_unsaved = true;
    m_comparedVariants.reset();
    forgetBeside();
    showPresent();
}

bool Session::beginVariant(const QString& name) {
    if (isEmpty() || blocked()) return false;
    // What the marker shows is what one sees; the variant begins with that.
    auto begun = work().withVariant(name.toStdString());
    if (!begun) {
        emit failed(begun.error());
        return false;
    }
    Work cut = std::move(*begun);
    while (cut.ledger().steps.size() > m_marker) cut = cut.withoutStep(cut.ledger().steps.size() - 1);
    pushVariant(std::move(cut), "Begin a variant");
    return true;
}

void Session::takeVariant(std::size_t index) {
    if (index >= work().variantNames().size() || index == work().variant() || blocked()) return;
    start("Taking a variant in hand", [this, taken = work().onVariant(index)](Progress& progress) mutable -> Finish {
        tessellate(taken.current(), progress);
        return [this, taken = std::move(taken)]() mutable { pushVariant(std::move(taken), "Take a variant in hand"); };
    });
}

void Session::renameVariant(std::size_t index, const QString& name) {
    if (index >= work().variantNames().size() || blocked()) return;
    if (work().variantNames()[index] == name.toStdString()) return;
    if (auto renamed = work().withVariantRenamed(index, name.toStdString()))
        pushVariant(std::move(*renamed), "Rename a variant");
    else
        emit failed(renamed.error());
}

void Session::dropVariant(std::size_t index) {
    if (index >= work().variantNames().size() || blocked()) return;
    if (auto left = work().withoutVariant(index))
        pushVariant(std::move(*left), "Forget a variant");
    else
        emit failed(left.error());
}

void Session::compareVariant(std::size_t index) {
    if (index >= work().variantNames().size()) return;
    start("Comparing variants",
          [this, from = work().variantNames()[index], to = work().variantNames()[work().variant()],
           other = work().onVariant(index), now = model()](Progress& progress) -> Finish {
              auto found =
                  guarded("Comparing variants", [&] { return handover::compare(other.current(), now, progress); });
              auto skins = guarded("Comparing skins", [&] {
                  return handover::skinDistances(now, other.current(), now.targetSize, progress);
              });
              return [this, from, to, found = std::move(found), skins = std::move(skins)]() mutable {
                  if (!found) {
                      emit failed(found.error());
                      return;
                  }
                  m_comparedVariants = ComparedVariants{from, to, std::move(*found), nullptr};
                  if (skins)
                      m_comparedVariants->skins = std::make_shared<const handover::SkinDistances>(std::move(*skins));
                  emit variantsCompared();
              };
          });
}

void Session::showBeside(std::size_t variant) {
    if (variant >= work().variantNames().size()) return;
    start(
        "Drawing the variant",
        [this, name = work().variantNames()[variant], other = work().onVariant(variant)](Progress& progress) -> Finish {
            tessellate(other.current(), progress);
            return [this, name, model = std::make_shared<const Model>(other.current())] {
                m_beside = model;
                m_besideName = QString::fromStdString(name);
                emit besideChanged();
            };
        });
}

void Session::forgetBeside() {
    if (!m_beside) return;
    m_beside.reset();
    emit besideChanged();
}

void Session::takeOffer(std::size_t step) {
    const auto offer =
        std::find_if(m_offers.begin(), m_offers.end(), [step](const handover::Offer& one) { return one.step == step; });
    if (!m_revision || offer == m_offers.end()) return;
    start("Trying the nearest",
          [this, work = m_revision->work.withStepEdited(step, offer->parameters),
           facts = m_facts](Progress& progress) -> Finish {
              auto done = guarded("Trying the nearest", [&] { return work.replayed(*facts, progress, true); });
              std::vector<handover::Offer> offers;
              if (done) {
                  tessellate(done->current(), progress);
                  offers = handover::offersOf(*done);
              }
              return [this, offers = std::move(offers), done = std::move(done)]() mutable {
                  if (!done) {
                      emit failed(done.error());
                      return;
                  }
                  if (m_revision) m_revision->work = std::move(*done);
                  m_offers = std::move(offers);
                  emit revisionChanged();
              };
          });
}

void Session::goOnWithRevision() {
    if (!m_revision || isBusy()) return;
    Work work = std::move(m_revision->work);
    restart(std::move(work), m_revisionPath);
    m_unsaved = true;
    emit changed();
    requestSurvey();
}

void Session::writeReport(const QString& path, const handover::ReportOptions& options) {
    start("Writing " + QFileInfo(path).fileName(), [this, path, options, work = work()](Progress& progress) -> Finish {
        measure::FactsCache facts;
        const auto page = handover::reportOf(work, options, facts, progress);
        return [this, path, page] {
            // On paper it is drawn, and Qt draws pictures in the window's thread.
            const Result<void> written = !page                   ? Result<void>(tl::unexpected(page.error()))
                                         : path.endsWith(".pdf") ? print::writePdf(*page, path.toStdString())
                                                                 : writeText(path.toStdString(), *page);
            if (written)
                emit saved(path);
            else
                emit failed(written.error());
        };
    });
}

bool Session::writeTrialMesh(const QString& path) {
    const auto made = m_surveys->trialMesh();
    if (!made) return false;
    const auto written = mesh::writeMesh(model(), *made, path.toStdString());
    if (!written) emit failed(written.error());
    return written.has_value();
}

void Session::undo() {
    if (blocked()) return;
    m_history.undo();
    showPresent();
}

void Session::redo() {
    if (blocked()) return;
    m_history.redo();
    showPresent();
}

void Session::showPresent() {
    m_marker = work().ledger().steps.size();
    prune();
    m_places.follow(model());
    autosave();
    emit changed();
    requestSurvey();
}

void Session::moveMarker(std::size_t steps) {
    const std::size_t wanted = std::min(steps, work().ledger().steps.size());
    if (wanted == m_marker || blocked()) return;
    m_marker = wanted;
    m_places.follow(model());
    emit changed();
    requestSurvey();
}

void Session::setTargetSize(double millimetres) {
    if (isEmpty() || !(millimetres > 0.0) || millimetres == model().targetSize) return;
    if (blocked()) {  // taken up when the running work is done; a typed number must not get lost
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
    if (blocked()) return;
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
        if (occurrence.aside || model().parts[occurrence.part]->lump) continue;
        const PartKnowledge* known = knowledge(occurrence.part);
        if (known == nullptr || !known->facts) return 0.0;
        elements += known->facts->elements;
    }
    return elements;
}

QString Session::autosavePath() {
    return MaterialShelf::folder() + "/autosave.ledger.json";
}

void Session::autosaveView(const Json& view) {
    if (isEmpty()) return;
    m_view = view;
    QSaveFile file(viewBeside(autosavePath()));
    if (file.open(QIODevice::WriteOnly)) {
        file.write(QByteArray::fromStdString(view.dump(1, ' ', false, Json::error_handler_t::replace)));
        file.commit();
    }
    autosave();
}

void Session::autosave() const {
    // Small and quick: after a crash the steps can be replayed on the file. Failing to write it must not disturb the
    // work.
    (void)saveLedger(work().ledger(), autosavePath().toStdString());
}

}  // namespace rasoir::app
