#include "app/hand/hand_panel.h"

#include "app/theme/table_words.h"
#include "app/hand/deform_settings.h"
#include "app/hand/form_settings.h"
#include "app/hand/growth_picture.h"
#include "app/hand/growth_settings.h"
#include "app/hand/outgrowth_picture.h"
#include "app/hand/outgrowth_settings.h"
#include "app/hand/tile.h"
#include "app/hand/tool_picture.h"
#include "app/hand/tool_settings.h"
#include "app/theme/theme.h"

#include <QCoreApplication>
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace bonemoss::app {

using sculpt::Tool;

namespace {

constexpr QSize kTilePicture(72, 40);

QLabel *groupWord(const QString &text)
{
    auto *label = new QLabel(text);
    label->setProperty("group", true);
    return label;
}

} // namespace

void HandPanel::setHeldWords(const QString &words)
{
    m_heldWords = words;
    m_keys->setText(rowOf(m_session.bench()).holdsTools ? m_heldWords : QString());
}

HandPanel::HandPanel(Session &session, HandModel &hand, QWidget *parent) : QWidget(parent), m_session(session), m_hand(hand)
{
    setObjectName(QStringLiteral("panel"));
    setAttribute(Qt::WA_StyledBackground);
    auto *whole = new QVBoxLayout(this);
    whole->setContentsMargins(12, 10, 4, 6);
    auto *top = new QHBoxLayout;
    top->addWidget(heading(tr("Hand")));
    top->addStretch();
    m_keys = new QLabel;
    m_keys->setProperty("soft", true);
    top->addWidget(m_keys);
    top->addSpacing(8);
    whole->addLayout(top);
    auto *scroll = new QScrollArea;
    scroll->setFocusPolicy(Qt::NoFocus); // what it holds takes the keys
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto *body = new QWidget;
    body->setObjectName(QStringLiteral("panelBody"));
    auto *column = new QVBoxLayout(body);
    column->setContentsMargins(0, 0, 8, 0);
    m_tilesLayout = new QVBoxLayout;
    m_settingsLayout = new QVBoxLayout;
    column->addLayout(m_tilesLayout);
    column->addLayout(m_settingsLayout);
    column->addStretch();
    scroll->setWidget(body);
    whole->addWidget(scroll);
    m_knit = new QPushButton(tr("Knit into a skin…"));
    m_knit->setObjectName(QStringLiteral("knitButton"));
    m_knit->setProperty("main", true);
    m_knit->setToolTip(tr("Melt the forms into one closed skin; the armature stays"));
    connect(m_knit, &QPushButton::clicked, this, &HandPanel::knitAsked);
    auto *foot = new QHBoxLayout;
    foot->setContentsMargins(0, 0, 8, 4);
    foot->addWidget(m_knit);
    whole->addLayout(foot);
    connect(&hand, &HandModel::toolChanged, this, [this] {
        rebuildTiles();
        rebuildSettings();
    });
    const auto refresh = [this] {
        if (m_toolSettings)
            m_toolSettings->refresh();
        if (m_growthSettings)
            m_growthSettings->refresh();
        if (m_outgrowthSettings)
            m_outgrowthSettings->refresh();
    };
    connect(&hand, &HandModel::settingsChanged, this, refresh);
    connect(&session, &Session::creatureChanged, this, [this, refresh] {
        if (rowOf(m_session.bench()).showsForms)
            rebuildSettings();
        else
            refresh();
    });
    connect(&session, &Session::choiceChanged, this, &HandPanel::rebuildSettings);
    connect(&session, &Session::lookChanged, this, [this] {
        rebuildTiles();
        rebuildSettings();
    });
    rebuildTiles();
    rebuildSettings();
}

QWidget *HandPanel::addTiles(const QString &group, const std::vector<std::pair<int, Tile *>> &tiles)
{
    auto *box = new QWidget;
    auto *grid = new QGridLayout(box);
    grid->setContentsMargins(0, 0, 0, 2);
    grid->setSpacing(4);
    const int columns = rowOf(m_session.bench()).tileColumns;
    grid->addWidget(groupWord(group), 0, 0, 1, columns);
    int n = 0;
    for (const auto &[number, tile] : tiles) {
        grid->addWidget(tile, 1 + n / columns, n % columns);
        connect(tile, &QAbstractButton::clicked, this, [this, pick = number] { m_hand.pickTile(pick); });
        m_all.push_back(tile);
        ++n;
    }
    for (int column = 0; column < columns; ++column)
        grid->setColumnStretch(column, 1);
    return box;
}

void HandPanel::rebuildTiles()
{
    const Bench bench = m_session.bench();
    if (!m_isBuilt || bench != m_builtFor) {
        delete m_tiles;
        m_all.clear();
        m_tiles = new QWidget;
        auto *column = new QVBoxLayout(m_tiles);
        column->setContentsMargins(0, 0, 0, 0);
        if (rowOf(bench).showsForms) {
            std::vector<std::pair<int, Tile *>> handle, draw;
            for (int t = 0; t < kFormTileCount; ++t) {
                auto *tile = new Tile(formTileTitle(FormTile(t)), t < Tile::kKeys ? t + 1 : 0, formPicture(FormTile(t)), true);
                tile->setObjectName(QStringLiteral("formTile%1").arg(t));
                tile->setToolTip(t < Tile::kKeys ? tr("%1 (%2)").arg(formTileHint(FormTile(t)), Tile::keyOf(t + 1))
                                                 : formTileHint(FormTile(t)));
                (t == int(FormTile::Choose) || t == int(FormTile::Tape) ? handle : draw).push_back({t + 1, tile});
            }
            column->addWidget(addTiles(tr("Handle"), handle));
            column->addWidget(addTiles(tr("Draw"), draw));
        } else {
            const std::span<const Tool> tools = rowOf(bench).tools;
            const auto group = [bench](Tool t) {
                return rowOf(bench).oneGroup ? QCoreApplication::translate("Bench", rowOf(bench).oneGroup)
                                             : HandPanel::tr(sculpt::kToolGroups[std::size_t(sculpt::rowOf(t).group)].data());
            };
            QStringList order;
            for (const Tool t : tools)
                if (!order.contains(group(t)))
                    order << group(t);
            for (const QString &name : order) {
                std::vector<std::pair<int, Tile *>> tiles;
                for (std::size_t i = 0; i < tools.size(); ++i)
                    if (group(tools[i]) == name) {
                        const int number = int(i) < Tile::kKeys ? int(i) + 1 : 0; // of its key
                        auto *tile = new Tile(toolTitle(tools[i]), number, toolPicture(tools[i]), false);
                        tile->setObjectName(QStringLiteral("toolTile_") + QString::fromUtf8(nameOf(tools[i]).data()));
                        tile->setToolTip(number > 0 ? tr("%1 (%2)").arg(toolHint(tools[i]), Tile::keyOf(number))
                                                    : toolHint(tools[i]));
                        tiles.push_back({int(i) + 1, tile});
                    }
                column->addWidget(addTiles(name, tiles));
            }
            if (rowOf(bench).roots)
                addKinds(column);
            if (rowOf(bench).grows) {
                std::vector<std::pair<int, Tile *>> tiles;
                int number = int(tools.size());
                for (const growth::GrowthKind &kind : growth::growthKinds()) {
                    const auto text = [](std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); };
                    auto *tile = new Tile(tableWords("Growth", kind.title), 0, {}, false);
                    tile->setImage(usualPicture(kind, kTilePicture));
                    tile->setObjectName(QStringLiteral("growthTile_") + text(kind.name));
                    tile->setToolTip(tr(text(kind.text).toUtf8().constData()));
                    tiles.push_back({++number, tile});
                }
                column->addWidget(addTiles(tr("Grow"), tiles));
            }
        }
        m_tilesLayout->addWidget(m_tiles);
        m_keys->setText(rowOf(bench).holdsTools ? m_heldWords : QString());
        m_builtFor = bench;
        m_isBuilt = true;
    }
    showTool();
}

