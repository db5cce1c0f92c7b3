// The reading line's sentences: what a face, an edge or a part is, in the units shown.
#pragma once
#include <QString>

#include "model/model.h"

namespace rasoir::app {

QString faceReading(const Part& part, int face);
QString edgeReading(const Part& part, int edge);
/// Two faces picked: least distance and angle between them.
QString pairReading(const Part& partA, const gp_Trsf& placeA, int faceA, const Part& partB, const gp_Trsf& placeB, int faceB);

}  // namespace rasoir::app
