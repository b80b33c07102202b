#include "app/hand/hand_panel.h"

#include "app/hand/tile.h"
#include "app/hand/tool_picture.h"
#include "app/hand/value_slider.h"
#include "app/theme/theme.h"
#include "image/picture.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QGridLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QSpinBox>
#include <QScrollArea>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>
#include <numbers>

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
                (t == 0 ? handle : draw).push_back({t + 1, tile});
            }
            column->addWidget(addTiles(tr("Handle"), handle));
            column->addWidget(addTiles(tr("Draw"), draw));
        } else {
            const std::vector<Tool> tools = m_hand.toolsOf(bench);
            const auto group = [bench](Tool t) {
                if (bench == Bench::Detail && (t == Tool::Stamp || t == Tool::Crease))
                    return HandPanel::tr("Press");
                return t == Tool::Raise || t == Tool::Swell  ? HandPanel::tr("Build")
                       : t == Tool::Tug || t == Tool::Crease ? HandPanel::tr("Move and carve")
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
    m_settings = new QWidget;
    auto *column = new QVBoxLayout(m_settings);
    column->setContentsMargins(0, 8, 0, 0);
    column->setSpacing(5);
    m_settingsLayout->addWidget(m_settings);
    m_knit->setVisible(m_session.bench() == Bench::Armature);
    m_knit->setEnabled(!m_session.creature().armature.forms.empty());
    if (m_session.bench() == Bench::Armature)
        fillForms();
    else
        fillTool();
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
    slider("strength", tr("Strength"), {0, 1, false, QStringLiteral("%"), 0, 100}, &StrokeSettings::strength);
    if (tool == Tool::Stamp)
        slider("randomTurn", tr("Random turn"), {0, 1, false, QStringLiteral("%"), 0, 100}, &StrokeSettings::randomTurn);
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
    auto *mirror = new QCheckBox(tr("Mirror across the middle plane (M)"));
    mirror->setObjectName(QStringLiteral("mirror"));
    connect(mirror, &QCheckBox::toggled, this, [this](bool on) { m_hand.setMirrored(on); });
    m_refresh.push_back([this, mirror] {
        const QSignalBlocker quiet(mirror);
        mirror->setChecked(m_hand.isMirrored());
    });
    column->addWidget(mirror);
    box("connected", tr("Only connected skin"), &StrokeSettings::isConnected);
    box("pressureToStrength", tr("Pen pressure sets strength"), &StrokeSettings::pressureToStrength);
    box("pressureToSize", tr("Pen pressure sets size"), &StrokeSettings::pressureToSize);
    box("reverse", tr("Reversed"), &StrokeSettings::isReversed);
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
    column->addLayout(row);
    m_refresh.push_back([this, reknit, refine] {
        const bool has = m_session.piece() != 0;
        reknit->setEnabled(has);
        refine->setEnabled(has);
    });
}

void HandPanel::fillForms()
{
    auto *column = qobject_cast<QVBoxLayout *>(m_settings->layout());
    const armature::Form *f = m_session.creature().armature.find(m_session.form());
    if (f) {
        column->addWidget(heading(QString::fromStdString(f->name)));
        fillFormNumbers();
    }
}

/// How often a form stands, and by what rule.
void HandPanel::fillRepeat(const armature::Form &form)
{
    auto *column = qobject_cast<QVBoxLayout *>(m_settings->layout());
    const armature::Repeat &r = form.repeat;
    const auto run = [this, id = form.id](nlohmann::json change) {
        change["do"] = "form.repeat";
        change["form"] = id;
        m_session.run(change);
    };
    auto *row = new QHBoxLayout;
    auto *mode = new QComboBox;
    mode->setObjectName(QStringLiteral("repeatMode"));
    mode->setAccessibleName(tr("Copies"));
    mode->addItem(tr("Stands once"));
    mode->addItem(tr("Round an axis"));
    for (const armature::Form &guide : m_session.creature().armature.forms)
        if (guide.id != form.id && (hasPath(guide.kind) || guide.kind == armature::FormKind::Body))
            mode->addItem(tr("Along %1").arg(QString::fromStdString(guide.name)), guide.id);
    mode->setCurrentIndex(r.mode == armature::RepeatMode::Along ? std::max(0, mode->findData(r.guide)) : int(r.mode));
    mode->setEnabled(!form.isLocked);
    connect(
        mode, &QComboBox::activated, this,
        [this, run, mode, form](int i) {
            const std::uint32_t count = std::max(form.repeat.count, 3u);
            if (i == 0)
                run({{"mode", "none"}});
            else if (i == 1) { // about the parent's joint, upright, until told otherwise
                const armature::Form *parent = m_session.creature().armature.find(form.parent);
                const Vec3f c = parent ? m_session.creature().armature.worldPlace(*parent).move : Vec3f{};
                run({{"mode", "around"}, {"count", count}, {"centre", {c.x, c.y, c.z}}, {"axis", {0, 1, 0}}});
            } else
                run({{"mode", "along"}, {"count", count}, {"guide", mode->itemData(i).toUInt()}});
        },
        Qt::QueuedConnection);
    row->addWidget(mode, 1);
    if (r.mode != armature::RepeatMode::None) {
        const std::string name(armature::kRepeatNames[std::size_t(r.mode)]);
        auto *count = new QSpinBox;
        count->setObjectName(QStringLiteral("repeatCount"));
        count->setAccessibleName(tr("How many in all"));
        count->setToolTip(tr("How many in all"));
        count->setRange(1, 1000);
        count->setValue(int(r.count));
        count->setKeyboardTracking(false);
        connect(
            count, &QSpinBox::valueChanged, this,
            [run, name](int n) {
                run({{"mode", name}, {"count", n}});
            },
            Qt::QueuedConnection);
        row->addWidget(count);
        auto *free = new QPushButton(tr("Break free"));
        free->setObjectName(QStringLiteral("repeatBreak"));
        free->setToolTip(tr("Every copy becomes a form of its own"));
        connect(
            free, &QPushButton::clicked, this,
            [this, id = form.id] {
                m_session.run({{"do", "form.break"}, {"form", id}});
            },
            Qt::QueuedConnection);
        row->addWidget(free);
    }
    column->addLayout(row);
}

void HandPanel::fillFormNumbers()
{
    auto *column = qobject_cast<QVBoxLayout *>(m_settings->layout());
    const creature::Creature &c = m_session.creature();
    const armature::Form form = *c.armature.find(m_session.form());
    const Transform world = c.armature.worldPlace(form);
    auto *grid = new QGridLayout;
    grid->setHorizontalSpacing(4);
    grid->setVerticalSpacing(4);
    int line = 0;
    const auto number = [&](double value, double least, double most, const QString &id, const QString &tip, auto set) {
        auto *spin = new QDoubleSpinBox;
        spin->setButtonSymbols(QAbstractSpinBox::NoButtons);
        spin->setDecimals(2);
        spin->setMinimumWidth(48);
        spin->setMaximumWidth(60);
        spin->setRange(least, most);
        spin->setValue(value);
        spin->setObjectName(id);
        spin->setAccessibleName(tip);
        spin->setToolTip(tip);
        spin->setKeyboardTracking(false);
        spin->setEnabled(!form.isLocked);
        connect(spin, &QDoubleSpinBox::valueChanged, this, set, Qt::QueuedConnection); // the panel is rebuilt by it
        return spin;
    };
    const auto send = [this, id = form.id](nlohmann::json change) {
        change["do"] = "form.set";
        change["form"] = id;
        m_session.run(change);
    };
    const auto triple = [&](const QString &name, const char *key, Vec3f v, double least, double most) {
        grid->addWidget(groupWord(name), line, 0);
        static const char *const ends[3] = {QT_TR_NOOP("left"), QT_TR_NOOP("crown"), QT_TR_NOOP("nose")};
        for (int axis = 0; axis < 3; ++axis)
            grid->addWidget(number(double(at(v, axis)), least, most, QLatin1String(key) + QString::number(axis),
                                   tr("%1, towards %2").arg(name, tr(ends[axis])),
                                   [send, v, axis, key = std::string(key)](double x) {
                                       float row[3] = {v.x, v.y, v.z};
                                       row[axis] = float(x);
                                       send({{key, {row[0], row[1], row[2]}}});
                                   }),
                            line, 1 + axis);
        ++line;
    };
    triple(tr("Place"), "at", world.move, -1e5, 1e5);
    triple(tr("Turn °"), "turn", toEulerDeg(world.turn), -360, 360);
    triple(tr("Scale"), "scale", world.scale, 0.01, 100);
    using armature::FormKind;
    const auto single = [&](const QString &name, const char *key, double v, double least, double most) {
        grid->addWidget(groupWord(name), line, 0);
        grid->addWidget(number(v, least, most, QLatin1String(key), name,
                               [send, key = std::string(key)](double x) {
                                   send({{key, x}});
                               }),
                        line++, 1);
    };
    // Sections along a path: radius, and for a tube squash and squareness, a row for each point.
    const auto pathNumbers = [&] {
        const bool isTube = form.kind == FormKind::Tube;
        grid->addWidget(groupWord(tr("At point")), line, 0);
        grid->addWidget(groupWord(tr("radius")), line, 1);
        if (isTube) {
            grid->addWidget(groupWord(tr("squash")), line, 2);
            grid->addWidget(groupWord(tr("square")), line, 3);
        }
        ++line;
        std::vector<std::array<float, 7>> rows;
        for (const auto &p : form.path) {
            const Vec3f q = world.apply(p.at);
            rows.push_back({q.x, q.y, q.z, p.radius, p.squash, p.square, p.turn * 180 / std::numbers::pi_v<float>});
        }
        for (std::size_t i = 0; i < rows.size(); ++i, ++line) {
            grid->addWidget(groupWord(QString::number(i + 1)), line, 0);
            for (int k = 0; k < (isTube ? 3 : 1); ++k) {
                static const char *const what[] = {"radius", "squash", "square"};
                const auto part = std::size_t(3 + k);
                grid->addWidget(number(double(rows[i][part]), k == 1 ? 0.05 : 0, k == 2 ? 1 : 10000,
                                       QStringLiteral("%1_%2").arg(QLatin1String(what[k])).arg(i),
                                       tr("%1 at point %2").arg(QLatin1String(what[k])).arg(i + 1),
                                       [send, rows, i, part](double x) {
                                           auto now = rows;
                                           now[i][part] = float(x);
                                           send({{"path", now}});
                                       }),
                                line, 1 + k);
            }
        }
    };
    const auto is = [&](std::initializer_list<FormKind> kinds) {
        return std::find(kinds.begin(), kinds.end(), form.kind) != kinds.end();
    };
    if (is({FormKind::Ball, FormKind::Blob}))
        single(tr("Radius"), "radius", double(form.radii.x), 0.01, 10000);
    if (is({FormKind::Ellipsoid, FormKind::Block, FormKind::Wedge}))
        triple(form.kind == FormKind::Ellipsoid ? tr("Radii") : tr("Half size"), "radii", form.radii, 0.01, 10000);
    if (is({FormKind::Torus, FormKind::Disc})) {
        const auto radius = [&](const QString &name, const char *id, float value, int which) {
            grid->addWidget(groupWord(name), line, 0);
            grid->addWidget(number(double(value), 0.01, 10000, QLatin1String(id), name,
                                   [send, r = form.radii, which](double x) {
                                       float now[3] = {r.x, r.y, r.z};
                                       now[which] = float(x);
                                       send({{"radii", {now[0], now[1], now[2]}}});
                                   }),
                            line++, 1);
        };
        radius(form.kind == FormKind::Torus ? tr("Ring") : tr("Rim"), "ring", form.radii.x, 0);
        radius(form.kind == FormKind::Torus ? tr("Tube") : tr("Half thick"), "tube", form.radii.y, 1);
    }
    if (form.kind == FormKind::Cylinder)
        single(tr("Bore 0–0.95"), "bore", double(form.bore), 0, 0.95);
    if (form.kind == FormKind::Body)
        single(tr("Square 0–1"), "square", double(form.square), 0, 1);
    if (is({FormKind::Limb, FormKind::Cone, FormKind::Cylinder, FormKind::Tube, FormKind::Turned}))
        pathNumbers();
    if (is({FormKind::Block, FormKind::Wedge, FormKind::Disc, FormKind::Cylinder}))
        single(tr("Rounding"), "rounding", double(form.rounding), 0, 10000);
    single(tr("Melt mm"), "melt", double(form.melt), 0, 1000);
    grid->setColumnStretch(4, 1);
    column->addLayout(grid);
    const auto toggle = [&](const QString &name, const char *key, bool on) {
        auto *b = new QCheckBox(name);
        b->setObjectName(QLatin1String(key));
        b->setChecked(on);
        connect(
            b, &QCheckBox::toggled, this,
            [send, key = std::string(key)](bool now) {
                send({{key, now}});
            },
            Qt::QueuedConnection);
        column->addWidget(b);
    };
    fillRepeat(form);
    toggle(tr("Twin across the middle plane"), "mirror", form.isMirrored);
    auto *role = new QComboBox;
    role->setObjectName(QStringLiteral("role"));
    role->addItems({tr("Adds to the skin"), tr("Cuts from the skin"), tr("Stays apart (eyes, teeth)")});
    role->setCurrentIndex(int(form.role));
    connect(
        role, &QComboBox::activated, this,
        [send](int i) {
            send({{"role", nameOf(armature::FormRole(i))}});
        },
        Qt::QueuedConnection);
    column->addWidget(role);
}

} // namespace bonemoss::app
