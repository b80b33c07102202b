#include "app/hand/tool_settings.h"

#include "app/hand/stamp_chooser.h"

#include "app/hand/deform_settings.h"
#include "app/hand/falloff_curve.h"
#include "app/hand/tool_store.h"
#include "app/theme/theme.h"
#include "image/picture.h"

#include <QCheckBox>
#include <QComboBox>
#include <QInputDialog>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

#include <algorithm>

namespace bonemoss::app {

using nlohmann::json;
using sculpt::StrokeSettings;
using sculpt::Tool;

ToolSettings::ToolSettings(Session &session, HandModel &hand, QSet<QString> &openSections)
    : m_session(session), m_hand(hand), m_open(openSections), m_tool(hand.tool())
{
    m_column = new QVBoxLayout(this);
    m_column->setContentsMargins(0, 8, 0, 0);
    m_column->setSpacing(5);
    auto *title = new QLabel(toolTitle(m_tool));
    title->setFont(headingFont(12));
    title->setStyleSheet(QStringLiteral("font-family: Vollkorn; font-size: 12pt; font-weight: 600;"));
    m_column->addWidget(title);
    addOwn();
    addFalloff();
    addStroke();
    addPen();
    addStencil();
    addSymmetry();
    addSaved();
    addLevels();
    refresh();
}

void ToolSettings::refresh()
{
    for (const auto &show : m_refresh)
        show();
}

void ToolSettings::slider(QVBoxLayout *to, const char *id, const QString &name, ValueSlider::Range range,
                          float StrokeSettings::*member)
{
    auto *s = new ValueSlider(name, range);
    s->setObjectName(QLatin1String(id));
    connect(s, &ValueSlider::edited, this,
            [this, member](double v) { m_hand.change([&](StrokeSettings &settings) { settings.*member = float(v); }); });
    m_refresh.push_back([this, s, member] { s->setValue(double(m_hand.settings(m_tool).*member)); });
    to->addWidget(s);
}

void ToolSettings::box(QVBoxLayout *to, const char *id, const QString &name, bool StrokeSettings::*member)
{
    auto *b = new QCheckBox(name);
    b->setObjectName(QLatin1String(id));
    connect(b, &QCheckBox::toggled, this,
            [this, member](bool on) { m_hand.change([&](StrokeSettings &settings) { settings.*member = on; }); });
    m_refresh.push_back([this, b, member] {
        const QSignalBlocker quiet(b);
        b->setChecked(m_hand.settings(m_tool).*member);
    });
    to->addWidget(b);
}

template <typename Choice>
void ToolSettings::choice(QVBoxLayout *to, const char *id, const QString &tip, const QStringList &words,
                          Choice StrokeSettings::*member)
{
    auto *b = new QComboBox;
    b->setObjectName(QLatin1String(id));
    b->setAccessibleName(tip);
    b->setToolTip(tip);
    b->addItems(words);
    connect(b, &QComboBox::activated, this,
            [this, member](int i) { m_hand.change([&](StrokeSettings &settings) { settings.*member = Choice(i); }); });
    m_refresh.push_back([this, b, member] { b->setCurrentIndex(int(m_hand.settings(m_tool).*member)); });
    to->addWidget(b);
}

QVBoxLayout *ToolSettings::section(const QString &name, const QString &id)
{
    const bool isOpen = m_open.contains(id);
    auto *word = new QPushButton((isOpen ? QStringLiteral("▾ ") : QStringLiteral("▸ ")) + name);
    word->setObjectName(id);
    word->setProperty("word", true);
    connect(word, &QPushButton::clicked, this, [this, id, isOpen] {
        isOpen ? (void)m_open.remove(id) : (void)m_open.insert(id);
        QMetaObject::invokeMethod(this, &ToolSettings::foldChanged, Qt::QueuedConnection);
    });
    m_column->addWidget(word, 0, Qt::AlignLeft);
    if (!isOpen)
        return nullptr;
    auto *inside = new QVBoxLayout;
    inside->setSpacing(4);
    m_column->addLayout(inside);
    return inside;
}

void ToolSettings::addOwn()
{
    if (m_tool == Tool::Stamp) {
        auto *stamps = new StampChooser(m_session);
        connect(stamps, &StampChooser::chosen, this, [this](const QString &name) {
            m_hand.change([&](StrokeSettings &s) {
                s.stamp = name.toStdString();
                for (const creature::Stamp &own : m_session.creature().stamps)
                    if (own.name == s.stamp)
                        s.depth = own.depth; // as high as what it was taken from
            });
        });
        connect(stamps, &StampChooser::harvestAsked, &m_hand, &HandModel::beginHarvest);
        m_refresh.push_back([this, stamps] { stamps->setChosen(QString::fromStdString(m_hand.settings(m_tool).stamp)); });
        m_column->addWidget(stamps);
        box(m_column, "stampDrag", tr("Drag out to size and angle"), &StrokeSettings::isDragged);
    }
    if (m_tool == Tool::Plane) {
        choice(m_column, "planeSide", tr("Which skin goes to the plane"),
               {tr("Ridges and hollows"), tr("Only ridges"), tr("Only hollows")}, &StrokeSettings::planeSide);
        choice(m_column, "planeFrom", tr("Where the plane lies"),
               {tr("Plane of the area under the ring"), tr("Plane of the stroke's start"), tr("Locked plane")},
               &StrokeSettings::planeFrom);
        auto *lock = new QPushButton(tr("Lock the last stroke's plane"));
        lock->setObjectName(QStringLiteral("planeLock"));
        lock->setToolTip(tr("Every stroke goes to that plane until another choice is made"));
        connect(lock, &QPushButton::clicked, this, [this] {
            m_hand.change([&](StrokeSettings &s) {
                s.planePoint = m_hand.lastPlane()->first, s.planeNormal = m_hand.lastPlane()->second;
                s.planeFrom = sculpt::PlaneFrom::Locked;
            });
        });
        m_refresh.push_back([this, lock] { lock->setEnabled(m_hand.lastPlane().has_value()); });
        m_column->addWidget(lock);
    }
    if (m_tool == Tool::Knead)
        choice(m_column, "knead", tr("What Knead does with what it holds"),
               {tr("Drag with the pen"), tr("Rotate with the stroke"), tr("Grow with distance"), tr("Stretch along the stroke")},
               &StrokeSettings::knead);
    slider(m_column, "size", tr("Size"), {double(kLeastToolSize), double(kMostToolSize), true, tr("mm"), 1},
           &StrokeSettings::size);
    if (!changesFaces(m_tool)) // those have no strength: they go all the way
        slider(m_column, "strength", tr("Strength"), {0, 1, false, QStringLiteral("%"), 0, 100}, &StrokeSettings::strength);
    if (m_tool == Tool::Stamp || m_tool == Tool::Slab)
        slider(m_column, "depth", m_tool == Tool::Slab ? tr("Thickness") : tr("Depth"), {0.02, 20, true, tr("mm"), 2},
               &StrokeSettings::depth);
    if (changesFaces(m_tool))
        slider(m_column, "edge", tr("Edges"), {0.02, 0.6, true, tr("of size"), 2}, &StrokeSettings::edge);
    if (m_tool == Tool::Stamp) {
        slider(m_column, "randomTurn", tr("Random rotation"), {0, 1, false, QStringLiteral("%"), 0, 100},
               &StrokeSettings::randomTurn);
        slider(m_column, "randomStrength", tr("Random strength"), {0, 1, false, QStringLiteral("%"), 0, 100},
               &StrokeSettings::randomStrength);
        box(m_column, "randomFlip", tr("Mirror images now and then"), &StrokeSettings::randomFlip);
    }
    if (m_tool == Tool::Smooth) {
        slider(m_column, "reach", tr("Width of the bumps that go"), {0, 0.5, false, tr("of size"), 2}, &StrokeSettings::reach);
        box(m_column, "shrink", tr("Let it shrink"), &StrokeSettings::shrinks);
    }
    auto *screen = new QCheckBox(tr("Keep the size on the screen"));
    screen->setObjectName(QStringLiteral("sizeOnScreen"));
    screen->setToolTip(tr("Nearer means finer: the ring stays as wide as it looks, for all tools"));
    connect(screen, &QCheckBox::toggled, &m_hand, &HandModel::setSizeOnScreen);
    m_refresh.push_back([this, screen] {
        const QSignalBlocker quiet(screen);
        screen->setChecked(m_hand.isSizeOnScreen());
    });
    m_column->addWidget(screen);
    auto *touch = new QCheckBox(tr("Tint what a stroke would touch"));
    touch->setObjectName(QStringLiteral("tintTouch"));
    touch->setToolTip(tr("Under the ring, before the pen comes down, for all tools"));
    connect(touch, &QCheckBox::toggled, &m_hand, &HandModel::setTintsTouch);
    m_refresh.push_back([this, touch] {
        const QSignalBlocker quiet(touch);
        touch->setChecked(m_hand.tintsTouch());
    });
    m_column->addWidget(touch);
    auto *mirror = new QCheckBox(tr("Mirror, as the symmetry says (M)"));
    mirror->setObjectName(QStringLiteral("mirror"));
    connect(mirror, &QCheckBox::toggled, &m_hand, &HandModel::setMirrored);
    m_refresh.push_back([this, mirror] {
        const QSignalBlocker quiet(mirror);
        mirror->setChecked(m_hand.isMirrored());
    });
    m_column->addWidget(mirror);
    if (!takesHold(m_tool) && !settles(m_tool))
        box(m_column, "reverse", tr("Reversed"), &StrokeSettings::isReversed);
    if (m_tool == Tool::Twist || (m_tool == Tool::Knead))
        box(m_column, "reverse", tr("Reversed"), &StrokeSettings::isReversed);
}

void ToolSettings::addFalloff()
{
    if (m_tool == Tool::Denser || m_tool == Tool::Sparser || m_tool == Tool::Knead)
        return; // theirs is their own
    QVBoxLayout *column = section(tr("Falloff"), QStringLiteral("sectionFalloff"));
    if (!column)
        return;
    QStringList names;
    for (const std::string_view name : sculpt::kFalloffNames)
        names << QString::fromUtf8(name.data());
    choice(column, "falloff", tr("Falloff"), names, &StrokeSettings::falloff);
    auto *curve = new FalloffCurve;
    curve->setObjectName(QStringLiteral("falloffCurve"));
    connect(curve, &FalloffCurve::drawn, this, [this](const sculpt::DrawnFalloff &heights) {
        m_hand.change([&](StrokeSettings &s) { s.drawn = heights, s.falloff = sculpt::Falloff::Drawn; });
    });
    m_refresh.push_back([this, curve] { curve->show(m_hand.settings(m_tool).falloff, m_hand.settings(m_tool).drawn); });
    column->addWidget(curve);
}

void ToolSettings::addStroke()
{
    QVBoxLayout *column = section(tr("Stroke"), QStringLiteral("sectionStroke"));
    if (!column)
        return;
    if (!takesHold(m_tool)) // those take their own steps
        slider(column, "spacing", tr("Spacing"), {0.02, 4, true, tr("of size"), 2}, &StrokeSettings::spacing);
    if (!takesHold(m_tool)) {
        slider(column, "scatter", tr("Scatter"), {0, 3, false, tr("of size"), 2}, &StrokeSettings::scatter);
        slider(column, "sizeScatter", tr("Size variation"), {0, 1, false, QStringLiteral("%"), 0, 100},
               &StrokeSettings::sizeScatter);
    }
    if (!takesHold(m_tool)) {
        const auto choose = [&](const char *id, const QString &name, const QString &tip, bool (HandModel::*is)() const,
                                void (HandModel::*set)(bool)) {
            auto *b = new QCheckBox(name);
            b->setObjectName(QLatin1String(id));
            b->setToolTip(tip);
            connect(b, &QCheckBox::toggled, &m_hand, set);
            m_refresh.push_back([this, b, is] {
                const QSignalBlocker quiet(b);
                b->setChecked((m_hand.*is)());
            });
            column->addWidget(b);
        };
        choose("drawsCurves", tr("Along a curve of points"),
               tr("Click points on the skin; the stroke shows while they are dragged"), &HandModel::drawsCurves,
               &HandModel::setDrawsCurves);
        choose("fadesEnds", tr("Taper ends"), tr("Of a stroke along a curve"), &HandModel::fadesEnds, &HandModel::setFadesEnds);
        auto *lay = new QPushButton(tr("Apply stroke (Enter)"));
        lay->setObjectName(QStringLiteral("layCurve"));
        connect(lay, &QPushButton::clicked, this, [this] { emit m_hand.curveAsked(true); });
        m_refresh.push_back([this, lay] { lay->setEnabled(m_hand.drawsCurves()); });
        column->addWidget(lay);
    }
    if (!takesHold(m_tool))
        slider(column, "rope", tr("Rope length"), {0, 3, false, tr("of size"), 2}, &StrokeSettings::rope);
    slider(column, "steadiness", tr("Steadiness"), {0, 0.95, false, QStringLiteral("%"), 0, 100}, &StrokeSettings::steadiness);
    if (!changesFaces(m_tool) && m_tool != Tool::Mask)
        slider(column, "limit", tr("Limit per stroke, 0 for none"), {0, 20, false, tr("mm"), 1}, &StrokeSettings::limit);
    if (m_tool != Tool::Denser && m_tool != Tool::Sparser) // their faces always hang together
        box(column, "connected", tr("Only connected skin"), &StrokeSettings::isConnected);
    if (!changesFaces(m_tool))
        box(column, "islandOnly", tr("Else only one island"), &StrokeSettings::isIslandOnly);
    if (settles(m_tool))
        box(column, "guardThin", tr("Keep the far side of thin parts"), &StrokeSettings::guardsThin);
    if (takesHold(m_tool) || settles(m_tool))
        box(column, "frontOnly", tr("Only skin that faces the ring"), &StrokeSettings::isFrontOnly);
}

/// A picture held before the view.
void ToolSettings::addStencil()
{
    QVBoxLayout *column = section(tr("Stencil"), QStringLiteral("sectionStencil"));
    if (!column)
        return;
    const auto box = [&](const char *id, const QString &name, const QString &tip, bool StencilPlan::*member) {
        auto *b = new QCheckBox(name);
        b->setObjectName(QLatin1String(id));
        b->setToolTip(tip);
        connect(b, &QCheckBox::toggled, this, [this, member](bool on) {
            StencilPlan next = m_hand.stencil();
            next.*member = on;
            m_hand.setStencil(next);
        });
        m_refresh.push_back([this, b, member] {
            const QSignalBlocker quiet(b);
            b->setChecked(m_hand.stencil().*member);
        });
        column->addWidget(b);
    };
    box("stencilOn", tr("Hold a stencil before the view"),
        tr("Strokes go through where it is bright; drag its handles to move, rotate and scale it"), &StencilPlan::isOn);
    box("stencilInvert", tr("Through where it is dark"), tr("Dark parts let through instead of bright ones"),
        &StencilPlan::isInverted);
    {
        auto *stamps = new StampChooser(m_session);
        stamps->setObjectName(QStringLiteral("stencilStamps"));
        connect(stamps, &StampChooser::chosen, this, [this](const QString &name) {
            StencilPlan next = m_hand.stencil();
            next.stamp = name.toStdString();
            next.isOn = true;
            m_hand.setStencil(next);
        });
        connect(stamps, &StampChooser::harvestAsked, &m_hand, &HandModel::beginHarvest);
        m_refresh.push_back([this, stamps] { stamps->setChosen(QString::fromStdString(m_hand.stencil().stamp)); });
        column->addWidget(stamps);
    }
    const std::tuple<const char *, QString, QString, QString> ways[] = {
        {"stencilMask", tr("Mask what it shows"), tr("Adds to the mask where the picture is bright, on all that is seen"),
         QStringLiteral("mask.picture")},
        {"stencilPress", tr("Press it into the layer"), tr("The whole picture at once, as deep as the stamp's depth"),
         QStringLiteral("stencil.press")},
    };
    for (const auto &[id, name, tip, command] : ways) {
        auto *b = new QPushButton(name);
        b->setObjectName(QLatin1String(id));
        b->setToolTip(tip);
        connect(b, &QPushButton::clicked, this, [this, command = command] { emit m_hand.stencilAsked(command); });
        m_refresh.push_back([this, b] { b->setEnabled(m_hand.stencil().isOn); });
        column->addWidget(b);
    }
}

void ToolSettings::addPen()
{
    QVBoxLayout *column = section(tr("Pen"), QStringLiteral("sectionPen"));
    if (!column)
        return;
    const ValueSlider::Range power{0.2, 5, true, QString(), 2};
    if (!changesFaces(m_tool) && !takesHold(m_tool)) {
        box(column, "pressureToStrength", tr("Pressure sets strength"), &StrokeSettings::pressureToStrength);
        slider(column, "strengthCurve", tr("Pressure curve, strength"), power, &StrokeSettings::strengthCurve);
    }
    box(column, "pressureToSize", tr("Pressure sets size"), &StrokeSettings::pressureToSize);
    slider(column, "sizeCurve", tr("Pressure curve, size"), power, &StrokeSettings::sizeCurve);
    if (!takesHold(m_tool) && !changesFaces(m_tool) && !settles(m_tool) && m_tool != Tool::Mask && m_tool != Tool::Swell
        && m_tool != Tool::Slab && m_tool != Tool::Gouge)
        slider(column, "tilt", tr("Lean with the pen's tilt"), {0, 1, false, QStringLiteral("%"), 0, 100}, &StrokeSettings::tilt);
}

template <typename Json> void ToolSettings::setSymmetry(Json change)
{
    change["do"] = "piece.symmetry";
    change["piece"] = m_session.piece();
    m_session.run(change);
}

void ToolSettings::addSymmetry()
{
    const creature::Piece *now = m_session.creature().piece(m_session.piece());
    QVBoxLayout *column =
        now ? section(tr("Symmetry of %1").arg(QString::fromStdString(now->name)), QStringLiteral("sectionSymmetry")) : nullptr;
    if (!column)
        return;
    struct Way {
        QString name;
        Vec3f way;
    };
    const std::vector<Way> planes{{tr("No plane"), {}},
                                  {tr("Left and right"), {1, 0, 0}},
                                  {tr("Crown and belly"), {0, 1, 0}},
                                  {tr("Nose and tail"), {0, 0, 1}}};
    auto *plane = new QComboBox;
    plane->setObjectName(QStringLiteral("symmetryPlane"));
    plane->setAccessibleName(tr("Plane of the symmetry"));
    for (const Way &w : planes)
        plane->addItem(w.name);
    connect(plane, &QComboBox::activated, this, [this, planes](int i) {
        const Vec3f n = planes[std::size_t(i)].way;
        setSymmetry(i == 0 ? json{{"plane", false}} : json{{"plane", true}, {"normal", {n.x, n.y, n.z}}});
    });
    column->addWidget(plane);
    auto *around = new ValueSlider(tr("Times around the axis"), {1, sculpt::Symmetry::kMostAround, false, QString(), 0});
    around->setObjectName(QStringLiteral("symmetryAround"));
    connect(around, &ValueSlider::released, this, [this](double v) { setSymmetry(json{{"around", std::lround(v)}}); });
    column->addWidget(around);
    const std::vector<Way> axes{{tr("Axis from belly to crown"), {0, 1, 0}},
                                {tr("Axis from tail to nose"), {0, 0, 1}},
                                {tr("Axis from right to left"), {1, 0, 0}}};
    auto *axis = new QComboBox;
    axis->setObjectName(QStringLiteral("symmetryAxis"));
    axis->setAccessibleName(tr("Axis of the symmetry"));
    for (const Way &w : axes)
        axis->addItem(w.name);
    connect(axis, &QComboBox::activated, this, [this, axes](int i) {
        const Vec3f a = axes[std::size_t(i)].way;
        setSymmetry(json{{"axis", {a.x, a.y, a.z}}});
    });
    column->addWidget(axis);
    auto *through = new QPushButton(tr("Through the middle of the piece"));
    through->setObjectName(QStringLiteral("symmetryMiddle"));
    through->setToolTip(tr("Moves plane and axis there; they are at the origin of the creature otherwise"));
    connect(through, &QPushButton::clicked, this, [this] {
        const creature::Piece *piece = m_session.creature().piece(m_session.piece());
        const Vec3f c = piece->skin.shown.box().centre();
        setSymmetry(json{{"point", {c.x, c.y, c.z}}, {"axisPoint", {c.x, c.y, c.z}}});
    });
    column->addWidget(through);
    m_refresh.push_back([this, plane, planes, around, axis, axes] {
        const creature::Piece *piece = m_session.creature().piece(m_session.piece());
        if (!piece)
            return;
        const sculpt::Symmetry &s = piece->symmetry;
        const auto find = [](const std::vector<Way> &ways, Vec3f v) {
            return int(std::find_if(ways.begin(), ways.end(), [v](const Way &w) { return w.way == v; }) - ways.begin());
        };
        plane->setCurrentIndex(s.hasPlane ? find(planes, s.normal) : 0); // one of a recipe's own shows as none of these
        around->setValue(s.around);
        axis->setCurrentIndex(find(axes, s.axis));
    });
}

void ToolSettings::addSaved()
{
    QVBoxLayout *column = section(tr("Own tools"), QStringLiteral("sectionSaved"));
    if (!column)
        return;
    auto *names = new QComboBox;
    names->setObjectName(QStringLiteral("ownTools"));
    names->setAccessibleName(tr("Own tools"));
    names->setPlaceholderText(tr("Load…"));
    for (const QString &name : ownTools())
        names->addItem(name);
    names->setCurrentIndex(-1);
    names->setEnabled(names->count() > 0);
    connect(names, &QComboBox::textActivated, this, [this](const QString &name) {
        // Another tool in hand has these settings built anew, so not while the list is still at work.
        QMetaObject::invokeMethod(
            &m_hand,
            [session = &m_session, hand = &m_hand, name] {
                if (const QString why = takeUpTool(*hand, ownToolPath(name)); !why.isEmpty())
                    emit session->failed(why);
            },
            Qt::QueuedConnection);
    });
    auto *save = new QPushButton(tr("Save this tool…"));
    save->setObjectName(QStringLiteral("saveTool"));
    save->setToolTip(tr("Keeps the tool with these settings under a name, as a file in %1").arg(ownToolsFolder()));
    connect(save, &QPushButton::clicked, this, [this] {
        QInputDialog ask(this);
        ask.setObjectName(QStringLiteral("toolNameDialog"));
        ask.setWindowTitle(tr("Save this tool"));
        ask.setLabelText(tr("Name"));
        ask.setTextValue(toolTitle(m_tool));
        const QString name = ask.exec() == QDialog::Accepted ? ask.textValue().trimmed() : QString();
        if (name.isEmpty())
            return;
        if (const QString why = keepTool(m_hand.settings(m_tool), ownToolPath(name)); !why.isEmpty())
            emit m_session.failed(why);
        else
            QMetaObject::invokeMethod(this, &ToolSettings::foldChanged, Qt::QueuedConnection); // the list has one more
    });
    column->addWidget(names);
    column->addWidget(save);
}

void ToolSettings::addLevels()
{
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
    connect(reknit, &QPushButton::clicked, this, &ToolSettings::reknitAsked);
    connect(refine, &QPushButton::clicked, this, &ToolSettings::refineAsked);
    row->addWidget(reknit);
    row->addWidget(refine);
    m_column->addSpacing(6);
    m_column->addLayout(levels);
    m_column->addLayout(row);
    if (m_session.bench() == Bench::Sculpt)
        m_column->addWidget(new DeformSettings(m_session, m_hand));
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
