// The materials that a user can choose from: the standard ones with the user's own, which stand in a file of the
// program's folder in the user's home.
#pragma once
#include <QObject>
#include <QString>
#include <vector>

#include "model/model.h"

namespace rasoir::app {

class MaterialShelf : public QObject {
    Q_OBJECT
public:
    [[nodiscard]] const std::vector<Material>& all() const { return m_all; }
    /// Why the user's own cannot be used; empty: they can, or there are none.
    [[nodiscard]] const QString& problem() const { return m_problem; }
    /// Reads them anew, and tells.
    void load();
    /// A material of the shelf, else of the model, as the parameters of a step that assigns it; null where there is
    /// none of that name.
    [[nodiscard]] Json assigning(const QString& name, const Model& model) const;

    [[nodiscard]] static QString folder();  ///< of this program in the user's home, made when it is missing
    [[nodiscard]] static QString file() { return folder() + "/materials.json"; }

signals:
    void changed();

private:
    std::vector<Material> m_all;
    QString m_problem;
};

}  // namespace rasoir::app
