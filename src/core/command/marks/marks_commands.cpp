// Commands that mark parts of a skin: masks kept by name, groups, hidden parts.
#include "command/params.h"
#include "mesh/parts.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

namespace {

using Bytes = mesh::BlockArray<std::uint8_t>;

/// Values from a rule over all vertices, blank where all are 0.
template <typename T, typename Rule> mesh::BlockArray<T> made(std::size_t n, const Rule &rule)
{
    mesh::BlockArray<T> out(n);
    for (std::size_t v = 0; v < n; ++v)
        if (const T value = rule(v); value != T{} || out.has(v / mesh::kBlockSize))
            out.edit(v / mesh::kBlockSize)[v % mesh::kBlockSize] = value;
    return out;
}

Result<Creature> keepMask(const Creature &before, const Params &p, CommandContext &)
{
    const auto taken = takePiece(before, p);
    if (!taken)
        return taken.error();
    skin::Skin &skin = (*taken)->skin;
    if (!skin.hasMask())
        return Error{ErrorCode::BadValue, (*taken)->name, "nothing is masked"};
    const std::string name = p.text("name");
    const auto it = std::find_if(skin.masks.begin(), skin.masks.end(), [&](const auto &m) { return m.name == name; });
    if (it != skin.masks.end())
        it->values = skin.mask;
    else
        skin.masks.push_back({name, skin.mask});
    return putBack(before, *taken);
}

Result<Creature> recallMask(const Creature &before, const Params &p, CommandContext &)
{
    const auto taken = takePiece(before, p);
    if (!taken)
        return taken.error();
    skin::Skin &skin = (*taken)->skin;
    const skin::KeptMask *kept = skin.keptMask(p.text("name"));
    if (!kept)
        return Error{ErrorCode::Unknown, (*taken)->name, fmt::format("keeps no mask {}", p.text("name"))};
    const std::string how = p.text("how");
    if (how == "replace")
        skin.mask = kept->values;
    else
        skin.mask = made<std::uint8_t>(skin.mask.size(), [&](std::size_t v) {
            const std::uint8_t a = skin.mask[v], b = kept->values[v];
            return how == "add" ? std::max(a, b) : std::min(a, how == "common" ? b : std::uint8_t(255 - b));
        });
    return putBack(before, *taken);
}

Result<Creature> forgetMask(const Creature &before, const Params &p, CommandContext &)
{
    const auto taken = takePiece(before, p);
    if (!taken)
        return taken.error();
    const std::string name = p.text("name");
    if (std::erase_if((*taken)->skin.masks, [&](const auto &m) { return m.name == name; }) == 0)
        return Error{ErrorCode::Unknown, (*taken)->name, fmt::format("keeps no mask {}", name)};
    return putBack(before, *taken);
}

Result<Creature> makeGroup(const Creature &before, const Params &p, CommandContext &context)
{
    constexpr std::size_t kMost = 2000;
    const auto taken = takePiece(before, p);
    if (!taken)
        return taken.error();
    skin::Skin &skin = (*taken)->skin;
    const std::string name = p.text("name");
    if (p.text("of") == "islands") {
        const mesh::PolyMesh mesh = toPolyMesh(skin.shown);
        std::uint32_t count = 0;
        const std::vector<std::uint32_t> island = islandsOf(mesh, count);
        if (count > kMost)
            return Error{ErrorCode::TooLarge, (*taken)->name, fmt::format("has {} islands", count)};
        skin.groups.clear();
        for (std::uint32_t k = 1; k <= count; ++k)
            skin.groups.push_back({std::uint16_t(k), fmt::format("{} {}", name, k)});
        skin.groupOf = made<std::uint16_t>(
            skin.body.size(), [&](std::size_t v) { return island[v] < count ? std::uint16_t(island[v] + 1) : std::uint16_t(0); });
        context.notes.push_back(fmt::format("{} groups", count));
        return putBack(before, *taken);
    }
    if (!skin.hasMask())
        return Error{ErrorCode::BadValue, (*taken)->name, "nothing is masked; mask what the group shall be"};
    if (skin.groups.size() >= kMost)
        return Error{ErrorCode::TooLarge, (*taken)->name, fmt::format("has {} groups already", skin.groups.size())};
    const skin::Group *old = skin.group(name);
    const std::uint16_t number = old ? old->number : skin.freeGroup();
    if (!old)
        skin.groups.push_back({number, name});
    skin.groupOf = made<std::uint16_t>(skin.body.size(), [&](std::size_t v) {
        const std::uint16_t was = skin.groupOf[v];
        return skin.mask[v] > 127 ? number : was == number ? std::uint16_t(0) : was;
    });
    return putBack(before, *taken);
}

Result<Creature> removeGroup(const Creature &before, const Params &p, CommandContext &)
{
    const auto taken = takePiece(before, p);
    if (!taken)
        return taken.error();
    skin::Skin &skin = (*taken)->skin;
    const skin::Group *group = skin.group(p.text("name"));
    if (!group)
        return Error{ErrorCode::Unknown, (*taken)->name, fmt::format("has no group {}", p.text("name"))};
    const std::uint16_t number = group->number;
    std::erase_if(skin.groups, [&](const auto &g) { return g.number == number; });
    skin.groupOf = made<std::uint16_t>(skin.body.size(), [&](std::size_t v) {
        const std::uint16_t was = skin.groupOf[v];
        return was == number ? std::uint16_t(0) : was;
    });
    return putBack(before, *taken);
}

Result<Creature> maskGroup(const Creature &before, const Params &p, CommandContext &)
{
    const auto taken = takePiece(before, p);
    if (!taken)
        return taken.error();
    skin::Skin &skin = (*taken)->skin;
    const skin::Group *group = skin.group(p.text("name"));
    if (!group)
        return Error{ErrorCode::Unknown, (*taken)->name, fmt::format("has no group {}", p.text("name"))};
    skin.mask = made<std::uint8_t>(
        skin.body.size(), [&](std::size_t v) { return skin.groupOf[v] == group->number ? std::uint8_t(255) : std::uint8_t(0); });
    return putBack(before, *taken);
}

Result<Creature> hideParts(const Creature &before, const Params &p, CommandContext &)
{
    const auto taken = takePiece(before, p);
    if (!taken)
        return taken.error();
    skin::Skin &skin = (*taken)->skin;
    const std::string what = p.text("what");
    const skin::Group *group = p.has("group") ? skin.group(p.text("group")) : nullptr;
    if (what == "group" && !group)
        return Error{ErrorCode::Unknown, (*taken)->name, "has no such group; name one of its groups"};
    if ((what == "masked" || what == "free") && !skin.hasMask())
        return Error{ErrorCode::BadValue, (*taken)->name, "nothing is masked"};
    if (what == "nothing") {
        skin.shown.hidden = Bytes(skin.body.size());
        return putBack(before, *taken);
    }
    const Bytes hidden = made<std::uint8_t>(skin.body.size(), [&](std::size_t v) -> std::uint8_t {
        const bool was = skin.shown.hidden[v] != 0;
        return what == "masked" ? was || skin.mask[v] > 127
               : what == "free" ? was || skin.mask[v] <= 127
               : what == "swap" ? !was
                                : was || skin.groupOf[v] == group->number;
    });
    for (std::size_t v = 0; v < hidden.size(); ++v)
        if (!hidden[v]) {
            skin.shown.hidden = hidden;
            return putBack(before, *taken);
        }
    return Error{ErrorCode::BadValue, (*taken)->name, "nothing would be left to see; hide the piece itself instead"};
}

/// Colour and finish, evenly over a part of a skin: what is given changes, the rest stays.
Result<Creature> paintPiece(const Creature &before, const Params &p, CommandContext &)
{
    const auto taken = takePiece(before, p);
    if (!taken)
        return taken.error();
    skin::Skin &skin = (*taken)->skin;
    const std::string where = p.text("where");
    const skin::Group *group = where == "group" && p.has("group") ? skin.group(p.text("group")) : nullptr;
    if (where == "group" && !group)
        return Error{ErrorCode::BadValue, (*taken)->name, "has no such group; name one of its groups"};
    const auto share = [&](std::size_t v) { // how much of the paint a vertex takes
        return where == "masked"  ? float(skin.mask[v]) / 255
               : where == "free"  ? 1 - float(skin.mask[v]) / 255
               : where == "group" ? float(skin.groupOf[v] == group->number)
                                  : 1.0f;
    };
    std::array<std::optional<float>, skin::kChannels> wanted;
    const auto want = [&](skin::Channel c, float value) { wanted[std::size_t(c)] = value * 255; };
    if (p.has("colour")) {
        const Vec3f colour = p.point("colour");
        if (std::min({colour.x, colour.y, colour.z}) < 0 || std::max({colour.x, colour.y, colour.z}) > 1)
            return Error{ErrorCode::BadValue, "colour", "must be three numbers from 0 to 1: red, green and blue"};
        const float cover = p.number("cover");
        want(skin::Channel::Red, colour.x * cover);
        want(skin::Channel::Green, colour.y * cover);
        want(skin::Channel::Blue, colour.z * cover);
        want(skin::Channel::Cover, cover);
    }
    for (const auto &[name, channel] : {std::pair{"gloss", skin::Channel::Gloss},
                                        {"metal", skin::Channel::Metal},
                                        {"wet", skin::Channel::Clearcoat},
                                        {"translucent", skin::Channel::Translucency}})
        if (p.has(name))
            want(channel, p.number(name));
    if (std::none_of(wanted.begin(), wanted.end(), [](const auto &w) { return w.has_value(); }))
        return Error{ErrorCode::BadValue, "paint", "give a colour or a finish"};
    for (std::size_t c = 0; c < wanted.size(); ++c)
        if (wanted[c]) {
            const Bytes was = skin.paint.channels[c];
            skin.paint.channels[c] = made<std::uint8_t>(was.size(), [&](std::size_t v) {
                return std::uint8_t(std::lround(float(was[v]) + (*wanted[c] - float(was[v])) * share(v)));
            });
        }
    return putBack(before, *taken);
}

} // namespace

