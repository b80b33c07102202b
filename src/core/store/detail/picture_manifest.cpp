#include "store/detail/picture_manifest.h"

#include <nlohmann/json.hpp>

#include <algorithm>

namespace bonemoss::store::detail {

using nlohmann::json;

namespace {
constexpr std::size_t kPictureChunk = 4u << 20; // below the largest block a store takes
}

json writePicture(const PictureFile &file, const WriteBlob &write)
{
    json chunks = json::array();
    file.contentHashes.resize((file.bytes.size() + kPictureChunk - 1) / kPictureChunk);
    for (std::size_t i = 0; i < file.contentHashes.size(); ++i)
        chunks.push_back(toHex(write(file.contentHashes[i], [&] {
            const auto from = file.bytes.begin() + std::ptrdiff_t(i * kPictureChunk);
            return std::vector<std::byte>(from,
                                          from + std::ptrdiff_t(std::min(kPictureChunk, file.bytes.size() - i * kPictureChunk)));
        })));
    return {{"file", chunks}, {"width", file.width}, {"height", file.height}};
}

Result<std::shared_ptr<const PictureFile>> readPicture(const json &j, const ReadBlob &read)
{
    auto file = std::make_shared<PictureFile>();
    for (const json &chunk : j.at("file")) {
        const auto bytes = read(nameIn(chunk));
        if (!bytes)
            return bytes.error();
        file->bytes.insert(file->bytes.end(), bytes->begin(), bytes->end());
    }
    file->width = std::max(1, j.at("width").get<int>()), file->height = std::max(1, j.at("height").get<int>());
    return std::shared_ptr<const PictureFile>(std::move(file));
}

} // namespace bonemoss::store::detail
