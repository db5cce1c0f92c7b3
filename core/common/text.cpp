#include "common/text.h"

#include <fmt/format.h>

#include <array>
#include <cctype>
#include <charconv>
#include <cmath>
#include <map>

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

}  // namespace

double millimetresPer(Unit unit) {
    return wordsOf(unit).millimetres;
}

std::string unitName(Unit unit) {
    return wordsOf(unit).words.front();
}

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

namespace {

/// Reads sums, products and quotients of numbers with units: 3*2.5, 1/4in, 2 el + 0.1 mm, (10-4)/2. A unit binds to the
/// whole term before it, so that 1/4in is a quarter of an inch.
class LengthExpression {
public:
    LengthExpression(std::string text, Unit bare, double targetSize)
        : m_text(std::move(text)), m_bare(bare), m_targetSize(targetSize) {}

    /// In mm; none when it cannot be read.
    std::optional<double> value() {
        const auto sum = readSum();
        if (!sum || m_at != m_text.size()) return std::nullopt;
        return inMillimetres(*sum);
    }

private:
    struct Quantity {
        double value = 0.0;
        int power = 0;  // 0: a bare number, 1: a length in mm
    };
    std::string m_text;
    std::size_t m_at = 0;
    int m_depth = 0;
    Unit m_bare;
    double m_targetSize;

    double inMillimetres(const Quantity& q) const { return q.power == 0 ? q.value * millimetresPer(m_bare) : q.value; }
    bool take(char c) {
        if (m_at >= m_text.size() || m_text[m_at] != c) return false;
        ++m_at;
        return true;
    }
    std::optional<Quantity> readSum() {
        auto sum = readTerm();
        while (sum && m_at < m_text.size() && (m_text[m_at] == '+' || m_text[m_at] == '-')) {
            const double sign = m_text[m_at++] == '+' ? 1.0 : -1.0;
            const auto next = readTerm();
            if (!next) return std::nullopt;
            if (sum->power == next->power)
                sum->value += sign * next->value;
            else
                *sum = {inMillimetres(*sum) + sign * inMillimetres(*next), 1};
        }
        return sum;
    }
    std::optional<Quantity> readTerm() {
        auto product = readFactor();
        while (product && m_at < m_text.size()) {
            const bool times = take('*');
            if (times || take('/')) {
                const auto next = readFactor();
                if (!next || product->power + (times ? next->power : -next->power) > 1) return std::nullopt;
                const int power = product->power + (times ? next->power : -next->power);
                if (power < 0 || (!times && next->value == 0.0)) return std::nullopt;
                *product = {times ? product->value * next->value : product->value / next->value, power};
                continue;
            }
            const auto unit = readUnit();
            if (!unit) break;
            if (product->power != 0) return std::nullopt;
            *product = {product->value * *unit, 1};
        }
        return product;
    }
    std::optional<Quantity> readFactor() {
        if (m_at == 0 || m_text[m_at - 1] == '(') {
            // A sign stands only where a sum begins.
            (void)take('+');
        }
        if ((m_at == 0 || m_text[m_at - 1] == '(') && take('-')) {
            auto inner = readFactor();
            if (inner) inner->value = -inner->value;
            return inner;
        }
        if (take('(')) {
            if (++m_depth > 50) return std::nullopt;
            const auto inner = readSum();
            --m_depth;
            if (!inner || !take(')')) return std::nullopt;
            return inner;
        }
        double number = 0.0;
        const char* begin = m_text.data() + m_at;
        const char* stop = m_text.data() + m_text.size();
        // "2el": the e belongs to the word, not to the number.
        const std::size_t word = m_text.find("el", m_at);
        if (word != std::string::npos && m_text.find_first_not_of("0123456789.", m_at) == word)
            stop = m_text.data() + word;
        const auto [end, error] = std::from_chars(begin, stop, number);
        if (error != std::errc() || end == begin ||
            !(std::isdigit(static_cast<unsigned char>(*begin)) != 0 || *begin == '.'))
            return std::nullopt;
        m_at = static_cast<std::size_t>(end - m_text.data());
        return Quantity{number, 0};
    }
    /// Millimetres of the unit that stands here; none, and nothing taken, when there is no word.
    std::optional<double> readUnit() {
        const std::size_t end = std::min(m_text.find_first_of("0123456789.+-*/()", m_at), m_text.size());
        if (end == m_at) return std::nullopt;
        const std::string word = m_text.substr(m_at, end - m_at);
        double factor = 0.0;
        if (word == "el" || word == "elements")
            factor = m_targetSize;
        else if (const auto unit = unitFromName(word))
            factor = millimetresPer(*unit);
        if (!(factor > 0.0)) return std::nullopt;
        m_at = end;
        return factor;
    }
};

}  // namespace

