#include "app/hand/tool_settings.h"

#include "app/theme/table_words.h"
#include "app/hand/stamp_chooser.h"

#include "app/hand/deform_settings.h"
#include "app/hand/falloff_curve.h"
#include "app/hand/tool_store.h"
#include "app/theme/theme.h"
#include "command/sculpt/stroke_fields.h"
#include "image/picture.h"
#include "command/fields.h"
#include "command/skin/piece_fields.h"

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

namespace {

/// A setting of strokes as the panel shows it. What it is, and which tools have it, its description says.
struct SettingRow {
    const char *field;                               ///< of strokeFields()
    const char *id;                                  ///< object name
    const char *section;                             ///< "first", "" and "all" for the tool's own, above the sections
    ValueSlider::Range range{};                      ///< of numbers
    const char *title = nullptr;                     ///< instead of the description's
    std::vector<const char *> words{};               ///< of choices, in their order; empty: as commands call them
    bool (*isFor)(Tool) = [](Tool) { return true; }; ///< beside the description
};

const std::vector<SettingRow> &settingRows()
{
    static const auto share = ValueSlider::Range{0, 1, false, QStringLiteral("%"), 0, 100};
    static const auto ofSize = [](double least, double most, bool isLogarithmic) {
        return ValueSlider::Range{least, most, isLogarithmic, ToolSettings::tr("of size"), 2};
    };
    static const auto mm = [](double least, double most, bool isLogarithmic, int digits) {
        return ValueSlider::Range{least, most, isLogarithmic, ToolSettings::tr("mm"), digits};
    };
    static const ValueSlider::Range power{0.2, 5, true, QString(), 2};
    static const std::vector<SettingRow> rows{
        {"drag", "stampDrag", "first"},
        {"side",
         "planeSide",
         "first",
         {},
         QT_TR_NOOP("Which skin goes to the plane"),
         {QT_TR_NOOP("Ridges and hollows"), QT_TR_NOOP("Only ridges"), QT_TR_NOOP("Only hollows")}},
        {"plane",
         "planeFrom",
         "first",
         {},
         QT_TR_NOOP("Where the plane lies"),
         {QT_TR_NOOP("Plane of the area under the ring"), QT_TR_NOOP("Plane of the stroke's start"), QT_TR_NOOP("Locked plane")}},
        {"knead",
         "knead",
         "first",
         {},
         QT_TR_NOOP("What Knead does with what it holds"),
         {QT_TR_NOOP("Drag with the pen"), QT_TR_NOOP("Rotate with the stroke"), QT_TR_NOOP("Grow with distance"),
          QT_TR_NOOP("Stretch along the stroke")}},
        {"size", "size", "", mm(kLeastToolSize, kMostToolSize, true, 1)},
        {"strength", "strength", "", share},
        {"depth", "depth", "", mm(0.02, 20, true, 2), nullptr, {}, [](Tool t) { return t != Tool::Slab; }},
        {"depth", "depth", "", mm(0.02, 20, true, 2), QT_TR_NOOP("Thickness"), {}, [](Tool t) { return t == Tool::Slab; }},
        {"edge", "edge", "", ofSize(0.02, 0.6, true)},
        {"randomTurn", "randomTurn", "", share},
        {"randomStrength", "randomStrength", "", share},
        {"randomFlip", "randomFlip", ""},
        {"reach", "reach", "", ofSize(0, 0.5, false)},
        {"shrink", "shrink", ""},
        {"colourScatter", "colourScatter", "", share},
        {"reverse", "reverse", "all"},
        {"falloff", "falloff", "falloff", {}, QT_TR_NOOP("Falloff")},
        {"spacing", "spacing", "stroke", ofSize(0.02, 4, true)},
        {"scatter", "scatter", "stroke", ofSize(0, 3, false)},
        {"sizeScatter", "sizeScatter", "stroke", share},
        {"rope", "rope", "stroke", ofSize(0, 3, false)},
        {"steadiness", "steadiness", "stroke", {0, 0.95, false, QStringLiteral("%"), 0, 100}},
        {"limit", "limit", "stroke", mm(0, 20, false, 1)},
        {"tint", "tint", "stroke"},
        {"connected", "connected", "stroke"},
        {"islandOnly", "islandOnly", "stroke"},
        {"guardThin", "guardThin", "stroke"},
        {"frontOnly", "frontOnly", "stroke"},
        {"pressureToStrength", "pressureToStrength", "pen"},
        {"strengthCurve", "strengthCurve", "pen", power},
        {"pressureToSize", "pressureToSize", "pen"},
        {"sizeCurve", "sizeCurve", "pen", power},
        {"tilt", "tilt", "pen", share},
    };
    return rows;
}

} // namespace

