#include "app/hand/growth_settings.h"

#include "app/hand/growth_picture.h"
#include "app/theme/table_words.h"
#include "app/theme/theme.h"
#include "app/hand/setting_range.h"
#include "app/hand/stamp_chooser.h"
#include "app/hand/value_slider.h"
#include "command/growth/growth_fields.h"
#include "document/ops/growths.h"
#include "command/fields.h"
#include "command/layers/layer_fields.h"
#include "command/skin/piece_fields.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

using nlohmann::json;

namespace {

constexpr QSize kEnd(34, 26);
constexpr std::size_t kFirst = 6; ///< settings that are always shown

QString words(std::string_view s)
{
    return tableWords("Growth", s);
}

QLabel *picture(const QImage &image, const QString &tip)
{
    auto *label = new QLabel;
    label->setPixmap(QPixmap::fromImage(image));
    label->setToolTip(tip);
    return label;
}

} // namespace

ValueSlider::Range rangeOf(const growth::GrowthSetting &s)
{
    const bool isLength = s.unit == "mm" && s.min >= 0, isShare = s.unit.empty() && !s.isCount && s.max <= 1;
    ValueSlider::Range range{isLength ? std::max(0.02, double(s.min)) : double(s.min),
                             double(s.max),
                             isLength,
                             s.unit == "mm" ? GrowthSettings::tr("mm") : QString(),
                             s.unit == "mm" ? 2
                             : s.isCount    ? 0
                                            : 1,
                             1};
    if (isShare)
        range.unit = QStringLiteral("%"), range.digits = 0, range.shownPer = 100;
    if (s.unit == "deg")
        range.unit = GrowthSettings::tr("°"), range.digits = 0;
    return range;
}

GrowthSettings::GrowthSettings(Session &session, HandModel &hand, QSet<QString> &openSections)
    : m_session(session), m_hand(hand), m_open(openSections), m_column(new QVBoxLayout(this))
{
    m_column->setContentsMargins(0, 6, 0, 0);
    m_column->setSpacing(4);
    addHead();
    addValues();
    addPresses();
    connect(&hand.detail(), &DetailHand::changed, this, &GrowthSettings::addPresses);
    refresh();
}

void GrowthSettings::refresh()
{
    if (!m_hand.detail().growing().kind)
        return;
    for (const auto &show : m_refresh)
        show();
}

void GrowthSettings::runLater(json command)
{
    QMetaObject::invokeMethod(
        &m_session, [session = &m_session, window = window(), command] { session->runLong(command, window); },
        Qt::QueuedConnection);
}

void GrowthSettings::apply(const growth::Growth &rule)
{
    if (const std::uint32_t layer = m_hand.detail().growing().layer)
        runLater(command::growCommand(m_session.piece(), layer, rule));
    else
        m_hand.detail().setRule(rule);
}

void GrowthSettings::grow()
{
    const json command = command::growCommand(m_session.piece(), 0, m_hand.detail().rule(), m_hand.detail().growsInside());
    QMetaObject::invokeMethod(
        &m_session,
        [session = &m_session, window = window(), command] {
            if (session->runLong(command, window))
                session->chooseLayer(session->creature().piece(session->piece())->skin.layers.back().id);
        },
        Qt::QueuedConnection);
}

void GrowthSettings::addHead()
{
    const growth::GrowthKind &kind = *m_hand.detail().growing().kind;
    auto *title = new QLabel(words(kind.title));
    title->setStyleSheet(QStringLiteral("font-family: Vollkorn; font-size: 12pt; font-weight: 600;"));
    auto *text = new QLabel(words(kind.text));
    text->setWordWrap(true);
    text->setProperty("soft", true);
    m_column->addWidget(title);
    m_column->addWidget(text);
    m_hand.detail().growing().layer == 0 ? addBegin() : addAgain();
    if (kind.takesStamp) {
        auto *stamps = new StampChooser(m_session);
        connect(stamps, &StampChooser::chosen, this, [this](const QString &name) {
            growth::Growth rule = m_hand.detail().rule();
            rule.stamp = name.toStdString();
            apply(rule);
        });
        m_refresh.push_back([this, stamps] { stamps->setChosen(QString::fromStdString(m_hand.detail().rule().stamp)); });
        connect(stamps, &StampChooser::harvestAsked, &m_hand.detail(), &DetailHand::beginHarvest);
        m_column->addWidget(stamps);
    }
    addCoarseness();
}

