#pragma once

#include <charconv>
#include <cstddef>
#include <span>
#include <string_view>

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
    /// A number at the current place; false, without moving, where there is none.
    template <typename T> bool number(T &value)
    {
        const char *from = m_at < m_end && *m_at == '+' ? m_at + 1 : m_at;
        const auto [end, code] = std::from_chars(from, m_end, value);
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
    const char *m_at, *m_end;
};

} // namespace bonemoss::io
