// Reads pictures with OpenImageIO. A module of its own: that library brings a hundred others along, which
// only those who open a picture shall wait for.
#include "image/detail/picture_module.h"

#include <OpenImageIO/filesystem.h>
#include <OpenImageIO/imageio.h>
#include <webp/encode.h>
#include <webp/mux.h>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <sstream>
#include <string>
#include <vector>

namespace {

constexpr std::int64_t kMostPixels = 200'000'000;

template <typename Out> bool fail(Out *out, const std::string &why)
{
    std::snprintf(out->message, sizeof out->message, "%s", why.c_str());
    return false;
}

/// 0 to 1 in linear light as a byte on the sRGB curve (IEC 61966-2-1, clause 5.2).
std::uint8_t toCurve(float v)
{
    v = std::clamp(v, 0.0f, 1.0f); // not a number becomes 0 or 1, both of which can be drawn
    const float s = v <= 0.0031308f ? 12.92f * v : 1.055f * std::pow(v, 1 / 2.4f) - 0.055f;
    return std::uint8_t(s * 255 + 0.5f);
}

/// Red, green, blue and alpha of a pixel with any number of channels.
void spread(const std::uint8_t *in, int channels, std::uint32_t out[4])
{
    const bool isGrey = channels < 3;
    for (int k = 0; k < 3; ++k)
        out[k] += in[isGrey ? 0 : k];
    out[3] += channels == 2 || channels >= 4 ? in[isGrey ? 1 : 3] : 255;
}

bool readBytes(OIIO::ImageInput &input, int channels, std::vector<std::uint8_t> &bytes)
{
    const OIIO::ImageSpec &spec = input.spec();
    const std::size_t count = std::size_t(spec.width) * std::size_t(spec.height) * std::size_t(channels);
    bytes.resize(count);
    if (std::string(input.format_name()) != "openexr")
        return input.read_image(0, 0, 0, channels, OIIO::TypeDesc::UINT8, bytes.data());
    std::vector<float> light(count);
    if (!input.read_image(0, 0, 0, channels, OIIO::TypeDesc::FLOAT, light.data()))
        return false;
    const bool hasAlpha = channels == 2 || channels == 4;
    for (std::size_t i = 0; i < count; ++i)
        bytes[i] = hasAlpha && i % std::size_t(channels) == std::size_t(channels) - 1
                       ? std::uint8_t(std::clamp(light[i], 0.0f, 1.0f) * 255 + 0.5f)
                       : toCurve(light[i]);
    return true;
}

/// Exif orientation 3, 6 and 8 are turns by 180, 90 and 270 degrees clockwise to set it upright.
void turnUpright(int orientation, BonemossPicture *p)
{
    if (orientation != 3 && orientation != 6 && orientation != 8)
        return;
    const int w = p->width, h = p->height, nw = orientation == 3 ? w : h, nh = orientation == 3 ? h : w;
    auto *turned = static_cast<std::uint8_t *>(std::malloc(std::size_t(w) * std::size_t(h) * 4));
    for (int y = 0; y < nh; ++y)
        for (int x = 0; x < nw; ++x) {
            const int sx = orientation == 3 ? w - 1 - x : orientation == 6 ? y : w - 1 - y;
            const int sy = orientation == 3 ? h - 1 - y : orientation == 6 ? h - 1 - x : x;
            std::copy_n(p->rgba + (std::size_t(sy) * std::size_t(w) + std::size_t(sx)) * 4, 4,
                        turned + (std::size_t(y) * std::size_t(nw) + std::size_t(x)) * 4);
        }
    std::free(p->rgba);
    p->rgba = turned, p->width = nw, p->height = nh;
}

/// Opens a picture in memory; null when it is none, or too large, with the reason in out.
template <typename Out>
std::unique_ptr<OIIO::ImageInput> openPicture(const char *name, OIIO::Filesystem::IOProxy &memory, Out *out)
{
    OIIO::ImageSpec config;
    config["oiio:UnassociatedAlpha"] = 1;
    OIIO::Filesystem::IOProxy *source = &memory;
    config.attribute("oiio:ioproxy", OIIO::TypeDesc::PTR, &source);
    auto input = OIIO::ImageInput::open(name, &config);
    if (!input) {
        fail(out, OIIO::geterror());
        return nullptr;
    }
    const OIIO::ImageSpec &spec = input->spec();
    if (spec.width < 1 || spec.height < 1 || spec.nchannels < 1 || spec.depth > 1) {
        fail(out, "holds no flat picture");
        return nullptr;
    }
    if (std::int64_t(spec.width) * spec.height > kMostPixels) {
        out->isTooLarge = 1;
        fail(out,
             "has " + std::to_string(spec.width) + " by " + std::to_string(spec.height) + " pixels; up to 200 million are taken");
        return nullptr;
    }
    return input;
}

bool read(const char *name, const void *bytes, std::size_t size, int mostSide, BonemossPicture *out)
{
    OIIO::Filesystem::IOMemReader memory(const_cast<void *>(bytes), size);
    const auto input = openPicture(name, memory, out);
    if (!input)
        return false;
    const OIIO::ImageSpec spec = input->spec();
    const int channels = std::min(spec.nchannels, 4);
    std::vector<std::uint8_t> pixels;
    if (!readBytes(*input, channels, pixels))
        return fail(out, input->geterror());
    const int step = std::max(1, (std::max(spec.width, spec.height) + mostSide - 1) / mostSide);
    out->width = std::max(1, spec.width / step), out->height = std::max(1, spec.height / step);
    out->rgba = static_cast<std::uint8_t *>(std::malloc(std::size_t(out->width) * std::size_t(out->height) * 4));
    for (int y = 0; y < out->height; ++y)
        for (int x = 0; x < out->width; ++x) {
            std::uint32_t sum[4] = {0, 0, 0, 0}, n = 0;
            for (int j = y * step; j < std::min(spec.height, (y + 1) * step); ++j)
                for (int i = x * step; i < std::min(spec.width, (x + 1) * step); ++i, ++n)
                    spread(&pixels[(std::size_t(j) * std::size_t(spec.width) + std::size_t(i)) * std::size_t(channels)], channels,
                           sum);
            for (std::size_t k = 0; k < 4; ++k)
                out->rgba[(std::size_t(y) * std::size_t(out->width) + std::size_t(x)) * 4 + k] =
                    std::uint8_t((sum[k] + n / 2) / std::max(n, 1u));
        }
    turnUpright(spec.get_int_attribute("Orientation", 1), out);
    return true;
}

bool readHeights(const char *name, const void *bytes, std::size_t size, int mostSide, BonemossHeights *out)
{
    OIIO::Filesystem::IOMemReader memory(const_cast<void *>(bytes), size);
    const auto input = openPicture(name, memory, out);
    if (!input)
        return false;
    const OIIO::ImageSpec spec = input->spec();
    const int colours = std::min(spec.nchannels, 4), used = colours < 3 ? 1 : 3; // without an alpha
    std::vector<float> pixels(std::size_t(spec.width) * std::size_t(spec.height) * std::size_t(colours));
    if (!input->read_image(0, 0, 0, colours, OIIO::TypeDesc::FLOAT, pixels.data()))
        return fail(out, input->geterror());
    const int step = std::max(1, (std::max(spec.width, spec.height) + mostSide - 1) / mostSide);
    out->width = std::max(1, spec.width / step), out->height = std::max(1, spec.height / step);
    out->values = static_cast<float *>(std::malloc(std::size_t(out->width) * std::size_t(out->height) * sizeof(float)));
    for (int y = 0; y < out->height; ++y)
        for (int x = 0; x < out->width; ++x) {
            double sum = 0;
            int n = 0;
            for (int j = y * step; j < std::min(spec.height, (y + 1) * step); ++j)
                for (int i = x * step; i < std::min(spec.width, (x + 1) * step); ++i)
                    for (int k = 0; k < used; ++k, ++n)
                        sum += double(pixels[(std::size_t(j) * std::size_t(spec.width) + std::size_t(i)) * std::size_t(colours)
                                             + std::size_t(k)]);
            out->values[std::size_t(y) * std::size_t(out->width) + std::size_t(x)] = float(sum / std::max(n, 1));
        }
    return true;
}

bool writeHeights(const char *path, int bits, BonemossHeights *heights)
{
    const auto output = OIIO::ImageOutput::create(path);
    if (!output)
        return fail(heights, OIIO::geterror());
    const OIIO::TypeDesc kind = bits == 32 ? OIIO::TypeDesc::FLOAT : OIIO::TypeDesc::UINT16;
    const OIIO::ImageSpec spec(heights->width, heights->height, 1, kind);
    if (!output->open(path, spec) || !output->write_image(OIIO::TypeDesc::FLOAT, heights->values) || !output->close())
        return fail(heights, output->geterror());
    return true;
}

char *textOf(const std::string &s)
{
    auto *out = static_cast<char *>(std::malloc(s.size() + 1));
    std::memcpy(out, s.c_str(), s.size() + 1);
    return out;
}

/// A byte or a word of 16 bits on the sRGB curve (IEC 61966-2-1, clause 5.2), as 0 to 1, in linear light.
float fromCurve(float s)
{
    return s <= 0.04045f ? s / 12.92f : std::pow((s + 0.055f) / 1.055f, 2.4f);
}

bool readLight(const char *name, const void *bytes, std::size_t size, int mostSide, BonemossChannels *out)
{
    OIIO::Filesystem::IOMemReader memory(const_cast<void *>(bytes), size);
    const auto input = openPicture(name, memory, out);
    if (!input)
        return false;
    const OIIO::ImageSpec spec = input->spec();
    const int channels = std::min(spec.nchannels, 4),
              step = std::max(1, (std::max(spec.width, spec.height) + mostSide - 1) / mostSide);
    const bool isLight = spec.format.is_floating_point();
    out->channels = 3, out->width = std::max(1, spec.width / step), out->height = std::max(1, spec.height / step);
    out->values = static_cast<float *>(std::calloc(std::size_t(out->width) * std::size_t(out->height) * 3, sizeof(float)));
    std::vector<float> rows(std::size_t(spec.width) * std::size_t(channels) * std::size_t(step)); // not all at once
    for (int y = 0; y < out->height; ++y) {
        const int first = y * step, last = std::min(spec.height, first + step);
        if (!input->read_scanlines(0, 0, first, last, 0, 0, channels, OIIO::TypeDesc::FLOAT, rows.data())) {
            std::free(out->values);
            out->values = nullptr;
            return fail(out, input->geterror());
        }
        for (int x = 0; x < out->width; ++x)
            for (int k = 0; k < 3; ++k) {
                double sum = 0;
                int n = 0;
                for (int j = 0; j < last - first; ++j)
                    for (int i = x * step; i < std::min(spec.width, (x + 1) * step); ++i, ++n) {
                        const float v = rows[(std::size_t(j) * std::size_t(spec.width) + std::size_t(i)) * std::size_t(channels)
                                             + std::size_t(channels < 3 ? 0 : k)];
                        sum += std::isfinite(v) ? double(isLight ? v : fromCurve(v)) : 0;
                    }
                out->values[(std::size_t(y) * std::size_t(out->width) + std::size_t(x)) * 3 + std::size_t(k)] =
                    float(sum / std::max(n, 1));
            }
    }
    return true;
}

std::vector<std::string> linesOf(const char *text)
{
    std::vector<std::string> out;
    std::istringstream lines(text);
    for (std::string line; std::getline(lines, line);)
        out.push_back(line);
    return out;
}

bool writeChannels(const char *path, BonemossChannels *picture)
{
    const auto output = OIIO::ImageOutput::create("picture.exr");
    if (!output)
        return fail(picture, OIIO::geterror());
    OIIO::ImageSpec spec(picture->width, picture->height, picture->channels, OIIO::TypeDesc::HALF);
    spec.channelnames = linesOf(picture->names);
    spec.channelformats.clear();
    for (const std::string &name : spec.channelnames) {
        const bool isExact = name.ends_with("Z") || name.ends_with("id");
        spec.channelformats.push_back(isExact ? OIIO::TypeDesc::FLOAT : OIIO::TypeDesc::HALF);
    }
    for (const std::string &line : linesOf(picture->about))
        if (const std::size_t at = line.find('='); at != std::string::npos)
            spec.attribute(line.substr(0, at), line.substr(at + 1));
    const float primaries[8] = {0.64f, 0.33f, 0.30f, 0.60f, 0.15f, 0.06f, 0.3127f, 0.3290f}; // of sRGB, IEC 61966-2-1
    spec.attribute("chromaticities", OIIO::TypeDesc(OIIO::TypeDesc::FLOAT, 8), primaries);
    spec.attribute("compression", "zip");
    if (!output->open(path, spec) || !output->write_image(OIIO::TypeDesc::FLOAT, picture->values) || !output->close())
        return fail(picture, output->geterror());
    return true;
}

bool readChannels(const char *path, BonemossChannels *out)
{
    const auto input = OIIO::ImageInput::open(path);
    if (!input)
        return fail(out, OIIO::geterror());
    const OIIO::ImageSpec &spec = input->spec();
    if (spec.width < 1 || spec.height < 1 || spec.nchannels < 1 || spec.depth > 1)
        return fail(out, "holds no flat picture");
    if (std::int64_t(spec.width) * spec.height * spec.nchannels > 4'000'000'000) {
        out->isTooLarge = 1;
        return fail(out, "is larger than what can be held");
    }
    out->width = spec.width, out->height = spec.height, out->channels = spec.nchannels;
    std::string names, about;
    for (const std::string &name : spec.channelnames)
        names += name + "\n";
    for (const auto &a : spec.extra_attribs)
        if (a.type() == OIIO::TypeDesc::STRING)
            about += std::string(a.name()) + "=" + a.get_string() + "\n";
    out->values = static_cast<float *>(
        std::malloc(std::size_t(spec.width) * std::size_t(spec.height) * std::size_t(spec.nchannels) * sizeof(float)));
    if (!out->values || !input->read_image(0, 0, 0, spec.nchannels, OIIO::TypeDesc::FLOAT, out->values)) {
        std::free(out->values);
        out->values = nullptr;
        return fail(out, input->geterror());
    }
    out->names = textOf(names), out->about = textOf(about);
    return true;
}

template <typename Out, typename Work> int guarded(Out *out, const Work &work)
{
    try {
        return work() ? 1 : 0;
    } catch (const std::exception &e) {
        return fail(out, e.what()) ? 1 : 0;
    }
}

} // namespace

