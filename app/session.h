// What the window works on: the history, the surveys, and the one piece of long work that may be running. Holds no
// widgets.
#pragma once
#include <memory>
#include <QObject>
#include <QString>
#include <set>
#include <thread>

#include "exchange/files.h"
#include "handover/candidates.h"
#include "handover/export.h"
#include "handover/report.h"
#include "handover/revision.h"
#include "handover/skin_distance.h"
#include "material_shelf.h"
#include "measure/mass.h"
#include "model/work.h"
#include "part_knowledge.h"
#include "place_view.h"
#include "survey/receiving.h"

namespace rasoir::app {

class WholeSurveys;

class Session : public QObject {
    Q_OBJECT
public:
    explicit Session(QObject* parent = nullptr);
    ~Session() override;

    [[nodiscard]] bool isEmpty() const { return model().parts.empty(); }
    [[nodiscard]] const Work& work() const { return m_history.present(); }
    /// The model that the window shows: at the ledger's marker.
    [[nodiscard]] const Model& model() const { return work().modelAfter(m_marker); }
    [[nodiscard]] std::size_t marker() const { return m_marker; }
    [[nodiscard]] QString fileName() const { return m_file; }
    [[nodiscard]] QString ledgerPath() const { return m_ledgerPath; }
    [[nodiscard]] QString workPath() const { return m_workPath; }
    /// What was kept with the work file: views, groups.
    [[nodiscard]] const Json& view() const { return m_view; }
    [[nodiscard]] bool isBusy() const { return m_thread.joinable() || m_makingWay; }
    [[nodiscard]] bool unsaved() const { return m_unsaved; }
    [[nodiscard]] const History& history() const { return m_history; }

    // Asynchronous: each ends with finished(), or with failed() and nothing changed.
    void open(const QString& path, std::optional<Unit> unit = std::nullopt) { openFiles({path}, unit); }
    void openWithLedger(const QString& ledgerPath);  ///< the file it was made on, then its steps
    void apply(const std::string& operation, const Json& parameters);
    void replayLedger(const QString& path);
    void switchStep(std::size_t step, bool on);
    void editStep(std::size_t step, const Json& parameters);
    void removeStep(std::size_t step);
    void replayWaiting();
    void exportTo(const QString& path);  ///< all that is not set aside, proved, as it came
    [[nodiscard]] QString lastExport() const { return m_lastExport; }
    void exportAll(const handover::ExportWanted& wanted);
    bool writeTrialMesh(const QString& path);  ///< true when it is written
    /// Looks at a later file of the same design: what changed, and which steps fit it. Ends with revisionChanged().
    void lookAtRevision(const QString& path);
    [[nodiscard]] const std::optional<handover::Revision>& revision() const { return m_revision; }
    // Variants: undone like a step. Each tells `failed` where a name is taken or the one in hand would go.
    bool beginVariant(const QString& name);
    void takeVariant(std::size_t index);
    void renameVariant(std::size_t index, const QString& name);
    void dropVariant(std::size_t index);
    struct ComparedVariants {
        std::string from, to;
        handover::Comparison changes;
        std::shared_ptr<const handover::SkinDistances> skins;  ///< of the one in hand from the other; null: none
    };
    /// From another variant to the one in hand; ends with variantsCompared().
    void compareVariant(std::size_t index);
    [[nodiscard]] const std::optional<ComparedVariants>& comparedVariants() const { return m_comparedVariants; }
    /// What stands left of the wipe: the model as received, or a variant that was asked for.
    void showBeside(std::size_t variant);  ///< ends with besideChanged()
    void forgetBeside();                   ///< the model as received again
    [[nodiscard]] bool hasBeside() const { return m_beside != nullptr; }
    [[nodiscard]] const Model& beside() const { return m_beside ? *m_beside : work().received(); }
    [[nodiscard]] QString besideName() const { return m_beside ? m_besideName : QString("As received"); }
    /// What the steps that do not fit might have meant; ends with revisionChanged() after one was taken.
    [[nodiscard]] const std::vector<handover::Offer>& offers() const { return m_offers; }
    void takeOffer(std::size_t step);
    void goOnWithRevision();  ///< opens what was looked at, with its steps
    /// A page to read, or a PDF of it; tells `saved` or `failed`.
    void writeReport(const QString& path, const handover::ReportOptions& options);
    /// Several files as one model; a .rasoir file alone is opened as the whole work.
    void openFiles(const QStringList& paths, std::optional<Unit> unit = std::nullopt,
                   std::optional<Ledger> ledger = std::nullopt);
    void saveWorkTo(const QString& path, const Json& view);
    void cancel();
    /// A piece of work and what puts its result in place, in the window's thread.
    using Finish = std::function<void()>;
    using Job = std::function<Finish(Progress&)>;
    /// In the background: whatever the user asks for interrupts it. Nothing may be running.
    void runBehind(const QString& doing, Job job) { start(doing, std::move(job), Kind::Background); }
    [[nodiscard]] std::uint64_t lastJob() const { return m_job; }  ///< the number of the one that was begun last