Result<double> parseLength(const std::string& text, Unit bare, double targetSize) {
    std::string dense;
    for (const char c : text)
        if (!std::isspace(static_cast<unsigned char>(c))) dense += c == ',' ? '.' : c;
    const auto value =
        dense.empty() || dense.size() > 200 ? std::nullopt : LengthExpression(dense, bare, targetSize).value();
    if (!value || !std::isfinite(*value) || *value < 0.0)
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" is not a length.", text),
                    "Write a number, if wished with a unit: 8, 8 mm, 1/4 in, 0.1 m, 3*2.5.");
    return *value;
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
    // Outside of these, digits alone would not be read.
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

namespace {

/// Code points of UTF-8 text; none when it is not valid.
std::optional<std::u32string> decoded(const std::string& text) {
    std::u32string points;
    for (std::size_t i = 0; i < text.size();) {
        const auto lead = static_cast<unsigned char>(text[i]);
        const int length = lead < 0x80                   ? 1
                           : lead >= 0xC2 && lead < 0xE0 ? 2
                           : lead >= 0xE0 && lead < 0xF0 ? 3
                           : lead >= 0xF0 && lead < 0xF5 ? 4
                                                         : 0;
        if (length == 0 || i + static_cast<std::size_t>(length) > text.size()) return std::nullopt;
        char32_t point = length == 1 ? lead : lead & (0xFFu >> (length + 1));
        for (int k = 1; k < length; ++k) {
            const auto next = static_cast<unsigned char>(text[i + static_cast<std::size_t>(k)]);
            if ((next & 0xC0u) != 0x80u) return std::nullopt;
            point = (point << 6) | (next & 0x3Fu);
        }
        if ((length == 3 && point < 0x800) || (length == 4 && (point < 0x10000 || point > 0x10FFFF)) ||
            (point >= 0xD800 && point < 0xE000))
            return std::nullopt;
        points += point;
        i += static_cast<std::size_t>(length);
    }
    return points;
}

std::string encoded(const std::u32string& points) {
    std::string text;
    for (const char32_t p : points) {
        const auto add = [&text](char32_t byte) { text += static_cast<char>(static_cast<unsigned char>(byte)); };
        if (p < 0x80)
            add(p);
        else if (p < 0x800)
            add(0xC0 | (p >> 6)), add(0x80 | (p & 0x3F));
        else if (p < 0x10000)
            add(0xE0 | (p >> 12)), add(0x80 | ((p >> 6) & 0x3F)), add(0x80 | (p & 0x3F));
        else
            add(0xF0 | (p >> 18)), add(0x80 | ((p >> 12) & 0x3F)), add(0x80 | ((p >> 6) & 0x3F)),
                add(0x80 | (p & 0x3F));
    }
    return text;
}

/// The byte that a code point stands for where UTF-8 was read as Latin-1 or as the Windows page that differs from it
/// below 0xA0.
std::optional<unsigned char> asByte(char32_t point) {
    if (point < 0x100) return static_cast<unsigned char>(point);
    static const std::map<char32_t, unsigned char> windows = {
        {0x20AC, 0x80}, {0x201A, 0x82}, {0x0192, 0x83}, {0x201E, 0x84}, {0x2026, 0x85}, {0x2020, 0x86}, {0x2021, 0x87},
        {0x02C6, 0x88}, {0x2030, 0x89}, {0x0160, 0x8A}, {0x2039, 0x8B}, {0x0152, 0x8C}, {0x017D, 0x8E}, {0x2018, 0x91},
        {0x2019, 0x92}, {0x201C, 0x93}, {0x201D, 0x94}, {0x2022, 0x95}, {0x2013, 0x96}, {0x2014, 0x97}, {0x02DC, 0x98},
        {0x2122, 0x99}, {0x0161, 0x9A}, {0x203A, 0x9B}, {0x0153, 0x9C}, {0x017E, 0x9E}, {0x0178, 0x9F}};
    const auto found = windows.find(point);
    return found == windows.end() ? std::nullopt : std::optional(found->second);
}

}  // namespace

std::string repairedEncoding(const std::string& text) {
    auto points = decoded(text);
    if (!points) {
        points.emplace();
        for (const char c : text) *points += static_cast<unsigned char>(c);
    }
    for (int round = 0; round < 2; ++round) {
        std::string bytes;
        bool high = false, fits = true;
        for (const char32_t p : *points) {
            const auto byte = asByte(p);
            if (!byte) {
                fits = false;
                break;
            }
            high = high || *byte >= 0x80;
            bytes += static_cast<char>(*byte);
        }
        if (!fits || !high) break;
        const auto again = decoded(bytes);
        if (!again) break;
        points = again;
    }
    for (char32_t& p : *points)
        if (p < 0x20 || (p >= 0x7F && p < 0xA0)) p = U' ';
    return encoded(*points);
}

std::string counted(std::size_t number, const std::string& singular, const std::string& plural) {
    return fmt::format("{} {}", readable(static_cast<double>(number), 0),
                       number == 1 ? singular : (plural.empty() ? singular + "s" : plural));
}

}  // namespace rasoir
