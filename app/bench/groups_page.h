// Groups: what there is, by hand or by a rule, and what later steps changed in a rule's answer.
#pragma once
#include <QComboBox>
#include <QLineEdit>
#include <set>

#include "bench/bench_page.h"
#include "model/groups.h"

namespace rasoir::app {

class GroupsPage : public BenchPage {
    Q_OBJECT
public:
    GroupsPage(Session& session, QWidget* parent);

    void refresh() override;
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] QString answer() const override;
    [[nodiscard]] QString words() const override;
    [[nodiscard]] std::optional<int> count() const override;
    void addTo(BenchPreview& preview) const override;

    void picksChanged(const std::vector<select::Pick>& picks);
    void made();  ///< its step was taken: the name is free for the next

    [[nodiscard]] QTreeWidget* list() const { return m_list; }
    [[nodiscard]] QLineEdit* name() const { return m_name; }
    [[nodiscard]] QComboBox* way() const { return m_way; }  ///< what is picked, or all by a rule
    [[nodiscard]] QLabel* changes() const { return m_changes; }
    /// What the fields of the rule say; none where a field cannot be read.
    [[nodiscard]] std::optional<GroupRule> rule() const;

signals:
    void picksWanted(const std::vector<rasoir::select::Pick>& picks);
    void selectionCloserWanted();

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;  ///< Delete forgets a group

private:
    QTreeWidget* m_list;
    QLabel* m_changes;
    QLineEdit *m_name, *m_purpose;
    QComboBox* m_way;
    QWidget* m_ruleFields;
    QComboBox *m_kind, *m_lying, *m_material, *m_colour;
    QLineEdit *m_diameter, *m_at, *m_parts, *m_towards, *m_named;
    std::vector<select::Pick> m_picks;
    std::set<Member> m_found;  ///< what the rule in the fields would take in

    [[nodiscard]] bool byRule() const { return m_way->currentIndex() == 1; }
    void buildRule();
    void offer();                          ///< the materials and colours there are
    void fillFrom(const GroupRule& rule);  ///< the fields say this rule
    void ask();                            ///< what the rule would take in now
    void openRow(int row);
    void showMenu(const QPoint& at);
    void tellChanges();
    void settle(const QString& link);
    void addFrames(BenchPreview& preview) const;
};

}  // namespace rasoir::app
