#include "app/hand/rule_settings.h"

#include "app/hand/colour_disc.h"
#include "app/hand/falloff_curve.h"
#include "app/hand/ramp_bar.h"
#include "app/hand/rule_picture.h"
#include "app/hand/setting_range.h"
#include "app/theme/table_words.h"
#include "app/theme/theme.h"
#include "command/colours/colour_fields.h"
#include "command/fields.h"
#include "document/ops/colours.h"
#include "growth/growth.h"
#include "outgrowth/outgrowth.h"

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
constexpr std::size_t kFirst = 5; ///< settings that are always shown

QString words(std::string_view s)
{
    return tableWords("Rule", s);
}

QLabel *picture(const QImage &image, const QString &tip)
{
    auto *label = new QLabel;
    label->setPixmap(QPixmap::fromImage(image));
    label->setToolTip(tip);
    return label;
}

/// What a rule can go by: names of what there is.
QStringList sourcesFor(const Session &session, colour::Source source)
{
    QStringList out;
    const document::Piece *piece = session.creature().piece(session.piece());
    if (!piece)
        return out;
    const auto add = [&](const std::string &name) { out << QString::fromStdString(name); };
    if (source == colour::Source::Place) {
        for (const auto &m : piece->skin.masks)
            add(m.name);
        for (const auto &g : piece->skin.groups)
            add(g.name);
        for (const auto &o : session.creature().outgrowths)
            add(o->name);
        for (const auto &f : session.creature().armature.forms)
            add(f.name);
    } else {
        for (const auto &l : piece->skin.layers)
            if (source == colour::Source::Layer || (l.growth && growth::hasCells(*l.growth->kind)))
                add(l.name);
    }
    return out;
}

} // namespace

RuleSettings::RuleSettings(Session &session, HandModel &hand, QSet<QString> &openSections)
    : m_session(session), m_hand(hand), m_open(openSections), m_column(new QVBoxLayout(this))
{
    m_column->setContentsMargins(0, 6, 0, 0);
    m_column->setSpacing(4);
    addHead();
    addSource();
    addColours();
    addValues();
    addEdges();
    refresh();
}

void RuleSettings::refresh()
{
    if (!held().kind())
        return;
    for (const auto &show : m_refresh)
        show();
}

void RuleSettings::runLater(json command)
{
    QMetaObject::invokeMethod(
        &m_session, [session = &m_session, window = window(), command] { session->runLong(command, window); },
        Qt::QueuedConnection);
}

void RuleSettings::change(const std::function<void(colour::Rule &, skin::ColourRamp &)> &edit)
{
    colour::Rule rule = held().rule();
    skin::ColourRamp ramp = held().ramp();
    edit(rule, ramp);
    if (const std::uint32_t layer = held().layer())
        runLater(command::ruleCommand(m_session.piece(), layer, rule, ramp));
    else
        held().setRule(rule, ramp);
}

/// The rule in a new layer, which is chosen then.
void RuleSettings::lay()
{
    const json command = command::ruleCommand(m_session.piece(), 0, held().rule(), held().ramp());
    QMetaObject::invokeMethod(
        &m_session,
        [session = &m_session, window = window(), command] {
            if (session->runLong(command, window))
                session->chooseColourLayer(session->creature().piece(session->piece())->skin.colourLayers.back().id);
        },
        Qt::QueuedConnection);
}

