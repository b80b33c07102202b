#include "document/stamp.h"

#include "document/creature.h"

#include <cstring>

namespace bonemoss::document {

std::shared_ptr<const image::HeightPicture> stampNamed(const Creature &creature, const std::string &name)
{
    for (const Stamp &s : creature.stamps)
        if (s.name == name)
            return s.picture;
    return {std::shared_ptr<void>(), image::builtInStamp(name)}; // those live as long as the program
}

std::vector<std::byte> bytesOfStamp(const image::HeightPicture &picture)
{
    std::vector<std::byte> bytes(picture.values.size() * 2);
    for (std::size_t i = 0; i < picture.values.size(); ++i) {
        const auto v = std::uint16_t(std::lround(picture.values[i] * 65535));
        std::memcpy(bytes.data() + i * 2, &v, 2);
    }
    return bytes;
}

std::shared_ptr<const image::HeightPicture> stampFromBytes(const std::vector<std::byte> &bytes, int width, int height,
                                                           float middle)
{
    if (width < 1 || height < 1 || bytes.size() != std::size_t(width) * std::size_t(height) * 2)
        return nullptr;
    auto picture = std::make_shared<image::HeightPicture>();
    picture->width = width, picture->height = height, picture->middle = middle;
    picture->values.resize(bytes.size() / 2);
    for (std::size_t i = 0; i < picture->values.size(); ++i) {
        std::uint16_t v;
        std::memcpy(&v, bytes.data() + i * 2, 2);
        picture->values[i] = float(v) / 65535;
    }
    return picture;
}

} // namespace bonemoss::document
