// The cut bar: sizes of what was found as a histogram on a log axis, and a blade that is dragged. Shows and asks; the
// findings are somebody else's.
#pragma once
#include <QLabel>
#include <QLineEdit>
#include <QWidget>
#include <vector>

namespace rasoir::app {

struct CutItem {
    double size = 0.0;  ///< [mm]
    bool kept = false;
};

/// The plot with its blade, and a lower blade where a range is wanted (Ctrl+drag). Drag anywhere; the blade sticks at
/// whole elements and between bars, Shift lets it run fine. Keys: arrows to the next size, Page Up/Down to the next
/// tick, Home/End, a digit starts typing, Esc goes back.
class CutPlot : public QWidget {
    Q_OBJECT
public:
    explicit CutPlot(QWidget* parent = nullptr);
    void setItems(std::vector<CutItem> items);
    void setTargetSize(double millimetres);
    /// What is measured: "mm" with a second scale in elements, or another unit in powers of ten; and the word for what
    /// is taken.
    void setMeasure(const QString& unit, bool inElements, const QString& taken);
    [[nodiscard]] QString unit() const { return m_unit; }
    void setLimit(double millimetres);
    [[nodiscard]] double limit() const { return m_limit; }
    /// The lower end of what is taken; 0: none.
    void setFrom(double millimetres);
    [[nodiscard]] double from() const { return m_from; }
    [[nodiscard]] int taken() const;  ///< within the range and not kept
    [[nodiscard]] int staying() const;
    [[nodiscard]] QSize sizeHint() const override { return {272, 140}; }
    /// Where a size lies, in widget pixels; for tests that drag.
    [[nodiscard]] double xOf(double millimetres) const;

signals:
    void limitChanged(double millimetres);
    void typingWanted(const QString& text);

protected:
    bool event(QEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    struct Bar {
        double size;
        int count, kept;
    };
    [[nodiscard]] double sizeAt(double x) const;
    [[nodiscard]] double stuck(double size, bool fine) const;
    void moveTo(double size);
    [[nodiscard]] std::vector<double> ticks() const;

    std::vector<CutItem> m_items;
    std::vector<Bar> m_bars;
    QString m_unit = "mm", m_taken = "go";
    bool m_inElements = true;
    [[nodiscard]] bool within(double size) const { return size <= m_limit * (1 + 1e-6) && size >= m_from * (1 - 1e-6); }
    void moveFromTo(double size);
    double m_from = 0.0;
    double m_target = 4.0, m_limit = 8.0, m_low = 1.0, m_high = 100.0, m_before = 8.0;
};

/// Sentence, number and plot.
class CutBar : public QWidget {
    Q_OBJECT
public:
    explicit CutBar(const QString& before, const QString& after, QWidget* parent = nullptr);
    void setWords(const QString& before);  ///< what is cut: "Holes" reads "Holes up to 8" or "Holes 2 to 8"
    void setMeasure(const QString& unit, bool inElements, const QString& taken);
    void setItems(std::vector<CutItem> items) { m_plot->setItems(std::move(items)); }
    void setTargetSize(double millimetres);
    void setLimit(double millimetres);
    [[nodiscard]] double limit() const { return m_plot->limit(); }
    /// The lower end of the range; 0: none. Typed as "2 to 8".
    void setFrom(double millimetres);
    [[nodiscard]] double from() const { return m_plot->from(); }
    [[nodiscard]] CutPlot* plot() const { return m_plot; }
    [[nodiscard]] QLineEdit* number() const { return m_number; }

signals:
    void limitChanged(double millimetres);

private:
    void showNumber();
    QLabel *m_before, *m_after;
    QString m_words;
    QLineEdit* m_number;
    CutPlot* m_plot;
    double m_target = 4.0;
    bool m_inElements = true;
};

}  // namespace rasoir::app
