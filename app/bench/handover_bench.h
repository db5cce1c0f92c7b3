// The Hand over bench: what the next program would choke on, and groups that follow the model.
#pragma once
#include <QLineEdit>
#include <QTreeWidget>

#include "bench/attributes_page.h"
#include "bench/bench.h"
#include "bench/groups_page.h"
#include "bench/mesh_page.h"
#include "bench/revision_page.h"
#include "bench/variants_page.h"
#include "handover/check.h"

namespace rasoir::app {

enum class HandoverKind { Check, Groups, What, Mesh, Variants, Revision };

class HandoverBench : public LaidOutBench {
    Q_OBJECT
public:
    explicit HandoverBench(Session& session, QWidget* parent = nullptr);

    [[nodiscard]] QString state() const override;
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] BenchPreview preview() const override;
    void picksChanged(const std::vector<select::Pick>& picks) override;
    [[nodiscard]] std::vector<BenchDeed> deeds() override;
    [[nodiscard]] QCheckBox* resultSwitch() const override { return nullptr; }

    [[nodiscard]] QTreeWidget* list() const { return m_list; }
    [[nodiscard]] GroupsPage* groups() const { return m_groups; }
    [[nodiscard]] MeshPage* meshPage() const { return m_mesh; }
    [[nodiscard]] AttributesPage* attributes() const { return m_attributes; }
    [[nodiscard]] RevisionPage* revision() const { return m_revision; }
    [[nodiscard]] VariantsPage* variants() const { return m_variants; }
    void showKind(HandoverKind kind);

signals:
    void exportWanted();
    void reportWanted();
    void meshFileWanted();
    void revisionFileWanted();
    void wipeWanted(bool on);

protected:
    void refresh() override;
    void apply() override;
    void showEvent(QShowEvent* event) override;

private:
    [[nodiscard]] HandoverKind kind() const { return static_cast<HandoverKind>(m_kinds->current()); }
    void openRow(int row);
    /// The page of the kind that is shown, where it has one of its own.
    [[nodiscard]] BenchPage* page() const;

    QTreeWidget* m_list;
    GroupsPage* m_groups;
    MeshPage* m_mesh;
    AttributesPage* m_attributes;
    RevisionPage* m_revision;
    VariantsPage* m_variants;
    QPushButton* m_report;
};

}  // namespace rasoir::app
