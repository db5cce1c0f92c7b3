// The Intake bench: what came, what is odd about it, what it is made of, and setting aside by the cut bar.
#pragma once
#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>
#include <QWidget>

#include "bench/bench.h"
#include "bench/cut_bar.h"
#include "session.h"

namespace rasoir::app {

enum class AsideBy { Volume, LongestSide, Mass, Fasteners, Inner };

class IntakeBench : public Bench {
    Q_OBJECT
public:
    explicit IntakeBench(Session& session, QWidget* parent = nullptr);

    [[nodiscard]] CutBar* cutBar() const override { return m_cutBar; }
    [[nodiscard]] QPushButton* button() const { return m_button; }
    [[nodiscard]] QTreeWidget* oddities() const { return m_odd; }
    [[nodiscard]] QComboBox* measure() const { return m_measure; }
    [[nodiscard]] QComboBox* materials() const { return m_material; }
    [[nodiscard]] QString facts() const { return m_facts->text(); }
    /// Places that the cut bar would set aside.
    [[nodiscard]] const std::vector<std::size_t>& going() const { return m_going; }
    [[nodiscard]] int openFindings() const;
    [[nodiscard]] QString state() const override;
    [[nodiscard]] QPushButton* primary() const override { return button(); }
    [[nodiscard]] BenchPreview preview() const override;
    [[nodiscard]] bool tintsParts() const override { return true; }
    bool takeLimit(double millimetres) override;
    void setMeasure(AsideBy by);
    /// Carries out the remedy of the oddity chosen in the list.
    void mendChosen();
    void assignMaterial(const QString& name);  ///< to the selected parts; none: to all
    void assignMaterialTo(const QString& name, const std::vector<std::string>& parts);

signals:
    void placesChosen(const std::vector<std::size_t>& occurrences);

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;  ///< the material's grip is dragged

private:
    void refresh();
    void refreshFacts();
    void refreshOddities();
    void refreshAside();
    void recount();
    void apply();
    void showMessage(const QString& text);
    [[nodiscard]] AsideBy by() const { return static_cast<AsideBy>(m_measure->currentIndex()); }

    QLabel *m_state, *m_facts, *m_message, *m_effect;
    QTreeWidget* m_odd;
    QComboBox *m_measure, *m_material;
    CutBar* m_cutBar;
    QPushButton *m_button, *m_mend;
    std::vector<std::size_t> m_going;
    std::map<AsideBy, double> m_limits;
};

}  // namespace rasoir::app
