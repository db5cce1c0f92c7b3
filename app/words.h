// The core's words and numbers as the window shows them.
#pragma once
#include <QString>

#include "common/text.h"

namespace rasoir::app {

inline QString text(const std::string& from) {
    return QString::fromStdString(from);
}
/// With as many digits as a reader needs.
inline QString number(double value) {
    return text(readable(value));
}

}  // namespace rasoir::app
