#include "place_view.h"

#include <algorithm>
#include <cmath>

#include "common/tolerance.h"

namespace rasoir::app {

void PlaceView::select(std::set<std::size_t> places) {
    if (places == m_selected) return;
    m_selected = std::move(places);
    emit selectionChanged();
}

std::set<std::size_t> PlaceView::selectedParts() const {
    std::set<std::size_t> parts;
    for (const std::size_t place : m_selected)
        if (place < m_shown.size()) parts.insert(m_shown[place].part);
    return parts;
}

void PlaceView::setHidden(const std::set<std::size_t>& places) {
    if (places == m_hidden) return;
    m_hidden = places;
    emit visibilityChanged();
}

void PlaceView::setGhosts(const std::set<std::size_t>& places) {
    if (places == m_ghosts) return;
    m_ghosts = places;
    emit visibilityChanged();
}

void PlaceView::setHiddenFaces(std::map<std::size_t, std::set<int>> faces) {
    if (faces == m_hiddenFaces) return;
    m_hiddenFaces = std::move(faces);
    emit visibilityChanged();
}

void PlaceView::setShowsAside(bool on) {
    if (on == m_showsAside) return;
    m_showsAside = on;
    emit visibilityChanged();
}

void PlaceView::clear() {
    m_selected.clear();
    m_hidden.clear();
    m_ghosts.clear();
    m_hiddenFaces.clear();
}

bool PlaceView::Shown::sameAs(const Shown& other) const {
    if (name != other.name) return false;
    for (int row = 1; row <= 3; ++row)
        for (int column = 1; column <= 4; ++column)
            if (std::abs(placement.Value(row, column) - other.placement.Value(row, column)) > Tolerance::noWay)
                return false;
    return true;
}

void PlaceView::follow(const Model& now) {
    std::vector<Shown> places;
    for (const Occurrence& occurrence : now.occurrences)
        places.push_back({occurrence.part, now.parts[occurrence.part]->name, occurrence.placement});
    for (std::set<std::size_t>* chosen : {&m_selected, &m_hidden, &m_ghosts}) {
        std::set<std::size_t> followed;
        for (const std::size_t place : *chosen) {
            if (place >= m_shown.size()) continue;
            const Shown& was = m_shown[place];
            // Where it was, if it is the same still; else wherever it went; else, as when it was moved or renamed,
            // where it was.
            const auto found =
                place < places.size() && was.sameAs(places[place])
                    ? places.begin() + static_cast<std::ptrdiff_t>(place)
                    : std::find_if(places.begin(), places.end(), [&](const Shown& other) { return was.sameAs(other); });
            if (found != places.end())
                followed.insert(static_cast<std::size_t>(found - places.begin()));
            else if (place < places.size())
                followed.insert(place);
        }
        *chosen = std::move(followed);
    }
    m_shown = std::move(places);
}

}  // namespace rasoir::app
