#pragma once

#include "io/byte_stream.h"

#include <cstdint>
#include <functional>
#include <string>
#include <vector>

namespace bonemoss::io {

/// Writes an archive of compressed files (APPNOTE.TXT of the ZIP format, version 6.3; RFC 1951), several parts of a file at a time.
class ZipStream
{
public:
    explicit ZipStream(ByteStream &out) : m_out(out) {}
    /// A file put together of parts, which are made and compressed on all threads, in order. Its size before compression must stay
    /// below 4 GB.
    void add(const std::string &name, std::size_t parts, const std::function<std::string(std::size_t)> &part);
    void add(const std::string &name, const std::string &whole)
    {
        add(name, 1, [&](std::size_t) { return whole; });
    }
    /// The list of files; nothing may follow.
    void finish();

private:
    struct File {
        std::string name;
        std::uint32_t crc = 0, packed = 0, size = 0, at = 0;
    };
    void put(const std::string &bytes);
    ByteStream &m_out;
    std::vector<File> m_files;
    std::uint64_t m_at = 0;
};

} // namespace bonemoss::io
