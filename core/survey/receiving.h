// The receiving report: what came, in what state, and what is odd about it.
#pragma once
#include "measure/mass.h"

namespace rasoir::survey {

enum class Oddity {
    Unit,       ///< none stated, several, unusual, or an extent that makes it doubtful
    Name,       ///< missing, doubled, or in a wrong encoding, and repaired
    Dropped,    ///< something in the file that was not taken in
    FarAway,    ///< a part far from everything else, or all of it far from the origin
    Askew,      ///< an axis off a coordinate axis by a little
    NotClosed,  ///< a solid with open edges, or a part of loose faces
    NoVolume,   ///< a solid without volume, or inside out
    SameShape,  ///< parts of one shape that are not instances of one part
    SamePlace,  ///< a part twice in one place
    Tolerance,  ///< the file claims coarse tolerances
    Note        ///< anything else that was remarked while reading
};

struct OddFinding {
    Oddity kind = Oddity::Note;
    std::string what;    ///< a sentence
    std::string remedy;  ///< what can be done; may be empty
    std::vector<std::size_t> occurrences;
    std::vector<int> faces;       ///< of the one part it concerns
    std::optional<gp_Pnt> point;  ///< model coordinates
    double size = 0.0;            ///< [mm or degrees] how far off, how far away
    /// A step that would mend it, ready to be applied: id and parameters. Empty: there is none.
    std::string operation;
    Json parameters;
};

struct ReceivingReport {
    std::size_t parts = 0, places = 0, copies = 0;  ///< copies: places beyond the first of each part
    std::size_t solids = 0, sheets = 0, wires = 0,
                looseFaces = 0;  ///< bodies of different parts, each once; looseFaces: in no shell
    std::size_t colours = 0;     ///< different ones
    std::optional<Unit> unit;
    std::array<double, 3> low{}, high{};  ///< [mm] box of everything
    double mass = 0.0, volume = 0.0;      ///< [kg, mm^3] of all places
    std::vector<OddFinding> odd;          ///< worst first
};

/// Takes stock of a model. `facts` in the order of its parts. Cost: that of survey::findCopies, plus linear in the
/// faces. Refuses only when cancelled.
[[nodiscard]] Result<ReceivingReport> receivingReport(const Model& model, const std::vector<measure::Facts>& facts,
                                                      Progress& progress);

std::string oddityName(Oddity kind);
Json toJson(const ReceivingReport& report, const Model& model);

}  // namespace rasoir::survey