void RuleSettings::addHead()
{
    const colour::RuleKind &kind = *held().kind();
    auto *title = new QLabel(words(kind.title));
    title->setStyleSheet(QStringLiteral("font-family: Vollkorn; font-size: 12pt; font-weight: 600;"));
    auto *text = new QLabel(words(kind.text));
    text->setWordWrap(true);
    text->setProperty("soft", true);
    m_column->addWidget(title);
    m_column->addWidget(text);
    auto *row = new QHBoxLayout;
    if (held().layer() == 0) {
        auto *button = new QPushButton(tr("Add as a layer"));
        button->setObjectName(QStringLiteral("ruleLay"));
        button->setProperty("main", true);
        button->setToolTip(tr("A new colour layer that follows the shape, and changes when the shape does"));
        connect(button, &QPushButton::clicked, this, &RuleSettings::lay);
        m_refresh.push_back([this, button] { button->setEnabled(m_session.piece() != 0); });
        row->addWidget(button);
    } else {
        auto *again = new QPushButton(tr("Run again"));
        again->setObjectName(QStringLiteral("ruleAgain"));
        again->setToolTip(tr("On the skin as it is now; painting over it stays"));
        connect(again, &QPushButton::clicked, this,
                [this] { runLater(toCommand(command::RunRules{.piece = m_session.piece(), .layer = held().layer()})); });
        auto *settle = new QPushButton(tr("To painted layer"));
        settle->setObjectName(QStringLiteral("ruleSettle"));
        settle->setToolTip(tr("Keeps what it has laid; no rule changes it any more"));
        connect(settle, &QPushButton::clicked, this,
                [this] { runLater(toCommand(command::SettleRule{.piece = m_session.piece(), .layer = held().layer()})); });
        row->addWidget(again);
        row->addWidget(settle);
    }
    m_column->addLayout(row);
    auto *coarse = new QLabel;
    coarse->setObjectName(QStringLiteral("ruleCoarse"));
    coarse->setWordWrap(true);
    coarse->setStyleSheet(QStringLiteral("color: %1;").arg(theme().lichen.darker(theme().isDark ? 90 : 140).name()));
    auto *refine = new QPushButton(tr("Refine the skin"));
    refine->setObjectName(QStringLiteral("ruleRefine"));
    refine->setToolTip(tr("Four times the faces, so that finer colour fits on them"));
    connect(refine, &QPushButton::clicked, this, &RuleSettings::refineAsked);
    m_column->addWidget(coarse);
    m_column->addWidget(refine);
    m_refresh.push_back([this, coarse, refine] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
        const std::string why = piece && held().kind() ? document::coarseness(piece->skin, held().rule()) : std::string();
        coarse->setText(QString::fromStdString(why));
        coarse->setVisible(!why.empty()), refine->setVisible(!why.empty());
    });
}

void RuleSettings::addSource()
{
    const colour::Source source = held().kind()->source;
    if (source == colour::Source::None)
        return;
    if (source == colour::Source::Line) {
        auto *hint = new QLabel(held().layer() ? tr("Draw on the skin for another line.")
                                               : tr("Draw a line on the skin, from the first colour to the last."));
        hint->setWordWrap(true);
        hint->setProperty("soft", true);
        m_column->addWidget(hint);
        return;
    }
    auto *box = new QComboBox;
    box->setObjectName(QStringLiteral("ruleSource"));
    box->setAccessibleName(tr("What it goes by"));
    box->addItem(source == colour::Source::Place    ? tr("the mask in hand")
                 : source == colour::Source::Growth ? tr("all growths with cells")
                                                    : tr("the first detail layer"),
                 QString());
    for (const QString &name : sourcesFor(m_session, source))
        box->addItem(name, name);
    connect(box, &QComboBox::activated, this, [this, box](int i) {
        change([&](colour::Rule &r, skin::ColourRamp &) { r.source = box->itemData(i).toString().toStdString(); });
    });
    m_refresh.push_back(
        [this, box] { box->setCurrentIndex(std::max(0, box->findData(QString::fromStdString(held().rule().source)))); });
    m_column->addWidget(box);
}