/// The rows of a section that the tool in hand has.
void ToolSettings::addRows(QVBoxLayout *to, const char *sectionName)
{
    for (const SettingRow &row : settingRows()) {
        const auto &field = command::strokeField(row.field);
        if (std::string_view(row.section) != sectionName || !row.isFor(m_tool) || !command::uses(m_tool, field))
            continue;
        const QString title = row.title ? tr(row.title) : tableWords("Parameter", field.spec.title);
        const auto set = [this, &field](json value) { m_hand.change([&](StrokeSettings &s) { field.read(value, s); }); };
        const auto now = [this, &field] { return field.write(m_hand.settings(m_tool)); };
        QWidget *widget = nullptr;
        if (field.spec.kind == command::ParamKind::Switch) {
            auto *box = new QCheckBox(title);
            connect(box, &QCheckBox::toggled, this, [set](bool on) { set(on); });
            m_refresh.push_back([box, now] {
                const QSignalBlocker quiet(box);
                box->setChecked(now().get<bool>());
            });
            widget = box;
        } else if (field.spec.kind == command::ParamKind::Choice) {
            auto *list = new QComboBox;
            list->setToolTip(title);
            const auto &choices = field.spec.choices;
            for (std::size_t k = 0; k < choices.size(); ++k)
                list->addItem(row.words.empty() ? QString::fromStdString(choices[k]) : tr(row.words[k]));
            connect(list, &QComboBox::activated, this, [set, &choices](int k) { set(choices[std::size_t(k)]); });
            m_refresh.push_back([list, now, &choices] {
                const auto at = std::find(choices.begin(), choices.end(), now().get<std::string>());
                list->setCurrentIndex(int(at - choices.begin()));
            });
            widget = list;
        } else {
            auto *slider = new ValueSlider(title, row.range);
            connect(slider, &ValueSlider::edited, this, [set](double v) { set(float(v)); });
            m_refresh.push_back([slider, now] { slider->setValue(now().get<double>()); });
            widget = slider;
        }
        widget->setObjectName(QLatin1String(row.id));
        widget->setAccessibleName(title);
        if (!field.spec.description.empty() && widget->toolTip().isEmpty() && field.spec.kind == command::ParamKind::Switch)
            widget->setToolTip(tr(field.spec.description.c_str()));
        to->addWidget(widget);
    }
}

QVBoxLayout *ToolSettings::section(const QString &name, const QString &id)
{
    const bool isOpen = m_open.contains(id);
    auto *word = new QPushButton((isOpen ? QStringLiteral("▾ ") : QStringLiteral("▸ ")) + name);
    word->setObjectName(id);
    word->setProperty("word", true);
    connect(word, &QPushButton::clicked, this, [this, id, isOpen] {
        isOpen ? (void)m_open.remove(id) : (void)m_open.insert(id);
        emit rebuildAsked();
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
                for (const document::Stamp &own : m_session.creature().stamps)
                    if (own.name == s.stamp)
                        s.depth = own.depth; // as high as what it was taken from
            });
        });
        connect(stamps, &StampChooser::harvestAsked, &m_hand.detail(), &DetailHand::beginHarvest);
        m_refresh.push_back([this, stamps] { stamps->setChosen(QString::fromStdString(m_hand.settings(m_tool).stamp)); });
        m_column->addWidget(stamps);
    }
    if (m_tool == Tool::Paint || m_tool == Tool::Spray)
        addColour();
    addRows(m_column, "first");
    if (m_tool == Tool::Plane) {
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
    addRows(m_column, "");
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
    addRows(m_column, "all");
}

