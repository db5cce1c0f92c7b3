// The surveys of the whole model that the benches ask for. To add one: a member here, and what it looks for in the
// .cpp.
#pragma once
#include "divide/layers.h"
#include "divide/small_beside.h"
#include "handover/check.h"
#include "join/bolts.h"
#include "join/contacts.h"
#include "join/leaks.h"
#include "join/openings.h"
#include "join/reach.h"
#include "join/welds.h"
#include "mesh/trial_mesh.h"
#include "reduce/beams_on_sheets.h"
#include "reduce/frame_members.h"
#include "reduce/not_flush.h"
#include "reduce/proof.h"
#include "reduce/walls.h"
#include "survey/symmetry.h"
#include "whole_survey.h"

namespace rasoir::app {

/// A look at a flow space from before a face, with lids on some openings of those found (by their numbers) and on
/// loops of edges that were picked (each with its place).
struct FlowWish {
    std::size_t place = 0;
    int face = 0;
    std::vector<std::size_t> walls;  ///< occurrences; empty: all that is not set aside
    std::set<std::size_t> lids;
    std::vector<std::vector<std::pair<std::size_t, int>>> byHand;
    friend bool operator==(const FlowWish&, const FlowWish&) = default;
};

/// A sheet or a beam against the solid that it stands for.
struct Proven {
    reduce::StandIn standIn;
    Result<reduce::Proof> proof;
    std::shared_ptr<const reduce::DrawnBody> drawn;
};

class WholeSurveys {
    // What three of them are of, besides the model.
    FlowWish m_flowWish;
    std::set<std::size_t> m_symmetricPlaces;
    std::vector<std::size_t> m_meshParts;

public:
    explicit WholeSurveys(Session& session);

    WholeSurvey<std::vector<std::size_t>> inner;  ///< places that cannot be seen from outside
    WholeSurvey<join::ContactReport> contacts;
    WholeSurvey<std::vector<join::Opening>> openings;  ///< of all solids that are not set aside, for lids
    WholeSurvey<Result<join::ReachReport>> reach;      ///< what a flow reaches; see lookAtFlow
    WholeSurvey<Result<join::LeakReport>> leaks;       ///< its ways out
    WholeSurvey<std::map<std::size_t, std::vector<reduce::Wall>>> walls;  ///< by part
    WholeSurvey<std::vector<reduce::Slender>> bars;                       ///< from five times as long as deep
    WholeSurvey<std::vector<Proven>> proofs;
    WholeSurvey<std::vector<survey::Symmetry>> symmetries;      ///< see askSymmetries
    WholeSurvey<std::vector<divide::BodyLayers>> layers;        ///< which bodies mesh in layers
    WholeSurvey<std::vector<divide::SmallBeside>> smallBeside;  ///< small things that could be one with a neighbour
    WholeSurvey<std::vector<handover::CheckFinding>> check;
    WholeSurvey<std::vector<reduce::Flaw>> notFlush;  ///< in sheets, up to twice the target size
    WholeSurvey<std::vector<reduce::BeamOnSheet>> stiffeners;
    WholeSurvey<std::vector<join::BoltedJoint>> bolts;
    WholeSurvey<join::WeldPlan> welds;  ///< lines that can be welded, on bodies parted at each other's outline
    using MeshPointer = std::shared_ptr<const mesh::TrialMesh>;
    WholeSurvey<Result<MeshPointer>> mesh;          ///< at the target size; see askMesh
    WholeSurvey<Result<MeshPointer>> meshReceived;  ///< of the model as received

    /// First what is reached, then the leaks; nothing before the openings are known.
    void lookAtFlow(const FlowWish& wish);
    /// Of some places (none: of all that is not set aside), to a hundredth of the target size.
    void askSymmetries(const std::set<std::size_t>& places);
    /// Of the picked parts, or of all.
    void askMesh();

    [[nodiscard]] MeshPointer trialMesh() const { return mesh.found() ? mesh.found()->value_or(nullptr) : nullptr; }
    [[nodiscard]] MeshPointer receivedMesh() const {
        return meshReceived.found() ? meshReceived.found()->value_or(nullptr) : nullptr;
    }
    /// Why there is no trial mesh though one was asked for; null where there is, or none was.
    [[nodiscard]] const Problem* meshProblem() const {
        return mesh.found() && !*mesh.found() ? &mesh.found()->error() : nullptr;
    }

private:
    Session& m_session;
};

}  // namespace rasoir::app
