#include "image/picture_file.h"

#include "base/files.h"
#include "image/detail/picture_module.h"
#include "image/detail/load_module.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <dlfcn.h>
#include <fmt/format.h>
#include <sstream>

namespace bonemoss::image {

namespace {

constexpr std::uintmax_t kLargestFile = 256u << 20;

constexpr const char *kNotAPicture = "is not a PNG, JPEG, TIFF, EXR or HDR file";

} // namespace

std::string_view pictureKind(std::span<const std::byte> bytes)
{
    const auto begins = [&](std::string_view magic) {
        return bytes.size() >= magic.size() && std::memcmp(bytes.data(), magic.data(), magic.size()) == 0;
    };
    using namespace std::string_view_literals;
    if (begins("\x89PNG\r\n\x1a\n"sv))
        return "png";
    if (begins("\xff\xd8\xff"sv))
        return "jpeg";
    if (begins("II*\0"sv) || begins("MM\0*"sv) || begins("II+\0"sv) || begins("MM\0+"sv))
        return "tiff";
    if (begins("\x76\x2f\x31\x01"sv))
        return "exr";
    if (begins("#?RADIANCE"sv) || begins("#?RGBE"sv))
        return "hdr";
    return {};
}

Result<ColourPicture> decodePicture(std::span<const std::byte> bytes, int mostSide)
{
    const std::string_view kind = pictureKind(bytes);
    if (kind.empty())
        return Error{ErrorCode::Unsupported, "picture", kNotAPicture};
    const auto read = fromModule<BonemossReadPicture>("bonemossReadPicture");
    if (!read)
        return noModule();
    BonemossPicture raw{};
    if (!read(fmt::format("picture.{}", kind).c_str(), bytes.data(), bytes.size(), mostSide, &raw))
        return Error{raw.isTooLarge ? ErrorCode::TooLarge : ErrorCode::Malformed, "picture", raw.message};
    ColourPicture out{raw.width, raw.height, {}};
    out.rgba.assign(raw.rgba, raw.rgba + std::size_t(raw.width) * std::size_t(raw.height) * 4);
    std::free(raw.rgba);
    return out;
}

Result<HeightPicture> decodeHeights(std::span<const std::byte> bytes, int mostSide)
{
    const std::string_view kind = pictureKind(bytes);
    if (kind.empty())
        return Error{ErrorCode::Unsupported, "picture", kNotAPicture};
    const auto read = fromModule<BonemossReadHeights>("bonemossReadHeights");
    if (!read)
        return noModule();
    BonemossHeights raw{};
    if (!read(fmt::format("picture.{}", kind).c_str(), bytes.data(), bytes.size(), mostSide, &raw))
        return Error{raw.isTooLarge ? ErrorCode::TooLarge : ErrorCode::Malformed, "picture", raw.message};
    HeightPicture out{raw.width, raw.height, {}, 0.5f};
    out.values.assign(raw.values, raw.values + std::size_t(raw.width) * std::size_t(raw.height));
    std::free(raw.values);
    float least = 0, most = 1;
    for (float &v : out.values) {
        if (!std::isfinite(v))
            v = 0;
        least = std::min(least, v), most = std::max(most, v);
    }
    if (least < 0 || most > 1)
        for (float &v : out.values)
            v = (v - least) / (most - least);
    toSixteenBits(out);
    return out;
}

Result<LightPicture> decodeLight(std::span<const std::byte> bytes, int mostSide)
{
    const std::string_view kind = pictureKind(bytes);
    if (kind.empty())
        return Error{ErrorCode::Unsupported, "picture", kNotAPicture};
    const auto read = fromModule<BonemossReadLight>("bonemossReadLight");
    if (!read)
        return noModule();
    BonemossChannels raw{};
    if (!read(fmt::format("picture.{}", kind).c_str(), bytes.data(), bytes.size(), mostSide, &raw))
        return Error{raw.isTooLarge ? ErrorCode::TooLarge : ErrorCode::Malformed, "picture", raw.message};
    LightPicture out{raw.width, raw.height, {}};
    for (std::size_t i = 0; i < std::size_t(raw.width) * std::size_t(raw.height); ++i)
        out.values.push_back({raw.values[3 * i], raw.values[3 * i + 1], raw.values[3 * i + 2]});
    std::free(raw.values);
    return out;
}

std::size_t ChannelPicture::channel(std::string_view name) const
{
    return std::size_t(std::find(names.begin(), names.end(), name) - names.begin());
}

Status writeChannels(const std::filesystem::path &path, const ChannelPicture &picture)
{
    const auto write = fromModule<BonemossWriteChannels>("bonemossWriteChannels");
    if (!write)
        return noModule();
    std::string names, about;
    for (const std::string &name : picture.names)
        names += name + "\n";
    for (const auto &[name, text] : picture.about)
        about += name + "=" + text + "\n";
    // The module does not change what it writes.
    BonemossChannels raw{picture.width,
                         picture.height,
                         int(picture.names.size()),
                         const_cast<float *>(picture.values.data()),
                         names.data(),
                         about.data(),
                         0,
                         {}};
    auto file = NewFile::beside(path);
    if (!file)
        return file.error();
    if (!write(file->path().c_str(), &raw))
        return Error{ErrorCode::Unwritable, shownPath(path), raw.message};
    return file->commit();
}

Result<ChannelPicture> readChannels(const std::filesystem::path &path)
{
    const auto read = fromModule<BonemossReadChannels>("bonemossReadChannels");
    if (!read)
        return noModule();
    BonemossChannels raw{};
    if (!read(path.c_str(), &raw))
        return Error{raw.isTooLarge ? ErrorCode::TooLarge : ErrorCode::Malformed, shownPath(path), raw.message};
    ChannelPicture out{raw.width, raw.height, {}, {}, {}};
    out.values.assign(raw.values, raw.values + std::size_t(raw.width) * std::size_t(raw.height) * std::size_t(raw.channels));
    const auto eachLine = [](const char *text, const auto &use) {
        std::istringstream lines(text);
        for (std::string line; std::getline(lines, line);)
            use(line);
    };
    eachLine(raw.names, [&](const std::string &line) { out.names.push_back(line); });
    eachLine(raw.about, [&](const std::string &line) {
        if (const std::size_t at = line.find('='); at != std::string::npos)
            out.about.emplace_back(line.substr(0, at), line.substr(at + 1));
    });
    std::free(raw.values), std::free(raw.names), std::free(raw.about);
    return out;
}

Status writeHeights(const std::filesystem::path &path, const HeightPicture &picture, int bits)
{
    const auto write = fromModule<BonemossWriteHeights>("bonemossWriteHeights");
    if (!write)
        return noModule();
    std::vector<float> values = picture.values; // the module takes them for its own
    BonemossHeights raw{picture.width, picture.height, values.data(), 0, {}};
    auto file = NewFile::beside(path);
    if (!file)
        return file.error();
    if (!write(file->path().c_str(), bits, &raw))
        return Error{ErrorCode::Unwritable, shownPath(path), raw.message};
    return file->commit();
}

Result<std::vector<std::byte>> readPictureFile(const std::filesystem::path &path)
{
    std::error_code ec;
    const std::uintmax_t size = std::filesystem::file_size(path, ec); // before anything is read
    if (!ec && size > kLargestFile)
        return Error{ErrorCode::TooLarge, shownPath(path),
                     fmt::format("has {} MB; pictures of up to 256 MB are taken", size >> 20)};
    auto bytes = readFile(path);
    if (bytes && bytes->empty())
        return Error{ErrorCode::Empty, shownPath(path), "is empty"};
    return bytes;
}

} // namespace bonemoss::image
