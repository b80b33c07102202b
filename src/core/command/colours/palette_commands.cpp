// The palette and the colour schemes of a creature.
#include "base/files.h"
#include "command/colours/colour_fields.h"
#include "command/fields.h"
#include "command/named_items.h"
#include "document/ops/colours.h"
#include "image/picture_file.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

using document::Scheme;
using skin::PaletteColour;

namespace {

constexpr std::size_t kMostColours = 256, kMostSchemes = 64;

template <typename T> auto foundBy(std::vector<T> &all, const ItemName &name)
{
    return std::find_if(all.begin(), all.end(), [&](const T &x) {
        return std::holds_alternative<std::uint32_t>(name) ? x.id == std::get<std::uint32_t>(name)
                                                           : x.name == std::get<std::string>(name);
    });
}
template <typename T> std::string freeName(const std::vector<T> &all, const std::string &wanted, const char *usual)
{
    const std::string base = wanted.empty() ? usual : wanted;
    std::string name = base;
    for (int k = 2; std::any_of(all.begin(), all.end(), [&](const T &x) { return x.name == name; }); ++k)
        name = fmt::format("{} {}", base, k);
    return name;
}

PaletteColour &entryOf(Creature &creature, const ItemName &name)
{
    const auto at = foundBy(creature.palette, name);
    if (at == creature.palette.end())
        throw Failure{{ErrorCode::Unknown, "entry", fmt::format("the palette has no colour {}", told(name))}};
    return *at;
}
Scheme &schemeNamed(Creature &creature, const ItemName &name)
{
    const auto at = foundBy(creature.schemes, name);
    if (at == creature.schemes.end())
        throw Failure{{ErrorCode::Unknown, "scheme", fmt::format("there is no scheme {}", told(name))}};
    return *at;
}

/// Another entry; schemes take it over as it is.
void add(Creature &creature, const std::string &name, Vec3f colour)
{
    if (creature.palette.size() >= kMostColours)
        throw Failure{{ErrorCode::TooLarge, "palette", fmt::format("has {} colours already; delete some", kMostColours)}};
    creature.palette.push_back({creature.nextId++, freeName(creature.palette, name, "Colour"), colour});
}

Result<Creature> addPaletteColour(const Creature &before, const AddPaletteColour &p, CommandContext &)
{
    need(checkColour(p.colour, "colour"));
    Creature after = before;
    add(after, p.name, p.colour);
    return after;
}

Result<Creature> setPaletteColour(const Creature &before, const SetPaletteColour &p, CommandContext &)
{
    Creature after = before;
    PaletteColour &entry = entryOf(after, p.entry);
    if (p.name && *p.name != entry.name)
        entry.name = freeName(after.palette, *p.name, "Colour");
    if (p.colour) {
        need(checkColour(*p.colour, "colour"));
        entry.colour = *p.colour;
    }
    document::followPalette(after, {entry});
    return after;
}

Result<Creature> removePaletteColour(const Creature &before, const RemovePaletteColour &p, CommandContext &)
{
    Creature after = before;
    const std::uint32_t id = entryOf(after, p.entry).id; // skins that use it keep what they know of it
    std::erase_if(after.palette, [&](const PaletteColour &c) { return c.id == id; });
    for (Scheme &s : after.schemes)
        std::erase_if(s.colours, [&](const PaletteColour &c) { return c.id == id; });
    return after;
}

Result<Creature> harmonizePalette(const Creature &before, const HarmonizePalette &p, CommandContext &)
{
    Creature after = before;
    const PaletteColour entry = entryOf(after, p.entry);
    const std::vector<Vec3f> all = colour::harmonyOf(entry.colour, p.harmony);
    for (std::size_t k = 1; k < all.size(); ++k)
        add(after, fmt::format("{} {}", entry.name, colour::kHarmonyNames[std::size_t(p.harmony)]), all[k]);
    return after;
}

Result<Creature> readPalette(const Creature &before, const ReadPalette &p, CommandContext &context)
{
    const std::filesystem::path path = context.folder / p.path;
    const std::vector<std::byte> bytes = need(image::readPictureFile(path));
    std::vector<PaletteColour> found;
    if (image::pictureKind(bytes).empty()) {
        auto read = colour::fromText({reinterpret_cast<const char *>(bytes.data()), bytes.size()});
        if (!read)
            return Error{read.error().code, shownPath(path), read.error().text()};
        found = std::move(*read);
    } else {
        const auto picture = image::decodePicture(bytes, 1024);
        if (!picture)
            return Error{picture.error().code, shownPath(path), picture.error().detail};
        for (const colour::Found &f : colour::coloursIn(*picture, int(p.count)))
            found.push_back({0, colour::hexOf(f.colour), f.colour});
        if (found.empty())
            return Error{ErrorCode::Empty, shownPath(path), "the picture is wholly transparent"};
    }
    Creature after = before;
    if (p.isReplacing) {
        after.palette.clear();
        for (Scheme &s : after.schemes)
            s.colours.clear();
    }
    for (const PaletteColour &c : found)
        add(after, c.name, c.colour);
    context.notes.push_back(fmt::format("{} colours", found.size()));
    return after;
}

Result<Creature> addScheme(const Creature &before, const AddScheme &p, CommandContext &)
{
    if (before.schemes.size() >= kMostSchemes)
        return Error{ErrorCode::TooLarge, "scheme", fmt::format("there are {} schemes already; delete some", kMostSchemes)};
    Creature after = before;
    after.scheme = after.nextId++;
    after.schemes.push_back(document::schemeOf(before, after.scheme, freeName(before.schemes, p.name, "Scheme")));
    return after;
}

Result<Creature> useScheme(const Creature &before, const UseScheme &p, CommandContext &context)
{
    Creature after = before;
    const Scheme scheme = schemeNamed(after, p.scheme);
    document::useScheme(after, scheme, context);
    return after;
}

Result<Creature> setScheme(const Creature &before, const SetScheme &p, CommandContext &)
{
    Creature after = before;
    Scheme &scheme = schemeNamed(after, p.scheme);
    if (p.name && *p.name != scheme.name)
        scheme.name = freeName(after.schemes, *p.name, "Scheme");
    if (p.isUpdating) {
        scheme = document::schemeOf(before, scheme.id, scheme.name);
        after.scheme = scheme.id;
    }
    return after;
}

Result<Creature> removeScheme(const Creature &before, const RemoveScheme &p, CommandContext &)
{
    Creature after = before;
    const std::uint32_t id = schemeNamed(after, p.scheme).id;
    std::erase_if(after.schemes, [&](const Scheme &s) { return s.id == id; });
    if (after.scheme == id)
        after.scheme = 0;
    return after;
}

template <typename P> Field<P> neededEntry()
{
    return fieldOf<P>(&P::entry, "entry", "", "a colour of the palette, by name or id").required();
}
template <typename P> Field<P> schemeField()
{
    return fieldOf<P>(&P::scheme, "scheme", "", "by name or id").required();
}

} // namespace

