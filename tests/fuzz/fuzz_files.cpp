// Feeds made-up bytes to what reads one kind of file of ours: a creature (as a whole file, or only its list of what there is, which
// begins with a brace), a recipe, a part, a tool. Built by `./moss fuzz FORMAT`, with libFuzzer and the sanitizers.
#include "base/files.h"
#include "store/detail/manifest.h"
#include "document/finite.h"
#include "store/part.h"
#include "command/recipe.h"
#include "store/store.h"
#include "command/tool_file.h"

#include <nlohmann/json.hpp>

#include <cstdlib>
#include <unistd.h>

namespace {

using namespace bonemoss;

void require(bool isTrue)
{
    if (!isTrue)
        std::abort();
}

/// What a creature that was read must be.
void check(const document::Creature &c)
{
    for (const armature::Form &f : c.armature.forms)
        require(document::isFinite(f));
    for (const auto &p : c.pieces)
        require(p->skin.body.size() == p->skin.shown.topology->vertexCount());
}

void readManifest(std::string_view text)
{
    const auto manifest = nlohmann::json::parse(text.begin(), text.end(), nullptr, false);
    if (manifest.is_discarded())
        return;
    const store::detail::ReadBlob read = [&](store::detail::Hash name) -> Result<std::vector<std::byte>> {
        // Bytes of any kind and length, told by the name.
        std::vector<std::byte> bytes(std::size_t(name[0] % 5000));
        for (std::size_t k = 0; k < bytes.size(); ++k)
            bytes[k] = std::byte(name[1] >> (k % 8) * 8);
        return bytes;
    };
    std::vector<std::string> damage;
    if (const auto creature = store::detail::fromManifest(manifest, read, damage))
        check(*creature);
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t *data, std::size_t size)
{
    static const std::string format = std::getenv("BONEMOSS_FORMAT");
    static const std::filesystem::path file = "/dev/shm/bonemoss-fuzz-" + std::to_string(::getpid()) + format;
    const std::string_view text(reinterpret_cast<const char *>(data), size);
    if (format == ".bonemoss" && text.starts_with('{')) {
        readManifest(text);
        return 0;
    }
    require(bool(writeFile(file, text)));
    if (format == ".bonemoss") {
        if (const auto loaded = store::loadStore(file))
            check(loaded->creature);
        else
            require(!loaded.error().text().empty());
    } else if (format == ".recipe") {
        if (const auto commands = command::readRecipe(file))
            for (const auto &command : *commands)
                require(!command::titleOf(command).empty());
    } else if (format == ".part") {
        if (const auto part = store::readPart(file))
            for (const armature::Form &f : part->armature.forms)
                require(document::isFinite(f));
    } else {
        (void)command::readTool(file);
    }
    return 0;
}
