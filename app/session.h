// What the window works on: the history, the surveys, and the one piece of long work that may be running. Holds no
// widgets.
#pragma once
#include <memory>
#include <QObject>
#include <QString>
#include <set>
#include <thread>

#include "divide/layers.h"
#include "divide/small_beside.h"
#include "exchange/files.h"
#include "handover/candidates.h"
#include "handover/check.h"
#include "handover/export.h"
#include "handover/report.h"
#include "handover/revision.h"
#include "handover/skin_distance.h"
#include "join/bolts.h"
#include "join/contacts.h"
#include "join/leaks.h"
#include "join/openings.h"
#include "join/reach.h"
#include "join/welds.h"
#include "measure/mass.h"
#include "mesh/trial_mesh.h"
#include "model/work.h"
#include "part_knowledge.h"
#include "reduce/beams_on_sheets.h"
#include "reduce/frame_members.h"
#include "reduce/join_sheets.h"
#include "reduce/proof.h"
#include "reduce/walls.h"
#include "survey/receiving.h"
#include "survey/symmetry.h"

namespace rasoir::app {

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
    /// Inner places, once they have been looked for; asking starts the search.
    [[nodiscard]] const std::optional<std::vector<std::size_t>>& innerPlaces() const { return m_inner; }
    void requestInnerPlaces();
    // Surveys of the whole model: found once for the model shown; asking starts the search in the background.
    [[nodiscard]] const std::optional<join::ContactReport>& contacts() const { return m_contacts.found; }
    void requestContacts();
    /// Openings of all solids that are not set aside, for lids.
    [[nodiscard]] const std::optional<std::vector<join::Opening>>& openings() const { return m_openings.found; }
    void requestOpenings();
    /// A look at a flow space from before a face, with lids on some openings of those found (by their numbers) and on
    /// loops of edges that were picked (each with its place).
    struct FlowWish {
        std::size_t place = 0;
        int face = 0;
        std::vector<std::size_t> walls;  ///< occurrences; empty: all that is not set aside
        std::set<std::size_t> lids;
        std::vector<std::vector<std::pair<std::size_t, int>>> byHand;
        friend bool operator==(const FlowWish&, const FlowWish&) = default;
    };
    /// What is reached, and in which order.
    [[nodiscard]] const std::optional<Result<join::ReachReport>>& reach() const { return m_reach.found; }
    /// Ways out.
    [[nodiscard]] const std::optional<Result<join::LeakReport>>& leaks() const { return m_leaks.found; }
    void requestFlowLook(const FlowWish& wish);  ///< first what is reached, then the leaks
    [[nodiscard]] const std::optional<std::map<std::size_t, std::vector<reduce::Wall>>>& walls() const {
        return m_walls.found;  // by part
    }
    void requestWalls();
    [[nodiscard]] const std::optional<std::vector<reduce::Slender>>& bars() const { return m_bars.found; }
    /// Each sheet and beam against the solid that it stands for.
    struct Proven {
        reduce::StandIn standIn;
        Result<reduce::Proof> proof;
        std::shared_ptr<const reduce::DrawnBody> drawn;
    };
    [[nodiscard]] const std::optional<std::vector<Proven>>& proofs() const { return m_proofs.found; }
    void requestProofs();
    void requestBars();  ///< slender parts, from five times as long as deep
    /// Symmetries of some places (none: of all that is not set aside), to a hundredth of the target size.
    [[nodiscard]] const std::optional<std::vector<survey::Symmetry>>& symmetries() const { return m_symmetries.found; }
    void requestSymmetries(const std::set<std::size_t>& places);
    /// Which bodies mesh in layers, and what small faces and edges could be one with a neighbour.
    [[nodiscard]] const std::optional<std::vector<divide::BodyLayers>>& layers() const { return m_layers.found; }
    void requestLayers();
    [[nodiscard]] const std::optional<std::vector<divide::SmallBeside>>& smallBeside() const {
        return m_smallBeside.found;
    }
    void requestSmallBeside();
    [[nodiscard]] const std::optional<std::vector<handover::CheckFinding>>& check() const { return m_check.found; }
    /// A trial mesh of the picked parts, or of all, at the target size; and one of the model as received.
    using MeshPointer = std::shared_ptr<const mesh::TrialMesh>;
    [[nodiscard]] MeshPointer trialMesh() const { return m_mesh.found ? m_mesh.found->value_or(nullptr) : nullptr; }
    [[nodiscard]] MeshPointer receivedMesh() const {
        return m_meshReceived.found ? m_meshReceived.found->value_or(nullptr) : nullptr;
    }
    /// Why there is no trial mesh though one was asked for; null where there is, or none was.
    [[nodiscard]] const Problem* meshProblem() const {
        return m_mesh.found && !*m_mesh.found ? &m_mesh.found->error() : nullptr;
    }
    void requestTrialMesh();
    /// Edges of sheets that end before other sheets, up to twice the target size.
    [[nodiscard]] const std::optional<std::vector<reduce::ShortEnd>>& shortEnds() const { return m_shortEnds.found; }
    void requestShortEnds();
    [[nodiscard]] const std::optional<std::vector<reduce::BeamOnSheet>>& stiffeners() const {
        return m_stiffeners.found;
    }
    void requestStiffeners();
    [[nodiscard]] const std::optional<std::vector<join::BoltedJoint>>& bolts() const { return m_bolts.found; }
    void requestBolts();
    /// Lines that can be welded, on bodies parted at each other's outline.
    [[nodiscard]] const std::optional<join::WeldPlan>& welds() const { return m_welds.found; }
    void requestWelds();
    void requestReceivedMesh();
    /// Writes the trial mesh; true when it is written.
    bool writeTrialMesh(const QString& path);
    void requestCheck();
    /// Wall thickness of these parts, in the background.
    void requestThickness(const std::set<std::size_t>& parts);
    /// Of all parts not known yet, in the background, the nearest to the middle of the view first. What has been found
    /// is told as it comes, kind by kind.
    void requestSurvey();
    [[nodiscard]] const std::shared_ptr<SightLine>& sight() const { return m_sight; }
    /// Facts of all parts in order, once all are known.
    [[nodiscard]] std::optional<std::vector<measure::Facts>> facts() const;
    [[nodiscard]] double forecast() const;  ///< elements of the whole; 0 while unknown

