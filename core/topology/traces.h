// Traces of a face's edges in its parameters, put right where a file's translation left them whole turns apart.
#pragma once
#include <TopoDS_Shape.hxx>

namespace rasoir {

/// On surfaces that close upon themselves some files bring faces whose traces lie whole turns apart, with edges without
/// length between them that are no poles: a strip of three turns that is one in truth. Everything that works in the
/// parameters then sees another face. Traces are moved by whole turns until they follow each other, and those edges
/// leave their wires.
/// Changes the shape in place; call it only on one that nobody else holds yet. Returns the number of faces put right.
int straightenTraces(const TopoDS_Shape& shape);

}  // namespace rasoir
