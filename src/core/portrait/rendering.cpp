#include "portrait/rendering.h"

#include "base/files.h"
#include "portrait/filter.h"
#include "portrait/passes.h"
#include "portrait/picture_look.h"

#include <fmt/format.h>

#include <algorithm>
#include <cstdio>
#include <fstream>

namespace bonemoss::portrait {

namespace {

constexpr std::size_t kMostBytes = std::size_t(8) << 30, kBandBytes = std::size_t(400) << 20;

/// What an unfinished picture must have in common with this one to go on with it.
std::string headOf(const Rendering &job, const PathTracer &tracer)
{
    std::string out = fmt::format("unfinished picture 2, {:016x}, {} by {}, part {}, {} samples, error {}, seed {}{}, passes {}",
                                  tracer.digest(), job.width, job.height, fmt::join(job.tile, " "), job.how.samples,
                                  job.how.error, job.how.seed, job.isRaw ? ", not filtered" : "", fmt::join(job.passes, " "));
    for (const LightMix &m : job.mix)
        out += fmt::format(", {} {} {} {} {}", m.light, m.strength, m.colour.x, m.colour.y, m.colour.z);
    return out + "\n";
}

/// What is done of a picture, as a file: a line that tells of what it is, then rows of floats.
class Kept
{
public:
    Kept(const Rendering &job, const PathTracer &tracer, std::size_t floatsPerRow)
        : m_path(job.kept), m_row(floatsPerRow * sizeof(float)), m_head(m_path.empty() ? std::string() : headOf(job, tracer))
    {}
    /// Rows that are there, into values. What belongs to another picture is not touched until something is added.
    int read(std::vector<float> &values, int most)
    {
        if (m_path.empty())
            return 0;
        std::ifstream in(m_path, std::ios::binary);
        std::string head(m_head.size(), '\0');
        if (!in.read(head.data(), std::streamsize(head.size())) || head != m_head)
            return 0;
        int rows = 0;
        while (rows < most
               && in.read(reinterpret_cast<char *>(values.data()) + std::size_t(rows) * m_row, std::streamsize(m_row)))
            ++rows;
        m_rows = rows;
        return rows;
    }
    Status add(const float *values, int rows)
    {
        if (m_path.empty())
            return Done{};
        if (!m_file.is_open()) { // a row that was cut off goes
            std::error_code ec;
            if (m_rows > 0)
                std::filesystem::resize_file(m_path, m_head.size() + std::size_t(m_rows) * m_row, ec);
            m_file.open(m_path, m_rows > 0 && !ec ? std::ios::binary | std::ios::app : std::ios::binary | std::ios::trunc);
            if (m_rows == 0)
                m_file << m_head;
        }
        m_file.write(reinterpret_cast<const char *>(values), std::streamsize(std::size_t(rows) * m_row));
        m_file.flush();
        if (!m_file)
            return Error{ErrorCode::Unwritable, shownPath(m_path), "the work could not be kept; is the disk full?"};
        m_rows += rows;
        return Done{};
    }
    void drop()
    {
        m_file.close();
        std::error_code ec;
        if (!m_path.empty())
            std::filesystem::remove(m_path, ec);
    }

private:
    std::filesystem::path m_path;
    std::size_t m_row;
    std::string m_head;
    std::ofstream m_file;
    int m_rows = 0;
};

} // namespace

Result<Rendered> rendered(const PathTracer &tracer, const Rendering &job, const Progress &progress)
{
    const std::array<int, 4> tile = job.tile[2] > 0 ? job.tile : std::array{0, 0, job.width, job.height};
    Rendered out;
    const auto first = toChannels(tracer.blank(job.width, job.height, {tile[0], tile[1], 1, 1}), job.passes);
    if (!first)
        return first.error();
    out.picture = *first;
    out.picture.width = tile[2], out.picture.height = tile[3];
    const std::size_t channels = out.picture.names.size(), rowFloats = std::size_t(tile[2]) * channels;
    const std::size_t bytes = rowFloats * sizeof(float) * std::size_t(tile[3]);
    if (bytes > kMostBytes)
        return Error{
            ErrorCode::TooLarge, "picture",
            fmt::format("would take {} GB; make it smaller, with fewer passes, or in bands: bonemoss-cli render --part I/{}",
                        bytes >> 30, bytes / kMostBytes + 1)};
    out.picture.about.emplace_back("tile",
                                   fmt::format("{} {} {} {} {} {}", tile[0], tile[1], tile[2], tile[3], job.width, job.height));
    out.picture.values.resize(rowFloats * std::size_t(tile[3]));
    const Gathered blank = tracer.blank(job.width, job.height, {0, 0, 1, 1});
    out.lights = blank.lights;
    const bool isDrawn = pictureLook(job.film.look).draw, isFiltered = !job.isRaw && !isDrawn;
    const int margin = isFiltered || isDrawn ? kFilterMargin : 0;
    const int x0 = std::max(0, tile[0] - margin), x1 = std::min(job.width, tile[0] + tile[2] + margin);
    const std::size_t bytesPerRow = std::size_t(x1 - x0) * (blank.memoryBytes() + (isFiltered ? 600 : 0));
    const int band = std::clamp(int(kBandBytes / std::max<std::size_t>(1, bytesPerRow)), 96, std::max(96, job.height));
    Kept kept(job, tracer, rowFloats + 2);
    std::vector<float> rows; // as they are kept: each with its samples and error
    {
        std::vector<float> there((rowFloats + 2) * std::size_t(tile[3]));
        out.rowsKept = kept.read(there, tile[3]);
        for (int y = 0; y < out.rowsKept; ++y) {
            const float *from = there.data() + std::size_t(y) * (rowFloats + 2);
            std::copy_n(from, rowFloats, out.picture.values.data() + std::size_t(y) * rowFloats);
            out.samples += double(from[rowFloats]), out.error += double(from[rowFloats + 1]);
        }
    }
    Gathered above;
    for (int y = out.rowsKept; y < tile[3];) {
        const int next = std::min(tile[3], y + band), top = std::max(0, tile[1] + y - margin),
                  bottom = std::min(job.height, tile[1] + next + margin);
        const int begin = above.height > 0 ? above.top + above.height : top; // what the band above looked at is there
        Gathered g = tracer.blank(job.width, job.height, {x0, begin, x1 - x0, bottom - begin});
        const Progress part{progress.stop, [&](float share, std::string_view) {
                                progress.say((float(y) + share * float(next - y)) / float(tile[3]), "picture");
                            }};
        if (!tracer.gather(g, job.how, part))
            return Error{ErrorCode::Cancelled, "picture", "stopped on request"};
        if (above.height > 0) {
            above.append(g);
            g = std::move(above);
        }
        std::vector<Vec3f> light;
        if (isFiltered)
            light = filtered(g, FilterQuality::Full, {progress.stop, {}});
        if (progress.isCancelled())
            return Error{ErrorCode::Cancelled, "picture", "stopped on request"};
        const LinearPicture beauty = linearPicture(g, job.mix, light, job.film);
        const auto made = toChannels(g, job.passes, beauty.light);
        if (!made)
            return made.error();
        rows.clear();
        for (int r = y; r < next; ++r) {
            const std::size_t from = std::size_t(tile[1] + r - top) * std::size_t(g.width) + std::size_t(tile[0] - x0);
            const float *line = made->values.data() + from * channels;
            std::copy_n(line, rowFloats, out.picture.values.data() + std::size_t(r) * rowFloats);
            double samples = 0, error = 0;
            for (std::size_t i = from; i < from + std::size_t(tile[2]); ++i)
                samples += double(g.count[i]), error += double(g.error(i));
            rows.insert(rows.end(), line, line + rowFloats);
            rows.push_back(float(samples / tile[2])), rows.push_back(float(error / tile[2]));
            out.samples += samples / tile[2], out.error += error / tile[2];
        }
        if (const int from = std::max(g.top, tile[1] + next - margin); next < tile[3] && margin > 0)
            above = g.cut({x0, from, x1 - x0, bottom - from});
        if (const Status done = kept.add(rows.data(), next - y); !done)
            return done.error();
        y = next;
    }
    kept.drop();
    out.samples /= tile[3], out.error /= tile[3];
    return out;
}

Result<image::ChannelPicture> joinedParts(std::span<const image::ChannelPicture> parts)
{
    image::ChannelPicture out;
    std::vector<std::uint8_t> isThere;
    for (std::size_t k = 0; k < parts.size(); ++k) {
        const image::ChannelPicture &p = parts[k];
        std::array<int, 6> t{};
        const auto said = std::find_if(p.about.begin(), p.about.end(), [](const auto &a) { return a.first == "tile"; });
        if (said == p.about.end()
            || std::sscanf(said->second.c_str(), "%d %d %d %d %d %d", &t[0], &t[1], &t[2], &t[3], &t[4], &t[5]) != 6
            || t[2] != p.width || t[3] != p.height || t[0] < 0 || t[1] < 0 || t[4] < 1 || t[5] < 1 || t[4] > 65536 || t[5] > 65536
            || t[0] > t[4] - t[2] || t[1] > t[5] - t[3])
            return Error{ErrorCode::Malformed, fmt::format("part {}", k + 1), "does not say where in a picture it lies"};
        if (k == 0) {
            out.width = t[4], out.height = t[5], out.names = p.names, out.about = p.about;
            out.values.resize(std::size_t(out.width) * std::size_t(out.height) * out.names.size());
            isThere.resize(std::size_t(out.width) * std::size_t(out.height));
        }
        if (t[4] != out.width || t[5] != out.height || p.names != out.names)
            return Error{ErrorCode::Malformed, fmt::format("part {}", k + 1),
                         "is of another picture than the first: other size or passes"};
        const std::size_t wide = out.names.size();
        for (int y = 0; y < p.height; ++y) {
            const std::size_t to = std::size_t(t[1] + y) * std::size_t(out.width) + std::size_t(t[0]);
            std::copy_n(p.values.data() + std::size_t(y) * std::size_t(p.width) * wide, std::size_t(p.width) * wide,
                        out.values.data() + to * wide);
            std::fill_n(isThere.begin() + std::ptrdiff_t(to), p.width, std::uint8_t(1));
        }
    }
    const auto missing = std::size_t(std::count(isThere.begin(), isThere.end(), std::uint8_t(0)));
    if (out.values.empty() || missing > 0)
        return Error{ErrorCode::Malformed, "parts",
                     fmt::format("do not cover the picture: {} of {} pixels are missing", missing, isThere.size())};
    for (auto &[name, text] : out.about)
        if (name == "tile")
            text = fmt::format("0 0 {0} {1} {0} {1}", out.width, out.height);
    return out;
}

} // namespace bonemoss::portrait
