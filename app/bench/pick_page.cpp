#include "bench/pick_page.h"

#include <BRepBndLib.hxx>

namespace rasoir::app {

void PickPage::setPicks(const std::vector<select::Pick>& picks, std::vector<std::string> places) {
    m_picks.clear();
    for (const select::Pick& pick : picks)
        if (pick.occurrence < m_session.model().occurrences.size()) m_picks.push_back(pick);
    m_places = std::move(places);
    refresh();
}

const Part& PickPage::partOf(const select::Pick& pick) const {
    return *m_session.model().parts[m_session.model().occurrences[pick.occurrence].part];
}
const gp_Trsf& PickPage::placementOf(const select::Pick& pick) const {
    return m_session.model().occurrences[pick.occurrence].placement;
}

std::vector<select::Pick> PickPage::picked(select::PickKind kind) const {
    std::vector<select::Pick> found;
    for (const select::Pick& pick : m_picks)
        if (select::kindOf(pick) == kind) found.push_back(pick);
    return found;
}

std::optional<double> PickPage::numberIn(const QLineEdit* edit) const {
    QString typed = edit->text().trimmed();
    typed.replace(QChar(0x2212), '-');  // the true minus that is shown, and thin spaces between thousands
    typed.remove(QChar(0x2009));
    const bool negative = typed.startsWith('-');
    if (negative) typed.remove(0, 1);
    const auto length = parseLength(typed.toStdString(), Unit::Millimetre, m_session.model().targetSize);
    if (!length) return std::nullopt;
    return negative ? -*length : *length;
}

Bnd_Box PickPage::boxOfPlaces() const {
    Bnd_Box box;
    const Model& model = m_session.model();
    const auto& selected = m_session.places().selected();
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const Occurrence& place = model.occurrences[o];
        if (place.aside || model.parts[place.part]->shape.IsNull()) continue;
        if (!selected.empty() && !selected.contains(o)) continue;
        BRepBndLib::Add(model.parts[place.part]->shape.Moved(TopLoc_Location(place.placement)), box, true);
    }
    if (!box.IsVoid()) box.SetGap(0.0);
    return box;
}

QLineEdit* PickPage::field(QWidget* parent, const char* name, const QString& spoken, const QString& start) {
    auto* edit = new QLineEdit(start, parent);
    edit->setObjectName(name);
    edit->setAccessibleName(spoken);
    connect(edit, &QLineEdit::editingFinished, this, &PickPage::changed);
    return edit;
}

}  // namespace rasoir::app
