// How the window looks at the model's places: which are selected, hidden or ghosts, and which of their faces are hidden
// to look inside. Shared by board, stage and benches; nothing of it is in the ledger.
#pragma once
#include <gp_Trsf.hxx>
#include <map>
#include <QObject>
#include <set>
#include <string>
#include <vector>

#include "model/model.h"

namespace rasoir::app {

class PlaceView : public QObject {
    Q_OBJECT
public:
    [[nodiscard]] const std::set<std::size_t>& selected() const { return m_selected; }
    void select(std::set<std::size_t> places);
    /// Parts of the selected places; empty when nothing is selected.
    [[nodiscard]] std::set<std::size_t> selectedParts() const;

    [[nodiscard]] bool isHidden(std::size_t place) const { return m_hidden.contains(place); }
    [[nodiscard]] const std::set<std::size_t>& hidden() const { return m_hidden; }
    void setHidden(const std::set<std::size_t>& places);
    [[nodiscard]] const std::set<std::size_t>& ghosts() const { return m_ghosts; }
    void setGhosts(const std::set<std::size_t>& places);
    /// Faces hidden in a place, to look inside.
    [[nodiscard]] const std::map<std::size_t, std::set<int>>& hiddenFaces() const { return m_hiddenFaces; }
    void setHiddenFaces(std::map<std::size_t, std::set<int>> faces);
    /// Set-aside places are drawn as ghosts, or not at all.
    [[nodiscard]] bool showsAside() const { return m_showsAside; }
    void setShowsAside(bool on);

    /// Another file: nothing is selected, all is shown. Tells nothing: whoever opens it tells that all is new.
    void clear();
    /// What is selected, hidden or a ghost goes with its place, also where the places stand in another order now.
    void follow(const Model& now);

signals:
    void selectionChanged();
    void visibilityChanged();

private:
    struct Shown {
        std::size_t part = 0;
        std::string name;  ///< of the part: its number may change
        gp_Trsf placement;
        [[nodiscard]] bool sameAs(const Shown& other) const;
    };

    std::vector<Shown> m_shown;  // places of the model that the selection speaks of
    std::set<std::size_t> m_selected, m_hidden, m_ghosts;
    std::map<std::size_t, std::set<int>> m_hiddenFaces;
    bool m_showsAside = false;
};

}  // namespace rasoir::app
