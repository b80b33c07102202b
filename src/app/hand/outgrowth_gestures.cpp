#include "app/hand/outgrowth_gestures.h"

#include <QtGlobal>

namespace bonemoss::app {

namespace {

using outgrowth::Kind;
using outgrowth::Map;

template <Map map> bool takes(const Kind &kind)
{
    return kind.takes(map);
}

constexpr GestureRow kGestures[] = {
    {Gesture::Choose, QT_TRANSLATE_NOOP("Gesture", "Choose members, move handles"), "", [](const Kind &) { return true; }},
    {Gesture::Comb, QT_TRANSLATE_NOOP("Gesture", "Comb"),
     QT_TRANSLATE_NOOP("Gesture", "Comb: a stroke lays what grows here its own way"), takes<Map::Lift>},
    {Gesture::Longer, QT_TRANSLATE_NOOP("Gesture", "Longer"), QT_TRANSLATE_NOOP("Gesture", "Longer: a stroke lets it grow"),
     takes<Map::Length>, Map::Length, 1},
    {Gesture::Shorter, QT_TRANSLATE_NOOP("Gesture", "Shorter"), QT_TRANSLATE_NOOP("Gesture", "Shorter: a stroke trims it"),
     takes<Map::Length>, Map::Length, -1},
    {Gesture::Lift, QT_TRANSLATE_NOOP("Gesture", "Lift"), QT_TRANSLATE_NOOP("Gesture", "Lift: a stroke raises it off the skin"),
     takes<Map::Lift>, Map::Lift, 1},
    {Gesture::Lay, QT_TRANSLATE_NOOP("Gesture", "Lay flat"),
     QT_TRANSLATE_NOOP("Gesture", "Lay flat: a stroke lays it on the skin"), takes<Map::Lift>, Map::Lift, -1},
    {Gesture::Curl, QT_TRANSLATE_NOOP("Gesture", "Curl"), QT_TRANSLATE_NOOP("Gesture", "Curl: a stroke curls it"),
     takes<Map::Curl>, Map::Curl, 1},
    {Gesture::Straighten, QT_TRANSLATE_NOOP("Gesture", "Straighten"),
     QT_TRANSLATE_NOOP("Gesture", "Straighten: a stroke takes curls out"), takes<Map::Curl>, Map::Curl, -1},
    {Gesture::Denser, QT_TRANSLATE_NOOP("Gesture", "Denser"),
     QT_TRANSLATE_NOOP("Gesture", "Denser: a stroke brings back what was thinned"), takes<Map::Density>, Map::Density, 1},
    {Gesture::Thinner, QT_TRANSLATE_NOOP("Gesture", "Thin out"),
     QT_TRANSLATE_NOOP("Gesture", "Thin out: a stroke leaves some out"), takes<Map::Density>, Map::Density, -1},
    {Gesture::Part, QT_TRANSLATE_NOOP("Gesture", "Part"),
     QT_TRANSLATE_NOOP("Gesture", "Part: it falls to both sides of the line you draw"), takes<Map::Lift>},
    {Gesture::Path, QT_TRANSLATE_NOOP("Gesture", "Draw its middle line"),
     QT_TRANSLATE_NOOP("Gesture", "Draw the middle line, from the root on"),
     [](const Kind &k) { return k.is(outgrowth::TakesPath); }},
    {Gesture::Cut, QT_TRANSLATE_NOOP("Gesture", "Cut along a line"),
     QT_TRANSLATE_NOOP("Gesture", "Cut: draw a line across; it parts there into members"),
     [](const Kind &k) { return k.is(outgrowth::IsCut); }},
    {Gesture::Look, QT_TRANSLATE_NOOP("Gesture", "Look at a point"), QT_TRANSLATE_NOOP("Gesture", "Drag to where it shall look"),
     [](const Kind &k) { return k.is(outgrowth::Looks); }},
    {Gesture::Seen, QT_TRANSLATE_NOOP("Gesture", "Only what is seen from here"),
     QT_TRANSLATE_NOOP("Gesture", "Press in the view that it shall be seen in"),
     [](const Kind &k) { return k.is(outgrowth::Culled); }},
};

} // namespace

std::span<const GestureRow> gestures()
{
    return kGestures;
}

const GestureRow &rowOf(Gesture gesture)
{
    return kGestures[std::size_t(gesture)];
}

} // namespace bonemoss::app
