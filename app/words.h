// The core's words and numbers as the window shows them.
#pragma once
#include <QColor>
#include <QString>

#include "common/text.h"
#include "model/attributes.h"

namespace rasoir::app {

inline QString text(const std::string& from) {
    return QString::fromStdString(from);
}
/// With as many digits as a reader needs.
inline QString number(double value) {
    return text(readable(value));
}

/// A colour of the model as screens count it.
inline QColor screenColour(const Colour& colour) {
    return QColor(text(hexText(colour)));
}

}  // namespace rasoir::app
