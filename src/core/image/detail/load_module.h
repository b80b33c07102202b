#pragma once

#include "base/result.h"

namespace bonemoss::image {

/// An address in the picture module, which lies beside the program: in the build tree, or where it is installed. Null without it.
void *inModule(const char *name);
/// A function of it.
template <typename Function> Function fromModule(const char *name)
{
    return reinterpret_cast<Function>(inModule(name));
}
/// What is said where it is missing.
const Error &noModule();

} // namespace bonemoss::image
