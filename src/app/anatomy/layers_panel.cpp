#include "app/anatomy/layers_panel.h"

#include "app/hand/value_slider.h"
#include "app/session/layer_clipboard.h"
#include "app/theme/theme.h"
#include "command/growth/growth_fields.h"
#include "document/ops/growths.h"
#include "command/fields.h"
#include "command/layers/layer_fields.h"

#include <QCheckBox>
#include <QFrame>
#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>
#include <QSettings>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

#include <cmath>

namespace bonemoss::app {

using nlohmann::json;

LayersPanel::LayersPanel(Session &session, GrowthKeeper &growths, QWidget *parent)
    : QWidget(parent), m_session(session), m_growths(growths)
{
    setObjectName(QStringLiteral("panel"));
    setAttribute(Qt::WA_StyledBackground);
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(12, 8, 4, 8);
    auto *top = new QHBoxLayout;
    auto *title = new QLabel(tr("Detail layers"));
    title->setStyleSheet(QStringLiteral("font-family: Vollkorn; font-size: 12pt; font-weight: 600;"));
    auto *add = new QPushButton(tr("+ layer"));
    add->setObjectName(QStringLiteral("addLayer"));
    add->setProperty("word", true);
    add->setToolTip(tr("A new detail layer on top"));
    connect(add, &QPushButton::clicked, this, &LayersPanel::addLayer);
    top->addWidget(title);
    top->addStretch();
    top->addWidget(add);
    column->addLayout(top);
    m_again = new QPushButton;
    m_again->setObjectName(QStringLiteral("growAllAgain"));
    m_again->setToolTip(
        tr("The form beneath has changed; they grow by the same rules on the skin as it is, and work by hand stays"));
    m_again->hide();
    connect(m_again, &QPushButton::clicked, this,
            [this] { m_session.runLong(toCommand(command::GrowAgain{.piece = m_session.piece()}), window()); });
    auto *again = new QHBoxLayout;
    again->setContentsMargins(0, 0, 14, 0); // as wide as the rows, which stand beside the scroll bar
    again->addWidget(m_again);
    column->addLayout(again);
    m_byItself = new QCheckBox(tr("Grow again by itself"));
    m_byItself->setObjectName(QStringLiteral("growsByItself"));
    m_byItself->setToolTip(tr("What no longer fits grows again behind your work, when the hand rests"));
    m_byItself->setChecked(m_growths.growsByItself());
    m_byItself->hide();
    connect(m_byItself, &QCheckBox::toggled, &m_growths, &GrowthKeeper::setGrowsByItself);
    column->addWidget(m_byItself);
    connect(&session, &Session::behindChanged, this, &LayersPanel::showAgain);
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
    const auto follow = [this] {
        rebuild();
        showAgain();
    };
    connect(&m_growths, &GrowthKeeper::staleChanged, this, follow);
    connect(&session, &Session::creatureChanged, this, follow);
    connect(&session, &Session::lookChanged, this, follow);
    connect(&session, &Session::choiceChanged, this, follow);
    rebuild();
}

template <typename P> void LayersPanel::later(P params)
{
    params.piece = m_session.piece();
    QMetaObject::invokeMethod(
        this, [this, command = toCommand(params)] { m_session.runLong(command, window()); }, Qt::QueuedConnection);
}

const skin::Layer *LayersPanel::chosen() const
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    return piece ? piece->skin.layer(m_session.layer()) : nullptr;
}

void LayersPanel::addLayer()
{
    if (!m_session.piece())
        return;
    if (m_session.run(toCommand(command::AddLayer{.piece = m_session.piece()})))
        m_session.chooseLayer(m_session.creature().piece(m_session.piece())->skin.layers.back().id);
}

void LayersPanel::showAgain()
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    m_byItself->setVisible(piece && std::any_of(piece->skin.layers.begin(), piece->skin.layers.end(), [](const auto &l) {
                               return l.growth != nullptr;
                           }));
    m_again->setVisible(!m_growths.stale().empty());
    m_again->setEnabled(!m_session.isWorkingBehind());
    m_again->setText(m_session.isWorkingBehind()     ? tr("Growing again…")
                     : m_growths.stale().size() == 1 ? tr("Grow again what no longer fits")
                                                     : tr("Grow %1 again that no longer fit").arg(m_growths.stale().size()));
}

LayerFacts LayersPanel::factsOf(const document::Piece &piece, const skin::Layer &l) const
{
    LayerFacts f;
    f.name = QString::fromStdString(l.name);
    f.isOn = l.isOn, f.isAside = l.isAside, f.isChosen = l.id == m_session.layer(),
    f.asksAgain = std::find(m_growths.stale().begin(), m_growths.stale().end(), l.id) != m_growths.stale().end();
    const skin::Layer *over = l.handOver ? piece.skin.layer(l.handOver) : nullptr;
    QStringList words;
    if (l.growth)
        words << tr("grown: %1").arg(textOf(l.growth->kind->title).toLower());
    else
        words << (over ? tr("by hand over %1").arg(QString::fromStdString(over->name)) : tr("painted"));
    if (f.asksAgain)
        words << tr("does not fit");
    if (l.isLocked)
        words << tr("locked");
    if (l.isAside)
        words << tr("aside");
    if (!l.mask.isBlank())
        words << tr("masked");
    f.words = words.join(QStringLiteral(" · "));
    return f;
}