    // Selection and visibility, by occurrence; shared by board and stage.
    [[nodiscard]] const std::set<std::size_t>& selectedOccurrences() const { return m_selected; }
    void selectOccurrences(std::set<std::size_t> occurrences);
    [[nodiscard]] bool isHidden(std::size_t occurrence) const { return m_hidden.contains(occurrence); }
    void setHidden(const std::set<std::size_t>& occurrences);
    [[nodiscard]] const std::set<std::size_t>& hidden() const { return m_hidden; }
    [[nodiscard]] const std::set<std::size_t>& ghosts() const { return m_ghosts; }
    void setGhosts(const std::set<std::size_t>& occurrences);
    /// Faces hidden in a place, to look inside.
    [[nodiscard]] const std::map<std::size_t, std::set<int>>& hiddenFaces() const { return m_hiddenFaces; }
    void setHiddenFaces(std::map<std::size_t, std::set<int>> faces);
    /// Set-aside places are drawn as ghosts, or not at all.
    [[nodiscard]] bool showsAside() const { return m_showsAside; }
    void setShowsAside(bool on);
    /// Parts of the selected occurrences; empty when nothing is selected.
    [[nodiscard]] std::set<std::size_t> selectedParts() const;

    /// Materials to choose from: the standard ones with the user's own. Where those cannot be used, the problem says
    /// why.
    [[nodiscard]] const std::vector<Material>& library() const { return m_library; }
    [[nodiscard]] const QString& libraryProblem() const { return m_libraryProblem; }
    [[nodiscard]] static QString materialsFile() { return dataFolder() + "/materials.json"; }
    void loadLibrary();
    /// A material of the library, as the parameters of a step that assigns it; null where there is none of that name.
    [[nodiscard]] Json assigning(const QString& material) const;
    [[nodiscard]] static QString dataFolder();  ///< of this program in the user's home: autosave, materials
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
    void selectionChanged();
    void visibilityChanged();
    void started(const QString& doing);
    void progressed(double fraction, const QString& doing);
    void finished();
    void failed(const rasoir::Problem& problem);
    void unitWanted(const QStringList& paths, const rasoir::Problem& problem);
    void reportChanged();
    void contactsChanged();
    void openingsChanged();
    void reachChanged();
    void leaksChanged();
    void wallsChanged();
    void barsChanged();
    void proofsChanged();
    void symmetriesChanged();
    void layersChanged();
    void smallBesideChanged();
    void checkChanged();
    void meshChanged();
    void shortEndsChanged();
    void libraryChanged();
    void stiffenersChanged();
    void boltsChanged();
    void weldsChanged();
    void revisionChanged();
    void variantsCompared();
    void besideChanged();
    void saved(const QString& path, const QString& proof = {});  ///< with what was compared, of an export

private:
    using Finish = std::function<void()>;
    /// Surveys and stock-taking run in the background: whatever the user asks for interrupts them, and they begin again
    /// after it.
    enum class Kind { Asked, Background };
    void start(const QString& doing, std::function<Finish(Progress&)> work, Kind kind = Kind::Asked);
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
    void followPlaces();
    void autosave() const;

