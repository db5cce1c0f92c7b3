// The page of the Join bench that sets spot welds: points from a table or from what is picked, thrown onto the sheets.
#pragma once
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>

#include "bench/bench_page.h"

namespace rasoir::app {

class SpotsPage : public BenchPage {
    Q_OBJECT
public:
    SpotsPage(Session& session, QWidget* parent);

    void refresh() override {}
    [[nodiscard]] std::optional<BenchStep> step() const override;
    void addTo(BenchPreview& preview) const override;  ///< a cross at each point
    [[nodiscard]] QString answer() const override;
    [[nodiscard]] QString words() const override;
    void picksChanged(const std::vector<select::Pick>& picks) { m_picks = picks; }
    /// Adds what is picked to the table: vertices, the centres of round edges and faces, the middles of others.
    void addPicked();
    [[nodiscard]] QPlainTextEdit* table() const { return m_table; }

private:
    /// None where a line is not three numbers.
    [[nodiscard]] std::optional<std::vector<gp_Pnt>> points() const;
    [[nodiscard]] std::optional<double> lengthIn(const QLineEdit* edit) const;  ///< 0 where it is empty
    QPlainTextEdit* m_table;
    QLineEdit *m_diameter, *m_reach;
    std::vector<select::Pick> m_picks;
};

}  // namespace rasoir::app
