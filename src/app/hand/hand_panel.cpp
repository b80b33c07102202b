#include "app/hand/hand_panel.h"

#include "app/hand/deform_settings.h"
#include "app/hand/form_settings.h"
#include "app/hand/tile.h"
#include "app/hand/tool_picture.h"
#include "app/hand/value_slider.h"
#include "app/theme/theme.h"
#include "image/picture.h"

#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

using sculpt::StrokeSettings;
using sculpt::Tool;

namespace {

QLabel *heading(const QString &text)
{
    auto *label = new QLabel(text);
    label->setFont(headingFont(12));
    label->setStyleSheet(QStringLiteral("font-family: Vollkorn; font-size: 12pt; font-weight: 600;"));
    return label;
}

QLabel *groupWord(const QString &text)
{
    auto *label = new QLabel(text);
    label->setProperty("group", true);
    return label;
}

QIcon stampIcon(std::string_view name)
{
    const image::HeightPicture *picture = image::builtInStamp(name);
    QImage icon(40, 40, QImage::Format_RGB32);
    for (int y = 0; y < 40; ++y)
        for (int x = 0; x < 40; ++x) { // lit from upper left, as on the skin
            const float u = (float(x) + 0.5f) / 40, v = (float(y) + 0.5f) / 40, d = 1.0f / 80;
            const float slope = picture->at(u + d, v) - picture->at(u - d, v) + picture->at(u, v + d) - picture->at(u, v - d);
            const int grey = std::clamp(int(168 + 190 * slope + 50 * (picture->at(u, v) - 0.5f)), 30, 245);
            icon.setPixel(x, y, qRgb(grey, int(grey * 0.95), int(grey * 0.86)));
        }
    return QIcon(QPixmap::fromImage(icon));
}

} // namespace

void HandPanel::setHeldWords(const QString &words)
{
    m_heldWords = words;
    m_keys->setText(m_session.bench() == Bench::Armature ? QString() : m_heldWords);
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
        for (const auto &show : m_refresh)
            show();
    };
    connect(&hand, &HandModel::settingsChanged, this, refresh);
    connect(&session, &Session::creatureChanged, this, [this, refresh] {
        if (m_session.bench() == Bench::Armature)
            rebuildSettings();
        else
            refresh();
    });
    connect(&session, &Session::choiceChanged, this, &HandPanel::rebuildSettings);
    rebuildTiles();
    rebuildSettings();
}

QWidget *HandPanel::addTiles(const QString &group, const std::vector<std::pair<int, Tile *>> &tiles)
{
    auto *box = new QWidget;
    auto *grid = new QGridLayout(box);
    grid->setContentsMargins(0, 0, 0, 2);
    grid->setSpacing(6);
    grid->addWidget(groupWord(group), 0, 0, 1, 3);
    int n = 0;
    for (const auto &[number, tile] : tiles) {
        grid->addWidget(tile, 1 + n / 3, n % 3);
        connect(tile, &QAbstractButton::clicked, this, [this, pick = number] { m_hand.pickTile(pick); });
        m_all.push_back(tile);
        ++n;
    }
    for (int column = 0; column < 3; ++column)
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
        if (bench == Bench::Armature) {
            std::vector<std::pair<int, Tile *>> handle, draw;
            for (int t = 0; t < kFormTileCount; ++t) {
                auto *tile = new Tile(formTileTitle(FormTile(t)), t < 9 ? t + 1 : 0, formPicture(FormTile(t)), true);
                tile->setObjectName(QStringLiteral("formTile%1").arg(t));
                tile->setToolTip(t < 9 ? tr("%1 (%2)").arg(formTileHint(FormTile(t))).arg(t + 1) : formTileHint(FormTile(t)));
                (t == int(FormTile::Choose) || t == int(FormTile::Tape) ? handle : draw).push_back({t + 1, tile});
            }
            column->addWidget(addTiles(tr("Handle"), handle));
            column->addWidget(addTiles(tr("Draw"), draw));
        } else {
            const std::vector<Tool> tools = m_hand.toolsOf(bench);
            const auto group = [bench](Tool t) {
                if (bench == Bench::Detail && (t == Tool::Stamp || t == Tool::Crease))
                    return HandPanel::tr("Press");
                if (t == Tool::Denser || t == Tool::Sparser)
                    return HandPanel::tr("Faces");
                return t == Tool::Raise || t == Tool::Swell                        ? HandPanel::tr("Build")
                       : t == Tool::Tug || t == Tool::Crease || t == Tool::Tendril ? HandPanel::tr("Move and carve")
                                                                                   : HandPanel::tr("Settle and keep");
            };
            QStringList order;
            for (const Tool t : tools)
                if (!order.contains(group(t)))
                    order << group(t);
            for (const QString &name : order) {
                std::vector<std::pair<int, Tile *>> tiles;
                for (std::size_t i = 0; i < tools.size(); ++i)
                    if (group(tools[i]) == name) {
                        auto *tile = new Tile(toolTitle(tools[i]), int(i) + 1, toolPicture(tools[i]), false);
                        tile->setObjectName(QStringLiteral("toolTile_") + QString::fromUtf8(nameOf(tools[i]).data()));
                        tile->setToolTip(tr("%1 (%2)").arg(toolHint(tools[i])).arg(i + 1));
                        tiles.push_back({int(i) + 1, tile});
                    }
                column->addWidget(addTiles(name, tiles));
            }
        }
        m_tilesLayout->addWidget(m_tiles);
        m_keys->setText(bench == Bench::Armature ? QString() : m_heldWords);
        m_builtFor = bench;
        m_isBuilt = true;
    }
    showTool();
}

