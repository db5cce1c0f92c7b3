// Fasteners by their shape: head and shank, nut, washer, pin.
#pragma once
#include <gp_Ax1.hxx>

#include "model/model.h"

namespace rasoir::survey {

enum class FastenerKind { Bolt, Nut, Washer, Pin };

struct Fastener {
    FastenerKind kind = FastenerKind::Bolt;
    int body = 0;           ///< solid in the part, 0-based
    gp_Ax1 axis;            ///< part coordinates
    double diameter = 0.0;  ///< [mm] of the shank, the pin, or the hole of a nut or washer
    double length = 0.0;    ///< [mm] along the axis; bolts: the shank alone
};

/// The fasteners that make up a part, one for each of its solids; nothing unless every solid is one.
/// A body is one when all its round faces share an axis and its planes are square to it or run along it, and
///   bolt    a round or six-sided head wider than its single shank, which is at least as long as thick; slots and
///   sockets in the head
///           may be any planes
///   nut     six flats around a hole, no wider than two and a half holes
///   washer  a flat ring, thinner than a third of its width
///   pin     one plain shank at least as long as thick, ends flat, chamfered or rounded
/// Splines (modelled threads) are passed over. Refuses nothing: a body that is none of them is an empty list.
/// Cost: linear in faces.
[[nodiscard]] std::optional<std::vector<Fastener>> fastenersIn(const Part& part);

std::string fastenerName(FastenerKind kind);
std::optional<FastenerKind> fastenerFromName(const std::string& name);

}  // namespace rasoir::survey
