#include "image/picture_file.h"

#include "image/detail/picture_module.h"

#include <cstdlib>
#include <cstring>
#include <dlfcn.h>
#include <fmt/format.h>
#include <fstream>

namespace bonemoss::image {

namespace {

constexpr std::uintmax_t kLargestFile = 256u << 20;

/// The module lies beside the program: in the build tree, or where it is installed.
BonemossReadPicture loadReader()
{
    std::error_code ec;
    const auto program = std::filesystem::read_symlink("/proc/self/exe", ec).parent_path();
    for (const char *folder : {"../lib/bonemoss", "../" BONEMOSS_LIBDIR "/bonemoss"}) {
        const auto path = program / folder / "libbonemoss-pictures.so";
        if (void *module = dlopen(path.c_str(), RTLD_NOW | RTLD_LOCAL))
            return reinterpret_cast<BonemossReadPicture>(dlsym(module, "bonemossReadPicture"));
    }
    return nullptr;
}

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
    return {};
}

Result<ColourPicture> decodePicture(std::span<const std::byte> bytes, int mostSide)
{
    const std::string_view kind = pictureKind(bytes);
    if (kind.empty())
        return Error{ErrorCode::Unsupported, "picture", "is not a PNG, JPEG, TIFF or EXR file"};
    static const BonemossReadPicture read = loadReader();
    if (!read)
        return Error{ErrorCode::Unsupported, "picture",
                     "the picture module (libbonemoss-pictures.so) is not beside the program; install it again"};
    BonemossPicture raw{};
    if (!read(fmt::format("picture.{}", kind).c_str(), bytes.data(), bytes.size(), mostSide, &raw))
        return Error{raw.isTooLarge ? ErrorCode::TooLarge : ErrorCode::Malformed, "picture", raw.message};
    ColourPicture out{raw.width, raw.height, {}};
    out.rgba.assign(raw.rgba, raw.rgba + std::size_t(raw.width) * std::size_t(raw.height) * 4);
    std::free(raw.rgba);
    return out;
}

Result<std::vector<std::byte>> readPictureFile(const std::filesystem::path &path)
{
    std::error_code ec;
    if (!std::filesystem::is_regular_file(path, ec))
        return Error{ErrorCode::Unreadable, path.string(),
                     std::filesystem::exists(path, ec) ? "is not a file" : "there is no such file"};
    const std::uintmax_t size = std::filesystem::file_size(path, ec);
    if (ec)
        return Error{ErrorCode::Unreadable, path.string(), ec.message()};
    if (size == 0)
        return Error{ErrorCode::Empty, path.string(), "is empty"};
    if (size > kLargestFile)
        return Error{ErrorCode::TooLarge, path.string(),
                     fmt::format("has {} MB; pictures of up to 256 MB are taken", size >> 20)};
    std::vector<std::byte> bytes(size);
    std::ifstream in(path, std::ios::binary);
    if (!in.read(reinterpret_cast<char *>(bytes.data()), std::streamsize(size)))
        return Error{ErrorCode::Unreadable, path.string(), "could not be read to its end"};
    return bytes;
}

} // namespace bonemoss::image