    History m_history;
    std::size_t m_marker = 0;
    QString m_file, m_ledgerPath, m_workPath;
    bool m_unsaved = false;
    std::shared_ptr<measure::FactsCache> m_facts = std::make_shared<measure::FactsCache>();
    std::map<const Part*, std::pair<std::weak_ptr<const Part>, PartKnowledge>> m_known;
    std::shared_ptr<SightLine> m_sight = std::make_shared<SightLine>();
    struct ShownPlace {
        std::string part;
        gp_Trsf placement;
    };
    std::vector<ShownPlace> m_shownPlaces;  // of the model that the selection speaks of
    std::set<std::size_t> m_selected, m_hidden, m_ghosts;
    std::map<std::size_t, std::set<int>> m_hiddenFaces;
    bool m_showsAside = false;
    std::optional<survey::ReceivingReport> m_report;
    std::optional<std::vector<std::size_t>> m_inner;  // of the model shown
    template <class Found>
    struct WholeSurvey {
        std::optional<Found> found;  // of the model shown
        bool wanted = false;         // asked for while something else was running
        std::uint64_t job = 0;       // the work that looks for it, until its result is in place
    };
    /// Forgets a survey when the model changes, and asks for it again when it was wanted while something else ran.
    template <class Found>
    void keep(WholeSurvey<Found>& survey, std::function<void()> again);
    template <class Found>
    void request(WholeSurvey<Found>& survey, const QString& doing,
                 std::function<Result<Found>(const Model&, Progress&)> look, void (Session::*changed)());
    WholeSurvey<join::ContactReport> m_contacts;
    WholeSurvey<std::vector<join::Opening>> m_openings;
    WholeSurvey<Result<join::ReachReport>> m_reach;  // a refusal is an answer too
    WholeSurvey<Result<join::LeakReport>> m_leaks;
    FlowWish m_flowWish;  // that the two are of
    WholeSurvey<std::vector<reduce::Slender>> m_bars;
    WholeSurvey<std::vector<Proven>> m_proofs;
    WholeSurvey<std::map<std::size_t, std::vector<reduce::Wall>>> m_walls;
    WholeSurvey<std::vector<handover::CheckFinding>> m_check;
    std::vector<Material> m_library;
    QString m_libraryProblem;
    WholeSurvey<std::vector<reduce::ShortEnd>> m_shortEnds;
    WholeSurvey<std::vector<reduce::BeamOnSheet>> m_stiffeners;
    WholeSurvey<std::vector<join::BoltedJoint>> m_bolts;
    WholeSurvey<join::WeldPlan> m_welds;
    WholeSurvey<Result<MeshPointer>> m_mesh, m_meshReceived;  // a refusal is an answer too
    std::vector<std::size_t> m_meshParts;                     // that the mesh in the making is of
    WholeSurvey<std::vector<survey::Symmetry>> m_symmetries;
    std::set<std::size_t> m_symmetricPlaces;  // that they are of
    WholeSurvey<std::vector<divide::BodyLayers>> m_layers;
    WholeSurvey<std::vector<divide::SmallBeside>> m_smallBeside;
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

/// Triangles for the stage, so that showing a part costs the window nothing. Cost: the kernel's meshing, on both cores.
void tessellate(const Model& model, Progress& progress);

}  // namespace rasoir::app