LayerRow *LayersPanel::rowOf(const document::Piece &piece, const skin::Layer &l)
{
    const std::uint32_t id = l.id;
    const bool on = l.isOn;
    auto *row = new LayerRow(factsOf(piece, l));
    row->setObjectName(QStringLiteral("layerRow_%1").arg(id));
    row->slider->setObjectName(QStringLiteral("layerStrength_%1").arg(id));
    row->slider->setValue(double(l.strength));
    row->choose = [this, id] {
        QMetaObject::invokeMethod(
            this, [this, id] { m_session.chooseLayer(id); }, Qt::QueuedConnection);
    };
    row->toggle = [this, id, on] { later(command::SetLayer{.layer = id, .isOn = !on}); };
    row->rename = [this, id, name = row->accessibleName()] {
        QMetaObject::invokeMethod(
            this, [this, id, name] { rename(id, name); }, Qt::QueuedConnection);
    };
    row->menu = [this, id](QPoint at) { showMenu(id, at); };
    row->dragged = [this, id](int y) { dragRow(id, y); };
    connect(row->slider, &ValueSlider::edited, this, [this, id](double v) { preview(id, v); });
    connect(row->slider, &ValueSlider::released, this, [this, id, choose = row->choose, was = double(l.strength)](double v) {
        emit previewChanged(nullptr);
        if (std::abs(v - was) < 1e-6) // only clicked
            return choose();
        later(command::SetLayer{.layer = id, .strength = float(v)});
    });
    return row;
}

void LayersPanel::rebuild()
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    // Strokes change nothing that is shown here: leave the rows (and the keyboard's place) alone.
    std::vector<std::pair<LayerFacts, double>> facts;
    std::vector<std::uint32_t> of{piece ? piece->id : 0, m_session.layer(), theme().isDark};
    if (piece)
        for (const auto &l : piece->skin.layers)
            facts.push_back({factsOf(*piece, l), double(l.strength)}), of.push_back(l.id);
    if (facts == m_builtAs && of == m_builtOf && m_body)
        return;
    m_builtAs = std::move(facts), m_builtOf = std::move(of);
    delete m_body;
    m_mark = nullptr;
    m_body = new QWidget;
    auto *column = new QVBoxLayout(m_body);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    if (piece) {
        for (auto l = piece->skin.layers.rbegin(); l != piece->skin.layers.rend(); ++l)
            column->addWidget(rowOf(*piece, *l));
        auto *body = new LayerRow({tr("Body"), {}, true, m_session.layer() == 0, true});
        body->setObjectName(QStringLiteral("layerRow_0"));
        body->setToolTip(tr("Strokes go to the form itself"));
        body->choose = [this] {
            QMetaObject::invokeMethod(
                this, [this] { m_session.chooseLayer(0); }, Qt::QueuedConnection);
        };
        column->addWidget(body);
    } else {
        auto *none = new QLabel(tr("Layers come with a skin."));
        none->setProperty("soft", true);
        column->addWidget(none);
    }
    column->addStretch();
    m_rows->addWidget(m_body);
    m_body->show(); // at once in full height: else rows of a long list are squeezed until the next turn of the events
    m_rows->activate();
    QWidget *holder = m_rows->parentWidget();
    holder->resize(holder->size().expandedTo(holder->minimumSizeHint()));
}

/// Shows between which rows a dragged one would go, and puts it there when it is let go.
void LayersPanel::dragRow(std::uint32_t id, int y)
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    const bool isLetGo = y < 0;
    y = isLetGo ? -1 - y : y;
    std::size_t above = 0; // rows that stay above it, and where the gap is
    int gap = 0;
    std::size_t n = 0;
    for (auto l = piece->skin.layers.rbegin(); l != piece->skin.layers.rend(); ++l, ++n) {
        const auto *row = m_body->findChild<QWidget *>(QStringLiteral("layerRow_%1").arg(l->id));
        if (row && row->geometry().center().y() < y)
            above = n + 1, gap = row->geometry().bottom() + 3;
    }
    if (!m_mark) {
        m_mark = new QFrame(m_body);
        m_mark->setStyleSheet(QStringLiteral("background: %1;").arg(theme().moss.name()));
    }
    m_mark->setGeometry(8, std::max(0, gap - 1), m_body->width() - 16, 3);
    m_mark->setVisible(!isLetGo);
    if (!isLetGo)
        return;
    std::size_t from = 0; // from below
    while (piece->skin.layers[from].id != id)
        ++from;
    std::size_t to = n - above; // gaps from below
    if (to > from)
        --to; // its own place closes
    if (to != from)
        later(command::OrderLayer{.layer = id, .to = std::uint32_t(to)});
}