/// Tiles of the outgrowths by group; groups that fit share a row.
void HandPanel::addKinds(QVBoxLayout *column)
{
    const auto kinds = outgrowth::kinds();
    const auto text = [](std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); };
    const int columns = rowOf(m_session.bench()).tileColumns;
    auto *box = new QWidget;
    auto *grid = new QGridLayout(box);
    grid->setContentsMargins(0, 0, 0, 2);
    grid->setSpacing(4);
    int row = 0, used = 0; // of the row of headings, and columns of it
    for (std::size_t first = 0, k = 0; first < kinds.size(); first = k) {
        while (k < kinds.size() && kinds[k].group == kinds[first].group)
            ++k;
        const auto count = int(k - first);
        if (used > 0 && used + count > columns)
            row += 2, used = 0;
        grid->addWidget(groupWord(tableWords("Outgrowth", kinds[first].group)), row, used, 1, std::min(count, columns - used));
        for (int i = 0; i < count; ++i) {
            const outgrowth::Kind &kind = kinds[first + std::size_t(i)];
            const int number = int(first) + i + 1, key = number <= Tile::kKeys ? number : 0;
            auto *tile = new Tile(tableWords("Outgrowth", kind.title), key, {}, false);
            tile->setImage(usualPicture(kind, kTilePicture));
            tile->setObjectName(QStringLiteral("outgrowthTile_") + text(kind.name));
            const QString tip = tableWords("Outgrowth", kind.text);
            tile->setToolTip(key > 0 ? tr("%1 (%2)").arg(tip, Tile::keyOf(key)) : tip);
            grid->addWidget(tile, row + 1 + (used + i) / columns, (used + i) % columns);
            connect(tile, &QAbstractButton::clicked, this, [this, number] { m_hand.pickTile(number); });
            m_all.push_back(tile);
        }
        used += count;
        if (used >= columns)
            row += 1 + (used + columns - 1) / columns, used = 0;
    }
    for (int c = 0; c < columns; ++c)
        grid->setColumnStretch(c, 1);
    column->addWidget(box);
}

