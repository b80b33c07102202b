#include "app/anatomy/colour_panel.h"

#include "app/anatomy/layer_row.h"
#include "app/hand/colour_hand.h"
#include "app/hand/value_slider.h"
#include "app/theme/table_words.h"
#include "app/theme/theme.h"
#include "command/colours/colour_fields.h"
#include "base/colour.h"
#include "colour/rule.h"
#include "command/fields.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

namespace {

/// What a layer holds, as a ball shows it: the fullest colour of a rule, or the mean of what was painted in its first blocks.
ColourBall ballOf(const skin::Skin &skin, const skin::ColourLayer &layer)
{
    ColourBall ball;
    if (layer.ramp) {
        if (!layer.ramp->stops.empty()) {
            const skin::RampColour c = skin::rampAt(*layer.ramp, skin, 1);
            ball.colour = qtColour({toSrgb(c.light.x), toSrgb(c.light.y), toSrgb(c.light.z)});
        } else {
            ball.colour = QColor(190, 182, 168); // finish alone
        }
        ball.shine = std::max(layer.ramp->finish[0].value_or(0), layer.ramp->finish[2].value_or(0));
        return ball;
    }
    constexpr std::size_t kMost = 3;
    const std::vector<std::uint32_t> blocks = skin::blocksOf(skin, layer.id);
    const auto at = [&](skin::LayerChannel c, std::uint32_t b) -> const std::uint8_t * {
        const skin::Bytes *values = skin::layerValues(skin, layer.id, c);
        return values ? values->data(b) : nullptr;
    };
    double sum[3]{}, cover = 0, shine = 0, finish = 0;
    for (std::size_t k = 0; k < std::min(kMost, blocks.size()); ++k) {
        const std::uint32_t b = blocks[k * blocks.size() / kMost % blocks.size()];
        for (std::size_t i = 0; i < skin.body.countIn(b); i += 16) {
            const auto value = [&](skin::LayerChannel c) {
                const std::uint8_t *v = at(c, b);
                return v ? double(v[i]) : 0.0;
            };
            for (std::size_t c = 0; c < 3; ++c)
                sum[c] += value(skin::LayerChannel(c));
            cover += value(skin::LayerChannel::Cover), finish += value(skin::LayerChannel::FinishCover);
            shine += std::max(value(skin::LayerChannel::Gloss), value(skin::LayerChannel::Wet));
        }
        for (const skin::PaletteColour &p : skin.palette)
            if (const skin::Bytes *values = skin::entryValues(skin, layer.id, p.id))
                if (const std::uint8_t *v = values->data(b))
                    for (std::size_t i = 0; i < skin.body.countIn(b); i += 16) {
                        sum[0] += double(p.colour.x) * v[i], sum[1] += double(p.colour.y) * v[i];
                        sum[2] += double(p.colour.z) * v[i], cover += v[i];
                    }
    }
    if (cover > 0)
        ball.colour = qtColour({float(sum[0] / cover), float(sum[1] / cover), float(sum[2] / cover)});
    else if (finish > 0)
        ball.colour = QColor(190, 182, 168);
    ball.shine = finish > 0 ? float(shine / finish) : 0;
    return ball;
}

} // namespace

ColourPanel::ColourPanel(Session &session, HandModel &hand, GrowthKeeper &keeper, QWidget *parent)
    : QWidget(parent), m_session(session), m_hand(hand), m_keeper(keeper)
{
    setObjectName(QStringLiteral("panel"));
    setAttribute(Qt::WA_StyledBackground);
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(12, 8, 4, 8);
    auto *top = new QHBoxLayout;
    auto *title = new QLabel(tr("Colour layers"));
    title->setStyleSheet(QStringLiteral("font-family: Vollkorn; font-size: 12pt; font-weight: 600;"));
    auto *add = new QPushButton(tr("+ layer"));
    add->setObjectName(QStringLiteral("addColourLayer"));
    add->setProperty("word", true);
    add->setToolTip(tr("A new colour layer on top"));
    connect(add, &QPushButton::clicked, this, [this] {
        if (m_session.piece() && m_session.run(toCommand(command::AddColourLayer{.piece = m_session.piece()})))
            m_session.chooseColourLayer(m_session.creature().piece(m_session.piece())->skin.colourLayers.back().id);
    });
    top->addWidget(title);
    top->addStretch();
    top->addWidget(add);
    column->addLayout(top);
    auto *scroll = new QScrollArea;
    scroll->setFocusPolicy(Qt::NoFocus); // what it holds takes the keys
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto *holder = new QWidget;
    holder->setObjectName(QStringLiteral("panelBody"));
    m_rows = new QVBoxLayout(holder);
    m_rows->setContentsMargins(0, 0, 8, 0);
    scroll->setWidget(holder);
    column->addWidget(scroll);
    connect(&session, &Session::creatureChanged, this, &ColourPanel::rebuild);
    connect(&session, &Session::lookChanged, this, &ColourPanel::rebuild);
    connect(&session, &Session::choiceChanged, this, &ColourPanel::rebuild);
    connect(&keeper, &GrowthKeeper::staleChanged, this, &ColourPanel::rebuild);
    rebuild();
}

