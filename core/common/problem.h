// A Problem is a sentence for someone with a deadline: what failed, where to look, what to try.
#pragma once
#include <gp_Pnt.hxx>
#include <optional>
#include <string>
#include <tl/expected.hpp>
#include <vector>

namespace rasoir {

/// Where something is: a part by name, its faces by index (1-based, in the part's own numbering), a point in mm.
struct Place {
    std::string part;
    std::vector<int> faces;
    std::optional<gp_Pnt> point;
};

enum class ProblemKind {
    BadInput,     ///< the file or the parameters cannot be understood
    NeedsUnit,    ///< the file states no length unit; ask, then read again with one
    NotPossible,  ///< the geometry does not allow what was asked
    NothingToDo,  ///< a rule found nothing: said, but no failure; what follows goes on
    Cancelled,    ///< the user stopped it; nothing has changed
    Storage,      ///< disk full, folder read-only, file missing
    Internal      ///< a fault in the program or the kernel, caught; nothing has changed
};

struct Problem {
    ProblemKind kind = ProblemKind::NotPossible;
    std::string what;            ///< a sentence
    Place where;                 ///< empty when it concerns everything
    std::string remedy;          ///< a sentence; may be empty
    std::vector<int> lacking{};  ///< faces of that part which would have to go too: with them it can be done
};

template <class T>
using Result = tl::expected<T, Problem>;

inline tl::unexpected<Problem> fail(ProblemKind kind, std::string what, std::string remedy = {}, Place where = {}) {
    return tl::unexpected(Problem{kind, std::move(what), std::move(where), std::move(remedy)});
}

/// The sentences of a problem in one line: what, then what to try.
inline std::string sentence(const Problem& problem) {
    return problem.remedy.empty() ? problem.what : problem.what + " " + problem.remedy;
}

}  // namespace rasoir