/// Where a new growth goes, and the button that grows it.
void GrowthSettings::addBegin()
{
    auto *button = new QPushButton(tr("Grow on the skin"));
    button->setObjectName(QStringLiteral("growButton"));
    button->setProperty("main", true);
    connect(button, &QPushButton::clicked, this, &GrowthSettings::grow);
    auto *inside = new QComboBox;
    inside->setObjectName(QStringLiteral("growInside"));
    inside->setAccessibleName(tr("Where it grows"));
    inside->addItems({tr("where no mask lies"), tr("where the mask lies")});
    inside->setCurrentIndex(m_hand.detail().growsInside());
    connect(inside, &QComboBox::activated, this, [this](int i) { m_hand.detail().setGrowsInside(i == 1); });
    m_column->addWidget(inside);
    m_column->addWidget(button);
    m_refresh.push_back([this, button] { button->setEnabled(m_session.piece() != 0); });
}

/// What is done about a growth that is there.
void GrowthSettings::addAgain()
{
    auto *row = new QHBoxLayout;
    auto *again = new QPushButton(tr("Grow again"));
    again->setObjectName(QStringLiteral("growAgain"));
    again->setToolTip(tr("On the skin as it is now; work by hand stays"));
    connect(again, &QPushButton::clicked, this, [this] {
        runLater(toCommand(command::GrowAgain{.piece = m_session.piece(), .layer = m_hand.detail().growing().layer}));
    });
    auto *hand = new QPushButton(tr("By hand"));
    hand->setObjectName(QStringLiteral("growHand"));
    hand->setToolTip(tr("Work over it with the brushes, on a layer of its own that stays when it grows again"));
    connect(hand, &QPushButton::clicked, this, [this] {
        const std::uint32_t piece = m_session.piece(), growth = m_hand.detail().growing().layer;
        QMetaObject::invokeMethod(
            &m_session,
            [session = &m_session, piece, growth] {
                if (session->run(toCommand(command::MakeHandLayer{.piece = piece, .layer = growth})))
                    for (const auto &l : session->creature().piece(piece)->skin.layers)
                        if (l.handOver == growth)
                            session->chooseLayer(l.id);
            },
            Qt::QueuedConnection);
    });
    row->addWidget(again);
    row->addWidget(hand);
    m_column->addLayout(row);
}

/// That the skin is too coarse for the rule, and what helps.
void GrowthSettings::addCoarseness()
{
    m_coarse = new QLabel;
    m_coarse->setObjectName(QStringLiteral("growthCoarse"));
    m_coarse->setWordWrap(true);
    auto *refine = new QPushButton(tr("Refine the skin"));
    refine->setObjectName(QStringLiteral("growthRefine"));
    refine->setToolTip(tr("Four times the faces; the growth then grows again on them"));
    connect(refine, &QPushButton::clicked, this, &GrowthSettings::refineAsked);
    auto *there = new QPushButton(tr("Refine only there"));
    there->setObjectName(QStringLiteral("growthRefineThere"));
    there->setToolTip(tr("Even triangles, as small as it needs, where this layer may show; the rest of the skin stays"));
    connect(there, &QPushButton::clicked, this, [this] {
        const std::uint32_t layer = m_hand.detail().growing().layer;
        const growth::Growth rule = m_hand.detail().rule();
        const json finer = toCommand(command::ChangeDensity{
            .piece = m_session.piece(), .edge = rule.kind->finest(rule), .where = command::DensityWhere::Layer, .layer = layer});
        const json again = toCommand(command::GrowAgain{.piece = m_session.piece(), .layer = layer});
        QMetaObject::invokeMethod( // another skin has these settings built anew
            &m_session,
            [session = &m_session, over = window(), finer, again] {
                if (session->runLong(finer, over))
                    session->runLong(again, over);
            },
            Qt::QueuedConnection);
    });
    m_column->addWidget(m_coarse);
    m_column->addWidget(refine);
    m_column->addWidget(there);
    m_refresh.push_back([this, refine, there] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
        const skin::Layer *layer = piece ? piece->skin.layer(m_hand.detail().growing().layer) : nullptr;
        const std::string why = piece ? document::coarseness(piece->skin, m_hand.detail().rule(), layer) : std::string();
        m_coarse->setText(QString::fromStdString(why));
        m_coarse->setVisible(!why.empty());
        refine->setVisible(!why.empty());
        there->setVisible(!why.empty() && layer); // a new one has no place yet
    });
}