Status checkColour(Vec3f c, const char *parameter)
{
    if (!(std::min({c.x, c.y, c.z}) >= 0 && std::max({c.x, c.y, c.z}) <= 1))
        return Error{ErrorCode::BadValue, parameter, "must be three numbers from 0 to 1: red, green and blue"};
    return Done{};
}

Result<std::uint32_t> findPaletteColour(const Creature &creature, const std::optional<ItemName> &name)
{
    if (!name || isNone(*name))
        return 0u;
    for (const PaletteColour &c : creature.palette)
        if (std::holds_alternative<std::uint32_t>(*name) ? c.id == std::get<std::uint32_t>(*name)
                                                         : c.name == std::get<std::string>(*name))
            return c.id;
    return Error{ErrorCode::Unknown, "entry",
                 creature.palette.empty() ? std::string("the palette has no colours; add one first (palette.add)")
                                          : fmt::format("the palette has no colour {}", told(*name))};
}

skin::Ink inkOf(const Creature &creature, skin::Skin &skin, const std::optional<ItemName> &entry, std::optional<Vec3f> colour)
{
    const std::uint32_t id = need(findPaletteColour(creature, entry));
    if (!id)
        return {colour.value_or(Vec3f{}), 0};
    const PaletteColour &c = *document::paletteColour(creature, id);
    skin::usePaletteColour(skin, c);
    return {c.colour, id};
}

Fields<AddPaletteColour> AddPaletteColour::fields()
{
    using P = AddPaletteColour;
    return {fieldOf<P>(&P::name, "name", "", "made unique"),
            fieldOf<P>(&P::colour, "colour", "", "red, green and blue, 0 to 1 (sRGB)").required()};
}

Fields<SetPaletteColour> SetPaletteColour::fields()
{
    using P = SetPaletteColour;
    return {neededEntry<P>(), fieldOf<P>(&P::name, "name", "", "made unique"),
            fieldOf<P>(&P::colour, "colour", "", "red, green and blue, 0 to 1 (sRGB)")};
}

Fields<RemovePaletteColour> RemovePaletteColour::fields()
{
    return {neededEntry<RemovePaletteColour>()};
}

Fields<HarmonizePalette> HarmonizePalette::fields()
{
    using P = HarmonizePalette;
    return {neededEntry<P>(), choiceOf<P>(&P::harmony, "harmony", "which colours", colour::kHarmonyNames)};
}

Fields<ReadPalette> ReadPalette::fields()
{
    using P = ReadPalette;
    return {fieldOf<P>(&P::path, "path", "", "a palette file, or a picture").required(),
            fieldOf<P>(&P::count, "colours", "", "how many, of a picture", 1, 64),
            fieldOf<P>(&P::isReplacing, "replace", "", "in place of the palette there is")};
}

Fields<AddScheme> AddScheme::fields()
{
    return {fieldOf<AddScheme>(&AddScheme::name, "name", "", "made unique")};
}

Fields<UseScheme> UseScheme::fields()
{
    return {schemeField<UseScheme>()};
}

Fields<SetScheme> SetScheme::fields()
{
    using P = SetScheme;
    return {schemeField<P>(), fieldOf<P>(&P::name, "name", "", "made unique"),
            fieldOf<P>(&P::isUpdating, "update", "", "takes over how the creature is coloured now")};
}

Fields<RemoveScheme> RemoveScheme::fields()
{
    return {schemeField<RemoveScheme>()};
}

std::vector<CommandSpec> paletteCommands()
{
    return {commandOf(addPaletteColour), commandOf(setPaletteColour),  commandOf(removePaletteColour),
            commandOf(harmonizePalette), commandOf(readPalette, true), commandOf(addScheme),
            commandOf(useScheme),        commandOf(setScheme),         commandOf(removeScheme)};
}

} // namespace bonemoss::command
