// What the window works on: the history, the surveys, and the one piece of long work that may be running. Holds no widgets.
#pragma once
#include <QObject>
#include <QString>
#include <memory>
#include <set>
#include <thread>

#include "exchange/files.h"
#include "measure/mass.h"
#include "model/work.h"
#include "survey/holes.h"

namespace rasoir::app {

/// What is known of one part's shape, kept with the shape and not with its place in a list.
struct PartKnowledge {
    std::optional<measure::Facts> facts;
    std::optional<std::vector<survey::Hole>> holes;
};

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
    [[nodiscard]] bool isBusy() const { return m_thread.joinable(); }
    [[nodiscard]] bool unsaved() const { return m_unsaved; }
    [[nodiscard]] const History& history() const { return m_history; }

    // Asynchronous: each ends with finished(), or with failed() and nothing changed.
    void open(const QString& path, std::optional<Unit> unit = std::nullopt, std::optional<Ledger> ledger = std::nullopt);
    void openWithLedger(const QString& ledgerPath);  ///< the file it was made on, then its steps
    void apply(const std::string& operation, const Json& parameters);
    void replayLedger(const QString& path);
    void switchStep(std::size_t step, bool on);
    void editStep(std::size_t step, const Json& parameters);
    void removeStep(std::size_t step);
    void replayWaiting();
    void exportTo(const QString& path);
    void cancel();

    // At once:
    void undo();
    void redo();
    void moveMarker(std::size_t steps);
    void setTargetSize(double millimetres);
    bool saveLedgerTo(const QString& path);
    void close();

    [[nodiscard]] const PartKnowledge* knowledge(std::size_t part) const;
    void requestSurvey();                       ///< holes and facts of all parts not known yet, in the background
    /// Facts of all parts in order, once all are known.
    [[nodiscard]] std::optional<std::vector<measure::Facts>> facts() const;
    [[nodiscard]] double forecast() const;      ///< elements of the whole; 0 while unknown

    // Selection and visibility, by occurrence; shared by board and stage.
    [[nodiscard]] const std::set<std::size_t>& selectedOccurrences() const { return m_selected; }
    void selectOccurrences(std::set<std::size_t> occurrences);
    [[nodiscard]] bool isHidden(std::size_t occurrence) const { return m_hidden.contains(occurrence); }
    void setHidden(const std::set<std::size_t>& occurrences);
    [[nodiscard]] const std::set<std::size_t>& hidden() const { return m_hidden; }
    /// Parts of the selected occurrences; empty when nothing is selected.
    [[nodiscard]] std::set<std::size_t> selectedParts() const;

    [[nodiscard]] static QString autosavePath();

signals:
    void opened();                  ///< another file: everything is new
    void changed();                 ///< model, ledger or marker
    void knowledgeChanged();
    void selectionChanged();
    void visibilityChanged();
    void started(const QString& doing);
    void progressed(double fraction, const QString& doing);
    void finished();
    void failed(const rasoir::Problem& problem);
    void unitWanted(const QString& path, const rasoir::Problem& problem);
    void saved(const QString& path);

private:
    using Finish = std::function<void()>;
    void start(const QString& doing, std::function<Finish(Progress&)> work);
    void replay(Work work, QString title, bool pushes = true);
    void restart(Work work, const QString& file);
    void showPresent();
    void prune();
    void autosave() const;

    History m_history;
    std::size_t m_marker = 0;
    QString m_file, m_ledgerPath;
    bool m_unsaved = false;
    std::shared_ptr<measure::FactsCache> m_facts = std::make_shared<measure::FactsCache>();
    std::map<const Part*, std::pair<std::weak_ptr<const Part>, PartKnowledge>> m_known;
    std::set<std::size_t> m_selected, m_hidden;
    std::shared_ptr<Progress> m_progress;
    std::thread m_thread;
    bool m_surveyWanted = false;
    double m_targetWanted = 0.0;  // [mm] typed while work was running
};

/// Triangles for the stage, so that showing a part costs the window nothing. Cost: the kernel's meshing, on both cores.
void tessellate(const Model& model, Progress& progress);

}  // namespace rasoir::app
