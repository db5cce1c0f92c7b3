// "Change": what is picked moved, resized or rounded instead of removed. Stays open beside the stage, which shows what
// would come of it.
#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "bench/action_foot.h"
#include "selection.h"

class QFormLayout;

namespace rasoir::app {

class ChangePanel : public QDialog {
    Q_OBJECT
public:
    enum Way { MoveBy, MoveThrough, MoveOnto, Diameter, OneHole, Radius, Round, Simplify, Restore };

    ChangePanel(Session& session, Selection& selection, QWidget* parent = nullptr);

    [[nodiscard]] QComboBox* way() const { return m_way; }
    [[nodiscard]] QLineEdit* amount() const { return m_amount; }
    [[nodiscard]] QCheckBox* resultSwitch() const { return m_result; }
    [[nodiscard]] QPushButton* button() const { return m_button; }
    [[nodiscard]] QString message() const { return m_message->text(); }
    /// The step that the button would take; none where picks or amount do not do, and the message says so.
    [[nodiscard]] std::optional<BenchStep> step() const { return m_step; }
    /// What a trial of the step has found out: why it, or parts of it, would not do, and whether nothing
    /// at all would change.
    void tell(const QStringList& reasons, bool nothing);

signals:
    void stepChanged();

protected:
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;

private:
    void takePicks();  ///< the way that suits what is picked, unless one was chosen by hand for it
    void refresh();
    void apply();
    [[nodiscard]] Result<BenchStep> wanted() const;
    [[nodiscard]] Result<double> length(bool signedToo) const;
    [[nodiscard]] std::vector<Pick> picked(PickKind kind) const;

    Session& m_session;
    Selection& m_selection;
    QFormLayout* m_form;
    QComboBox* m_way;
    QLabel *m_of, *m_amountName, *m_message;
    QLineEdit* m_amount;
    QCheckBox* m_result;
    QPushButton* m_button;
    std::optional<BenchStep> m_step;
    bool m_chosen = false;
};

}  // namespace rasoir::app
