// What is selected, for every bench: picked things in the order of picking, how they grow, and the last ones back.
#pragma once
#include <deque>
#include <QObject>
#include <QString>

#include "model/reference.h"
#include "select/alike.h"
#include "select/pick.h"
#include "session.h"

namespace rasoir::app {

using select::Pick;
using select::PickKind;

/// What a click takes.
enum class PickFilter { FacesAndEdges, Faces, Edges, Vertices, Bodies, Parts };
enum class Grow { Tangent, Adjacent, Feature, Loop, Inside, Between, Shrink };

class Selection : public QObject {
    Q_OBJECT
public:
    explicit Selection(Session& session, QObject* parent = nullptr);

    [[nodiscard]] const std::vector<Pick>& picks() const { return m_picks; }
    [[nodiscard]] bool contains(const Pick& pick) const {
        return std::find(m_picks.begin(), m_picks.end(), pick) != m_picks.end();
    }
    [[nodiscard]] PickFilter filter() const { return m_filter; }
    void setFilter(PickFilter filter);

    void set(std::vector<Pick> picks);  ///< replaces; what was selected can come back
    void add(const std::vector<Pick>& picks);
    void remove(const std::vector<Pick>& picks);
    void toggle(const Pick& pick);
    void clear();
    void back();    ///< the selection before this one; again: the one before that
    void invert();  ///< among all shown things of the kinds selected (of the filter's when nothing is)
    /// Grows within each place. Refuses with a sentence what needs more than is picked.
    Result<void> grow(Grow way);
    /// All like the last pick. Refuses when it has no such property.
    Result<void> selectAlike(const select::AlikeWanted& wanted);
    /// The sizes of all alike candidates, for a cut bar: everything of the sample's kind, however large.
    [[nodiscard]] std::vector<double> candidateSizes(select::Likeness by, const std::set<std::size_t>& parts) const;

    /// Walks through what is selected, one by one: the item to look at, and its number.
    std::optional<Pick> step(int by);
    [[nodiscard]] int stepNumber() const { return m_step; }

signals:
    void changed();
    void filterChanged();

private:
    [[nodiscard]] const Part& partOf(const Pick& pick) const;
    void apply(std::vector<Pick> picks, bool remembers = true);
    void followModel();

    Session& m_session;
    std::vector<Pick> m_picks;
    std::vector<std::shared_ptr<const Part>> m_partOfPick;
    std::deque<std::vector<Pick>> m_before;
    PickFilter m_filter = PickFilter::FacesAndEdges;
    int m_step = -1;
};

QString describeSelection(const std::vector<Pick>& picks);  ///< "3 faces, 1 edge"

}  // namespace rasoir::app
