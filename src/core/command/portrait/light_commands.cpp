// Commands about the lights of a portrait.
#include "command/fields.h"
#include "command/named_items.h"
#include "command/portrait/light_fields.h"
#include "document/ops/portraits.h"
#include "portrait/lamps.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

namespace {

using portrait::Light;
constexpr std::size_t kMostLights = 32;

/// Pictures keep each light by its name.
std::string uniqueLightName(const portrait::Stage &stage, const std::string &wanted, std::uint32_t own)
{
    std::string out = wanted;
    for (int k = 2;
         out == "surroundings" || out == "backdrop"
         || std::any_of(stage.lights.begin(), stage.lights.end(), [&](const Light &l) { return l.name == out && l.id != own; });
         ++k)
        out = fmt::format("{} {}", wanted, k);
    return out;
}

Light &lightOf(Creature &c, const ItemName &name)
{
    for (Light &l : c.stage.lights)
        if (std::holds_alternative<std::uint32_t>(name) ? l.id == std::get<std::uint32_t>(name)
                                                        : l.name == std::get<std::string>(name))
            return l;
    std::string known;
    for (const Light &l : c.stage.lights)
        known += (known.empty() ? "there are " : ", ") + l.name;
    throw Failure(Error{ErrorCode::Unknown, "light",
                        fmt::format("there is no light {}; {}", told(name), known.empty() ? "there is none yet" : known)});
}

void change(Light &l, const LightChanges &p)
{
    setIfGiven(l.azimuth, p.azimuth), setIfGiven(l.elevation, p.elevation), setIfGiven(l.distance, p.distance);
    setIfGiven(l.size, p.size), setIfGiven(l.strength, p.strength), setIfGiven(l.kelvin, p.kelvin);
    setIfGiven(l.colour, p.colour), setIfGiven(l.isOn, p.isOn), setIfGiven(l.goesWithCamera, p.goesWithCamera);
    if (p.aim)
        l.aim = *p.aim;
    if (l.kelvin > 0 && l.kelvin < 1000)
        throw Failure(Error{ErrorCode::BadValue, "kelvin", "must be 0 (none) or 1000 to 40000"});
}

/// What shines from inside the creature is a mistake more often than not.
void tellWhereItStands(const Creature &c, const Light &l, CommandContext &context)
{
    if (l.shape == Light::Shape::Sun)
        return;
    const Box3f box = c.bounds();
    const portrait::Lamp lamp = portrait::lampOf(l, box.centre(), {});
    for (const auto &piece : c.pieces)
        if (!piece->isHidden && !piece->skin.isEmpty() && squaredDistance(piece->bounds(), lamp.centre) <= 0) {
            const auto hit = castRay(piece->skin.shown, {lamp.centre, {0.267f, 0.535f, 0.802f}});
            if (hit && dot(hit->normal, Vec3f{0.267f, 0.535f, 0.802f}) > 0)
                context.notes.push_back(fmt::format("light {} stands inside of {}: little of it comes out", l.name, piece->name));
        }
}

Result<Creature> useLights(const Creature &before, const UseLights &p, CommandContext &)
{
    Creature after = before;
    portrait::Stage fresh = portrait::lightSet(p.set)->make(sizeOf(before));
    for (Light &l : fresh.lights)
        l.id = after.nextId++;
    portrait::Stage &s = after.stage;
    s.lights.clear();
    for (Light &l : fresh.lights) {
        l.name = uniqueLightName(s, l.name, l.id);
        s.lights.push_back(l);
    }
    s.surroundings = fresh.surroundings;
    if (!p.keepsPlace)
        s.backdrop = fresh.backdrop, s.ground = fresh.ground, s.fog = fresh.fog;
    return after;
}

Result<Creature> addLight(const Creature &before, const AddLight &p, CommandContext &context)
{
    if (before.stage.lights.size() >= kMostLights)
        return Error{ErrorCode::TooLarge, "lights", fmt::format("a portrait has at most {} lights", kMostLights)};
    Creature after = before;
    Light l = makeLight(*portrait::lightRole(p.role), sizeOf(before));
    l.id = after.nextId++;
    l.name = uniqueLightName(after.stage, p.name.value_or(l.name), l.id);
    change(l, p.changes);
    tellWhereItStands(after, l, context);
    after.stage.lights.push_back(std::move(l));
    return after;
}

Result<Creature> setLight(const Creature &before, const SetLight &p, CommandContext &context)
{
    Creature after = before;
    Light &l = lightOf(after, p.light);
    if (p.name)
        l.name = uniqueLightName(after.stage, *p.name, l.id);
    change(l, p.changes);
    if (p.changes.azimuth || p.changes.elevation || p.changes.distance || p.changes.aim)
        tellWhereItStands(after, l, context);
    return after;
}

Result<Creature> aimLight(const Creature &before, const AimLight &p, CommandContext &context)
{
    Creature after = before;
    Light &l = lightOf(after, p.light);
    Vec3f to;
    if (p.shadowOf && p.shadowAt) {
        to = normalized(*p.shadowOf - *p.shadowAt);
    } else if (p.highlight && p.normal && p.eye) { // the way in is the way out, mirrored
        const Vec3f out = normalized(*p.eye - *p.highlight), n = normalized(*p.normal);
        to = n * (2 * dot(out, n)) - out;
    } else {
        return Error{ErrorCode::BadValue, "light", "say highlight, normal and eye, or shadowOf and shadowAt"};
    }
    if (squaredLength(to) < 0.5f)
        return Error{ErrorCode::BadValue, "light", "the two places must be apart"};
    portrait::Camera camera;
    const std::optional<Vec3f> seen = p.lookAt ? p.lookAt : p.highlight;
    if (p.eye && seen && length(*p.eye - *seen) > 1e-3f)
        camera.rotation = portrait::uprightRotation(*p.eye - *seen);
    else if (l.goesWithCamera)
        return Error{ErrorCode::BadValue, l.name, "goes with the camera; say eye and lookAt, from where and where to that looks"};
    standIn(l, to, camera);
    tellWhereItStands(after, l, context);
    return after;
}

Result<Creature> removeLight(const Creature &before, const RemoveLight &p, CommandContext &)
{
    Creature after = before;
    const std::uint32_t id = lightOf(after, p.light).id;
    std::erase_if(after.stage.lights, [&](const Light &l) { return l.id == id; });
    return after;
}

} // namespace

