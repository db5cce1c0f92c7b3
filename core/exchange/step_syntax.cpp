#include "exchange/step_syntax.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <fstream>
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

}  // namespace

Result<bool> checkStepSyntax(const std::filesystem::path& path) {
    Characters in(path);
    const auto damaged = [&](const std::string& what, long line) {
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" is damaged: in line {}, {}.", path.filename().string(), line, what), "Ask for the file again.");
    };
    std::vector<std::uint64_t> numbers;
    std::string head;          // the first characters of a statement, blanks and comments left out
    long started = 1, depth = 0;
    bool inText = false;
    int previous = 0;
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
        if (c == '\'') inText = true;
        else if (c == '(') ++depth;
        else if (c == ')' && --depth < 0) return damaged("a parenthesis closes that never opened", in.line());
        if (c != ';') {
            if (head.size() < 40) head += static_cast<char>(c);
            continue;
        }
        if (depth != 0) return damaged("a parenthesis does not close", started);
        if (head.rfind("END-ISO-10303-21", 0) == 0) {
            std::sort(numbers.begin(), numbers.end());
            const auto twice = std::adjacent_find(numbers.begin(), numbers.end());
            if (twice != numbers.end())
                return fail(ProblemKind::BadInput, fmt::format("\"{}\" is damaged: #{} is defined twice.", path.filename().string(), *twice), "Ask for the file again.");
            return in.isUtf8();
        }
        if (!head.empty() && head[0] == '#') {
            std::uint64_t number = 0;
            std::size_t at = 1;
            while (at < head.size() && std::isdigit(static_cast<unsigned char>(head[at])) && at < 19) number = number * 10 + static_cast<std::uint64_t>(head[at++] - '0');
            if (at == 1 || at >= head.size() || head[at] != '=') return damaged("an instance has no number and equals sign", started);
            if (at + 1 >= head.size() || !(std::isalpha(static_cast<unsigned char>(head[at + 1])) || head[at + 1] == '(' || head[at + 1] == '!' || head[at + 1] == '_'))
                return damaged("an instance does not say what it is", started);
            numbers.push_back(number);
        }
        head.clear();
    }
    if (inText) return damaged("a text does not end", started);
    return fail(ProblemKind::BadInput, fmt::format("\"{}\" ends in the middle: its closing line is missing.", path.filename().string()),
                "The copy was cut off; fetch it again.");
}

}  // namespace rasoir::exchange
