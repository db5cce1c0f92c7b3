// Asks what a report says beside the work itself: who made and checked it, when, and whether with pictures.
#pragma once
#include <QCheckBox>
#include <QDialog>
#include <QLineEdit>

#include "handover/report.h"

namespace rasoir::app {

class ReportDialog : public QDialog {
    Q_OBJECT
public:
    explicit ReportDialog(QWidget* parent = nullptr);
    /// As it was filled in; the author is remembered for the next one.
    [[nodiscard]] handover::ReportOptions options() const;

private:
    QLineEdit *m_author, *m_checker, *m_date;
    QCheckBox *m_pictures, *m_mesh;
};

}  // namespace rasoir::app
