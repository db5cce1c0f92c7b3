#include "exchange/step_syntax.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <cstdlib>
#include <fstream>
#include <numeric>
#include <optional>
#include <vector>

namespace rasoir::exchange {
namespace {

/// Characters of a file one at a time, with the line they stand in.
class Characters {
public:
    explicit Characters(const std::filesystem::path& path) : m_in(path, std::ios::binary), m_buffer(1 << 20) {}
    int next() {
        if (m_at == m_end) {
            m_in.read(m_buffer.data(), static_cast<std::streamsize>(m_buffer.size()));
            m_end = static_cast<std::size_t>(m_in.gcount());
            m_at = 0;
            if (m_end == 0) return -1;
        }
        const char c = m_buffer[m_at++];
        if (c == '\n') ++m_line;
        follow(static_cast<unsigned char>(c));
        return static_cast<unsigned char>(c);
    }
    [[nodiscard]] long line() const { return m_line; }
    [[nodiscard]] bool isUtf8() const { return m_utf8; }

private:
    void follow(unsigned char c) {
        if (c < 0x80 && m_more == 0) return;
        if (m_more > 0) {
            m_utf8 = m_utf8 && (c & 0xC0u) == 0x80u;
            --m_more;
        } else {
            m_more = c >= 0xF0 ? 3 : c >= 0xE0 ? 2 : c >= 0xC2 ? 1 : 0;
            m_utf8 = m_utf8 && m_more > 0;
        }
    }
    bool m_utf8 = true;
    int m_more = 0;
    std::ifstream m_in;
    std::vector<char> m_buffer;
    std::size_t m_at = 0, m_end = 0;
    long m_line = 1;
};

/// Which instances refer to which. The standard's instances are built of others, so none leads back to itself: where a
/// damaged file has it so, the translator goes round until its stack is used up.
class References {
public:
    void begin(std::uint64_t number) { m_numbers.push_back(number); }
    void add(std::uint64_t from, std::uint64_t to) { m_edges.emplace_back(from, to); }
    [[nodiscard]] std::vector<std::uint64_t>& numbers() { return m_numbers; }

