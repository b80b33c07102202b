#include "io/zip_stream.h"

#include "base/parallel.h"

#include <zlib.h>

#include <algorithm>

namespace bonemoss::io {

namespace {

constexpr std::size_t kAtOnce = 64; ///< parts
constexpr int kLevel = 2;           ///< higher ones save a tenth of the size and take twice as long

struct Packed {
    std::string bytes;
    std::uint32_t crc = 0;
    std::size_t size = 0;
};

/// Blocks that end on a byte, so that others can follow.
Packed packed(const std::string &plain)
{
    Packed out;
    z_stream z{};
    deflateInit2(&z, kLevel, Z_DEFLATED, -15, 8, Z_DEFAULT_STRATEGY);
    out.bytes.resize(deflateBound(&z, uLong(plain.size())) + 16);
    z.next_in = reinterpret_cast<Bytef *>(const_cast<char *>(plain.data())), z.avail_in = uInt(plain.size());
    z.next_out = reinterpret_cast<Bytef *>(out.bytes.data()), z.avail_out = uInt(out.bytes.size());
    deflate(&z, Z_SYNC_FLUSH);
    out.bytes.resize(z.total_out);
    deflateEnd(&z);
    out.crc = std::uint32_t(crc32(0, reinterpret_cast<const Bytef *>(plain.data()), uInt(plain.size())));
    out.size = plain.size();
    return out;
}

template <typename T> void putNumber(std::string &to, T value)
{
    for (std::size_t k = 0; k < sizeof value; ++k)
        to += char(std::uint8_t(value >> (8 * k)));
}

/// Version, flags (sizes follow the file; names are UTF-8), method, time and date: the first that there is.
void putKind(std::string &to)
{
    putNumber<std::uint16_t>(to, 20), putNumber<std::uint16_t>(to, 0x0808), putNumber<std::uint16_t>(to, 8);
    putNumber<std::uint16_t>(to, 0), putNumber<std::uint16_t>(to, 0x21);
}

} // namespace

void ZipStream::put(const std::string &bytes)
{
    m_out.put(bytes), m_at += bytes.size();
    if (m_at > 0xffff0000u)
        throw Failure{{ErrorCode::TooLarge, "writing", "would be larger than 4 GB, which the format does not allow"}};
}

void ZipStream::add(const std::string &name, std::size_t parts, const std::function<std::string(std::size_t)> &part)
{
    File file{name, 0, 0, 0, std::uint32_t(m_at)};
    std::string head;
    putNumber<std::uint32_t>(head, 0x04034b50), putKind(head);
    putNumber<std::uint32_t>(head, 0), putNumber<std::uint32_t>(head, 0), putNumber<std::uint32_t>(head, 0);
    putNumber(head, std::uint16_t(name.size())), putNumber<std::uint16_t>(head, 0);
    put(head + name);
    std::uint64_t size = 0, packedSize = 0;
    uLong crc = crc32(0, nullptr, 0);
    std::vector<Packed> some;
    for (std::size_t first = 0; first < parts; first += kAtOnce) {
        some.assign(std::min(kAtOnce, parts - first), {});
        forEachBlock(some.size(), 1, [&](BlockRange r) { some[r.begin] = packed(part(first + r.begin)); });
        for (const Packed &p : some) {
            crc = crc32_combine(crc, p.crc, z_off_t(p.size));
            size += p.size, packedSize += p.bytes.size();
            if (size > 0xffff0000u)
                throw Failure{{ErrorCode::TooLarge, "writing", "would be larger than 4 GB, which the format does not allow"}};
            put(p.bytes);
        }
    }
    put(std::string("\x03\x00", 2)); // an empty last block
    file.crc = std::uint32_t(crc), file.packed = std::uint32_t(packedSize + 2), file.size = std::uint32_t(size);
    std::string tail;
    putNumber<std::uint32_t>(tail, 0x08074b50), putNumber(tail, file.crc), putNumber(tail, file.packed),
        putNumber(tail, file.size);
    put(tail);
    m_files.push_back(std::move(file));
}

void ZipStream::finish()
{
    std::string list;
    for (const File &f : m_files) {
        putNumber<std::uint32_t>(list, 0x02014b50), putNumber<std::uint16_t>(list, 20), putKind(list);
        putNumber(list, f.crc), putNumber(list, f.packed), putNumber(list, f.size);
        putNumber(list, std::uint16_t(f.name.size()));
        for (int k = 0; k < 4; ++k) // neither extra field nor comment, on disk 0, no attributes
            putNumber<std::uint16_t>(list, 0);
        putNumber<std::uint32_t>(list, 0), putNumber(list, f.at);
        list += f.name;
    }
    std::string end;
    putNumber<std::uint32_t>(end, 0x06054b50), putNumber<std::uint32_t>(end, 0);
    putNumber(end, std::uint16_t(m_files.size())), putNumber(end, std::uint16_t(m_files.size()));
    putNumber(end, std::uint32_t(list.size())), putNumber(end, std::uint32_t(m_at)), putNumber<std::uint16_t>(end, 0);
    put(list), put(end);
}

} // namespace bonemoss::io
