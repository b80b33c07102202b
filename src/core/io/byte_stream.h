#pragma once

#include "base/progress.h"
#include "base/result.h"

#include <algorithm>
#include <cstddef>
#include <functional>
#include <string>
#include <string_view>

namespace bonemoss::io {

/// Where a file's bytes go, stretch by stretch.
using Sink = std::function<Status(std::string_view)>;

/// Gathers bytes and hands them on in stretches of a megabyte; says how far it is. A sink's error and a wish to stop travel up as
/// a Failure.
class ByteStream
{
public:
    ByteStream(const Sink &sink, const Progress &progress) : m_sink(sink), m_progress(progress)
    {
        m_buffer.reserve(kStretch + 4096);
    }

    /// How many bytes, or how much of anything, there will be in all; and how much of it was put.
    void expect(double whole) { m_whole = std::max(whole, 1.0); }
    void advance(double by) { m_done += by; }

    void put(std::string_view bytes)
    {
        m_buffer += bytes;
        if (m_buffer.size() >= kStretch)
            flush();
    }
    /// A value as the machine has it: little-endian, as is every machine we build for.
    template <typename T> void putRaw(const T &value) { put({reinterpret_cast<const char *>(&value), sizeof value}); }
    void flush()
    {
        if (m_progress.isCancelled())
            throw Failure{{ErrorCode::Cancelled, "writing", "stopped on request"}};
        m_progress.say(float(std::min(m_done / m_whole, 1.0)), "writing");
        if (!m_buffer.empty())
            need(m_sink(m_buffer));
        m_buffer.clear();
    }

private:
    static constexpr std::size_t kStretch = 1 << 20;
    const Sink &m_sink;
    const Progress &m_progress;
    std::string m_buffer;
    double m_done = 0, m_whole = 1;
};

} // namespace bonemoss::io
