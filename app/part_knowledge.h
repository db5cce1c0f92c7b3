// What is known of one part's shape, and the surveys that find it out.
#pragma once
#include <functional>
#include <gp_Lin.hxx>
#include <memory>
#include <mutex>
#include <optional>
#include <vector>

#include "measure/facts.h"
#include "measure/thickness.h"
#include "select/alike.h"
#include "survey/defects.h"
#include "survey/holes.h"
#include "survey/reliefs.h"
#include "survey/rounds.h"
#include "survey/sheet_corners.h"
#include "survey/small.h"
#include "survey/stress_notes.h"
#include "survey/threads.h"

namespace rasoir::app {

/// Kept with the shape and not with its place in a list. Each kind is filled in as soon as it is known; what is not
/// there yet is not known, which is not the same as none.
struct PartKnowledge {
    std::optional<measure::Facts> facts;
    std::optional<std::vector<survey::Hole>> holes;
    std::optional<std::vector<survey::StripChain>> strips;  ///< rounds and chamfers
    std::optional<std::vector<survey::Relief>> reliefs;     ///< marks, bosses, pockets, cutouts, notches, ribs, steps
    std::optional<std::vector<survey::Thread>> threads;
    std::vector<survey::SheetCorner> corners;         ///< rounded, in the outlines of sheets
    std::optional<std::vector<survey::Small>> small;  ///< small faces and short edges that belong to none of those
    std::optional<survey::DefectReport> defects;
    std::vector<survey::StressNote> stress;  ///< inner corners that steps have made sharp
    bool complete = false;                   ///< every survey has been made, whatever it gave
    bool checked = false;                    ///< the defects know which faces are unsound
    bool fastener = false;
    std::shared_ptr<const select::Traits> traits;
    std::optional<measure::ThicknessMap> thickness;  ///< measured when it is asked for
};

/// Makes the surveys that are missing in `known`, one kind after the other; `learned` is called after each. Stops
/// between two kinds when it is cancelled: what was found stays, and is not looked for again.
/// `targetSize` [mm] at which costs are counted; `exact` [mm] what counts as the same point.
void surveyPart(const Part& part, double targetSize, double exact, PartKnowledge& known, Progress& progress,
                const std::function<void()>& learned);

/// The line along which the stage is looked at, through the middle of what it shows. What lies next to it is surveyed
/// first. Set in the window's thread, read in the survey's.
class SightLine {
public:
    void set(const gp_Lin& line) {
        const std::lock_guard lock(m_mutex);
        m_line = line;
    }
    /// [mm]; 0 while nothing is looked at, so that the order of the list holds.
    [[nodiscard]] double distanceOf(const gp_Pnt& point) const {
        const std::lock_guard lock(m_mutex);
        return m_line ? m_line->Distance(point) : 0.0;
    }

private:
    mutable std::mutex m_mutex;
    std::optional<gp_Lin> m_line;
};

}  // namespace rasoir::app
