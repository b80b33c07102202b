#pragma once

#include <algorithm>
#include <charconv>
#include <cstddef>
#include <limits>
#include <span>
#include <string_view>
#include <type_traits>

namespace bonemoss::io {

/// Reads words and numbers from text bytes, never past their end.
class TextScan
{
public:
    explicit TextScan(std::span<const std::byte> bytes)
        : m_at(reinterpret_cast<const char *>(bytes.data())), m_end(m_at + bytes.size())
    {}
    bool atEnd() const { return m_at == m_end; }
    const char *position() const { return m_at; }
    void skipBlanks()
    {
        while (m_at < m_end && (*m_at == ' ' || *m_at == '\t' || *m_at == '\r'))
            ++m_at;
    }
    /// The same, and over ends of lines that a backslash before them takes away. Returns how many.
    std::size_t skipBlanksAndJoins()
    {
        skipBlanks();
        std::size_t joins = 0;
        for (; m_at < m_end && *m_at == '\\'; ++joins, skipBlanks()) {
            const char *after = m_at + 1;
            if (after < m_end && *after == '\r')
                ++after;
            if (after == m_end || *after != '\n')
                break;
            m_at = after + 1;
        }
        return joins;
    }
    void skipSpace()
    {
        while (m_at < m_end && (*m_at == ' ' || *m_at == '\t' || *m_at == '\r' || *m_at == '\n'))
            ++m_at;
    }
    bool atLineEnd()
    {
        skipBlanks();
        return m_at == m_end || *m_at == '\n';
    }
    void skipLine()
    {
        while (m_at < m_end && *m_at != '\n')
            ++m_at;
        if (m_at < m_end)
            ++m_at;
    }
    std::string_view word()
    {
        const char *start = m_at;
        while (m_at < m_end && *m_at != ' ' && *m_at != '\t' && *m_at != '\r' && *m_at != '\n')
            ++m_at;
        return {start, std::size_t(m_at - start)};
    }
    /// A number at the current place; false, without moving, where there is none. One with a fraction that its type cannot hold
    /// is what it rounds to: zero, or infinity.
    template <typename T> bool number(T &value)
    {
        const char *from = m_at < m_end && *m_at == '+' ? m_at + 1 : m_at;
        const auto [end, code] = std::from_chars(from, m_end, value);
        if constexpr (std::is_floating_point_v<T>) {
            if (code == std::errc::result_out_of_range) {
                const T sign = *from == '-' ? T(-1) : T(1);
                value = sign * (isSmall({from, std::size_t(end - from)}) ? T(0) : std::numeric_limits<T>::infinity());
                m_at = end;
                return true;
            }
        }
        if (code != std::errc())
            return false;
        m_at = end;
        return true;
    }
    bool take(char c)
    {
        if (m_at == m_end || *m_at != c)
            return false;
        ++m_at;
        return true;
    }

private:
    /// Whether a decimal number that is out of range is below 1: by the place of its first digit that is not 0, and its exponent.
    static bool isSmall(std::string_view text)
    {
        const std::size_t e = text.find_first_of("eE");
        const std::string_view digits = text.substr(0, e);
        const std::size_t first = digits.find_first_of("123456789");
        if (first == std::string_view::npos)
            return true;
        const std::size_t point = std::min(digits.find('.'), digits.size());
        const double place = first < point ? double(point - first) : -double(first - point - 1);
        double exponent = 0;
        for (std::size_t k = e == std::string_view::npos ? text.size() : e + 1; k < text.size(); ++k)
            if (text[k] >= '0' && text[k] <= '9')
                exponent = exponent * 10 + double(text[k] - '0');
        if (e != std::string_view::npos && e + 1 < text.size() && text[e + 1] == '-')
            exponent = -exponent;
        return exponent + place <= 0;
    }
    const char *m_at, *m_end;
};

} // namespace bonemoss::io