void LayersPanel::rename(std::uint32_t id, const QString &name)
{
    const QString now = QInputDialog::getText(this, tr("Layer"), tr("Name"), QLineEdit::Normal, name);
    if (!now.isEmpty() && now != name)
        later(command::SetLayer{.layer = id, .name = now.toStdString()});
}

void LayersPanel::showMenu(std::uint32_t id, QPoint at)
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    const skin::Layer &l = *piece->skin.layer(id);
    QMenu menu;
    menu.setObjectName(QStringLiteral("layerMenu"));
    const auto add = [&](const QString &text, auto params, bool changes = true) {
        menu.addAction(text, this, [this, params] { later(params); })->setEnabled(!l.isLocked || !changes);
    };
    menu.addAction(tr("Rename…"), this, [this, id, name = QString::fromStdString(l.name)] { rename(id, name); });
    const bool isAlone =
        std::any_of(piece->skin.layers.begin(), piece->skin.layers.end(), [](const auto &o) { return o.isAside; });
    add(isAlone ? tr("Show all again") : tr("Show alone"), command::SoloLayer{.layer = id, .isOn = !isAlone}, false);
    add(l.isLocked ? tr("Unlock") : tr("Lock"), command::SetLayer{.layer = id, .isLocked = !l.isLocked}, false);
    menu.addSeparator();
    if (l.growth)
        add(tr("Grow again"), command::GrowAgain{.layer = id});
    add(tr("Hide where the mask lies"), command::MaskLayer{.layer = id});
    add(tr("Show only where the mask lies"), command::MaskLayer{.layer = id, .isInverted = true});
    if (!l.mask.isBlank()) {
        add(tr("Show everywhere"), command::MaskLayer{.layer = id, .mask = "none"});
        add(tr("Its mask into the hand"), command::MaskFromLayer{.layer = id});
    }
    if (l.growth && growth::hasCells(*l.growth->kind)) {
        add(tr("Mask its scales or spots"), command::MaskCells{.layer = id});
        add(tr("Mask what lies between"), command::MaskCells{.layer = id, .what = command::GrowthPart::Gaps});
        add(tr("Make groups of its scales"), command::GroupCells{.layer = id});
    }
    menu.addSeparator();
    add(tr("Duplicate"), command::DuplicateLayer{.layer = id}, false);
    add(tr("Swap left and right"), command::FlipLayer{.layer = id});
    QMenu *onto = menu.addMenu(tr("Copy to"));
    onto->setEnabled(m_session.creature().pieces.size() > 1);
    for (const auto &other : m_session.creature().pieces)
        if (other->id != piece->id)
            onto->addAction(QString::fromStdString(other->name), this,
                            [this, id, to = other->id] { later(command::CopyLayer{.layer = id, .to = to}); });
    menu.addAction(tr("Copy"), this, [this, id] {
        const document::Piece *from = m_session.creature().piece(m_session.piece());
        const skin::Layer *copied = from ? from->skin.layer(id) : nullptr;
        if (!copied)
            return;
        if (const Status done = copyLayer(*from, *copied); !done)
            m_session.complain(wordsFor(done.error()));
        else
            m_session.tell(tr("%1 can be pasted on any piece, here or in another creature.").arg(layerOnClipboard()));
    });
    if (const QString name = layerOnClipboard(); !name.isEmpty())
        menu.addAction(tr("Paste %1").arg(name), this, [this] {
            if (const auto paste = pasteLayer())
                later(*paste);
        });
    add(tr("Merge down"), command::MergeLayer{.layer = id});
    add(tr("Delete"), command::RemoveLayer{.layer = id});
    menu.exec(at);
}

void LayersPanel::preview(std::uint32_t layer, double strength)
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    if (!piece)
        return;
    auto shown = std::make_shared<document::Piece>(*piece);
    skin::Layer *l = shown->skin.layer(layer);
    if (!l)
        return;
    l->strength = float(strength);
    skin::mixBlocks(shown->skin, skin::blocksWith(*l));
    emit previewChanged(shown);
}

void LayersPanel::toggleChosen()
{
    if (const skin::Layer *l = chosen())
        m_session.run(toCommand(command::SetLayer{.piece = m_session.piece(), .layer = l->id, .isOn = !l->isOn}));
}

void LayersPanel::soloChosen()
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    if (!chosen())
        return;
    const bool isAlone =
        std::any_of(piece->skin.layers.begin(), piece->skin.layers.end(), [](const auto &o) { return o.isAside; });
    m_session.run(toCommand(command::SoloLayer{.piece = piece->id, .layer = m_session.layer(), .isOn = !isAlone}));
}

} // namespace bonemoss::app
