#include "image/picture.h"

#include "base/files.h"

#include <algorithm>
#include <cmath>
#include <png.h>

namespace bonemoss::image {

float HeightPicture::at(float u, float v) const
{
    const float x = (u - std::floor(u)) * float(width) - 0.5f, y = (v - std::floor(v)) * float(height) - 0.5f;
    const float fx = std::floor(x), fy = std::floor(y);
    const auto wrap = [](int i, int n) { return (i % n + n) % n; };
    const int x0 = wrap(int(fx), width), x1 = wrap(int(fx) + 1, width);
    const int y0 = wrap(int(fy), height), y1 = wrap(int(fy) + 1, height);
    const auto value = [&](int i, int j) { return values[std::size_t(j) * std::size_t(width) + std::size_t(i)]; };
    const float a = std::lerp(value(x0, y0), value(x1, y0), x - fx);
    const float b = std::lerp(value(x0, y1), value(x1, y1), x - fx);
    return std::lerp(a, b, y - fy);
}

void toSixteenBits(HeightPicture &picture)
{
    for (float &v : picture.values)
        v = std::round(std::clamp(v, 0.0f, 1.0f) * 65535) / 65535;
    picture.middle = std::round(std::clamp(picture.middle, 0.0f, 1.0f) * 65535) / 65535;
}

HeightPicture tileable(const HeightPicture &picture)
{
    const auto inner = [](int i, int n) { // 0 at a border, 1 from a quarter on
        const float t = std::clamp(4 * std::min(float(i) + 0.5f, float(n - i) - 0.5f) / float(n), 0.0f, 1.0f);
        return t * t * (3 - 2 * t);
    };
    HeightPicture from = picture;
    for (const bool isAcross : {true, false}) { // one pair of borders, then the other
        HeightPicture out = from;
        for (int y = 0; y < from.height; ++y)
            for (int x = 0; x < from.width; ++x) {
                const float w = isAcross ? inner(x, from.width) : inner(y, from.height);
                const int ox = isAcross ? (x + from.width / 2) % from.width : x,
                          oy = isAcross ? y : (y + from.height / 2) % from.height;
                const auto off = [&](int i, int j) { return from.values[std::size_t(j * from.width + i)] - from.middle; };
                const float blend = (off(x, y) * w + off(ox, oy) * (1 - w)) / std::sqrt(w * w + (1 - w) * (1 - w));
                out.values[std::size_t(y * from.width + x)] = std::clamp(from.middle + blend, 0.0f, 1.0f);
            }
        from = std::move(out);
    }
    return from;
}

Status writePng(const std::filesystem::path &path, const ColourPicture &picture)
{
    png_image image{};
    image.version = PNG_IMAGE_VERSION;
    image.width = png_uint_32(picture.width);
    image.height = png_uint_32(picture.height);
    image.format = PNG_FORMAT_RGBA;
    auto file = NewFile::beside(path);
    if (!file)
        return file.error();
    if (!png_image_write_to_file(&image, file->path().c_str(), 0, picture.rgba.data(), 0, nullptr))
        return Error{ErrorCode::Unwritable, shownPath(path), image.message};
    return file->commit();
}

} // namespace bonemoss::image