std::vector<CommandSpec> markCommands()
{
    const ParamSpec name = required(textParam("name", "by which it is found again"));
    return {
        {"mask.keep",
         "Keep mask",
         "Puts the mask by under a name; the same name again replaces it.",
         {pieceParam(), name},
         keepMask},
        {"mask.recall",
         "Take a kept mask",
         "Puts a kept mask in hand.",
         {pieceParam(), name,
          choiceParam("how", "what becomes of the mask in hand", {"replace", "add", "subtract", "common"}, "\"replace\"")},
         recallMask},
        {"mask.forget", "Forget a kept mask", "Takes a kept mask away.", {pieceParam(), name}, forgetMask},
        {"mask.group", "Mask a group", "Masks what is in a group, and nothing else.", {pieceParam(), name}, maskGroup},
        {"group.make",
         "Make group",
         "Gives what is masked, or each island, to a group; a vertex is in one group at most.",
         {pieceParam(), choiceParam("of", "what", {"mask", "islands"}, "\"mask\""),
          textParam("name", "of the group", "\"Group\"")},
         makeGroup},
        {"group.remove", "Delete group", "Deletes a group; its skin stays.", {pieceParam(), name}, removeGroup},
        {"piece.paint",
         "Paint piece",
         "Gives a skin, or a part of it, a colour and a finish.",
         {pieceParam(), plainParam(ParamKind::Point, "colour", "", "red, green and blue, 0 to 1 (sRGB)"),
          numberParam("cover", "", "how much of the clay the colour hides; 0 takes colour away", 0, 1, "1"),
          numberParam("gloss", "", "0 matt, 1 mirror-like", 0, 1), numberParam("metal", "", "0 to 1", 0, 1),
          numberParam("wet", "", "0 to 1", 0, 1), numberParam("translucent", "", "0 to 1", 0, 1),
          choiceParam("where", "which part of it", {"all", "masked", "free", "group"}, "\"all\""),
          textParam("group", "its name, with where: group")},
         paintPiece},
        {"piece.hide",
         "Hide parts",
         "Hides a part of a skin: not drawn, not met by tools, still there. Nothing shows all of it again.",
         {pieceParam(), required(choiceParam("what", "to hide", {"masked", "free", "group", "swap", "nothing"})),
          textParam("group", "its name, with what: group")},
         hideParts},
    };
}

} // namespace bonemoss::command
