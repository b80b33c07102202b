#include "bench/figure.h"

#include "base/parallel.h"
#include "base/random.h"
#include "command/command.h"
#include "growth/darts.h"
#include "io/mesh_file.h"
#include "outgrowth/outgrowth.h"

#include <fmt/format.h>
#include <malloc.h>
#include <nlohmann/json.hpp>

#include <cmath>
#include <filesystem>
#include <stdexcept>
#include <unordered_map>

namespace bonemoss::bench {

namespace {

using nlohmann::json;

document::Creature after(const document::Creature &c, const json &command)
{
    command::CommandContext context;
    auto next = command::apply(c, command, context);
    if (!next)
        throw std::runtime_error(next.error().text());
    return std::move(*next);
}

/// A skin of gentle waves, 200 mm to a side.
document::Creature ground(std::uint32_t n)
{
    document::Creature c;
    auto piece = std::make_shared<document::Piece>();
    piece->id = c.nextId++;
    piece->name = "ground";
    piece->skin = skin::makeSkin(waves(n, 200), true);
    c.pieces.push_back(std::move(piece));
    return c;
}

json line(float aside)
{
    json points = json::array();
    for (int k = 0; k <= 60; ++k) {
        const float t = float(k) / 60;
        points.push_back({aside * std::sin(3.14159f * t), 0, 160 * t - 80});
    }
    return points;
}

/// One move of the curve of a row of 60 plates, ten of them corrected, until it can be drawn.
Figure rowDrag()
{
    document::Creature c = after(ground(700), {{"do", "outgrow.plates"}, {"points", line(5)}, {"count", 60}, {"variants", 8}});
    for (int k = 0; k < 10; ++k)
        c = after(c, {{"do", "outgrowth.correct"}, {"outgrowth", "Plates"}, {"member", k * 6}, {"size", 1.3}, {"bend", 5 + k}});
    std::vector<double> times;
    for (int k = 0; k < 15; ++k)
        times.push_back(seconds([&] {
            c = after(c, {{"do", "outgrowth.root"}, {"outgrowth", "Plates"}, {"points", line(6 + float(k) * 0.3f)}});
        }));
    const double ms = median(times) * 1e3;
    return {"row.drag",
            ms,
            "ms",
            "a frame at 30 a second, ms",
            33,
            ms / 33,
            1,
            false,
            fmt::format("{} members, {} faces, over a skin of {} faces", c.outgrowths[0]->made->members.size(),
                        c.outgrowths[0]->made->faceCount(), c.pieces[0]->skin.shown.topology->faceCount())};
}

document::Creature maskedGround(std::uint32_t n, float radius)
{
    document::Creature c = ground(n);
    auto piece = std::make_shared<document::Piece>(*c.pieces[0]);
    for (std::size_t b = 0; b < piece->skin.mask.blockCount(); ++b) {
        std::uint8_t *m = piece->skin.mask.edit(b);
        for (std::size_t i = 0; i < piece->skin.mask.countIn(b); ++i)
            m[i] = length(piece->skin.shown.positions.data(b)[i]) < radius ? 255 : 0;
    }
    c.put(std::move(piece));
    return c;
}

/// Some 400 locks after a slider has moved.
Figure furLocks()
{
    document::Creature c =
        after(maskedGround(700, 21), {{"do", "outgrow.locks"}, {"mask", "hand"}, {"length", 12}, {"mirror", false}});
    std::vector<double> times;
    for (int k = 0; k < 15; ++k)
        times.push_back(seconds([&] {
            c = after(c, {{"do", "outgrow.locks"}, {"outgrowth", "Locks"}, {"wave", 0.2 + 0.02 * k}});
        }));
    const auto &made = *c.outgrowths[0]->made;
    const double ms = median(times) * 1e3 * 400 / double(made.members.size());
    return {"fur.locks",
            ms,
            "ms",
            "a frame at 15 a second, ms",
            66,
            ms / 66,
            1,
            false,
            fmt::format("for 400 of {} locks, {:.0f} faces each, pushed apart", made.members.size(),
                        double(made.faceCount()) / double(made.members.size()))};
}

/// Places on a skin by darts over a hash map, as plainly as can be written: faces by their size, a place in each, none that is near one
/// that stands.
std::size_t plainDarts(const mesh::Surface &skin, const mesh::BlockArray<std::uint8_t> &area, float apart, std::size_t tries)
{
    std::vector<mesh::Face> faces;
    std::vector<float> upTo;
    float whole = 0;
    for (std::size_t b = 0; b < skin.topology->blockCount(); ++b)
        for (std::size_t f = 0; f < skin.topology->block(b).drawnFaces; ++f) {
            const mesh::Face face = skin.topology->faceOf(b, f);
            if (area[face.v[0]] == 0 && area[face.v[1]] == 0 && area[face.v[2]] == 0)
                continue;
            const Vec3f p = skin.positions[face.v[0]], q = skin.positions[face.v[1]], r = skin.positions[face.v[2]];
            faces.push_back(face), upTo.push_back(whole += length(cross(q - p, r - p)));
        }
    std::unordered_map<std::uint64_t, std::vector<Vec3f>> cells;
    const auto cellOf = [&](Vec3f p, int x, int y, int z) {
        const auto part = [&](float v, int by) { return std::uint64_t(std::int64_t(std::floor(v / apart)) + by + 100000); };
        return part(p.x, x) << 42 | part(p.y, y) << 21 | part(p.z, z);
    };
    std::size_t count = 0;
    for (std::size_t k = 0; k < tries; ++k) {
        const auto f = std::size_t(std::upper_bound(upTo.begin(), upTo.end(), whole * randomUnit(3, k * 3)) - upTo.begin());
        const mesh::Face &face = faces[std::min(f, faces.size() - 1)];
        const float u = randomUnit(3, k * 3 + 1), v = randomUnit(3, k * 3 + 2);
        const Vec3f a = lerp(skin.positions[face.v[0]], skin.positions[face.v[1]], u),
                    b = lerp(skin.positions[face.v[3]], skin.positions[face.v[2]], u), p = lerp(a, b, v);
        bool isFree = true;
        for (int n = 0; n < 27 && isFree; ++n)
            if (const auto it = cells.find(cellOf(p, n % 3 - 1, n / 3 % 3 - 1, n / 9 - 1)); it != cells.end())
                for (const Vec3f q : it->second)
                    isFree = isFree && squaredLength(q - p) >= apart * apart;
        if (isFree)
            cells[cellOf(p, 0, 0, 0)].push_back(p), ++count;
    }
    return count;
}

/// The roots of hair alone, against darts that come to as many places.
Figure furRoots()
{
    const document::Creature c = maskedGround(700, 90);
    const skin::Skin &skin = c.pieces[0]->skin;
    std::vector<std::uint32_t> blocks;
    for (std::uint32_t b = 0; b < skin.shown.topology->blockCount(); ++b)
        if (skin.mask.has(b))
            blocks.push_back(b);
    std::vector<double> ours, plain;
    std::size_t count = 0, plainly = 0;
    for (std::uint64_t k = 0; k < 5; ++k) {
        ours.push_back(1e3 * seconds([&] {
                           count = growth::dartsOn(skin.shown, skin.mask, blocks, {1.0f, 1.4f, k, {}, {}}).size();
                       }));
        plain.push_back(1e3 * seconds([&] { plainly = plainDarts(skin.shown, skin.mask, 1.0f, 180000); }));
    }
    return {"fur.roots",
            median(ours),
            "ms",
            "darts over a hash map, ms",
            median(plain),
            median(ours) / median(plain),
            0.3,
            false,
            fmt::format("{} places, with how far each is from the border, over a skin of 490,000 faces; {} by the plain loop",
                        count, plainly)};
}

/// Strands of so many points about guides, clumped, kinked and with widths: a loop without anything clever.
double plainStrands(std::size_t strands, std::size_t points)
{
    std::vector<Vec3f> at(strands * points);
    std::vector<float> width(strands * points);
    const double time = seconds([&] {
        for (std::size_t s = 0; s < strands; ++s) {
            const Vec3f root{randomUnit(7, s * 3), 0, randomUnit(7, s * 3 + 1)},
                guide{randomUnit(8, s % 20000), 0, randomUnit(9, s % 20000)};
            for (std::size_t k = 0; k < points; ++k) {
                const float t = float(k) / float(points - 1), clump = std::pow(t, 1.4f);
                Vec3f p = lerp(root, guide, 0.5f * clump) + Vec3f{0, 6 * t, 0};
                p += Vec3f{std::sin(13 * t + 6 * root.x), 0, std::cos(13 * t + 6 * root.z)} * (0.2f * t);
                for (std::uint64_t octave = 0; octave < 3; ++octave)
                    p += Vec3f{randomSigned(octave, s * 40 + k), 0, randomSigned(octave + 9, s * 40 + k)}
                         * (0.05f * t / float(octave + 1));
                at[s * points + k] = p;
                width[s * points + k] = 0.12f * (1 - 0.75f * std::pow(t, 1.5f));
            }
        }
    });
    if (!(at.back().y > 0) || !(width.back() > 0))
        throw std::runtime_error("fur.fibres: nothing was made");
    return time;
}

Figure furFibres()
{
    const document::Creature c = maskedGround(700, 90);
    constexpr int kInTuft = 20;
    document::Creature grown;
    std::vector<double> first, again;
    for (int k = 0; k < 3; ++k) {
        first.push_back(seconds([&] {
            grown = after(c, {{"do", "outgrow.fibres"},
                              {"mask", "hand"},
                              {"spacing", 1.0},
                              {"strands", kInTuft},
                              {"mirror", false},
                              {"seed", k + 1}});
        }));
        again.push_back(seconds([&] {
            grown = after(grown, {{"do", "outgrow.fibres"}, {"outgrowth", "Fibres"}, {"kink", 0.5}});
        }));
    }
    const auto &made = *grown.outgrowths[0]->made;
    const double strands = double(made.members.size()) * kInTuft, points = strands * 7, ns = median(again) * 1e9 / points;
    const double plain = plainStrands(100000, 12) * 1e9 / (100000.0 * 12);
    return {"fur.fibres",
            ns,
            "ns a point",
            "a plain loop, ns a point",
            plain,
            ns / plain,
            0.5,
            false,
            fmt::format(
                "{:.0f} fibres of 7 points as {} tufts that share {} shapes, after a slider moved; {:.2f} bytes a point; roots "
                "with the flow {:.2f} s",
                strands, made.members.size(), made.shapes.size(), double(made.memoryBytes()) / points,
                median(first) - median(again))};
}

/// 500 linked copies of a tooth, in the creature and as GLB, against one.
Figure copiesMemory()
{
    const document::Creature c = ground(200);
    const auto grown = [&](int count) {
        return after(c, {{"do", "outgrow.fangs"},
                         {"points", line(4)},
                         {"count", count},
                         {"variants", 1},
                         {"mirror", false},
                         {"jitter", 0.3}});
    };
    const document::Creature one = grown(1), many = grown(500);
    const auto glb = [](const document::Creature &creature) {
        io::Scene scene;
        creature.outgrowths[0]->show(scene);
        const auto path = std::filesystem::temp_directory_path() / "bonemoss-bench.glb";
        if (const auto done = io::writeScene(path.string(), scene); !done)
            throw std::runtime_error(done.error().text());
        const auto size = std::filesystem::file_size(path);
        std::filesystem::remove(path);
        return double(size);
    };
    const double bytes = double(many.outgrowths[0]->made->memoryBytes() - one.outgrowths[0]->made->memoryBytes()) / 499;
    const double inFile = (glb(many) - glb(one)) / 499;
    return {"outgrowth.memory",
            bytes,
            "bytes a copy",
            "its share of the goal, bytes",
            128,
            bytes / 128,
            1,
            false,
            fmt::format("500 linked copies of a tooth of {} faces; {:.0f} bytes a copy in GLB",
                        one.outgrowths[0]->made->faceCount(), inFile)};
}

} // namespace

std::vector<Entry> outgrowthFigures()
{
    return {{"row.drag", rowDrag},
            {"fur.locks", furLocks},
            {"fur.fibres", furFibres},
            {"fur.roots", furRoots},
            {"outgrowth.memory", copiesMemory}};
}

} // namespace bonemoss::bench