void RuleSettings::addColours()
{
    auto *ramp = new RampBar;
    auto *chooser = new ColourChooser(&m_session);
    auto *cover = new ValueSlider(tr("Cover"), {0, 1, false, QStringLiteral("%"), 0, 100});
    cover->setObjectName(QStringLiteral("rampCover"));
    cover->setToolTip(tr("How full this colour is at its value"));
    m_column->addWidget(ramp);
    m_column->addWidget(cover);
    m_column->addWidget(chooser);
    auto *finish = new QCheckBox(tr("Lays the finish in hand too"));
    finish->setObjectName(QStringLiteral("ruleFinish"));
    finish->setToolTip(tr("The one set on the Finish page, as full as the colour"));
    m_column->addWidget(finish);
    connect(finish, &QCheckBox::clicked, this, [this](bool on) {
        change([&](colour::Rule &, skin::ColourRamp &to) {
            for (std::size_t k = 0; k < to.finish.size(); ++k)
                to.finish[k] = on ? std::optional<float>(held().finishValues()[k]) : std::nullopt;
        });
    });
    m_refresh.push_back([this, finish] {
        const skin::ColourRamp now = held().ramp();
        finish->setChecked(std::any_of(now.finish.begin(), now.finish.end(), [](const auto &f) { return f.has_value(); }));
    });
    const auto show = [this, ramp, chooser, cover] {
        if (ramp->ramp().stops.empty())
            return;
        const skin::ColourRamp::Stop &s = ramp->ramp().stops[ramp->chosen()];
        Vec3f c = s.ink.colour;
        if (const skin::PaletteColour *entry = document::paletteColour(m_session.creature(), s.ink.entry))
            c = entry->colour;
        chooser->show(c, s.ink.entry);
        cover->setValue(double(s.cover));
    };
    m_refresh.push_back([this, ramp, show] {
        ramp->show(held().ramp(), m_session.creature().palette);
        show();
    });
    connect(ramp, &RampBar::chose, this, show);
    connect(ramp, &RampBar::changed, this,
            [this](const skin::ColourRamp &r) { change([&](colour::Rule &, skin::ColourRamp &to) { to = r; }); });
    connect(cover, &ValueSlider::released, this, [this, ramp](double v) {
        change([&](colour::Rule &, skin::ColourRamp &to) {
            if (ramp->chosen() < to.stops.size())
                to.stops[ramp->chosen()].cover = float(v);
        });
    });
    connect(chooser, &ColourChooser::released, this, [this, ramp](Vec3f c, std::uint32_t entry) {
        change([&](colour::Rule &, skin::ColourRamp &to) {
            if (to.stops.empty()) // finish alone, until now
                to.stops = colour::rampOf({c, entry}).stops;
            // A ramp of one colour stays one.
            const skin::Ink was = to.stops[ramp->chosen()].ink;
            for (std::size_t k = 0; k < to.stops.size(); ++k)
                if (k == ramp->chosen() || (to.stops[k].ink == was && to.stops[k].cover == 0))
                    to.stops[k].ink = {c, entry};
        });
    });
}

