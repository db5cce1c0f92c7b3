// The page of the Hand over bench that says what is what: kind, material, thickness and size of many parts at once.
#pragma once
#include <QComboBox>

#include "bench/bench_page.h"

namespace rasoir::app {

class AttributesPage : public BenchPage {
    Q_OBJECT
public:
    AttributesPage(Session& session, QWidget* parent);

    void refresh() override;
    [[nodiscard]] std::optional<BenchStep> step() const override;
    void addTo(BenchPreview&) const override {}
    [[nodiscard]] QString answer() const override;
    [[nodiscard]] QString words() const override;
    [[nodiscard]] std::optional<int> count() const override;  ///< parts of which something is missing
    [[nodiscard]] QTreeWidget* list() const { return m_list; }
    [[nodiscard]] QComboBox* what() const { return m_what; }
    [[nodiscard]] QComboBox* value() const { return m_value; }

private:
    enum class What { Material, Region, Thickness, Size, Weighs, Added, Lumped };
    [[nodiscard]] What current() const { return static_cast<What>(m_what->currentIndex()); }
    /// Parts of the rows that are chosen.
    [[nodiscard]] std::vector<std::string> chosen() const;
    [[nodiscard]] bool lacks(std::size_t part) const;
    void offerValues();
    [[nodiscard]] QString massOf(std::size_t part) const;  ///< with what is spread over it; empty while unknown

    QTreeWidget* m_list;
    QComboBox *m_what, *m_value;
};

}  // namespace rasoir::app
