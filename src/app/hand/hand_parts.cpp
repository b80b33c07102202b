// What the hand holds on the benches: tiles of forms, tools, growths and outgrowths.
#include "app/hand/colour_hand.h"
#include "app/hand/colour_pages.h"
#include "app/hand/form_settings.h"
#include "app/hand/growth_picture.h"
#include "app/hand/growth_settings.h"
#include "app/hand/hand_panel.h"
#include "app/hand/outgrowth_hand.h"
#include "app/hand/outgrowth_picture.h"
#include "app/hand/outgrowth_settings.h"
#include "app/hand/pose_hand.h"
#include "app/hand/rule_picture.h"
#include "app/hand/rule_settings.h"
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

TileWords ruleWords(const BenchRow &, std::size_t k)
{
    const colour::RuleKind &kind = colour::ruleKinds()[k];
    return {QStringLiteral("ruleTile_") + textOf(kind.name), tableWords("Rule", kind.title), tableWords("Rule", kind.text),
            kind.isCoat ? HandPanel::tr("Coats") : HandPanel::tr("Rules")};
}

TileWords colourPageWords(const BenchRow &, std::size_t k)
{
    const ColourPage &page = colourPages()[k];
    return {QStringLiteral("colourTile_") + QLatin1String(page.id), QCoreApplication::translate("ColourPage", page.title),
            QCoreApplication::translate("ColourPage", page.hint), HandPanel::tr("Finish and colours")};
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
            if (bench.poses && !hand.of<PoseHand>().holdsBrush())
                return -1;
            if (hand.detail().growing().kind || hand.of<ColourHand>().holding() != ColourHand::Holding::Brush)
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

const HandPart kRulePart{
    .count = [](const BenchRow &) { return colour::ruleKinds().size(); },
    .words = ruleWords,
    .tile = [](const BenchRow &bench, std::size_t k,
               int key) { return pictured(ruleWords(bench, k), key, usualPicture(colour::ruleKinds()[k], kTilePicture)); },
    .pick = [](HandModel &hand, const BenchRow &, std::size_t k) { hand.of<ColourHand>().setKind(&colour::ruleKinds()[k], 0); },
    .held = [](const HandModel &hand, const BenchRow &) { return placeOf(colour::ruleKinds(), hand.of<ColourHand>().kind()); },
    .settings = made<RuleSettings>,
};

const HandPart kColourPagePart{
    .count = [](const BenchRow &) { return colourPages().size(); },
    .words = colourPageWords,
    .tile = [](const BenchRow &bench, std::size_t k,
               int key) { return pictured(colourPageWords(bench, k), key, colourPages()[k].picture(kTilePicture)); },
    .pick = [](HandModel &hand, const BenchRow &, std::size_t k) { hand.of<ColourHand>().hold(colourPages()[k].holding); },
    .held =
        [](const HandModel &hand, const BenchRow &) {
            for (std::size_t k = 0; k < colourPages().size(); ++k)
                if (colourPages()[k].holding == hand.of<ColourHand>().holding())
                    return int(k);
            return -1;
        },
    .settings = [](Session &session, HandModel &hand, QSet<QString> &openSections) -> HandSettings * {
        for (const ColourPage &page : colourPages())
            if (page.holding == hand.of<ColourHand>().holding())
                return page.settings(session, hand, openSections);
        return colourPages()[0].settings(session, hand, openSections);
    },
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
