// What the window does with files: asks for their names and their units, opens, saves and exports them, keeps what was
// not saved when a run broke off, and remembers the last ones.
#include <QtWidgets>

#include "export_dialog.h"
#include "ledger/step_dialog.h"
#include "main_window.h"
#include "materials_dialog.h"
#include "operations.h"
#include "report_dialog.h"
#include "selection.h"
#include "stage/stage.h"
#include "start_page.h"
#include "whole_surveys.h"
#include "words.h"

namespace rasoir::app {
namespace {

constexpr int recentFiles = 5;

}  // namespace

void MainWindow::openFiles(const QStringList& paths) {
    if (paths.isEmpty()) return;
    if (paths.size() == 1 && paths[0].endsWith(".json", Qt::CaseInsensitive)) {
        if (m_session->isEmpty())
            m_session->openWithLedger(paths[0]);
        else
            m_session->replayLedger(paths[0]);
        return;
    }
    QStringList all;
    for (const QString& path : paths) all << QFileInfo(path).absoluteFilePath();
    m_session->openFiles(all);
}

bool MainWindow::mayDiscard() {
    if (!m_session->unsaved()) return true;
    const auto answer =
        QMessageBox::question(this, "Rasoir", "The last steps are not saved. Save the work first?",
                              QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, QMessageBox::Save);
    if (answer == QMessageBox::Save) {
        askSave();
        // Saving runs beside the window; here it has to be done before going on.
        QEventLoop loop;
        connect(m_session, &Session::finished, &loop, &QEventLoop::quit);
        if (m_session->isBusy()) loop.exec();
    }
    return answer == QMessageBox::Discard || (answer == QMessageBox::Save && !m_session->unsaved());
}

void MainWindow::askOpen() {
    if (!mayDiscard()) return;
    const QStringList paths = QFileDialog::getOpenFileNames(
        this, "Open geometry; several files become one model", QSettings().value("files/folder").toString(),
        "All that can be opened (*.rasoir *.step *.stp *.STEP *.STP *.igs *.iges *.IGS *.IGES *.brep *.brp *.json);;"
        "Work (*.rasoir);;Geometry (*.step *.stp *.STEP *.STP *.igs *.iges *.IGS *.IGES *.brep *.brp);;Ledgers "
        "(*.json);;All files (*)");
    openFiles(paths);
}

void MainWindow::askSave() {
    if (m_session->isEmpty()) return;
    if (!m_session->workPath().isEmpty())
        m_session->saveWorkTo(m_session->workPath(), viewToKeep());
    else
        askSaveAs(true);
}

void MainWindow::askSaveAs(bool asWork) {
    if (m_session->isEmpty()) return;
    const QFileInfo file(m_session->fileName());
    const QString path =
        asWork ? QFileDialog::getSaveFileName(
                     this, "Save the work", file.path() + "/" + file.completeBaseName() + ".rasoir", "Work (*.rasoir)")
               : QFileDialog::getSaveFileName(this, "Save the ledger",
                                              file.path() + "/" + file.completeBaseName() + ".ledger.json",
                                              "Ledgers (*.json)");
    if (path.isEmpty()) return;
    if (asWork)
        m_session->saveWorkTo(QFileInfo(path).suffix().isEmpty() ? path + ".rasoir" : path, viewToKeep());
    else
        m_session->saveLedgerTo(path);
}

bool MainWindow::saveWork(const QString& path) {
    if (m_session->isEmpty() || m_session->isBusy()) return false;
    m_session->saveWorkTo(path, viewToKeep());
    return true;
}

Json MainWindow::viewToKeep() const {
    Json views = Json::object();
    for (const auto& [name, camera] : m_namedViews) views[name.toStdString()] = camera;
    return Json{{"views", std::move(views)}};
}

void MainWindow::askExport() {
    if (m_session->isEmpty()) return;
    const QFileInfo file(m_session->fileName());
    QString path = QFileDialog::getSaveFileName(this, "Export geometry",
                                                file.path() + "/" + file.completeBaseName() + "-shaved.step",
                                                "STEP (*.step *.stp);;BREP (*.brep);;Sections as DXF (*.dxf)");
    if (path.isEmpty()) return;
    if (QFileInfo(path).suffix().isEmpty()) path += ".step";
    ExportDialog dialog(*m_session, path, this);
    if (dialog.exec() == QDialog::Accepted) m_session->exportAll(dialog.wanted());
}

void MainWindow::askReport() {
    if (m_session->isEmpty()) return;
    const QFileInfo file(m_session->fileName());
    QString path = QFileDialog::getSaveFileName(this, "Write a report",
                                                file.path() + "/" + file.completeBaseName() + "-report.html",
                                                "Page to read (*.html);;Page to print (*.pdf)");
    if (path.isEmpty()) return;
    if (QFileInfo(path).suffix().isEmpty()) path += ".html";
    ReportDialog dialog(this);
    if (dialog.exec() != QDialog::Accepted) return;
    handover::ReportOptions options = dialog.options();
    options.views = handover::sightsIn(viewToKeep()["views"]);
    // What was exported last is held against the work once more, if it is still there.
    if (const QString exported = m_session->lastExport(); QFileInfo::exists(exported))
        options.exported.emplace_back(exported.toStdString());
    m_session->writeReport(path, options);
}

void MainWindow::askMaterials() {
    const auto own = ownMaterials(MaterialShelf::file().toStdString());
    if (!own) {
        say(tl::unexpected(own.error()));  // a file that cannot be read is not written over
        return;
    }
    MaterialsDialog dialog(*own, MaterialShelf::file(), this);
    if (dialog.exec() == QDialog::Accepted) m_session->materials().load();
}

void MainWindow::askMeshFile() {
    if (!m_session->surveys().trialMesh()) return;
    const QFileInfo file(m_session->fileName());
    QString path = QFileDialog::getSaveFileName(this, "Write the trial mesh",
                                                file.path() + "/" + file.completeBaseName() + "-mesh.vtu",
                                                "Mesh with groups and measures (*.vtu);;Triangles (*.stl)");
    if (path.isEmpty()) return;
    if (QFileInfo(path).suffix().isEmpty()) path += ".vtu";
    m_session->writeTrialMesh(path);
}

void MainWindow::askUnit(const QStringList& paths, const Problem& problem) {
    QStringList names;
    for (const Unit unit : {Unit::Millimetre, Unit::Inch, Unit::Metre, Unit::Centimetre, Unit::Foot, Unit::Micrometre})
        names << text(unitName(unit));
    bool fine = false;
    const QString chosen = QInputDialog::getItem(
        this, "Which unit?", QString::fromStdString(problem.what) + "\nOne unit in it is one:", names, 0, false, &fine);
    if (fine) m_session->openFiles(paths, unitFromName(chosen.toStdString()));
}

void MainWindow::askEdit(std::size_t step) {
    if (step >= m_session->work().ledger().steps.size()) return;
    const Step& wanted = m_session->work().ledger().steps[step];
    const Operation* operation = findOperation(wanted.operation);
    if (operation == nullptr) return;
    StepDialog dialog(*operation, wanted.parameters, this);
    if (dialog.exec() == QDialog::Accepted) m_session->editStep(step, dialog.parameters());
}

bool MainWindow::exportFile(const QString& path) {
    if (m_session->isEmpty() || m_session->isBusy()) return false;
    m_session->exportTo(path);
    return true;
}

QString MainWindow::recoveredPath() {
    return QFileInfo(Session::autosavePath()).path() + "/recovered.ledger.json";
}

void MainWindow::offerRecovery() {
    const QString path = Session::autosavePath();
    if (!QFileInfo::exists(path)) return;
    const auto ledger = loadLedger(path.toStdString());
    if (!ledger || (ledger->steps.empty() && !QFileInfo::exists(Session::viewBeside(path)))) return;
    // Kept under another name, so that new work does not overwrite it.
    QFile::remove(recoveredPath());
    if (!QFile::rename(path, recoveredPath())) return;
    QFile::remove(Session::viewBeside(recoveredPath()));
    QFile::rename(Session::viewBeside(path), Session::viewBeside(recoveredPath()));
    m_notice = QString("▲ The last run broke off. %1 on %2 %3 kept: File › Recover the last run.")
                   .arg(QString::fromStdString(counted(ledger->steps.size(), "step")),
                        QFileInfo(QString::fromStdString(ledger->source)).fileName(),
                        ledger->steps.size() == 1 ? "is" : "are");
    m_recover->setEnabled(true);
    refreshReading();
}

void MainWindow::remember(const QString& path) {
    QSettings settings;
    QStringList recent = settings.value("files/recent").toStringList();
    recent.removeAll(path);
    recent.prepend(path);
    while (recent.size() > recentFiles) recent.removeLast();
    settings.setValue("files/recent", recent);
    settings.setValue("files/folder", QFileInfo(path).path());
    refreshRecent();
}

void MainWindow::refreshRecent() {
    m_recent->clear();
    const QStringList recent = QSettings().value("files/recent").toStringList();
    for (const QString& path : recent)
        m_recent->addAction(QFileInfo(path).fileName() + "  –  " + QFileInfo(path).path(), this, [this, path] {
            if (mayDiscard()) openFile(path);
        });
    m_recent->setEnabled(!recent.isEmpty());
    m_start->setRecent(recent);
}

}  // namespace rasoir::app