    // At once:
    void undo();
    void redo();
    void moveMarker(std::size_t steps);
    void setTargetSize(double millimetres);
    bool saveLedgerTo(const QString& path);
    void close();

    [[nodiscard]] const PartKnowledge* knowledge(std::size_t part) const;
    /// What came and what is odd, of the model shown; none while it is being looked at.
    [[nodiscard]] const std::optional<survey::ReceivingReport>& report() const { return m_report; }
    /// Of the whole model, made when somebody asks.
    [[nodiscard]] WholeSurveys& surveys() const { return *m_surveys; }
    /// Wall thickness of these parts, in the background.
    void requestThickness(const std::set<std::size_t>& parts);
    /// Of all parts not known yet, in the background, the nearest to the middle of the view first. What has been found
    /// is told as it comes, kind by kind.
    void requestSurvey();
    [[nodiscard]] const std::shared_ptr<SightLine>& sight() const { return m_sight; }
    /// Facts of all parts in order, once all are known.
    [[nodiscard]] std::optional<std::vector<measure::Facts>> facts() const;
    [[nodiscard]] double forecast() const;  ///< elements of the whole; 0 while unknown

    /// What is selected, hidden or a ghost; shared by board, stage and benches.
    [[nodiscard]] PlaceView& places() { return m_places; }
    [[nodiscard]] const PlaceView& places() const { return m_places; }
    /// Materials to choose from: the standard ones with the user's own.
    [[nodiscard]] MaterialShelf& materials() { return m_materials; }
    /// A material of the shelf, else of the model, as the parameters of a step that assigns it; null where there is
    /// none of that name.
    [[nodiscard]] Json assigning(const QString& material) const { return m_materials.assigning(material, model()); }
    [[nodiscard]] static QString autosavePath();
    /// Named views and groups, kept beside a ledger of this path: "x.ledger.json" has "x.view.json".
    [[nodiscard]] static QString viewBeside(QString ledgerPath) {
        return ledgerPath.remove(".ledger.json") + ".view.json";
    }
    void autosaveView(const Json& view);  ///< after a view or a group was made or forgotten

signals:
    void opened();   ///< another file: everything is new
    void changed();  ///< model, ledger or marker
    void knowledgeChanged();
    void started(const QString& doing);
    void progressed(double fraction, const QString& doing);
    void finished();
    void failed(const rasoir::Problem& problem);
    void unitWanted(const QStringList& paths, const rasoir::Problem& problem);
    void reportChanged();
    void revisionChanged();
    void variantsCompared();
    void besideChanged();
    void saved(const QString& path, const QString& proof = {});  ///< with what was compared, of an export

private:
    /// Surveys and stock-taking run in the background: whatever the user asks for interrupts them, and they begin again
    /// after it.
    enum class Kind { Asked, Background };
    void start(const QString& doing, Job work, Kind kind = Kind::Asked);
    /// Whether work that was asked for is running; background work is interrupted.
    bool blocked();
    void replay(Work work, QString title, bool pushes = true);
    void restart(Work work, const QString& file, Json view = Json::object());
    void takeStock();
    using Learned = std::vector<std::pair<std::shared_ptr<const Part>, PartKnowledge>>;
    void learn(const Learned& learned, double targetSize);
    void openWorkFile(const QString& path);
    void showPresent();
    void prune();
    void autosave() const;

    History m_history;
    std::size_t m_marker = 0;
    QString m_file, m_ledgerPath, m_workPath;
    bool m_unsaved = false;
    std::shared_ptr<measure::FactsCache> m_facts = std::make_shared<measure::FactsCache>();
    std::map<const Part*, std::pair<std::weak_ptr<const Part>, PartKnowledge>> m_known;
    std::unique_ptr<WholeSurveys> m_surveys;
    std::shared_ptr<SightLine> m_sight = std::make_shared<SightLine>();
    PlaceView m_places;
    MaterialShelf m_materials;
    std::optional<survey::ReceivingReport> m_report;
    std::optional<handover::Revision> m_revision;
    QString m_revisionPath;
    QString m_lastExport;  ///< one file, of the file that is open; else empty
    std::vector<handover::Offer> m_offers;
    std::optional<ComparedVariants> m_comparedVariants;
    std::shared_ptr<const Model> m_beside;  // null: the model as received
    QString m_besideName;
    void pushVariant(Work work, const std::string& title);
    std::vector<const Part*> m_reportOf;  // parts of the model it was made for
    Json m_view = Json::object();
    Json m_viewToRestore = Json::object();  ///< of the ledger that is being opened
    std::shared_ptr<Progress> m_progress;
    std::thread m_thread;
    bool m_surveyWanted = false, m_inBackground = false;
    bool m_makingWay = false;  ///< a survey was stopped for work that is about to start
    std::uint64_t m_job = 0;
    double m_targetWanted = 0.0;  // [mm] typed while work was running
};

}  // namespace rasoir::app
