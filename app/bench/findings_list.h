// The list of findings: what was found, its size, what it costs, whether it is kept. The blade is one of its rows.
#pragma once
#include <QTreeWidget>
#include <vector>

namespace rasoir::app {

enum class Verdict { ByLimit, Kept, Taken };  ///< Taken: goes although it lies above the limit

struct Finding {
    double size = 0.0;  ///< [mm]
    QString sizeText;   ///< as it is shown; empty: the size, readable
    QString what;       ///< "through", "blind, 10 deep"
    QString several;    ///< the same of more than one, where that differs: "slivers"
    QString where;      ///< the part, or the place: tells alike findings apart
    double elements = 0.0;
    Verdict verdict = Verdict::ByLimit;
    bool seen = false;  ///< looked at already
    int key = 0;        ///< the owner's number for it
    friend bool operator==(const Finding&, const Finding&) = default;
};

/// Alike findings (size and kind) fold into one row. K keeps, Space takes or leaves, Enter looks closer.
class FindingsList : public QTreeWidget {
    Q_OBJECT
public:
    explicit FindingsList(QWidget* parent = nullptr);
    void setFindings(std::vector<Finding> findings, double limit, double from = 0.0);
    void setLimit(double limit, double from = 0.0);  ///< [mm] the range that goes by its size
    /// Of the first and the third column; else "Ø mm" and "Elements".
    void setHeadings(const QString& size, const QString& cost);
    void setVerdict(int key, Verdict verdict);
    void setSeen(int key);
    void reveal(int key);
    [[nodiscard]] std::vector<int> selectedKeys() const;
    void keepSelected() { toggleKept(selectedKeys()); }  ///< or no longer, when all are kept

signals:
    void verdictWanted(const std::vector<int>& keys, rasoir::app::Verdict verdict);
    void hovered(const std::vector<int>& keys);
    void closerWanted(int key);

protected:
    void keyPressEvent(QKeyEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;

private:
    void rebuild();
    void fitSizes();
    void style();
    [[nodiscard]] bool goes(const Finding& finding) const;
    [[nodiscard]] std::vector<int> keysOf(const QTreeWidgetItem* item) const;
    void toggleKept(const std::vector<int>& keys);

    std::vector<Finding> m_findings;
    [[nodiscard]] bool within(double size) const { return size <= m_limit * (1 + 1e-6) && size >= m_from * (1 - 1e-6); }
    double m_limit = 0.0, m_from = 0.0;
    QTreeWidgetItem* m_bladeRow = nullptr;
};

}  // namespace rasoir::app
