#pragma once

#include <cstdint>

namespace bonemoss::io {

// glTF 2.0 (Khronos Group, ISO/IEC 12113:2022): metres in the file, millimetres here; the words of its binary form, section 4.4.
inline constexpr float kMmPerMetre = 1000;
inline constexpr std::uint32_t kGlbMagic = 0x46546C67, kJsonChunk = 0x4E4F534A, kBinChunk = 0x004E4942;

} // namespace bonemoss::io