void HandPanel::showTool()
{
    if (m_session.bench() == Bench::Armature) {
        for (Tile *tile : m_all)
            tile->setChecked(tile->objectName() == QStringLiteral("formTile%1").arg(int(m_hand.formTile())));
        return;
    }
    const QString now = QStringLiteral("toolTile_") + QString::fromUtf8(nameOf(m_hand.tool()).data());
    for (Tile *tile : m_all)
        tile->setChecked(tile->objectName() == now);
}

void HandPanel::rebuildSettings()
{
    delete m_settings;
    m_refresh.clear();
    m_knit->setVisible(m_session.bench() == Bench::Armature);
    m_knit->setEnabled(!m_session.creature().armature.forms.empty());
    if (m_session.bench() == Bench::Armature) {
        m_settings = new FormSettings(m_session, m_hand, m_openSections);
    } else {
        m_settings = new QWidget;
        auto *column = new QVBoxLayout(m_settings);
        column->setContentsMargins(0, 8, 0, 0);
        column->setSpacing(5);
        fillTool();
    }
    m_settingsLayout->addWidget(m_settings);
    for (const auto &show : m_refresh)
        show();
    m_settings->show();
    m_settings->parentWidget()->layout()->activate(); // or the tiles would be squeezed for a moment
}

void HandPanel::fillTool()
{
    auto *column = qobject_cast<QVBoxLayout *>(m_settings->layout());
    const Tool tool = m_hand.tool();
    column->addWidget(heading(toolTitle(tool)));
    const auto slider = [&](const char *id, const QString &name, ValueSlider::Range range, float StrokeSettings::*member) {
        auto *s = new ValueSlider(name, range);
        s->setObjectName(QLatin1String(id));
        connect(s, &ValueSlider::edited, this,
                [this, member](double v) { m_hand.change([&](StrokeSettings &settings) { settings.*member = float(v); }); });
        m_refresh.push_back([this, s, member] { s->setValue(double(m_hand.settings().*member)); });
        column->addWidget(s);
    };
    const auto box = [&](const char *id, const QString &name, bool StrokeSettings::*member) {
        auto *b = new QCheckBox(name);
        b->setObjectName(QLatin1String(id));
        connect(b, &QCheckBox::toggled, this,
                [this, member](bool on) { m_hand.change([&](StrokeSettings &settings) { settings.*member = on; }); });
        m_refresh.push_back([this, b, member] {
            const QSignalBlocker quiet(b);
            b->setChecked(m_hand.settings().*member);
        });
        column->addWidget(b);
    };
    if (tool == Tool::Stamp) {
        auto *stamps = new QComboBox;
        stamps->setObjectName(QStringLiteral("stampChoice"));
        stamps->setIconSize(QSize(32, 32));
        for (const std::string_view name : image::builtInStamps())
            stamps->addItem(stampIcon(name), QString::fromUtf8(name.data(), qsizetype(name.size())));
        connect(stamps, &QComboBox::textActivated, this,
                [this](const QString &name) { m_hand.change([&](StrokeSettings &s) { s.stamp = name.toStdString(); }); });
        m_refresh.push_back([this, stamps] { stamps->setCurrentText(QString::fromStdString(m_hand.settings().stamp)); });
        column->addWidget(stamps);
        box("stampDrag", tr("Drag out to size and angle"), &StrokeSettings::isDragged);
        slider("depth", tr("Depth"), {0.02, 20, true, tr("mm"), 2}, &StrokeSettings::depth);
    }
    slider("size", tr("Size"), {0.2, 100, true, tr("mm"), 1}, &StrokeSettings::size);
    if (changesFaces(tool))
        slider("edge", tr("Edges"), {0.02, 0.6, true, tr("of size"), 2}, &StrokeSettings::edge);
    const bool isDensity = tool == Tool::Denser || tool == Tool::Sparser;
    if (!changesFaces(tool)) // those have no strength: they go all the way
        slider("strength", tr("Strength"), {0, 1, false, QStringLiteral("%"), 0, 100}, &StrokeSettings::strength);
    if (tool == Tool::Stamp)
        slider("randomTurn", tr("Random turn"), {0, 1, false, QStringLiteral("%"), 0, 100}, &StrokeSettings::randomTurn);
    if (tool != Tool::Tendril) // it takes its own steps
        slider("spacing", tr("Spacing"), {0.02, 4, true, tr("of size"), 2}, &StrokeSettings::spacing);
    slider("steadiness", tr("Steadiness"), {0, 0.95, false, QStringLiteral("%"), 0, 100}, &StrokeSettings::steadiness);
    auto *falloff = new QComboBox;
    falloff->setObjectName(QStringLiteral("falloff"));
    falloff->setAccessibleName(tr("Falloff"));
    for (const std::string_view name : sculpt::kFalloffNames)
        falloff->addItem(tr("Falloff: %1").arg(QString::fromUtf8(name.data())));
    connect(falloff, &QComboBox::activated, this,
            [this](int i) { m_hand.change([&](StrokeSettings &s) { s.falloff = sculpt::Falloff(i); }); });
    m_refresh.push_back([this, falloff] { falloff->setCurrentIndex(int(m_hand.settings().falloff)); });
    column->addWidget(falloff);
    if (isDensity) // theirs is their own: over into what is there
        falloff->hide();
    auto *mirror = new QCheckBox(tr("Mirror across the middle plane (M)"));
    mirror->setObjectName(QStringLiteral("mirror"));
    connect(mirror, &QCheckBox::toggled, this, [this](bool on) { m_hand.setMirrored(on); });
    m_refresh.push_back([this, mirror] {
        const QSignalBlocker quiet(mirror);
        mirror->setChecked(m_hand.isMirrored());
    });
    column->addWidget(mirror);
    if (!isDensity) // their faces always hang together
        box("connected", tr("Only connected skin"), &StrokeSettings::isConnected);
    if (!changesFaces(tool))
        box("pressureToStrength", tr("Pen pressure sets strength"), &StrokeSettings::pressureToStrength);
    box("pressureToSize", tr("Pen pressure sets size"), &StrokeSettings::pressureToSize);
    if (tool != Tool::Tendril)
        box("reverse", tr("Reversed"), &StrokeSettings::isReversed);
    auto *levels = new QHBoxLayout;
    const auto step = [&](const char *name, const QString &sign, const QString &tip, const char *to) {
        auto *button = new QToolButton;
        button->setObjectName(QString::fromLatin1(name));
        button->setText(sign);
        button->setToolTip(tip);
        connect(button, &QToolButton::clicked, this, [this, to] {
            m_session.runLong({{"do", "piece.level"}, {"piece", m_session.piece()}, {"to", to}}, window());
        });
        return button;
    };
    auto *coarser =
        step("coarserButton", QStringLiteral("−"), tr("One level coarser; finer detail waits and rides along"), "coarser");
    auto *finer = step("finerButton", QStringLiteral("+"), tr("One level finer"), "finer");
    auto *level = new QLabel;
    level->setObjectName(QStringLiteral("levelLabel"));
    level->setAlignment(Qt::AlignCenter);
    levels->addWidget(coarser);
    levels->addWidget(level, 1);
    levels->addWidget(finer);
    auto *row = new QHBoxLayout;
    auto *reknit = new QPushButton(tr("Re-knit…"));
    reknit->setObjectName(QStringLiteral("reknitButton"));
    reknit->setToolTip(tr("Rebuild this skin at another spacing; layers and mask come along"));
    auto *refine = new QPushButton(tr("Refine"));
    refine->setObjectName(QStringLiteral("refineButton"));
    refine->setToolTip(tr("Four times the faces, for finer detail"));
    connect(reknit, &QPushButton::clicked, this, &HandPanel::reknitAsked);
    connect(refine, &QPushButton::clicked, this, &HandPanel::refineAsked);
    row->addWidget(reknit);
    row->addWidget(refine);
    column->addSpacing(6);
    column->addLayout(levels);
    column->addLayout(row);
    if (m_session.bench() == Bench::Sculpt)
        column->addWidget(new DeformSettings(m_session, m_hand));
    m_refresh.push_back([this, reknit, refine, coarser, finer, level] {
        const creature::Piece *piece = m_session.creature().piece(m_session.piece());
        const std::size_t at = piece ? piece->skin.level : 0, last = piece ? piece->skin.links.size() : 0;
        reknit->setEnabled(piece);
        refine->setEnabled(piece && at == last);
        for (QWidget *w : {static_cast<QWidget *>(coarser), static_cast<QWidget *>(finer), static_cast<QWidget *>(level)})
            w->setVisible(last > 0);
        coarser->setEnabled(at > 0);
        finer->setEnabled(at < last);
        level->setText(tr("Level %1 of %2").arg(at + 1).arg(last + 1));
    });
}

} // namespace bonemoss::app