void ColourPanel::toggleChosen()
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    if (const skin::ColourLayer *l = piece ? skin::colourLayer(piece->skin, m_session.colourLayer()) : nullptr)
        later(command::SetColourLayer{.layer = l->id, .isOn = !l->isOn});
}

template <typename P> void ColourPanel::later(P params)
{
    params.piece = m_session.piece();
    QMetaObject::invokeMethod(
        this, [this, command = toCommand(params)] { m_session.runLong(command, window()); }, Qt::QueuedConnection);
}

void ColourPanel::rebuild()
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    Built now{piece ? piece->id : 0,          m_session.colourLayer(), {}, {}, m_keeper.staleColours(),
              piece && piece->skin.hasMask(), theme().isDark};
    if (piece)
        now.layers = piece->skin.colourLayers;
    for (const skin::ColourLayer &l : now.layers)
        now.balls.push_back(ballOf(piece->skin, l));
    if (now == m_built && m_body) // strokes change nothing that is shown here
        return;
    m_built = std::move(now);
    delete m_body;
    m_body = new QWidget;
    auto *column = new QVBoxLayout(m_body);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    if (!piece || piece->skin.colourLayers.empty()) {
        auto *none = new QLabel(piece ? tr("The first stroke or fill makes a layer.") : tr("Colour comes with a skin."));
        none->setProperty("soft", true);
        none->setWordWrap(true);
        column->addWidget(none);
    }
    if (piece) {
        for (auto l = piece->skin.colourLayers.rbegin(); l != piece->skin.colourLayers.rend(); ++l)
            addRow(column, *l, m_built.balls[std::size_t(&*l - piece->skin.colourLayers.data())]);
        if (const skin::ColourLayer *chosen = skin::colourLayer(piece->skin, m_session.colourLayer()))
            addChosen(column, *piece, *chosen);
    }
    if (std::any_of(m_built.layers.begin(), m_built.layers.end(), [](const auto &l) { return l.rule != nullptr; })) {
        auto *run = new QCheckBox(tr("Rules run by themselves"));
        run->setObjectName(QStringLiteral("rulesRun"));
        run->setToolTip(tr("Behind your work, when the shape has changed; off: by Run again"));
        run->setChecked(m_keeper.rulesRun());
        connect(run, &QCheckBox::toggled, &m_keeper, &GrowthKeeper::setRulesRun);
        column->addWidget(run);
    }
    column->addStretch();
    m_rows->addWidget(m_body);
    m_body->show();
    m_rows->activate();
    QWidget *holder = m_rows->parentWidget();
    holder->resize(holder->size().expandedTo(holder->minimumSizeHint()));
}

void ColourPanel::addRow(QVBoxLayout *to, const skin::ColourLayer &layer, const ColourBall &ball)
{
    const bool isStale = std::find(m_built.stale.begin(), m_built.stale.end(), layer.id) != m_built.stale.end();
    QStringList words;
    if (layer.rule)
        words << tableWords("Rule", layer.rule->kind->title);
    if (isStale)
        words << tr("out of date");
    words << QStringList{tableWords("ColourBlend", skin::kColourBlendNames[std::size_t(layer.blend)])};
    if (layer.isLocked)
        words << tr("locked");
    if (layer.isAside)
        words << tr("aside");
    const std::uint32_t id = layer.id;
    auto *row = new LayerRow({QString::fromStdString(layer.name), words.join(QStringLiteral(" · ")), layer.isOn,
                              id == m_session.colourLayer(), false, layer.isAside, isStale, 0, 1, ball.colour, ball.shine});
    row->setObjectName(QStringLiteral("colourRow_%1").arg(id));
    row->choose = [this, id] {
        QMetaObject::invokeMethod(
            this, [this, id] { m_session.chooseColourLayer(id); }, Qt::QueuedConnection);
    };
    row->toggle = [this, id, isOn = layer.isOn] { later(command::SetColourLayer{.layer = id, .isOn = !isOn}); };
    row->rename = [this, id, name = layer.name] {
        bool isGiven = false;
        const QString next = QInputDialog::getText(this, tr("Rename colour layer"), tr("Name"), QLineEdit::Normal,
                                                   QString::fromStdString(name), &isGiven);
        if (isGiven && !next.trimmed().isEmpty())
            later(command::SetColourLayer{.layer = id, .name = next.trimmed().toStdString()});
    };
    if (row->slider) {
        row->slider->setObjectName(QStringLiteral("colourOpacity_%1").arg(id));
        row->slider->setValue(double(layer.opacity));
        connect(row->slider, &ValueSlider::released, this,
                [this, id](double v) { later(command::SetColourLayer{.layer = id, .opacity = float(v)}); });
    }
    to->addWidget(row);
}

