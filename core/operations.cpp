#include "operations.h"

#include "after_step.h"
#include "divide/as_one.h"
#include "divide/combine.h"
#include "divide/cut.h"
#include "divide/cut_out.h"
#include "divide/part_edge.h"
#include "divide/part_face.h"
#include "divide/points.h"
#include "divide/section.h"
#include "divide/sector.h"
#include "divide/separate.h"
#include "divide/surround.h"
#include "exchange/files.h"
#include "handover/dimension.h"
#include "handover/groups.h"
#include "handover/note.h"
#include "handover/spread_mass.h"
#include "intake/aside.h"
#include "intake/copies.h"
#include "intake/naming.h"
#include "intake/placing.h"
#include "join/flow_space.h"
#include "join/make_bolts.h"
#include "join/outer_space.h"
#include "join/pairings.h"
#include "join/pairs.h"
#include "join/regions.h"
#include "join/spot_welds.h"
#include "join/welds.h"
#include "make_flush.h"
#include "mend/mend.h"
#include "reduce/beams.h"
#include "reduce/beams_on_sheets.h"
#include "reduce/cover.h"
#include "reduce/draw_onto.h"
#include "reduce/join_sheets.h"
#include "reduce/lumps.h"
#include "reduce/midsurface.h"
#include "reduce/sharp_bends.h"
#include "reduce/sheet_edges.h"
#include "reduce/sheet_from_faces.h"
#include "reduce/sides.h"
#include "shave/change.h"
#include "shave/holes.h"
#include "shave/openings.h"
#include "shave/reliefs.h"
#include "shave/sheet_corners.h"
#include "shave/small.h"
#include "shave/strips.h"
#include "shave/threads.h"