extern "C" __attribute__((visibility("default"))) int bonemossReadHeights(const char *name, const void *bytes, std::size_t size,
                                                                          int mostSide, BonemossHeights *out)
{
    return guarded(out, [&] { return readHeights(name, bytes, size, mostSide, out); });
}

extern "C" __attribute__((visibility("default"))) int bonemossWriteHeights(const char *path, int bits, BonemossHeights *heights)
{
    return guarded(heights, [&] { return writeHeights(path, bits, heights); });
}

extern "C" __attribute__((visibility("default"))) int bonemossReadPicture(const char *name, const void *bytes, std::size_t size,
                                                                          int mostSide, BonemossPicture *out)
{
    return guarded(out, [&] { return read(name, bytes, size, mostSide, out); });
}

extern "C" __attribute__((visibility("default"))) int bonemossReadLight(const char *name, const void *bytes, std::size_t size,
                                                                        int mostSide, BonemossChannels *out)
{
    return guarded(out, [&] { return readLight(name, bytes, size, mostSide, out); });
}

extern "C" __attribute__((visibility("default"))) int bonemossReadChannels(const char *path, BonemossChannels *out)
{
    return guarded(out, [&] { return readChannels(path, out); });
}

extern "C" __attribute__((visibility("default"))) int bonemossWriteChannels(const char *path, BonemossChannels *picture)
{
    return guarded(picture, [&] { return writeChannels(path, picture); });
}