void ColourPanel::layPicture(std::uint32_t layer)
{
    const QString path = QFileDialog::getOpenFileName(this, tr("Picture to lay over the skin"), {},
                                                      tr("Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.exr)"));
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    if (!path.isEmpty() && piece)
        later(command::TilePicture{
            .layer = command::ItemName(layer), .path = path.toStdString(), .size = 0.12f * piece->skin.shown.box().diagonal()});
}

void ColourPanel::addChosen(QVBoxLayout *to, const document::Piece &piece, const skin::ColourLayer &layer)
{
    const std::uint32_t id = layer.id;
    auto *blend = new QComboBox;
    blend->setObjectName(QStringLiteral("colourBlend"));
    blend->setAccessibleName(tr("Blend"));
    for (const std::string_view name : skin::kColourBlendNames)
        blend->addItem(tr("Blend: %1").arg(tableWords("ColourBlend", name)));
    blend->setCurrentIndex(int(layer.blend));
    connect(blend, &QComboBox::activated, this,
            [this, id](int k) { later(command::SetColourLayer{.layer = id, .blend = skin::ColourBlend(k)}); });
    to->addWidget(blend);
    QHBoxLayout *row = nullptr;
    const auto button = [&](const char *name, const QString &text, const QString &tip, bool isMeant, const auto &clicked) {
        auto *b = new QPushButton(text);
        b->setObjectName(QLatin1String(name));
        b->setToolTip(tip);
        b->setEnabled(isMeant && !layer.isLocked);
        connect(b, &QPushButton::clicked, this, clicked);
        row->addWidget(b);
        return b;
    };
    const bool hasMask = piece.skin.hasMask();
    const auto newRow = [&] { to->addLayout(row = new QHBoxLayout); };
    newRow();
    button("colourFill", hasMask ? tr("Fill what is masked") : tr("Fill"), tr("With the colour in hand"), true,
           [this, id, hasMask] {
               later(command::FillColour{.layer = command::ItemName(id),
                                         .entry = m_hand.settings(sculpt::Tool::Paint).entry,
                                         .colour = m_hand.settings(sculpt::Tool::Paint).colour,
                                         .where = hasMask ? command::FillWhere::Masked : command::FillWhere::All});
           });
    button("colourPicture", tr("Picture…"), tr("Lays a picture over the skin, in patches without a seam"), true, [this, id] {
        QMetaObject::invokeMethod( // a dialog outlives the buttons
            this, [this, id] { layPicture(id); }, Qt::QueuedConnection);
    });
    newRow();
    button("colourMask", tr("Mask it"), tr("Keeps it from showing where the mask in hand lies"), hasMask,
           [this, id] { later(command::MaskColourLayer{.layer = id}); });
    auto *onto = button("colourCopy", tr("Copy to"), tr("Lays a copy on another piece, by where it lies"), true, [] {});
    auto *menu = new QMenu(onto);
    for (const auto &other : m_session.creature().pieces)
        if (other->id != piece.id)
            menu->addAction(QString::fromStdString(other->name), this,
                            [this, id, to = other->id] { later(command::CopyColourLayer{.layer = id, .to = to}); });
    onto->setMenu(menu);
    onto->setEnabled(!menu->isEmpty());
    newRow();
    button("colourUp", tr("Up"), tr("Above the one over it"), &layer != &piece.skin.colourLayers.back(),
           [this, id, at = std::uint32_t(&layer - piece.skin.colourLayers.data())] {
               later(command::OrderColourLayer{.layer = id, .to = at + 1});
           });
    button("colourMerge", tr("Merge down"), tr("Adds it, as it shows, to the one below"),
           &layer != &piece.skin.colourLayers.front(), [this, id] { later(command::MergeColourLayer{.layer = id}); });
    newRow();
    button("colourAlone", tr("Alone"), tr("Shows this colour layer alone, or all again"), piece.skin.colourLayers.size() > 1,
           [this, id, isAlone = std::any_of(piece.skin.colourLayers.begin(), piece.skin.colourLayers.end(), [](const auto &l) {
                          return l.isAside;
                      })] { later(command::SoloColourLayer{.layer = id, .isOn = !isAlone}); });
    button("colourDelete", tr("Delete"), tr("Deletes this colour layer"), true,
           [this, id] { later(command::RemoveColourLayer{.layer = id}); });
    auto *lock = new QPushButton(layer.isLocked ? tr("Unlock") : tr("Lock"));
    lock->setObjectName(QStringLiteral("colourLock"));
    lock->setToolTip(tr("Keeps strokes and commands from it"));
    connect(lock, &QPushButton::clicked, this,
            [this, id, isLocked = layer.isLocked] { later(command::SetColourLayer{.layer = id, .isLocked = !isLocked}); });
    row->addWidget(lock);
}

} // namespace bonemoss::app
