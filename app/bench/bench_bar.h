// The bar of benches: each with its name over its state in words; the current one is a solid ink block.
#pragma once
#include <QAbstractButton>
#include <QButtonGroup>
#include <QWidget>

namespace rasoir::app {

class BenchButton : public QAbstractButton {
    Q_OBJECT
public:
    explicit BenchButton(const QString& name, QWidget* parent = nullptr);
    void setState(const QString& state);
    [[nodiscard]] QString state() const { return m_state; }
    [[nodiscard]] QSize sizeHint() const override;

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    QString m_state;
};

class BenchBar : public QWidget {
    Q_OBJECT
public:
    explicit BenchBar(QWidget* parent = nullptr);
    void addBench(const QString& name, const QString& does);
    [[nodiscard]] int current() const { return m_group->checkedId(); }
    void setCurrent(int bench);
    void setState(int bench, const QString& state);
    void setFile(const QString& name, const QString& state);

signals:
    void benchChanged(int bench);

private:
    QButtonGroup* m_group;
    QString m_fileName, m_fileState;
    class FileLabel;
    FileLabel* m_file;
};

}  // namespace rasoir::app
