// What the hand holds on the benches: tiles of forms, tools, growths and outgrowths.
#include "app/hand/form_settings.h"
#include "app/hand/growth_picture.h"
#include "app/hand/growth_settings.h"
#include "app/hand/hand_panel.h"
#include "app/hand/outgrowth_hand.h"
#include "app/hand/outgrowth_picture.h"
#include "app/hand/outgrowth_settings.h"
#include "app/hand/tile.h"
#include "app/hand/tool_picture.h"
#include "app/hand/tool_settings.h"
#include "app/theme/table_words.h"
#include "app/theme/theme.h"

#include <QCoreApplication>

#include <algorithm>

namespace bonemoss::app {

namespace {

constexpr QSize kTilePicture(72, 40);

Tile *pictured(const TileWords &words, int key, const QImage &image)
{
    auto *tile = new Tile(words.title, key, {}, false);
    tile->setImage(image);
    return tile;
}

template <typename Settings> HandSettings *made(Session &session, HandModel &hand, QSet<QString> &openSections)
{
    return new Settings(session, hand, openSections);
}

/// The place of a row in its table, -1 for none.
template <typename Row> int placeOf(std::span<const Row> table, const Row *row)
{
    return row ? int(row - table.data()) : -1;
}

TileWords formWords(const BenchRow &, std::size_t k)
{
    const auto tile = FormTile(k);
    const bool handles = tile == FormTile::Choose || tile == FormTile::Tape;
    return {QStringLiteral("formTile%1").arg(k), formTileTitle(tile), formTileHint(tile),
            handles ? HandPanel::tr("Handle") : HandPanel::tr("Draw")};
}

TileWords toolWords(const BenchRow &bench, std::size_t k)
{
    const sculpt::Tool tool = bench.tools[k];
    return {QStringLiteral("toolTile_") + textOf(nameOf(tool)), toolTitle(tool), toolHint(tool),
            bench.oneGroup ? QCoreApplication::translate("Bench", bench.oneGroup)
                           : HandPanel::tr(sculpt::kToolGroups[std::size_t(sculpt::rowOf(tool).group)].data())};
}

TileWords growthWords(const BenchRow &, std::size_t k)
{
    const growth::GrowthKind &kind = growth::growthKinds()[k];
    return {QStringLiteral("growthTile_") + textOf(kind.name), tableWords("Growth", kind.title), tableWords("Growth", kind.text),
            HandPanel::tr("Grow")};
}

TileWords outgrowthWords(const BenchRow &, std::size_t k)
{
    const outgrowth::Kind &kind = outgrowth::kinds()[k];
    return {QStringLiteral("outgrowthTile_") + textOf(kind.name), tableWords("Outgrowth", kind.title),
            tableWords("Outgrowth", kind.text), tableWords("Outgrowth", kind.group)};
}

} // namespace

const HandPart kFormPart{
    .count = [](const BenchRow &) { return std::size_t(kFormTileCount); },
    .words = formWords,
    .tile = [](const BenchRow &bench, std::size_t k,
               int key) { return new Tile(formWords(bench, k).title, key, formPicture(FormTile(k)), true); },
    .pick = [](HandModel &hand, const BenchRow &, std::size_t k) { hand.armature().setFormTile(FormTile(k)); },
    .held = [](const HandModel &hand, const BenchRow &) { return int(hand.armature().formTile()); },
    .settings = made<FormSettings>,
};

const HandPart kToolPart{
    .count = [](const BenchRow &bench) { return bench.tools.size(); },
    .words = toolWords,
    .tile = [](const BenchRow &bench, std::size_t k,
               int key) { return new Tile(toolWords(bench, k).title, key, toolPicture(bench.tools[k]), false); },
    .pick = [](HandModel &hand, const BenchRow &bench, std::size_t k) { hand.setTool(bench.tools[k]); },
    .held =
        [](const HandModel &hand, const BenchRow &bench) {
            if (hand.detail().growing().kind)
                return -1;
            const auto at = std::find(bench.tools.begin(), bench.tools.end(), hand.tool());
            return at == bench.tools.end() ? -1 : int(at - bench.tools.begin());
        },
    .settings = made<ToolSettings>,
};

const HandPart kGrowthPart{
    .count = [](const BenchRow &) { return growth::growthKinds().size(); },
    .words = growthWords,
    .tile = [](const BenchRow &bench, std::size_t k,
               int key) { return pictured(growthWords(bench, k), key, usualPicture(growth::growthKinds()[k], kTilePicture)); },
    .pick =
        [](HandModel &hand, const BenchRow &, std::size_t k) {
            hand.detail().setGrowing({&growth::growthKinds()[k], 0, false, {}, -1});
        },
    .held = [](const HandModel &hand, const BenchRow &) { return placeOf(growth::growthKinds(), hand.detail().growing().kind); },
    .settings = made<GrowthSettings>,
};

const HandPart kOutgrowthPart{
    .count = [](const BenchRow &) { return outgrowth::kinds().size(); },
    .words = outgrowthWords,
    .tile = [](const BenchRow &bench, std::size_t k,
               int key) { return pictured(outgrowthWords(bench, k), key, usualPicture(outgrowth::kinds()[k], kTilePicture)); },
    .pick = [](HandModel &hand, const BenchRow &, std::size_t k) { hand.of<OutgrowthHand>().setKind(&outgrowth::kinds()[k]); },
    .held = [](const HandModel &hand,
               const BenchRow &) { return placeOf(outgrowth::kinds(), hand.of<OutgrowthHand>().rule().kind); },
    .settings = made<OutgrowthSettings>,
};

} // namespace bonemoss::app
