#include "app/hand/hand_panel.h"

#include "app/hand/tile.h"
#include "app/theme/theme.h"

#include <QCoreApplication>
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QScrollBar>
#include <QVBoxLayout>

#include <algorithm>

namespace bonemoss::app {

namespace {

constexpr int kFolding = 8; ///< tiles of a group; larger ones fold on benches that have several

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
    m_scroll = new QScrollArea;
    auto *scroll = m_scroll;
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
    connect(&hand, &HandModel::settingsChanged, this, [this] { m_settings->refresh(); });
    connect(&session, &Session::creatureChanged, this, [this] {
        if (m_settings->isOfOneState())
            rebuildSettings();
        else
            m_settings->refresh();
        m_knit->setEnabled(!m_session.creature().armature.forms.empty());
    });
    connect(&session, &Session::choiceChanged, this, [this] {
        rebuildSettings();
        QMetaObject::invokeMethod(this, &HandPanel::showSettings, Qt::QueuedConnection);
    });
    connect(&session, &Session::lookChanged, this, [this] {
        rebuildTiles();
        rebuildSettings();
    });
    rebuildTiles();
    rebuildSettings();
}

/// The tiles of a part by group; groups that fit share a row. before: tiles of the bench that come before these.
void HandPanel::addTiles(QVBoxLayout *column, const HandPart &part, int before)
{
    const BenchRow &bench = rowOf(m_session.bench());
    std::vector<std::pair<QString, std::vector<Tile *>>> groups;
    for (std::size_t k = 0; k < part.count(bench); ++k) {
        const int number = before + int(k) + 1, key = number <= Tile::kKeys ? number : 0;
        const TileWords words = part.words(bench, k);
        Tile *tile = part.tile(bench, k, key);
        tile->setObjectName(words.id);
        tile->setToolTip(key > 0 ? tr("%1 (%2)").arg(words.hint, Tile::keyOf(key)) : words.hint);
        connect(tile, &QAbstractButton::clicked, this, [this, number] { m_hand.pickTile(number); });
        m_all.push_back(tile);
        auto group = std::find_if(groups.begin(), groups.end(), [&](const auto &g) { return g.first == words.group; });
        if (group == groups.end())
            group = groups.insert(groups.end(), {words.group, {}});
        group->second.push_back(tile);
    }
    const int columns = bench.tileColumns;
    auto *box = new QWidget;
    auto *grid = new QGridLayout(box);
    grid->setContentsMargins(0, 0, 0, 2);
    grid->setSpacing(4);
    int row = 0, used = 0; // of the row of headings, and columns of it
    for (const auto &[title, tiles] : groups) {
        const auto count = int(tiles.size());
        if (used > 0 && (used + count > columns || count > kFolding))
            row += 2, used = 0;
        if (bench.foldsGroups && count > kFolding) { // a word that opens them
            const QString id = QStringLiteral("tiles ") + title;
            const bool isOpen = m_openSections.contains(id);
            auto *word =
                new QPushButton((isOpen ? QStringLiteral("▾ ") : QStringLiteral("▸ ")) + tr("%1 (%2)").arg(title).arg(count));
            word->setObjectName(id);
            word->setProperty("word", true);
            connect(word, &QPushButton::clicked, this, [this, id, isOpen] {
                isOpen ? (void)m_openSections.remove(id) : (void)m_openSections.insert(id);
                m_isBuilt = false;
                QMetaObject::invokeMethod(this, &HandPanel::rebuildTiles, Qt::QueuedConnection);
            });
            grid->addWidget(word, row, 0, 1, columns, Qt::AlignLeft);
            if (!isOpen) {
                for (Tile *tile : tiles)
                    tile->setParent(box), tile->hide();
                ++row;
                continue;
            }
        } else {
            grid->addWidget(groupWord(title), row, used, 1, std::min(count, columns - used));
        }
        for (int i = 0; i < count; ++i)
            grid->addWidget(tiles[std::size_t(i)], row + 1 + (used + i) / columns, (used + i) % columns);
        used += count;
        if (used >= columns)
            row += 1 + (used + columns - 1) / columns, used = 0;
    }
    for (int c = 0; c < columns; ++c)
        grid->setColumnStretch(c, 1);
    column->addWidget(box);
}

void HandPanel::rebuildTiles()
{
    const BenchRow &bench = rowOf(m_session.bench());
    if (!m_isBuilt || bench.bench != m_builtFor) {
        delete m_tiles;
        m_all.clear();
        m_tiles = new QWidget;
        auto *column = new QVBoxLayout(m_tiles);
        column->setContentsMargins(0, 0, 0, 0);
        for (const HandPart *part : bench.hand)
            addTiles(column, *part, int(m_all.size()));
        m_tilesLayout->addWidget(m_tiles);
        m_keys->setText(bench.holdsTools ? m_heldWords : QString());
        m_builtFor = bench.bench;
        m_isBuilt = true;
    }
    showTool();
}

void HandPanel::showTool()
{
    const BenchRow &bench = rowOf(m_session.bench());
    std::size_t k = 0;
    for (const HandPart *part : bench.hand) {
        const int held = part->held(m_hand, bench);
        for (std::size_t i = 0; i < part->count(bench); ++i)
            m_all[k++]->setChecked(int(i) == held);
    }
}

/// Of a bench with so many tiles that the settings begin below the panel, what was chosen brings its settings into sight.
void HandPanel::showSettings()
{
    QCoreApplication::sendPostedEvents(nullptr, QEvent::LayoutRequest);
    if (m_session.chosenItem() && m_settings && m_tiles && m_settings->y() > m_scroll->viewport()->height() - 60)
        m_scroll->verticalScrollBar()->setValue(m_settings->y() - 8);
}

void HandPanel::rebuildSettings()
{
    const BenchRow &bench = rowOf(m_session.bench());
    delete m_settings;
    m_knit->setVisible(bench.showsForms);
    m_knit->setEnabled(!m_session.creature().armature.forms.empty());
    const auto held =
        std::find_if(bench.hand.begin(), bench.hand.end(), [&](const HandPart *part) { return part->held(m_hand, bench) >= 0; });
    m_settings = (held == bench.hand.end() ? bench.hand.front() : *held)->settings(m_session, m_hand, m_openSections);
    connect(m_settings, &HandSettings::rebuildAsked, this, &HandPanel::rebuildSettings, Qt::QueuedConnection);
    connect(m_settings, &HandSettings::reknitAsked, this, &HandPanel::reknitAsked);
    connect(m_settings, &HandSettings::refineAsked, this, &HandPanel::refineAsked);
    m_settingsLayout->addWidget(m_settings);
    m_settings->show();
    m_settings->parentWidget()->layout()->activate(); // or the tiles would be squeezed for a moment
}

} // namespace bonemoss::app
