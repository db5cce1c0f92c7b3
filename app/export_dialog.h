// Asks how an export is written: of what, in which unit and coordinate system, one file or one for each part.
#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QDialog>

#include "handover/export.h"
#include "session.h"

namespace rasoir::app {

class ExportDialog : public QDialog {
    Q_OBJECT
public:
    /// `path`: the file that was chosen; its suffix says which questions there are.
    ExportDialog(const Session& session, const QString& path, QWidget* parent = nullptr);
    [[nodiscard]] handover::ExportWanted wanted() const;

private:
    const Session& m_session;
    QString m_path;
    QComboBox *m_what, *m_unit, *m_schema, *m_axes;
    QCheckBox *m_each, *m_proved;
};

}  // namespace rasoir::app