Fields<UseLights> UseLights::fields()
{
    using P = UseLights;
    return {wordOf<P>(&P::set, "set", "which", idsOf(portrait::lightSets())).required(),
            fieldOf<P>(&P::keepsPlace, "keepPlace", "", "backdrop, ground and fog stay as they are")};
}

Fields<LightChanges> LightChanges::fields()
{
    using P = LightChanges;
    return {
        fieldOf<P>(&P::azimuth, "azimuth", "deg", "about the vertical: 0 from the nose, positive to the left flank", -360, 360),
        fieldOf<P>(&P::elevation, "elevation", "deg", "above the level", -90, 90),
        fieldOf<P>(&P::distance, "distance", "mm", "from what it is aimed at", 0.1, 100000),
        fieldOf<P>(&P::size, "size", "mm", "across; of a sun in degrees", 0.01, 100000),
        fieldOf<P>(&P::strength, "strength", "", "1 lights a white surface to white; neither size nor distance change that", 0,
                   1000),
        fieldOf<P>(&P::kelvin, "kelvin", "K", "colour temperature, 1000 to 40000; 0 for the colour alone", 0, 40000),
        fieldOf<P>(&P::colour, "colour", "", "linear light, times that of the temperature", 0, 10),
        fieldOf<P>(&P::aim, "aim", "mm", "place it is aimed at; the middle of the creature where it was never said", -100000,
                   100000),
        fieldOf<P>(&P::isOn, "on", "", "whether it shines"),
        fieldOf<P>(&P::goesWithCamera, "withCamera", "", "azimuth and elevation are told from the camera")};
}

Fields<AddLight> AddLight::fields()
{
    using P = AddLight;
    return fieldList<P>({wordOf<P>(&P::role, "role", "the part it plays", idsOf(portrait::lightRoles())),
                         fieldOf<P>(&P::name, "name", "", "made unique"), nested<P>(&P::changes, LightChanges::fields())});
}

Fields<SetLight> SetLight::fields()
{
    using P = SetLight;
    return fieldList<P>({fieldOf<P>(&P::light, "light", "", "name or id").required(),
                         fieldOf<P>(&P::name, "name", "", "made unique"), nested<P>(&P::changes, LightChanges::fields())});
}

Fields<AimLight> AimLight::fields()
{
    using P = AimLight;
    return {fieldOf<P>(&P::light, "light", "", "name or id").required(),
            fieldOf<P>(&P::highlight, "highlight", "mm", "place where it shall be mirrored"),
            fieldOf<P>(&P::normal, "normal", "", "of the surface there"),
            fieldOf<P>(&P::eye, "eye", "mm", "place it is seen from"),
            fieldOf<P>(&P::lookAt, "lookAt", "mm",
                       "what the camera looks at from there, for lights that go with it; the highlight when not given"),
            fieldOf<P>(&P::shadowOf, "shadowOf", "mm", "place that throws a shadow"),
            fieldOf<P>(&P::shadowAt, "shadowAt", "mm", "place where that falls")};
}

Fields<RemoveLight> RemoveLight::fields()
{
    using P = RemoveLight;
    return {fieldOf<P>(&P::light, "light", "", "name or id").required()};
}

std::vector<CommandSpec> lightCommands()
{
    return {commandOf(useLights), commandOf(addLight), commandOf(setLight), commandOf(aimLight), commandOf(removeLight)};
}

} // namespace bonemoss::command
