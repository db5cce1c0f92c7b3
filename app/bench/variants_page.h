// The page of the Hand over bench for variants: several ways to prepare one file, taken in hand, compared, wiped.
#pragma once
#include <QLineEdit>
#include <QPushButton>

#include "bench/bench_page.h"

namespace rasoir::app {

class VariantsPage : public BenchPage {
    Q_OBJECT
public:
    VariantsPage(Session& session, QWidget* parent);

    void refresh() override;
    [[nodiscard]] std::optional<BenchStep> step() const override { return std::nullopt; }
    void addTo(BenchPreview& preview) const override;
    [[nodiscard]] QString answer() const override;
    [[nodiscard]] QString words() const override;
    [[nodiscard]] std::optional<int> count() const override;
    [[nodiscard]] bool acts() const override;
    /// Begins the variant whose name is typed, else takes the chosen one in hand.
    void act() override;
    [[nodiscard]] QTreeWidget* list() const { return m_list; }
    [[nodiscard]] QTreeWidget* differences() const { return m_differences; }
    [[nodiscard]] QLineEdit* name() const { return m_name; }
    [[nodiscard]] QPushButton* compareButton() const { return m_compare; }
    [[nodiscard]] QPushButton* besideButton() const { return m_beside; }
    [[nodiscard]] QCheckBox* inTones() const { return m_tones; }

signals:
    void wipeWanted(bool on);

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;  ///< Delete forgets a variant

private:
    /// The variant whose row is chosen and that is not in hand.
    [[nodiscard]] std::optional<std::size_t> other() const;

    QLineEdit* m_name;
    QTreeWidget *m_list, *m_differences;
    QPushButton *m_compare, *m_beside;
    QCheckBox* m_tones;
};

}  // namespace rasoir::app
