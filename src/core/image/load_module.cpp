#include "image/detail/load_module.h"

#include <dlfcn.h>

#include <filesystem>

namespace bonemoss::image {

void *inModule(const char *name)
{
    static void *const module = [] {
        std::error_code ec;
        const auto program = std::filesystem::read_symlink("/proc/self/exe", ec).parent_path();
        for (const char *folder : {"../lib/bonemoss", "../" BONEMOSS_LIBDIR "/bonemoss"})
            if (void *found = dlopen((program / folder / "libbonemoss-pictures.so").c_str(), RTLD_NOW | RTLD_LOCAL))
                return found;
        return static_cast<void *>(nullptr);
    }();
    return module ? dlsym(module, name) : nullptr;
}

const Error &noModule()
{
    static const Error error{ErrorCode::Unsupported, "picture",
                             "the picture module (libbonemoss-pictures.so) is not beside the program; install it again"};
    return error;
}

} // namespace bonemoss::image