void RuleSettings::addValues()
{
    const colour::RuleKind &kind = *held().kind();
    QVBoxLayout *to = m_column;
    for (std::size_t k = 0; k < kind.settings.size(); ++k) {
        if (k == kFirst) {
            const QString id = QStringLiteral("rule more");
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
        slider->setObjectName(QStringLiteral("rule_") + textOf(s.name));
        slider->setToolTip(tr("%1: from %2 to %3").arg(words(s.title), words(s.low), words(s.high)));
        connect(slider, &ValueSlider::released, this, [this, k](double v) {
            if (float(v) != held().rule().settings[k])
                change([&](colour::Rule &r, skin::ColourRamp &) { r.settings[k] = float(v); });
        });
        m_refresh.push_back([this, slider, k] { slider->setValue(double(held().rule().settings[k])); });
        auto *row = new QHBoxLayout;
        row->setSpacing(4);
        row->addWidget(picture(endPicture(kind, k, false, kEnd), words(s.low)));
        row->addWidget(slider, 1);
        row->addWidget(picture(endPicture(kind, k, true, kEnd), words(s.high)));
        to->addLayout(row);
    }
}

/// How the values become cover: contrast, blur, reversed, both sides alike, a curve.
void RuleSettings::addEdges()
{
    auto *contrast = new ValueSlider(tr("Contrast"), {0, 1, false, QStringLiteral("%"), 0, 100});
    contrast->setObjectName(QStringLiteral("ruleContrast"));
    connect(contrast, &ValueSlider::released, this,
            [this](double v) { change([&](colour::Rule &r, skin::ColourRamp &) { r.contrast = float(v); }); });
    auto *blur = new ValueSlider(tr("Blur"), {0, 60, false, tr("passes"), 0, 1});
    blur->setObjectName(QStringLiteral("ruleBlur"));
    connect(blur, &ValueSlider::released, this,
            [this](double v) { change([&](colour::Rule &r, skin::ColourRamp &) { r.blur = std::uint32_t(std::lround(v)); }); });
    m_column->addWidget(contrast);
    m_column->addWidget(blur);
    auto *row = new QHBoxLayout;
    auto *reverse = new QCheckBox(tr("Reversed"));
    reverse->setObjectName(QStringLiteral("ruleReverse"));
    connect(reverse, &QCheckBox::clicked, this,
            [this](bool on) { change([&](colour::Rule &r, skin::ColourRamp &) { r.isReversed = on; }); });
    auto *mirror = new QCheckBox(tr("Both sides alike"));
    mirror->setObjectName(QStringLiteral("ruleMirror"));
    connect(mirror, &QCheckBox::clicked, this,
            [this](bool on) { change([&](colour::Rule &r, skin::ColourRamp &) { r.isMirrored = on; }); });
    row->addWidget(reverse);
    row->addWidget(mirror);
    row->addStretch();
    m_column->addLayout(row);
    auto *last = new QHBoxLayout;
    auto *bend = new QPushButton(tr("Draw a curve"));
    bend->setObjectName(QStringLiteral("ruleCurve"));
    bend->setCheckable(true);
    bend->setToolTip(tr("From the value the rule finds to the one that is laid; off: a straight line"));
    auto *other = new QPushButton(tr("Another pattern"));
    other->setObjectName(QStringLiteral("ruleSeed"));
    other->setToolTip(tr("The same rule from another seed"));
    connect(other, &QPushButton::clicked, this, [this] { change([](colour::Rule &r, skin::ColourRamp &) { ++r.seed; }); });
    last->addWidget(bend);
    last->addStretch();
    last->addWidget(other);
    m_column->addLayout(last);
    auto *curve = new FalloffCurve;
    curve->setObjectName(QStringLiteral("ruleCurveLine"));
    curve->setAccessibleName(tr("Curve of the value"));
    m_column->addWidget(curve);
    connect(bend, &QPushButton::clicked, this, [this](bool on) {
        change([&](colour::Rule &r, skin::ColourRamp &) {
            if (on)
                for (std::size_t k = 0; k < r.curve.emplace().size(); ++k)
                    (*r.curve)[k] = float(k) / float(r.curve->size() - 1);
            else
                r.curve = std::nullopt;
        });
    });
    connect(curve, &FalloffCurve::released, this, [this](const sculpt::DrawnFalloff &heights) {
        change([&](colour::Rule &r, skin::ColourRamp &) { r.curve = heights; });
    });
    m_refresh.push_back([this, contrast, blur, reverse, mirror, bend, curve] {
        const colour::Rule r = held().rule();
        contrast->setValue(double(r.contrast)), blur->setValue(double(r.blur));
        reverse->setChecked(r.isReversed), mirror->setChecked(r.isMirrored), bend->setChecked(r.curve.has_value());
        curve->setVisible(r.curve.has_value());
        if (r.curve)
            curve->show(sculpt::Falloff::Drawn, *r.curve);
    });
}

} // namespace bonemoss::app
