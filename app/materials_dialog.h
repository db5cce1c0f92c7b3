// The user's own materials, edited with units. The standard ones are shown beside them; one of the same name replaces.
#pragma once
#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QTableWidget>

#include "model/material.h"

namespace rasoir::app {

class MaterialsDialog : public QDialog {
    Q_OBJECT
public:
    /// `own`: as the user's file has them.
    MaterialsDialog(const std::vector<Material>& own, QString file, QWidget* parent);

    [[nodiscard]] QTableWidget* table() const { return m_table; }
    [[nodiscard]] QComboBox* densityUnit() const { return m_density; }
    [[nodiscard]] QComboBox* stiffnessUnit() const { return m_stiffness; }
    [[nodiscard]] QString message() const { return m_message->text(); }
    void addRow();
    /// Writes the file and closes; says what stands in the way, and stays open, where a value cannot be.
    void save();

private:
    /// What a row says, in the library's own units; none, with the reason, where it says no numbers.
    [[nodiscard]] Result<Material> materialIn(int row) const;
    void setRow(int row, const Material& material, bool standard);
    void unitsChanged();
    void removeChosen();

    QString m_file;
    QTableWidget* m_table;
    QComboBox *m_density, *m_stiffness;
    QLabel* m_message;
    int m_own = 0;                                  // rows that are the user's; the standard ones follow
    double m_densityIn = 1.0, m_stiffnessIn = 1.0;  // [kg/m^3] and [MPa] of the units that the table shows
};

}  // namespace rasoir::app
