#include "material_shelf.h"

#include <QDir>
#include <QStandardPaths>

namespace rasoir::app {

QString MaterialShelf::folder() {
    const QString folder = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation);
    QDir().mkpath(folder);
    return folder;
}

void MaterialShelf::load() {
    auto all = materialLibrary(file().toStdString());
    m_problem = all ? QString() : "▲ " + QString::fromStdString(sentence(all.error()));
    m_all = all.value_or(standardMaterials());
    emit changed();
}

Json MaterialShelf::assigning(const QString& name, const Model& model) const {
    const Material* material = findMaterial(m_all, name.toStdString());
    if (material == nullptr) material = findMaterial(model.materials, name.toStdString());
    if (material == nullptr) return nullptr;
    return {{"material", material->name},
            {"density", material->density},
            {"youngsModulus", material->youngsModulus},
            {"poissonsRatio", material->poissonsRatio}};
}

}  // namespace rasoir::app