void GrowthSettings::addValues()
{
    const growth::GrowthKind &kind = *m_hand.detail().growing().kind;
    QVBoxLayout *to = m_column;
    for (std::size_t k = 0; k < kind.settings.size(); ++k) {
        if (k == kFirst) {
            const QString id = QStringLiteral("sectionGrowthMore");
            const bool isOpen = m_open.contains(id);
            auto *word = new QPushButton((isOpen ? QStringLiteral("▾ ") : QStringLiteral("▸ ")) + tr("More"));
            word->setObjectName(id);
            word->setProperty("word", true);
            connect(word, &QPushButton::clicked, this, [this, id, isOpen] {
                isOpen ? (void)m_open.remove(id) : (void)m_open.insert(id);
                emit rebuildAsked();
            });
            m_column->addWidget(word, 0, Qt::AlignLeft);
            if (!isOpen)
                break;
        }
        const growth::GrowthSetting &s = kind.settings[k];
        auto *slider = new ValueSlider(words(s.title), rangeOf(s));
        slider->setObjectName(QStringLiteral("growth_") + textOf(s.name));
        slider->setToolTip(tr("%1: from %2 to %3").arg(words(s.title), words(s.low), words(s.high)));
        connect(slider, &ValueSlider::edited, this, [this, k](double v) {
            if (m_hand.detail().growing().layer)
                return; // grown anew when the knob is let go
            growth::Growth rule = m_hand.detail().rule();
            rule.values[k] = float(v);
            m_hand.detail().setRule(rule);
        });
        connect(slider, &ValueSlider::released, this, [this, k, isCount = s.isCount](double v) {
            growth::Growth rule = m_hand.detail().rule();
            const float now = isCount ? std::round(float(v)) : float(v);
            if (now == rule.values[k])
                return;
            rule.values[k] = now;
            apply(rule);
        });
        m_refresh.push_back([this, slider, k] { slider->setValue(double(m_hand.detail().rule().values[k])); });
        auto *row = new QHBoxLayout;
        row->setSpacing(4);
        row->addWidget(picture(endPicture(kind, k, false, kEnd), words(s.low)));
        row->addWidget(slider, 1);
        row->addWidget(picture(endPicture(kind, k, true, kEnd), words(s.high)));
        to->addLayout(row);
    }
    addSizes();
    auto *row = new QHBoxLayout;
    auto *mirror = new QCheckBox(tr("Both sides alike"));
    mirror->setObjectName(QStringLiteral("growthMirror"));
    connect(mirror, &QCheckBox::clicked, this, [this](bool on) {
        growth::Growth rule = m_hand.detail().rule();
        rule.isMirrored = on;
        apply(rule);
    });
    m_refresh.push_back([this, mirror] { mirror->setChecked(m_hand.detail().rule().isMirrored); });
    auto *other = new QPushButton(tr("Another pattern"));
    other->setObjectName(QStringLiteral("growthSeed"));
    other->setToolTip(tr("The same rule from another seed"));
    connect(other, &QPushButton::clicked, this, [this] {
        growth::Growth rule = m_hand.detail().rule();
        ++rule.seed;
        apply(rule);
    });
    row->addWidget(mirror);
    row->addStretch();
    row->addWidget(other);
    m_column->addLayout(row);
}

/// A map of sizes: any mask that was put by.
void GrowthSettings::addSizes()
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    if (!piece || piece->skin.masks.empty())
        return;
    auto *sizes = new QComboBox;
    sizes->setObjectName(QStringLiteral("growthSizes"));
    sizes->setAccessibleName(tr("Where it is smaller"));
    sizes->addItem(tr("sizes everywhere alike"), QString());
    for (const auto &m : piece->skin.masks)
        sizes->addItem(tr("smaller where \"%1\" lies").arg(QString::fromStdString(m.name)), QString::fromStdString(m.name));
    connect(sizes, &QComboBox::activated, this, [this, sizes](int i) {
        growth::Growth rule = m_hand.detail().rule();
        rule.sizes = sizes->itemData(i).toString().toStdString();
        apply(rule);
    });
    m_refresh.push_back([this, sizes] {
        sizes->setCurrentIndex(std::max(0, sizes->findData(QString::fromStdString(m_hand.detail().rule().sizes))));
    });
    m_column->addWidget(sizes);
}

