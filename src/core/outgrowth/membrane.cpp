// Membranes: skin stretched between two or more lines, each a rib.
#include "outgrowth/shapes.h"

#include <algorithm>

namespace bonemoss::outgrowth {

std::vector<std::span<const Root>> linesOf(const Outgrowth &rule)
{
    std::vector<std::span<const Root>> out;
    std::size_t from = 0;
    for (const std::uint32_t to : rule.starts) {
        out.push_back(std::span(rule.roots).subspan(from, to - from));
        from = to;
    }
    out.push_back(std::span(rule.roots).subspan(from));
    return out;
}

namespace {

/// Those between which it stands: middle lines of others, or its own on the skin.
std::vector<std::span<const Root>> ribsOf(const Input &in)
{
    return in.strands.empty() ? linesOf(in.rule) : std::vector<std::span<const Root>>(in.strands.begin(), in.strands.end());
}

} // namespace

void oneMembrane(const Input &in, std::vector<Spot> &out)
{
    const auto lines = ribsOf(in);
    if (lines.size() < 2 || std::any_of(lines.begin(), lines.end(), [](const auto &line) { return line.size() < 2; }))
        return;
    Spot s;
    s.root = lines.front().front();
    if (in.about.plane && in.about.planeNormal) { // its own twin where each line lies across from one of them
        const auto mirrored = [&](Vec3f p) {
            return p - *in.about.planeNormal * (2 * dot(p - *in.about.plane, *in.about.planeNormal));
        };
        s.isOnPlane = std::all_of(lines.begin(), lines.end(), [&](const auto &line) {
            return std::any_of(lines.begin(), lines.end(), [&](const auto &other) {
                return length(mirrored(line.front().at) - other.front().at) < 1.2f
                       && length(mirrored(line.back().at) - other.back().at) < 1.2f;
            });
        });
    }
    out.push_back(s);
}

/// A sheet of columns from rib to rib with a side in front and one behind. Across, it sags as a hanging chain does; its far rim is drawn
/// in likewise, and torn where asked. Without sag, folds and drawn-in rim it is the ruled surface between the ribs.
mesh::PolyMesh membraneShape(const Input &in, const Variation &)
{
    const auto lines = ribsOf(in);
    const auto gaps = std::uint32_t(lines.size() - 1);
    constexpr std::uint32_t kBetween = 12, kUp = 22;
    const std::uint32_t columns = gaps * kBetween, across = columns + 1;
    const float sag = in.value("sag"), scallop = in.value("scallop"), torn = in.value("torn"), folds = in.value("folds"),
                thick = in.value("thickness"), rim = in.value("rim"), ribs = in.value("ribs"), deep = in.value("sink");
    std::vector<Track> tracks;
    for (const auto &line : lines)
        tracks.emplace_back(line);
    std::vector<Vec3f> sheet(std::size_t(across) * (kUp + 1));
    std::vector<float> half(sheet.size());
    const auto index = [across](std::uint32_t i, std::uint32_t k) { return std::size_t(k) * across + i; };
    for (std::uint32_t i = 0; i <= columns; ++i) {
        const std::uint32_t gap = std::min(i / kBetween, gaps - 1), place = i - gap * kBetween;
        const float w = float(place) / kBetween, x = 2 * w - 1;
        const bool isRib = place == 0 || place == kBetween;
        const float tear = isRib ? 0 : torn * 0.35f * std::max(0.0f, waver(std::uint64_t(in.rule.seed) << 8, float(i) * 0.8f));
        const float end = isRib ? 1 : std::max(1 - scallop * (1 - x * x) - tear, 0.15f);
        for (std::uint32_t k = 0; k <= kUp; ++k) {
            const float t = end * float(k) / kUp;
            Vec3f way;
            const Root a = tracks[gap].at(t * tracks[gap].whole(), way), b = tracks[gap + 1].at(t * tracks[gap + 1].whole(), way);
            const Vec3f from = a.at - a.normal * deep, to = b.at - b.normal * deep, up = a.normal + b.normal;
            const float wide = length(to - from);
            const Vec3f down = squaredLength(up) > 1e-6f ? -normalized(up) : Vec3f{0, -1, 0};
            const float hang = (sag - chainHeight(x, sag)) * wide / 2 + folds * 0.06f * wide * std::sin(3 * kPi * w) * t;
            sheet[index(i, k)] = lerp(from, to, w) + down * (isRib ? 0 : hang);
            const float rib = std::max(0.0f, 1 - 4 * std::min(w, 1 - w));
            half[index(i, k)] = thick / 2 * std::lerp(1.0f, rim, t) * (1 + ribs * rib * (1 - 0.6f * t)) * in.profileAt(t);
        }
    }
    // How thick it may be: no more than a share of the way to the nearest points along and across, and across a fold.
    for (std::uint32_t k = 0; k <= kUp; ++k)
        for (std::uint32_t i = 0; i <= columns; ++i) {
            float room = length(sheet[index(i, k > 0 ? k - 1 : 1)] - sheet[index(i, k)]);
            for (std::uint32_t j = i > 2 ? i - 2 : 1; j + 1 <= columns && j <= i + 2; ++j)
                room = std::min(room, 0.5f * length(sheet[index(j + 1, k)] - sheet[index(j - 1, k)]));
            half[index(i, k)] = std::min(half[index(i, k)], 0.42f * room);
        }
    const Root &first = lines.front().front();
    const io::Placement frame = frameAt(first, {0, 0, 1});
    const auto own = [&](Vec3f p) {
        const Vec3f d = p - first.at;
        return Vec3f{dot(d, {frame.m[0], frame.m[1], frame.m[2]}), dot(d, {frame.m[3], frame.m[4], frame.m[5]}),
                     dot(d, {frame.m[6], frame.m[7], frame.m[8]})};
    };
    mesh::PolyMesh out;
    for (const float side : {1.0f, -1.0f})
        for (std::uint32_t k = 0; k <= kUp; ++k)
            for (std::uint32_t i = 0; i <= columns; ++i) {
                const Vec3f u = sheet[index(std::min(i + 1, columns), k)] - sheet[index(i > 0 ? i - 1 : 0, k)],
                            v = sheet[index(i, std::min(k + 1, kUp))] - sheet[index(i, k > 0 ? k - 1 : 0)];
                const Vec3f n = cross(u, v);
                out.positions.push_back(
                    own(sheet[index(i, k)] + (squaredLength(n) > 0 ? normalized(n) : first.normal) * (side * half[index(i, k)])));
            }
    closeSheet(out, columns, kUp, false);
    return out;
}

} // namespace bonemoss::outgrowth
