// The page of the Join bench that says what bodies are filled with and what the sides of flow spaces are.
#pragma once
#include <QComboBox>
#include <QLineEdit>
#include <QPushButton>

#include "bench/bench_page.h"

namespace rasoir::app {

/// What the bodies of a part are, solid where nothing is said; "several" where they differ.
[[nodiscard]] QString regionsOf(const Part& part);

class RegionsPage : public BenchPage {
    Q_OBJECT
public:
    RegionsPage(Session& session, QWidget* parent);

    void refresh() override;
    [[nodiscard]] std::optional<BenchStep> step() const override;
    void addTo(BenchPreview& preview) const override;  ///< what is chosen in the list, in brass
    [[nodiscard]] QString answer() const override;
    [[nodiscard]] QString words() const override;
    void picksChanged(const std::vector<select::Pick>& picks);
    [[nodiscard]] QTreeWidget* list() const { return m_list; }
    [[nodiscard]] QComboBox* kind() const { return m_kind; }
    [[nodiscard]] QLineEdit* name() const { return m_name; }
    [[nodiscard]] QPushButton* aloneButton() const { return m_alone; }
    [[nodiscard]] QPushButton* wordsButton() const { return m_words; }

private:
    /// A row is a part, or a group.
    struct Row {
        std::optional<std::size_t> part;
        std::string group;
    };
    [[nodiscard]] std::vector<Row> chosen() const;
    [[nodiscard]] bool makesNew() const;  ///< faces are picked and a name is typed
    void offerKinds();
    void showAlone();

    QTreeWidget* m_list;
    QComboBox* m_kind;
    QLineEdit* m_name;
    QPushButton *m_alone, *m_words;
    int m_hovered = -1;  // row under the pointer
    bool eventFilter(QObject* watched, QEvent* event) override;
    std::vector<Row> m_rows;
    std::vector<select::Pick> m_picks;
};

}  // namespace rasoir::app
