// What of sheets is not flush: ends that stop short or reach too far, lips, overlaps, what has no thickness, walls of
// the solid that no sheet covers.
#pragma once
#include "model/operation.h"
#include "model/reference.h"
#include "reduce/walls.h"

namespace rasoir::reduce {

enum class FlawKind {
    EndsShort,    ///< a free edge ends before another sheet
    Apart,        ///< two free edges end before each other: at a corner, or face to face
    BeforeRim,    ///< a free edge ends within the solid that the sheet stands for
    BeyondRim,    ///< and outside of it
    Lip,          ///< a face hangs over beyond a joint
    Tab,          ///< a tongue of the outline, narrower than the wall is thick
    Slit,         ///< a slit into the outline, narrower than half of that
    Overlap,      ///< two sheets lie on each other, or nearer than their walls are thick
    NoThickness,  ///< a face knows none
    NotCovered    ///< a wall of the solid has no sheet
};
inline constexpr std::array flawKinds{
    FlawKind::EndsShort, FlawKind::Apart, FlawKind::BeforeRim, FlawKind::BeyondRim,   FlawKind::Lip,
    FlawKind::Tab,       FlawKind::Slit,  FlawKind::Overlap,   FlawKind::NoThickness, FlawKind::NotCovered};
/// "endsShort": in ledgers and tables.
[[nodiscard]] const char* flawName(FlawKind kind);
/// "ends short of another sheet": for lists.
[[nodiscard]] const char* flawWords(FlawKind kind);
[[nodiscard]] std::optional<FlawKind> flawFromName(const std::string& name);

struct Flaw {
    FlawKind kind = FlawKind::EndsShort;
    std::size_t place = 0;             ///< occurrence
    std::optional<std::size_t> other;  ///< occurrence that it is not flush with
    int edge = 0, otherEdge = 0;       ///< free edges, of the places' parts
    int face = 0;                      ///< of the place's part; of NotCovered: of the solid it stands for
    double size = 0.0;      ///< [mm] how far it is off, how wide a lip, tab or slit is; of a wall its thickness; else 0
    bool expected = false;  ///< no more than making sheets of walls leaves: it is put right unasked
    gp_Pnt where;           ///< [mm] model coordinates
};

/// Told by a length, which a limit can be held against.
[[nodiscard]] bool hasLength(const Flaw& flaw);
/// Whether a limit [mm] takes it: what is off by no more; with 0, and where it has no length, what is expected.
[[nodiscard]] bool isTakenBy(const Flaw& flaw, double upTo);

/// Looks at all sheets among some places. Short ends and gaps between edges are told up to `upTo` [mm] (0: those that
/// are expected). A gap that was one in the solid too, a relief or a slot, is none. Ends and rims are asked at five
/// points of each edge.
/// Refuses   only being cancelled.
/// Cost      near n log n in the edges and faces; walls of each solid once.
[[nodiscard]] Result<std::vector<Flaw>> findNotFlush(const Model& model, const std::vector<std::size_t>& places,
                                                     double upTo, Progress& progress);

/// Thin walls of the solid that a part stands for, of which less than half lies under its sheets and those of other
/// parts in its place, or in what stays solid. `parts`: all of them.
[[nodiscard]] Result<std::vector<Wall>> wallsNotCovered(const Model& model, const std::vector<std::size_t>& parts,
                                                        Progress& progress);

}  // namespace rasoir::reduce
