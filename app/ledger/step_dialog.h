// Edits the parameters of one step: a field for each, by its type.
#pragma once
#include <QDialog>

#include "model/operation.h"

class QLabel;

namespace rasoir::app {

class StepDialog : public QDialog {
    Q_OBJECT
public:
    StepDialog(const Operation& operation, const Json& parameters, QWidget* parent = nullptr);
    /// The parameters as edited; those left at their default and not given before are not added.
    [[nodiscard]] const Json& parameters() const { return m_parameters; }

    void accept() override;  ///< stays open and says what is wrong when a field cannot be read

private:
    /// Reads a field; a sentence in the Problem when it cannot.
    using Reader = std::function<Result<Json>()>;
    struct Field {
        ParameterInfo info;
        Reader read;
    };
    void addField(const ParameterInfo& info, const Json& value);

    Json m_parameters;
    std::vector<Field> m_fields;
    QLabel* m_problem;
};

}  // namespace rasoir::app