namespace {
struct Film {
    WebPAnimEncoder *encoder = nullptr;
    WebPConfig config{};
    int width = 0, height = 0;
};
} // namespace

extern "C" __attribute__((visibility("default"))) void *bonemossBeginFilm(int width, int height, float quality)
{
    WebPAnimEncoderOptions options;
    Film film;
    if (!WebPAnimEncoderOptionsInit(&options) || !WebPConfigPreset(&film.config, WEBP_PRESET_PICTURE, quality))
        return nullptr;
    options.anim_params.loop_count = 0; // for ever
    film.config.method = 4;
    film.width = width, film.height = height;
    film.encoder = WebPAnimEncoderNew(width, height, &options);
    return film.encoder ? new Film(film) : nullptr;
}

extern "C" __attribute__((visibility("default"))) int bonemossAddFrame(void *held, const std::uint8_t *rgba, int atMs)
{
    Film &film = *static_cast<Film *>(held);
    WebPPicture picture;
    if (!WebPPictureInit(&picture))
        return 0;
    picture.use_argb = 1, picture.width = film.width, picture.height = film.height;
    const bool isAdded =
        WebPPictureImportRGBA(&picture, rgba, film.width * 4) && WebPAnimEncoderAdd(film.encoder, &picture, atMs, &film.config);
    WebPPictureFree(&picture);
    return isAdded;
}

extern "C" __attribute__((visibility("default"))) int bonemossEndFilm(void *held, int endMs, std::uint8_t **bytes,
                                                                      std::size_t *size)
{
    Film *film = static_cast<Film *>(held);
    int isMade = 0;
    if (bytes) {
        WebPData data;
        WebPDataInit(&data);
        isMade = WebPAnimEncoderAdd(film->encoder, nullptr, endMs, nullptr) && WebPAnimEncoderAssemble(film->encoder, &data);
        if (isMade) {
            *size = data.size, *bytes = static_cast<std::uint8_t *>(std::malloc(data.size));
            if (*bytes)
                std::memcpy(*bytes, data.bytes, data.size);
            isMade = *bytes != nullptr;
        }
        WebPDataClear(&data);
    }
    WebPAnimEncoderDelete(film->encoder);
    delete film;
    return isMade;
}
