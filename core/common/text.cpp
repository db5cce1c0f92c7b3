#include "common/text.h"

#include <fmt/format.h>

#include <array>
#include <cctype>
#include <charconv>
#include <cmath>

namespace rasoir {
namespace {

struct UnitWords {
    Unit unit;
    double millimetres;
    std::vector<std::string> words;  // the first is the short name
};

const std::vector<UnitWords>& unitTable() {
    static const std::vector<UnitWords> table = {
        {Unit::Millimetre, 1.0, {"mm", "millimetre", "millimeter", "millimetres", "millimeters"}},
        {Unit::Centimetre, 10.0, {"cm", "centimetre", "centimeter", "centimetres", "centimeters"}},
        {Unit::Metre, 1000.0, {"m", "metre", "meter", "metres", "meters"}},
        {Unit::Micrometre, 0.001, {"um", "µm", "micrometre", "micrometer", "micron", "microns"}},
        {Unit::Inch, 25.4, {"in", "inch", "inches", "\""}},
        {Unit::Foot, 304.8, {"ft", "foot", "feet", "'"}},
    };
    return table;
}

const UnitWords& wordsOf(Unit unit) {
    for (const UnitWords& row : unitTable())
        if (row.unit == unit) return row;
    return unitTable().front();
}

std::optional<double> parsePlainNumber(std::string_view text) {
    double value = 0.0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (error != std::errc() || end != text.data() + text.size()) return std::nullopt;
    return value;
}

}  // namespace

double millimetresPer(Unit unit) { return wordsOf(unit).millimetres; }

std::string unitName(Unit unit) { return wordsOf(unit).words.front(); }

std::optional<Unit> unitFromName(const std::string& name) {
    std::string lower;
    for (const char c : name)
        if (!std::isspace(static_cast<unsigned char>(c)))
            lower += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    for (const UnitWords& row : unitTable())
        for (const std::string& word : row.words)
            if (word == lower) return row.unit;
    return std::nullopt;
}

Result<double> parseLength(const std::string& text, Unit bare, double targetSize) {
    const auto bad = [&text] {
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" is not a length.", text),
                    "Write a number, if wished with a unit: 8, 8 mm, 1/4 in, 0.1 m.");
    };
    std::string dense;
    for (const char c : text)
        if (!std::isspace(static_cast<unsigned char>(c))) dense += c == ',' ? '.' : c;
    const std::size_t digitsEnd = dense.find_first_not_of("0123456789.+-/eE");
    std::string number = dense.substr(0, digitsEnd);
    std::string suffix = digitsEnd == std::string::npos ? "" : dense.substr(digitsEnd);
    if (!number.empty() && (number.back() == 'e' || number.back() == 'E')) {  // "2el": the e belongs to the word
        suffix = number.back() + suffix;
        number.pop_back();
    }
    double value = 0.0;
    const std::size_t slash = number.find('/');
    if (slash != std::string::npos) {
        const auto top = parsePlainNumber(std::string_view(number).substr(0, slash));
        const auto bottom = parsePlainNumber(std::string_view(number).substr(slash + 1));
        if (!top || !bottom || *bottom == 0.0) return bad();
        value = *top / *bottom;
    } else {
        const auto plain = parsePlainNumber(number);
        if (!plain) return bad();
        value = *plain;
    }
    double factor = millimetresPer(bare);
    if (suffix == "el" || suffix == "elements") {
        if (targetSize <= 0.0) return bad();
        factor = targetSize;
    } else if (!suffix.empty()) {
        const auto unit = unitFromName(suffix);
        if (!unit) return bad();
        factor = millimetresPer(*unit);
    }
    value *= factor;
    if (!std::isfinite(value) || value < 0.0) return bad();
    return value;
}

std::string readable(double value, int decimals) {
    if (!std::isfinite(value)) return "unknown";
    std::string digits = fmt::format("{:.{}f}", std::abs(value), decimals);
    const bool zero = digits.find_first_not_of("0.") == std::string::npos;
    const std::size_t point = std::min(digits.find('.'), digits.size());
    for (std::ptrdiff_t at = static_cast<std::ptrdiff_t>(point) - 3; at > 0; at -= 3)
        digits.insert(static_cast<std::size_t>(at), "\u2009");
    return (value < 0.0 && !zero ? "\u2212" : "") + digits;
}

std::string readable(double value) {
    const double size = std::abs(value);
    if (size < 1e-11) return "0";  // what is left of a sum of large numbers
    if (size != 0.0 && (size < 1e-4 || size >= 1e9)) return fmt::format("{:.3g}", value);
    const int decimals = size == 0.0 ? 0 : std::clamp(3 - static_cast<int>(std::floor(std::log10(size))), 0, 7);
    std::string text = readable(value, decimals);
    if (decimals > 0) {
        while (text.back() == '0') text.pop_back();
        if (text.back() == '.') text.pop_back();
    }
    return text;
}

std::string readableChange(double value, int decimals) {
    std::string text = readable(value, decimals);
    if (!(value < 0.0)) text.insert(text.begin(), '+');
    return text;
}

std::string counted(std::size_t number, const std::string& singular, const std::string& plural) {
    return fmt::format("{} {}", readable(static_cast<double>(number), 0),
                       number == 1 ? singular : (plural.empty() ? singular + "s" : plural));
}

}  // namespace rasoir