/// What a press in the view does, and what was picked with one.
void GrowthSettings::addPresses()
{
    if (!m_hand.detail().growing().kind)
        return;
    if (m_presses)
        m_presses->deleteLater();
    m_presses = new QWidget;
    m_column->addWidget(m_presses);
    auto *column = new QVBoxLayout(m_presses);
    column->setContentsMargins(0, 6, 0, 0);
    column->setSpacing(4);
    const Growing growing = m_hand.detail().growing();
    auto *does = new QComboBox;
    does->setObjectName(QStringLiteral("growthPress"));
    does->setAccessibleName(tr("What a press on the skin does"));
    does->addItem(tr("draw guides on the skin"));
    if (growing.layer && growth::hasCells(*growing.kind))
        does->addItem(tr("pick one scale or spot"));
    does->setCurrentIndex(growing.picksScales);
    connect(does, &QComboBox::activated, this, [this](int i) {
        Growing next = m_hand.detail().growing();
        next.picksScales = i == 1, next.scale.reset(), next.guide = -1;
        m_hand.detail().setGrowing(next);
    });
    column->addWidget(does);
    auto *flow = new QCheckBox(tr("Show which way it grows"));
    flow->setObjectName(QStringLiteral("growthFlow"));
    flow->setChecked(m_hand.detail().showsFlow());
    connect(flow, &QCheckBox::clicked, this, [this](bool on) { m_hand.detail().setShowsFlow(on); });
    column->addWidget(flow);
    if (growing.picksScales)
        addScale(column);
    else
        addGuide(column);
    m_presses->show();
}

void GrowthSettings::addScale(QVBoxLayout *column)
{
    if (!m_hand.detail().growing().scale) {
        auto *hint = new QLabel(tr("Click the scale to change."));
        hint->setProperty("soft", true);
        column->addWidget(hint);
        return;
    }
    using Edit = command::EditScale;
    const auto send = [this](Edit edit) {
        edit.piece = m_session.piece(), edit.layer = m_hand.detail().growing().layer, edit.at = *m_hand.detail().growing().scale;
        runLater(toCommand(edit));
    };
    const auto slider = [&](const char *what, float Edit::*member, const QString &name, ValueSlider::Range range, double usual) {
        auto *s = new ValueSlider(name, range);
        s->setObjectName(QStringLiteral("scale_") + QLatin1String(what));
        s->setValue(usual);
        connect(s, &ValueSlider::released, this, [s, send, member, usual](double v) {
            if (v != usual) {
                Edit edit;
                edit.*member = float(v);
                send(edit);
            }
            s->setValue(usual); // the next change goes on from what is there
        });
        column->addWidget(s);
    };
    slider("turn", &Edit::turn, tr("Rotate by"), {-180, 180, false, tr("°"), 0}, 0);
    slider("size", &Edit::size, tr("Times as large"), {0.4, 2.5, true, QString(), 2}, 1);
    slider("lift", &Edit::lift, tr("Times as high"), {0, 3, false, QString(), 2}, 1);
    auto *remove = new QPushButton(tr("Delete"));
    remove->setObjectName(QStringLiteral("scale_remove"));
    connect(remove, &QPushButton::clicked, this, [send] { send({.isRemoved = true}); });
    column->addWidget(remove);
}

void GrowthSettings::addGuide(QVBoxLayout *column)
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    const int guide = m_hand.detail().growing().guide;
    const auto send = [this, guide](auto change) {
        change.piece = m_session.piece(), change.guide = std::uint32_t(guide);
        if (m_hand.detail().growing().layer)
            change.layer = m_hand.detail().growing().layer; // it follows at once
        runLater(toCommand(change));
    };
    if (!piece || guide < 0 || std::size_t(guide) >= piece->guides.size()) {
        auto *hint = new QLabel(tr("Draw short strokes from front to back; click one to change it."));
        hint->setWordWrap(true);
        hint->setProperty("soft", true);
        column->addWidget(hint);
        return;
    }
    auto *size = new ValueSlider(tr("Guide: times the size"), {0.2, 5, true, QString(), 2});
    size->setObjectName(QStringLiteral("guideSize"));
    size->setValue(double(piece->guides[std::size_t(guide)].size));
    connect(size, &ValueSlider::released, this, [send](double v) { send(command::ChangeGuide{.size = float(v)}); });
    column->addWidget(size);
    auto *row = new QHBoxLayout;
    auto *turn = new QPushButton(tr("Reverse direction"));
    turn->setObjectName(QStringLiteral("guideTurn"));
    connect(turn, &QPushButton::clicked, this, [send] { send(command::ChangeGuide{.isTurned = true}); });
    auto *remove = new QPushButton(tr("Delete"));
    remove->setObjectName(QStringLiteral("guideRemove"));
    connect(remove, &QPushButton::clicked, this, [this, send] {
        send(command::RemoveGuides{});
        Growing next = m_hand.detail().growing();
        next.guide = -1;
        m_hand.detail().setGrowing(next);
    });
    row->addWidget(turn);
    row->addWidget(remove);
    column->addLayout(row);
}

} // namespace bonemoss::app
