// Text within XML and HTML.
#pragma once
#include <string>

namespace rasoir {

/// A text as it may stand between tags and within quotes; control characters, which XML does not know, become blanks.
[[nodiscard]] inline std::string escapedXml(const std::string& text) {
    std::string safe;
    for (const char c : text) switch (c) {
            case '&':
                safe += "&amp;";
                break;
            case '<':
                safe += "&lt;";
                break;
            case '>':
                safe += "&gt;";
                break;
            case '"':
                safe += "&quot;";
                break;
            default:
                safe += static_cast<unsigned char>(c) < 0x20 && c != '\n' && c != '\t' ? ' ' : c;
        }
    return safe;
}

}  // namespace rasoir
