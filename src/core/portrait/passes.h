#pragma once

#include "image/picture_file.h"
#include "portrait/develop.h"
#include "portrait/gathered.h"

#include <span>
#include <string>

namespace bonemoss::portrait {

/// What a picture is made of, each by itself. A kind of pass is one row.
struct PassKind {
    std::string_view id, title;
    std::vector<std::string> channels; ///< in a file: "normal.X"; of "lights" those of one light, after "light.NAME"
    void (*values)(const Gathered &, std::size_t pixel, float *to) = nullptr;
};
std::span<const PassKind> passKinds();

/// The passes as channels: R, G, B and A of the beauty first, then those that are named ("all" for all). Errors: Unknown, naming those
/// there are. beauty: the filtered light in place of what was gathered; empty for that.
Result<image::ChannelPicture> toChannels(const Gathered &gathered, std::span<const std::string> passes,
                                         std::span<const Vec3f> beauty = {});
/// The lights of such a file, one sample each, to be mixed. Error: Empty where it has none.
Result<Gathered> lightsFrom(const image::ChannelPicture &picture);
/// One pass as it can be looked at, 0 to 1: depth from near to far, normals as colours, numbers as colours. White where it is not there.
image::ColourPicture shownPass(const image::ChannelPicture &picture, const PassKind &pass);
/// The light of three channels, R, G and B after some letters, and what is covered; dark where they are not there.
LinearPicture beautyOf(const image::ChannelPicture &picture, const std::string &before = {});

/// A picture to a file with the passes that it has: an EXR holds all; a PNG is developed, and passes lie beside it as NAME-PASS.png.
/// Errors: Unwritable.
Status writePicture(const std::filesystem::path &out, const image::ChannelPicture &picture, const Film &film, bool isClear);

/// "NAME=STRENGTH" or "NAME=STRENGTH,RED,GREEN,BLUE" (colour in sRGB, 0 to 255). Error: BadValue.
Result<LightMix> lightMixOf(const std::string &text);

} // namespace bonemoss::portrait