    /// An instance that leads back to itself, if there is one. Numbers have to differ. The way is kept in a list of its
    /// own, not on the stack: files can be deep, too.
    [[nodiscard]] std::optional<std::uint64_t> circle() {
        std::sort(m_numbers.begin(), m_numbers.end());
        std::sort(m_edges.begin(), m_edges.end());
        std::vector<std::size_t> starts;  // by instance: its first reference
        std::size_t at = 0;
        for (const std::uint64_t number : m_numbers) {
            while (at < m_edges.size() && m_edges[at].first < number) ++at;
            starts.push_back(at);
        }
        enum : char { Unseen, Open, Done };
        std::vector<char> marks(m_numbers.size(), Unseen);
        std::vector<std::pair<std::size_t, std::size_t>> way;  // instance, and its next reference
        for (std::size_t start = 0; start < m_numbers.size(); ++start) {
            if (marks[start] != Unseen) continue;
            marks[start] = Open;
            way.assign(1, {start, starts[start]});
            while (!way.empty()) {
                auto& [here, next] = way.back();
                if (next >= m_edges.size() || m_edges[next].first != m_numbers[here]) {
                    marks[here] = Done;
                    way.pop_back();
                    continue;
                }
                const std::uint64_t number = m_edges[next++].second;
                const auto found = std::lower_bound(m_numbers.begin(), m_numbers.end(), number);
                if (found == m_numbers.end() || *found != number) continue;
                const auto to = static_cast<std::size_t>(found - m_numbers.begin());
                if (marks[to] == Open) return number;
                if (marks[to] == Done) continue;
                marks[to] = Open;
                way.emplace_back(to, starts[to]);
            }
        }
        return std::nullopt;
    }

private:
    std::vector<std::uint64_t> m_numbers;
    std::vector<std::pair<std::uint64_t, std::uint64_t>> m_edges;
};

/// False for what cannot be a value: letters where a number would stand ("nan", "-inf"), and numbers beyond all size.
/// Texts, enumerations, references, blanks and types are values.
bool isValue(const std::string& value) {
    if (value.empty()) return true;
    const std::size_t at = value[0] == '-' || value[0] == '+' ? 1 : 0;
    if (at >= value.size()) return true;
    const char first = value[at];
    if (std::isalpha(static_cast<unsigned char>(first)) != 0)
        return at == 0 && value != "nan" && value != "NaN" && value != "NAN" && value != "inf" && value != "Inf" &&
               value != "INF" && value != "infinity" && value != "INFINITY";
    if (std::isdigit(static_cast<unsigned char>(first)) == 0) return true;
    char* end = nullptr;
    const double number = std::strtod(value.c_str(), &end);
    return value.size() >= 40 || std::isfinite(number);
}

/// A coordinate beyond a thousand kilometres, even in millimetres. Among others that are not, the translator can search
/// for a point between them without end.
bool isBeyond(const std::string& value) {
    if (value.empty() || (std::isdigit(static_cast<unsigned char>(value.back())) == 0 && value.back() != '.'))
        return false;
    return std::abs(std::strtod(value.c_str(), nullptr)) > 1e9;
}

}  // namespace

Result<bool> checkStepSyntax(const std::filesystem::path& path) {
    Characters in(path);
    const auto damaged = [&](const std::string& what, long line) {
        return fail(ProblemKind::BadInput,
                    fmt::format("\"{}\" is damaged: in line {}, {}.", path.filename().string(), line, what),
                    "Ask for the file again.");
    };
    References all;
    std::vector<std::uint64_t> references;  // of the statement; its own number comes first
    bool inReference = false;
    std::string head;  // the first characters of a statement, blanks and comments left out
    long started = 1, depth = 0;
    bool inText = false, inData = false;
    int previous = 0;
    std::string value;  // since the last parenthesis or comma
    for (int c = in.next(); c >= 0; c = in.next()) {
        if (inText) {
            if (c == '\'') inText = false;  // a doubled quote opens it again at once
            continue;
        }
        if (previous == '/' && c == '*') {  // a comment, wherever it stands
            if (!head.empty() && head.back() == '/') head.pop_back();
            int before = 0;
            for (c = in.next(); c >= 0 && !(before == '*' && c == '/'); c = in.next()) before = c;
            if (c < 0) return damaged("a comment does not end", started);
            previous = 0;
            continue;
        }
        previous = c;
        if (std::isspace(c)) continue;
        if (head.empty()) started = in.line();
        if (c == '\'')
            inText = true;
        else if (c == '(')
            ++depth;
        else if (c == ')' && --depth < 0)
            return damaged("a parenthesis closes that never opened", in.line());
        // A value between commas: what begins like a number must be one that a machine part can have.
        if (c == '(' || c == ',' || c == ')') {
            if (c != '(' && depth >= 0 &&
                (!isValue(value) || (isBeyond(value) && head.find("=CARTESIAN_POINT") != std::string::npos)))
                return damaged(fmt::format("a number reads \"{}\"", value), in.line());
            value.clear();
        } else if (value.size() < 40) {
            value += static_cast<char>(c);
        }
        if (inReference && std::isdigit(c)) {
            if (references.back() < (std::uint64_t{1} << 59))
                references.back() = references.back() * 10 + static_cast<std::uint64_t>(c - '0');
        } else {
            inReference = c == '#';
            if (inReference) references.push_back(0);
        }
        if (c != ';') {
            if (head.size() < 40) head += static_cast<char>(c);
            continue;
        }
        if (depth != 0) return damaged("a parenthesis does not close", started);
        if (head.rfind("END-ISO-10303-21", 0) == 0) {
            auto& numbers = all.numbers();
            std::sort(numbers.begin(), numbers.end());
            const auto twice = std::adjacent_find(numbers.begin(), numbers.end());
            if (twice != numbers.end())
                return fail(ProblemKind::BadInput,
                            fmt::format("\"{}\" is damaged: #{} is defined twice.", path.filename().string(), *twice),
                            "Ask for the file again.");
            if (const auto instance = all.circle())
                return fail(
                    ProblemKind::BadInput,
                    fmt::format("\"{}\" is damaged: #{} is built of itself.", path.filename().string(), *instance),
                    "Ask for the file again.");
            return in.isUtf8();
        }
        if (head.rfind("ENDSEC", 0) == 0)
            inData = false;
        else if (inData && !head.empty() && head[0] != '#')
            return damaged("something stands between the instances that is none", started);
        if (head == "DATA" || head.rfind("DATA(", 0) == 0) inData = true;
        if (!head.empty() && head[0] == '#') {
            std::uint64_t number = 0;
            std::size_t at = 1;
            while (at < head.size() && std::isdigit(static_cast<unsigned char>(head[at])) && at < 19)
                number = number * 10 + static_cast<std::uint64_t>(head[at++] - '0');
            if (at == 1 || at >= head.size() || head[at] != '=')
                return damaged("an instance has no number and equals sign", started);
            if (at + 1 >= head.size() || !(std::isalpha(static_cast<unsigned char>(head[at + 1])) ||
                                           head[at + 1] == '(' || head[at + 1] == '!' || head[at + 1] == '_'))
                return damaged("an instance does not say what it is", started);
            for (std::size_t k = at + 1; k < head.size() && head[k] != '('; ++k)
                if (std::isalnum(static_cast<unsigned char>(head[k])) == 0 && head[k] != '_' && head[k] != '!')
                    return damaged("an instance does not say what it is", started);
            all.begin(number);
            for (std::size_t r = 1; r < references.size(); ++r) all.add(number, references[r]);
            // The use of a part in a whole names both; that the whole is built of the part is what it means.
            if (references.size() >= 3 && head.find("NEXT_ASSEMBLY_USAGE", at) == at + 1)
                all.add(references[1], references[2]);
        }
        head.clear();
        references.clear();
        inReference = false;
    }
    if (inText) return damaged("a text does not end", started);
    return fail(ProblemKind::BadInput,
                fmt::format("\"{}\" ends in the middle: its closing line is missing.", path.filename().string()),
                "The copy was cut off; fetch it again.");
}

}  // namespace rasoir::exchange