namespace rasoir {
namespace {

/// Whatever an operation does, the same things follow it.
std::vector<Operation> settled(std::vector<Operation> all) {
    for (Operation& operation : all)
        operation.run = [run = std::move(operation.run), title = operation.title](
                            const Model& model, const Json& parameters, Progress& progress) -> Result<Outcome> {
            Result<Outcome> outcome = run(model, parameters, progress);
            if (!outcome) return outcome;
            return guarded("What follows \"" + title + "\"", [&]() -> Result<Outcome> {
                if (auto fine = settle(model, *outcome, progress); !fine) return tl::unexpected(fine.error());
                return std::move(outcome);
            });
        };
    return all;
}

}  // namespace

const std::vector<Operation>& operations() {
    static const std::vector<Operation> all = settled({
        operation<exchange::CorrectUnit>("intake.correctUnit", "Correct the unit", exchange::CorrectUnit::infos(),
                                         &exchange::correctUnit),
        operation<intake::Rename>("intake.rename", "Rename parts", intake::Rename::infos(), &intake::rename),
        operation<intake::Regroup>("intake.regroup", "Group parts", intake::Regroup::infos(), &intake::regroup),
        operation<intake::Reorder>("intake.reorder", "Reorder parts", intake::Reorder::infos(), &intake::reorder),
        operation<intake::AssignMaterial>("intake.assignMaterial", "Assign a material", intake::AssignMaterial::infos(),
                                          &intake::assignMaterial),
        operation<intake::Move>("intake.move", "Move parts", intake::Move::infos(), &intake::move),
        operation<intake::SetAside>("intake.setAside", "Set parts aside", intake::SetAside::infos(), &intake::setAside),
        operation<intake::BringBack>("intake.bringBack", "Bring parts back", intake::BringBack::infos(),
                                     &intake::bringBack),
        operation<intake::StandIn>("intake.standIn", "Stand in for parts", intake::StandIn::infos(), &intake::standIn),
        operation<intake::MakeCopies>("intake.makeCopies", "Make parts copies", intake::MakeCopies::infos(),
                                      &intake::makeCopies),
        operation<intake::MakeIndependent>("intake.makeIndependent", "Make copies independent",
                                           intake::MakeIndependent::infos(), &intake::makeIndependent),
        operation<intake::JoinParts>("intake.joinParts", "Join parts into one", intake::JoinParts::infos(),
                                     &intake::joinParts),
        operation<mend::MendSafe>("mend.mendSafe", "Mend what is safe", mend::MendSafe::infos(), &mend::mendSafe),
        operation<mend::Stitch>("mend.stitch", "Stitch gaps", mend::Stitch::infos(), &mend::stitchGaps),
        operation<mend::PatchOpenings>("mend.patch", "Patch openings", mend::PatchOpenings::infos(),
                                       &mend::patchOpenings),
        operation<mend::Bridge>("mend.bridge", "Bridge two edges", mend::Bridge::infos(), &mend::bridge),
        operation<mend::LeaveOpen>("mend.leaveOpen", "Leave openings open", mend::LeaveOpen::infos(), &mend::leaveOpen),
        operation<mend::DropDoubles>("mend.dropDoubles", "Drop doubled faces", mend::DropDoubles::infos(),
                                     &mend::dropDoubles),
        operation<mend::TrimOverlong>("mend.trimOverlong", "Trim faces that run over", mend::TrimOverlong::infos(),
                                      &mend::trimOverlong),
        operation<mend::AbsorbSlivers>("mend.absorbSlivers", "Absorb slivers", mend::AbsorbSlivers::infos(),
                                       &mend::absorbSlivers),
        operation<mend::CollapseTiny>("mend.collapseTiny", "Collapse tiny edges", mend::CollapseTiny::infos(),
                                      &mend::collapseTiny),
        operation<mend::DeleteFaces>("mend.deleteFaces", "Delete faces", mend::DeleteFaces::infos(),
                                     &mend::deleteFaces),
        operation<mend::UniteStray>("mend.uniteStray", "Unite stray bodies", mend::UniteStray::infos(),
                                    &mend::uniteStray),
        operation<mend::DropStray>("mend.dropStray", "Drop stray bodies", mend::DropStray::infos(), &mend::dropStray),
        operation<mend::MergeFaces>("mend.mergeFaces", "Merge needless edges", mend::MergeFaces::infos(),
                                    &mend::mergeFaces),
        operation<mend::MakeSolids>("mend.makeSolids", "Make solids", mend::MakeSolids::infos(), &mend::makeSolids),
        operation<shave::RemoveHoles>("shave.removeHoles", "Remove holes", shave::RemoveHoles::infos(),
                                      &shave::removeHoles),
        operation<shave::RemoveStrips>("shave.removeRounds", "Remove rounds", shave::RemoveStrips::infos(),
                                       &shave::removeRounds),
        operation<shave::RemoveStrips>("shave.removeChamfers", "Remove chamfers", shave::RemoveStrips::infos(),
                                       &shave::removeChamfers),
        operation<shave::RemoveReliefs>("shave.removeReliefs", "Remove marks, bosses, pockets, steps and the like",
                                        shave::RemoveReliefs::infos(), &shave::removeReliefs),
        operation<shave::PlainThreads>("shave.plainThreads", "Make threads plain", shave::PlainThreads::infos(),
                                       &shave::plainThreads),
        operation<shave::RemoveSmall>("shave.removeSmall", "Remove small faces and short edges",
                                      shave::RemoveSmall::infos(), &shave::removeSmall),
        operation<shave::SquareCorners>("shave.squareCorners", "Square the corners of sheets",
                                        shave::SquareCorners::infos(), &shave::squareCorners),
        operation<shave::MoveFaces>("shave.moveFaces", "Move faces", shave::MoveFaces::infos(), &shave::moveFaces),
        operation<shave::ResizeHoles>("shave.resizeHoles", "Set the diameter of holes", shave::ResizeHoles::infos(),
                                      &shave::resizeHoles),
        operation<shave::RoundOpenings>("shave.roundOpenings", "Make openings round", shave::RoundOpenings::infos(),
                                        &shave::roundOpenings),
        operation<shave::SimplifyFaces>("shave.simplifyFaces", "Make freeform faces simple",
                                        shave::SimplifyFaces::infos(), &shave::simplifyFaces),
        operation<shave::AddRounds>("shave.addRounds", "Round edges", shave::AddRounds::infos(), &shave::addRounds),
        operation<shave::ResizeRounds>("shave.resizeRounds", "Set the radius of rounds", shave::ResizeRounds::infos(),
                                       &shave::resizeRounds),
        operation<shave::RestoreRounds>("shave.restoreRounds", "Put rounds back", shave::RestoreRounds::infos(),
                                        &shave::restoreRounds),
        operation<shave::RemoveFaces>("shave.removeFaces", "Remove faces", shave::RemoveFaces::infos(),
                                      &shave::removeFaces),
        operation<divide::Separate>("divide.separate", "Separate bodies", divide::Separate::infos(), &divide::separate),
        operation<divide::AsOne>("divide.asOne", "Mesh as one", divide::AsOne::infos(), &divide::meshAsOne),
        operation<divide::Cut>("divide.cut", "Cut bodies", divide::Cut::infos(), &divide::cut),
        operation<divide::Unite>("divide.unite", "Unite bodies", divide::Unite::infos(), &divide::unite),
        operation<divide::Subtract>("divide.subtract", "Subtract bodies", divide::Subtract::infos(), &divide::subtract),
        operation<divide::Intersect>("divide.intersect", "Intersect bodies", divide::Intersect::infos(),
                                     &divide::intersect),
        operation<divide::PartFace>("divide.partFace", "Part faces", divide::PartFace::infos(), &divide::partFace),
        operation<divide::PartEdge>("divide.partEdge", "Part edges", divide::PartEdge::infos(), &divide::partEdge),
        operation<divide::MakePoints>("divide.point", "Set points", divide::MakePoints::infos(), &divide::makePoints),
        operation<divide::CutOut>("divide.cutOut", "Cut out an outline", divide::CutOut::infos(), &divide::cutOut),
        operation<divide::KeepSector>("divide.keepSector", "Keep a sector", divide::KeepSector::infos(),
                                      &divide::keepSector),
        operation<divide::CrossSection>("divide.crossSection", "Make a cross-section", divide::CrossSection::infos(),
                                        &divide::crossSection),
        operation<divide::Surround>("divide.surround", "Put a block round bodies", divide::Surround::infos(),
                                    &divide::surround),
        operation<reduce::BeamsOnSheets>("reduce.beamsOnSheets", "Beams onto sheets", reduce::BeamsOnSheets::infos(),
                                         &reduce::putBeamsOnSheets),
        operation<reduce::Beams>("reduce.beams", "Make beams", reduce::Beams::infos(), &reduce::makeBeams),
        operation<reduce::MakeLumps>("reduce.lump", "Make lumps", reduce::MakeLumps::infos(), &reduce::makeLumps),
        operation<reduce::JoinSheets>("reduce.joinSheets", "Join sheets", reduce::JoinSheets::infos(),
                                      &reduce::joinSheets),
        operation<reduce::CarryOn>("reduce.carryOn", "Carry edges on", reduce::CarryOn::infos(), &reduce::carryOn),
        operation<reduce::CutBack>("reduce.cutBack", "Cut edges back", reduce::CutBack::infos(), &reduce::cutBack),
        operation<reduce::SetThickness>("reduce.thickness", "Set thickness", reduce::SetThickness::infos(),
                                        &reduce::setThickness),
        operation<MakeFlush>("reduce.makeFlush", "Make sheets flush", MakeFlush::infos(), &makeFlush),
        operation<reduce::DrawOnto>("reduce.drawOnto", "Draw sheets onto each other", reduce::DrawOnto::infos(),
                                    &reduce::drawOnto),
        operation<reduce::SharpBends>("reduce.sharpBends", "Make bends sharp", reduce::SharpBends::infos(),
                                      &reduce::sharpenBends),
        operation<reduce::Cover>("reduce.cover", "Cover walls", reduce::Cover::infos(), &reduce::cover),
        operation<reduce::Sides>("reduce.sides", "Make sides alike", reduce::Sides::infos(), &reduce::makeSidesAlike),
        operation<reduce::SheetFrom>("reduce.sheetFrom", "Make a sheet of faces", reduce::SheetFrom::infos(),
                                     &reduce::sheetFrom),
        operation<reduce::Midsurface>("reduce.midsurface", "Make sheets of walls", reduce::Midsurface::infos(),
                                      &reduce::midsurface),
        operation<handover::MakeGroup>("handover.group", "Group things", handover::MakeGroup::infos(),
                                       &handover::makeGroup),
        operation<handover::MakeRule>("handover.rule", "Group by rule", handover::MakeRule::infos(),
                                      &handover::makeRule),
        operation<handover::Dimension>("handover.dimension", "Hold against the drawing", handover::Dimension::infos(),
                                       &handover::holdAgainst),
        operation<handover::Note>("handover.note", "Take a note", handover::Note::infos(), &handover::takeNote),
        operation<handover::SpreadMass>("handover.spreadMass", "Spread mass", handover::SpreadMass::infos(),
                                        &handover::spreadMass),
        operation<handover::SetAttribute>("handover.attribute", "Say what something is",
                                          handover::SetAttribute::infos(), &handover::setAttribute),
        operation<join::MakeWelds>("join.weld", "Weld bodies", join::MakeWelds::infos(), &join::makeWelds),
        operation<join::SpotWelds>("join.spotWelds", "Set spot welds", join::SpotWelds::infos(), &join::makeSpotWelds),
        operation<join::MakeBolts>("join.bolt", "Make beams of bolts", join::MakeBolts::infos(), &join::makeBolts),
        operation<join::MakeContact>("join.contact", "Keep as contact", join::MakeContact::infos(), &join::makeContact),
        operation<join::FlowSpace>("join.flowSpace", "Make a flow space", join::FlowSpace::infos(),
                                   &join::makeFlowSpace),
        operation<join::MakeLink>("join.link", "Link two groups", join::MakeLink::infos(), &join::makeLink),
        operation<join::OuterSpace>("join.outerSpace", "Make the space round bodies", join::OuterSpace::infos(),
                                    &join::makeOuterSpace),
        operation<join::SetBoundary>("join.boundary", "Set a boundary", join::SetBoundary::infos(), &join::setBoundary),
        operation<join::SetRegion>("join.region", "Set what bodies are", join::SetRegion::infos(), &join::setRegion),
        operation<join::Pairs>("join.pairs", "Join bodies", join::Pairs::infos(), &join::joinPairs),
    });
    return all;
}

const Operation* findOperation(const std::string& id) {
    for (const Operation& operation : operations())
        if (operation.id == id) return &operation;
    return nullptr;
}

Json toJson(const Operation& operation) {
    Json parameters = Json::array();
    for (const ParameterInfo& info : operation.parameters) {
        Json one{{"name", info.name}, {"type", info.type}, {"meaning", info.meaning}, {"default", info.standard}};
        if (!info.unit.empty()) one["unit"] = info.unit;
        parameters.push_back(std::move(one));
    }
    return Json{{"id", operation.id}, {"title", operation.title}, {"parameters", std::move(parameters)}};
}

}  // namespace rasoir