void HandPanel::showTool()
{
    if (rowOf(m_session.bench()).showsForms) {
        for (Tile *tile : m_all)
            tile->setChecked(tile->objectName() == QStringLiteral("formTile%1").arg(int(m_hand.armature().formTile())));
        return;
    }
    if (rowOf(m_session.bench()).roots) {
        const auto *kind = m_hand.outgrowths().rule().kind;
        for (Tile *tile : m_all)
            tile->setChecked(kind
                             && tile->objectName()
                                    == QStringLiteral("outgrowthTile_")
                                           + QString::fromUtf8(kind->name.data(), qsizetype(kind->name.size())));
        return;
    }
    const auto *kind = m_hand.detail().growing().kind;
    const QString now = kind ? QStringLiteral("growthTile_") + QString::fromUtf8(kind->name.data(), qsizetype(kind->name.size()))
                             : QStringLiteral("toolTile_") + QString::fromUtf8(nameOf(m_hand.tool()).data());
    for (Tile *tile : m_all)
        tile->setChecked(tile->objectName() == now);
}

void HandPanel::rebuildSettings()
{
    m_toolSettings = nullptr;
    m_growthSettings = nullptr;
    m_outgrowthSettings = nullptr;
    delete m_settings;
    m_knit->setVisible(rowOf(m_session.bench()).showsForms);
    m_knit->setEnabled(!m_session.creature().armature.forms.empty());
    if (rowOf(m_session.bench()).showsForms) {
        auto *form = new FormSettings(m_session, m_hand, m_openSections);
        connect(form, &FormSettings::rebuildAsked, this, &HandPanel::rebuildSettings, Qt::QueuedConnection);
        m_settings = form;
    } else if (rowOf(m_session.bench()).roots) {
        auto *outgrowth = new OutgrowthSettings(m_session, m_hand, m_openSections);
        connect(outgrowth, &OutgrowthSettings::foldChanged, this, &HandPanel::rebuildSettings);
        m_outgrowthSettings = outgrowth;
        m_settings = outgrowth;
    } else if (m_hand.detail().growing().kind) {
        auto *growth = new GrowthSettings(m_session, m_hand, m_openSections);
        connect(growth, &GrowthSettings::refineAsked, this, &HandPanel::refineAsked);
        connect(growth, &GrowthSettings::foldChanged, this, &HandPanel::rebuildSettings);
        m_growthSettings = growth;
        m_settings = growth;
    } else {
        auto *tool = new ToolSettings(m_session, m_hand, m_openSections);
        connect(tool, &ToolSettings::reknitAsked, this, &HandPanel::reknitAsked);
        connect(tool, &ToolSettings::refineAsked, this, &HandPanel::refineAsked);
        connect(tool, &ToolSettings::foldChanged, this, &HandPanel::rebuildSettings);
        m_toolSettings = tool;
        m_settings = tool;
    }
    m_settingsLayout->addWidget(m_settings);
    m_settings->show();
    m_settings->parentWidget()->layout()->activate(); // or the tiles would be squeezed for a moment
}

} // namespace bonemoss::app
