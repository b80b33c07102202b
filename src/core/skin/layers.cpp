#include "skin/layers.h"

#include "skin/carry.h"
#include "skin/level_values.h"
#include "skin/levels.h"

#include <algorithm>

namespace bonemoss::skin {

namespace {

std::vector<Layer>::iterator placeOf(Skin &skin, std::uint32_t id)
{
    return std::find_if(skin.layers.begin(), skin.layers.end(), [id](const Layer &l) { return l.id == id; });
}

/// Mean edge length of the body, which every state has.
float bodyEdge(const Skin &state)
{
    return meanEdgeLength(mesh::makeSurface(state.shown.topology, state.body));
}

std::vector<bool> noBlock(const Skin &skin)
{
    return std::vector<bool>(skin.body.blockCount(), false);
}

} // namespace

void removeLayer(Skin &skin, std::uint32_t layer)
{
    std::vector<bool> changed = noBlock(skin);
    note(changed, *skin.layer(layer));
    skin.layers.erase(placeOf(skin, layer));
    for (Layer &l : skin.layers)
        if (l.handOver == layer)
            l.handOver = 0;
    remix(skin, changed);
}

void moveLayer(Skin &skin, std::uint32_t layer, std::size_t to)
{
    auto &layers = skin.layers;
    const auto from = placeOf(skin, layer), end = layers.begin() + std::ptrdiff_t(std::min(to, layers.size() - 1));
    if (from < end)
        std::rotate(from, from + 1, end + 1);
    else
        std::rotate(end, from, from + 1);
}

void showAlone(Skin &skin, std::uint32_t layer, bool isAlone)
{
    std::vector<bool> changed = noBlock(skin);
    for (Layer &l : skin.layers) {
        const float shown = l.shownStrength();
        l.isAside = isAlone && l.id != layer && l.handOver != layer;
        if (l.shownStrength() != shown)
            note(changed, l);
    }
    remix(skin, changed);
}

Status duplicateLayer(Skin &skin, std::uint32_t layer, std::uint32_t id, const std::string &name)
{
    return onAllLevels(skin, layer, [&](Skin &state) -> Status {
        const auto at = placeOf(state, layer);
        Layer twin = *at;
        twin.id = id, twin.isLocked = false, twin.handOver = 0, twin.name = name;
        std::vector<bool> changed = noBlock(state);
        note(changed, twin);
        state.layers.insert(at + 1, std::move(twin));
        remix(state, changed);
        return Done{};
    });
}

Status mapLayer(Skin &skin, std::uint32_t layer, const sculpt::Isometry &place, double &missed)
{
    missed = -1; // of the level in hand, which comes first
    return onAllLevels(skin, layer, [&](Skin &state) -> Status {
        Layer &l = *state.layer(layer);
        std::vector<bool> changed = noBlock(state);
        note(changed, l);
        LayerCopy copy = copiedLayer(state, l, state, place, 4 * bodyEdge(state));
        l.offsets = std::move(copy.offsets), l.mask = std::move(copy.mask), l.growth = nullptr;
        note(changed, l);
        missed = missed < 0 ? copy.missed : missed;
        remix(state, changed);
        return Done{};
    });
}

Status layOver(Skin &skin, const Skin &from, const Layer &layer, std::uint32_t id, const std::string &name, double &missed)
{
    missed = -1; // of the level in hand, which comes first
    return onAllLevels(skin, 0, [&](Skin &state) -> Status {
        LayerCopy copy = copiedLayer(from, layer, state, {}, 8 * meanEdgeLength(from.shown));
        Layer made(state.body.size());
        made.id = id, made.strength = layer.strength, made.isOn = layer.isOn, made.name = name;
        made.drive = layer.drive, made.rigid = layer.rigid;
        made.growth = layer.growth; // grows again by its rule when it is asked to
        made.offsets = std::move(copy.offsets), made.mask = std::move(copy.mask);
        missed = missed < 0 ? copy.missed : missed;
        std::vector<bool> changed = noBlock(state);
        note(changed, made);
        state.layers.push_back(std::move(made));
        remix(state, changed);
        return Done{};
    });
}

} // namespace bonemoss::skin
