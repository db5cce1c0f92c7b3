// Parts of several bodies, taken apart for the time of a step and put together again after it.
//
// An arrangement knows bodies. A part that holds several, a bolt with its nut, say, goes into it body by body: as one
// input its bodies would meet nobody else's faces in a sensible way where they touch each other. What comes out is one
// part again, with its name, its places and one numbering.
#pragma once
#include "model/operation.h"

namespace rasoir::join {

class OwnBodies {
public:
    /// Takes those of the parts of some places apart that hold several bodies, but for mirrored ones, which are made
    /// anew from each other. None of them does: no() is true.
    [[nodiscard]] static Result<OwnBodies> takenApart(const Model& model, const std::vector<std::size_t>& places,
                                                      Progress& progress);

    [[nodiscard]] bool no() const { return m_bodiesOf.empty(); }
    [[nodiscard]] const Model& apart() const { return m_apart; }
    [[nodiscard]] const Model& received() const { return m_received; }
    /// What separating has told; its lineage leads from the model received to apart().
    [[nodiscard]] const std::vector<PartLineage>& lineage() const { return m_lineage; }
    /// The occurrence received that one of apart() belongs to.
    [[nodiscard]] std::size_t familyOf(std::size_t occurrence) const { return m_family[occurrence]; }
    /// By the name of a part: those of the parts that its other bodies have become.
    [[nodiscard]] const std::map<std::string, std::vector<std::string>>& bodiesOf() const { return m_bodiesOf; }

    /// Puts parts together again after a step that changed bodies of apart(), but neither their number nor their order.
    /// The outcome then speaks of the model received: lineage, places, and the joints that the step made.
    [[nodiscard]] Outcome together(Outcome outcome) const;

private:
    Model m_received, m_apart;
    std::vector<PartLineage> m_lineage;
    std::vector<std::size_t> m_family;
    std::map<std::string, std::vector<std::string>> m_bodiesOf;
};

}  // namespace rasoir::join
