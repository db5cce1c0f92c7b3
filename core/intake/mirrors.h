// Keeps mirror images in step: what is changed in one of a pair changes in the other.
#pragma once
#include "model/operation.h"

namespace rasoir::intake {

/// Puts the part `image` in place as the exact mirror image of `original` under `across` and pairs the two.
/// Both keep their own name, colour and attributes; the image gets the numbering of the original's faces and edges.
void pairMirrored(Model& model, std::size_t original, std::size_t image, const gp_Trsf& across);

/// After an operation: where one of a pair has another shape than when they last agreed, the other is made from it
/// again, and its lineage with it. Where both changed, the original decides. A pair of which one became a lump is
/// dissolved.
void followMirrors(Outcome& outcome);

}  // namespace rasoir::intake