void ToolSettings::addFalloff()
{
    if (!rowOf(m_tool).hasFalloff)
        return; // its own
    QVBoxLayout *column = section(tr("Falloff"), QStringLiteral("sectionFalloff"));
    if (!column)
        return;
    addRows(column, "falloff");
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
    addRows(column, "stroke");
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
        connect(stamps, &StampChooser::harvestAsked, &m_hand.detail(), &DetailHand::beginHarvest);
        m_refresh.push_back([this, stamps] { stamps->setChosen(QString::fromStdString(m_hand.stencil().stamp)); });
        column->addWidget(stamps);
    }
    const std::tuple<const char *, QString, QString, bool> ways[] = {
        {"stencilMask", tr("Mask what it shows"), tr("Adds to the mask where the picture is bright, on all that is seen"), false},
        {"stencilPress", tr("Press it into the layer"), tr("The whole picture at once, as deep as the stamp's depth"), true},
    };
    for (const auto &[id, name, tip, isPress] : ways) {
        auto *b = new QPushButton(name);
        b->setObjectName(QLatin1String(id));
        b->setToolTip(tip);
        connect(b, &QPushButton::clicked, this, [this, isPress = isPress] { emit m_hand.stencilAsked(isPress); });
        m_refresh.push_back([this, b] { b->setEnabled(m_hand.stencil().isOn); });
        column->addWidget(b);
    }
}

void ToolSettings::addPen()
{
    QVBoxLayout *column = section(tr("Pen"), QStringLiteral("sectionPen"));
    if (!column)
        return;
    addRows(column, "pen");
}

void ToolSettings::setSymmetry(command::SetSymmetry changes)
{
    changes.piece = m_session.piece();
    m_session.run(toCommand(changes));
}

void ToolSettings::addSymmetry()
{
    const document::Piece *now = m_session.creature().piece(m_session.piece());
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
        i == 0 ? setSymmetry({.hasPlane = false}) : setSymmetry({.hasPlane = true, .normal = n});
    });
    column->addWidget(plane);
    auto *around = new ValueSlider(tr("Times around the axis"), {1, sculpt::Symmetry::kMostAround, false, QString(), 0});
    around->setObjectName(QStringLiteral("symmetryAround"));
    connect(around, &ValueSlider::released, this, [this](double v) { setSymmetry({.around = std::uint32_t(std::lround(v))}); });
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
        setSymmetry({.axis = a});
    });
    column->addWidget(axis);
    auto *through = new QPushButton(tr("Through the middle of the piece"));
    through->setObjectName(QStringLiteral("symmetryMiddle"));
    through->setToolTip(tr("Moves plane and axis there; they are at the origin of the creature otherwise"));
    connect(through, &QPushButton::clicked, this, [this] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
        const Vec3f c = piece->skin.shown.box().centre();
        setSymmetry({.point = c, .axisPoint = c});
    });
    column->addWidget(through);
    m_refresh.push_back([this, plane, planes, around, axis, axes] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
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
                    session->complain(why);
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
            m_session.complain(why);
        else
            emit rebuildAsked(); // the list has one more
    });
    column->addWidget(names);
    column->addWidget(save);
}

void ToolSettings::addLevels()
{
    auto *levels = new QHBoxLayout;
    const auto step = [&](const char *name, const QString &sign, const QString &tip, command::LevelTo to) {
        auto *button = new QToolButton;
        button->setObjectName(QString::fromLatin1(name));
        button->setText(sign);
        button->setToolTip(tip);
        connect(button, &QToolButton::clicked, this,
                [this, to] { m_session.runLong(toCommand(command::StepLevel{.piece = m_session.piece(), .to = to}), window()); });
        return button;
    };
    auto *coarser = step("coarserButton", QStringLiteral("−"), tr("One level coarser; finer detail waits and rides along"),
                         command::LevelTo::Coarser);
    auto *finer = step("finerButton", QStringLiteral("+"), tr("One level finer"), command::LevelTo::Finer);
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
    if (rowOf(m_session.bench()).deforms)
        m_column->addWidget(new DeformSettings(m_session, m_hand));
    m_refresh.push_back([this, reknit, refine, coarser, finer, level] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
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
