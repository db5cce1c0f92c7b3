// Which features of a part a step means: by rule, less what is kept, and by choice.
#pragma once
#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "common/text.h"
#include "model/model.h"
#include "model/reference.h"

namespace rasoir::shave {

/// "up to 8", "6 to 20" [mm].
inline std::string sizeRange(double from, double upTo) {
    return from > 0.0 ? fmt::format("{} to {}", readable(from), readable(upTo))
                      : fmt::format("up to {}", readable(upTo));
}

/// Faces that a step names, found in the model.
class Choice {
public:
    /// Refuses   references that no longer fit, parts that do not exist.
    static Result<Choice> of(const Model& model, const std::vector<std::string>& parts,
                             const std::vector<FaceRef>& chosen, const std::vector<FaceRef>& kept) {
        Choice choice;
        for (const std::string& name : parts)
            if (std::none_of(model.parts.begin(), model.parts.end(),
                             [&](const auto& part) { return part->name == name; }))
                return fail(ProblemKind::NotPossible, fmt::format("There is no part \"{}\" here.", name),
                            "Rename the part, or edit the step.");
        choice.m_parts.insert(parts.begin(), parts.end());
        for (const auto& [references, found] : {std::pair{&chosen, &choice.m_chosen}, {&kept, &choice.m_kept}})
            for (const FaceRef& reference : *references) {
                const auto face = findFace(model, reference);
                if (!face) return tl::unexpected(face.error());
                found->insert({face->part, face->face});
            }
        return choice;
    }

    [[nodiscard]] bool isRuled(const Model& model, std::size_t part) const {
        return m_parts.empty() ? !model.isAside(part) : m_parts.contains(model.parts[part]->name);
    }
    [[nodiscard]] bool isChosen(std::size_t part) const {
        return std::any_of(m_chosen.begin(), m_chosen.end(), [part](const auto& face) { return face.first == part; });
    }
    [[nodiscard]] bool chooses(std::size_t part, const std::vector<int>& faces) const {
        return has(m_chosen, part, faces);
    }
    [[nodiscard]] bool keeps(std::size_t part, const std::vector<int>& faces) const { return has(m_kept, part, faces); }
    /// Chosen faces of a part, as Incidence numbers.
    [[nodiscard]] std::vector<int> chosenOf(std::size_t part) const {
        std::vector<int> faces;
        for (const auto& [p, face] : m_chosen)
            if (p == part) faces.push_back(face);
        return faces;
    }

private:
    using Faces = std::set<std::pair<std::size_t, int>>;
    Faces m_chosen, m_kept;
    std::set<std::string> m_parts;

    static bool has(const Faces& known, std::size_t part, const std::vector<int>& faces) {
        return std::any_of(faces.begin(), faces.end(), [&](int f) { return known.contains({part, f}); });
    }
};

}  // namespace rasoir::shave
