#include "proof/outlines.h"

#include "base/files.h"

#include <clipper.hpp>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <fstream>

namespace bonemoss::proof {

namespace {
constexpr double kGrid = 10000; ///< steps of a mm
}

Slice unionOf(const Slice &slice)
{
    Slice out;
    out.y = slice.y, out.openLoops = slice.openLoops;
    ClipperLib::Clipper clipper;
    for (std::size_t k = 0; k < slice.starts.size(); ++k) {
        ClipperLib::Path path;
        for (const Point2 p : slice.loop(k)) // z goes down a page that is seen from above
            path.emplace_back(std::llround(double(p[0]) * kGrid), std::llround(-double(p[1]) * kGrid));
        if (path.size() > 2)
            clipper.AddPath(path, ClipperLib::ptSubject, true);
    }
    ClipperLib::Paths made;
    clipper.Execute(ClipperLib::ctUnion, made, ClipperLib::pftPositive);
    for (const ClipperLib::Path &path : made) {
        out.starts.push_back(std::uint32_t(out.points.size()));
        for (const ClipperLib::IntPoint &p : path)
            out.points.push_back({float(double(p.X) / kGrid), float(-double(p.Y) / kGrid)});
        out.area += ClipperLib::Area(path) / (kGrid * kGrid);
    }
    return out;
}

std::vector<float> middlesOfLayers(float low, float high, float layer)
{
    const int count = std::clamp(int(std::ceil((double(high) - double(low)) / double(layer))), 1, 100000);
    std::vector<float> out;
    for (int k = 0; k < count; ++k)
        out.push_back(low + (float(k) + 0.5f) * layer);
    return out;
}

Status writeSvg(const std::filesystem::path &path, std::span<const Slice> layers, float layer)
{
    Box3f box;
    for (const Slice &s : layers)
        for (const Point2 p : s.points)
            box.add(Vec3f{p[0], 0, -p[1]});
    if (box.isEmpty())
        box.add(Vec3f{});
    auto file = NewFile::beside(path);
    if (!file)
        return file.error();
    std::ofstream out(file->path());
    out << fmt::format(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{0:.4f}mm\" "
        "height=\"{1:.4f}mm\" viewBox=\"{2:.4f} {3:.4f} {0:.4f} {1:.4f}\">\n",
        box.size().x, box.size().z, box.lo.x, box.lo.z);
    for (std::size_t k = 0; k < layers.size(); ++k) {
        const Slice &s = layers[k];
        out << fmt::format("<g id=\"layer{}\" data-y=\"{:.4f}\" data-height=\"{:.4f}\"><path fill-rule=\"evenodd\" d=\"", k + 1,
                           s.y, layer);
        for (std::size_t l = 0; l < s.starts.size(); ++l) {
            char how = 'M';
            for (const Point2 p : s.loop(l))
                out << fmt::format("{}{:.4f} {:.4f}", std::exchange(how, 'L'), p[0], -p[1]);
            out << 'Z';
        }
        out << "\"/></g>\n";
    }
    out << "</svg>\n";
    out.close();
    if (!out)
        return Error{ErrorCode::Unwritable, shownPath(path), "could not be written; is the disk full?"};
    return file->commit();
}

} // namespace bonemoss::proof
