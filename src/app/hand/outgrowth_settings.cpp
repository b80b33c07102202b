#include "app/hand/outgrowth_settings.h"

#include "app/hand/colour_button.h"
#include "app/hand/outgrowth_hand.h"
#include "app/hand/outgrowth_picture.h"
#include "app/hand/profile_curve.h"
#include "app/hand/value_slider.h"
#include "app/theme/table_words.h"
#include "app/theme/theme.h"
#include "colour/finish.h"
#include "command/fields.h"
#include "command/outgrowths/outgrowth_fields.h"
#include "document/items.h"

#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QGuiApplication>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

#include <cmath>

namespace bonemoss::app {

using nlohmann::json;

namespace {

constexpr QSize kEndSize(34, 26);
constexpr std::size_t kShownFirst = 7; ///< settings that are always shown

} // namespace

OutgrowthSettings::OutgrowthSettings(Session &session, HandModel &hand, QSet<QString> &openSections)
    : m_session(session), m_hand(hand), m_open(openSections), m_column(new QVBoxLayout(this))
{
    m_column->setContentsMargins(0, 6, 0, 0);
    m_column->setSpacing(4);
    if (!m_hand.of<OutgrowthHand>().rule().kind) {
        m_column->addWidget(softWords(tr("Choose a kind above, then press on the skin; or click an outgrowth to change it.")));
        addPaste();
        return;
    }
    addHead();
    if (const outgrowth::Outgrowth *o = m_hand.of<OutgrowthHand>().chosen(); o && o->isMelted) {
        m_column->addWidget(softWords(tr("It is part of the skin now.")));
        auto *out = new QPushButton(tr("Take it out of the skin again"));
        out->setObjectName(QStringLiteral("outgrowthUnmelt"));
        connect(out, &QPushButton::clicked, this,
                [this, id = o->id] { runLater(toCommand(command::UnmeltOutgrowth{.outgrowth = id})); });
        m_column->addWidget(out);
        return;
    }
    addMember();
    addValues();
    addProfile();
    addColours();
    addFinish();
    addWhole();
    addEnd();
    refresh();
}

void OutgrowthSettings::refresh()
{
    if (m_hand.of<OutgrowthHand>().rule().kind)
        for (const auto &show : m_refresh)
            show();
}

void OutgrowthSettings::runLater(json command)
{
    QMetaObject::invokeMethod(
        &m_session,
        [session = &m_session, hand = &m_hand.of<OutgrowthHand>(), window = window(), command] {
            session->runLong(command, window);
            hand->dropTried();
        },
        Qt::QueuedConnection);
}

void OutgrowthSettings::tryOut(const outgrowth::Outgrowth &rule)
{
    if (m_hand.of<OutgrowthHand>().chosen())
        m_hand.of<OutgrowthHand>().tryRule(rule);
    else
        m_hand.of<OutgrowthHand>().setNewRule(rule);
}

void OutgrowthSettings::apply(const outgrowth::Outgrowth &rule)
{
    if (const outgrowth::Outgrowth *o = m_hand.of<OutgrowthHand>().chosen())
        runLater(command::outgrowCommand(o->parent, o->id, rule));
    else
        m_hand.of<OutgrowthHand>().setNewRule(rule);
}

bool OutgrowthSettings::section(const QString &id, const QString &title)
{
    const bool isOpen = m_open.contains(id);
    auto *word = new QPushButton((isOpen ? QStringLiteral("▾ ") : QStringLiteral("▸ ")) + title);
    word->setObjectName(id);
    word->setProperty("word", true);
    connect(word, &QPushButton::clicked, this, [this, id, isOpen] {
        isOpen ? (void)m_open.remove(id) : (void)m_open.insert(id);
        emit rebuildAsked();
    });
    m_column->addWidget(word, 0, Qt::AlignLeft);
    return isOpen;
}

void OutgrowthSettings::addValues()
{
    const outgrowth::Kind &kind = *m_hand.of<OutgrowthHand>().rule().kind;
    for (std::size_t k = 0; k < kind.settings.size(); ++k) {
        if (k == kShownFirst && !section(QStringLiteral("sectionOutgrowthMore"), tr("More")))
            break;
        addValue(k);
    }
}

void OutgrowthSettings::addValue(std::size_t k)
{
    const outgrowth::Kind &kind = *m_hand.of<OutgrowthHand>().rule().kind;
    const outgrowth::Setting &s = kind.settings[k];
    const QString id = QStringLiteral("outgrowth_") + textOf(s.name);
    if (!s.choices.empty()) {
        auto *box = new QComboBox;
        box->setObjectName(id);
        box->setAccessibleName(outgrowthWords(s.title));
        const auto first = std::size_t(s.min);
        for (std::size_t c = first; c < s.choices.size(); ++c)
            box->addItem(tr("%1: %2").arg(outgrowthWords(s.title), outgrowthWords(s.choices[c])));
        connect(box, &QComboBox::activated, this, [this, k, first](int i) {
            outgrowth::Outgrowth rule = m_hand.of<OutgrowthHand>().rule();
            rule.values[k] = float(first) + float(i);
            apply(rule);
        });
        m_refresh.push_back(
            [this, box, k, first] { box->setCurrentIndex(int(m_hand.of<OutgrowthHand>().rule().values[k]) - int(first)); });
        m_column->addWidget(box);
        return;
    }
    const bool isLength = s.unit == "mm", isShare = s.unit.empty() && !s.isCount && s.max <= 1 && s.min >= 0;
    const bool isWide = s.max >= 100 * std::max(0.1f, s.min) && s.min > 0;
    ValueSlider::Range range{double(s.min), double(s.max), isWide, QString(), s.isCount ? 0 : 2, 1};
    if (isLength)
        range.unit = tr("mm"), range.digits = 1;
    if (isShare)
        range.unit = QStringLiteral("%"), range.digits = 0, range.shownPer = 100;
    if (s.unit == "deg")
        range.unit = tr("°"), range.digits = 0;
    auto *slider = new ValueSlider(outgrowthWords(s.title), range);
    slider->setObjectName(id);
    slider->setToolTip(tr("%1: from %2 to %3").arg(outgrowthWords(s.title), outgrowthWords(s.low), outgrowthWords(s.high)));
    const auto changed = [this, k, isCount = s.isCount](double v) {
        outgrowth::Outgrowth rule = m_hand.of<OutgrowthHand>().rule();
        rule.values[k] = isCount ? std::round(float(v)) : float(v);
        return rule;
    };
    connect(slider, &ValueSlider::edited, this, [this, changed](double v) { tryOut(changed(v)); });
    connect(slider, &ValueSlider::released, this, [this, changed](double v) { apply(changed(v)); });
    m_refresh.push_back([this, slider, k] { slider->setValue(double(m_hand.of<OutgrowthHand>().rule().values[k])); });
    const auto end = [&](bool isHigh, std::string_view tip) {
        auto *label = new QLabel;
        label->setPixmap(QPixmap::fromImage(endPicture(kind, k, isHigh, kEndSize)));
        label->setToolTip(outgrowthWords(tip));
        return label;
    };
    auto *row = new QHBoxLayout;
    row->setSpacing(4);
    row->addWidget(end(false, s.low));
    row->addWidget(slider, 1);
    row->addWidget(end(true, s.high));
    m_column->addLayout(row);
}

void OutgrowthSettings::addProfile()
{
    const bool isLine = m_hand.of<OutgrowthHand>().rule().kind->rooting == outgrowth::Rooting::Line;
    m_column->addWidget(softWords(isLine ? tr("Sizes from first to last") : tr("Thickness from root to tip")));
    auto *curve = new ProfileCurve;
    curve->setObjectName(QStringLiteral("outgrowthProfile"));
    const auto changed = [this](const std::vector<float> &sizes) {
        outgrowth::Outgrowth rule = m_hand.of<OutgrowthHand>().rule();
        rule.profile = sizes;
        return rule;
    };
    connect(curve, &ProfileCurve::edited, this, [this, changed](const std::vector<float> &s) { tryOut(changed(s)); });
    connect(curve, &ProfileCurve::released, this, [this, changed](const std::vector<float> &s) { apply(changed(s)); });
    m_refresh.push_back([this, curve] { curve->setSizes(m_hand.of<OutgrowthHand>().rule().profile); });
    m_column->addWidget(curve);
    addSection();
}

/// The drawn section, where it is drawn.
void OutgrowthSettings::addSection()
{
    if (!m_hand.of<OutgrowthHand>().rule().kind->is(outgrowth::Sectioned))
        return;
    auto *words = softWords(tr("Section: radii once round, from its side on"));
    m_column->addWidget(words);
    auto *curve = new ProfileCurve;
    curve->setObjectName(QStringLiteral("outgrowthSection"));
    const auto changed = [this](const std::vector<float> &radii) {
        outgrowth::Outgrowth next = m_hand.of<OutgrowthHand>().rule();
        next.section = radii;
        for (float &r : next.section)
            r = std::max(r, 0.05f);
        return next;
    };
    connect(curve, &ProfileCurve::edited, this, [this, changed](const std::vector<float> &r) { tryOut(changed(r)); });
    connect(curve, &ProfileCurve::released, this, [this, changed](const std::vector<float> &r) { apply(changed(r)); });
    m_refresh.push_back([this, words, curve] {
        const outgrowth::Outgrowth rule = m_hand.of<OutgrowthHand>().rule();
        const bool isDrawn = rule.value("section") == 4;
        words->setVisible(isDrawn), curve->setVisible(isDrawn);
        curve->setSizes(rule.section);
    });
    m_column->addWidget(curve);
}

/// A choice of the item that stands for members: pieces, cages and forms, or their own shape.
QComboBox *OutgrowthSettings::itemChoice(std::uint32_t now, const std::function<void(std::uint32_t)> &choose)
{
    auto *box = new QComboBox;
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->addItem(tr("its own shape"), 0u);
    const document::Creature &c = m_session.creature();
    document::eachItem(c, [&](const document::ItemKind &kind, std::size_t k, const Item &item) {
        if (kind.name != outgrowth::Outgrowth::kKind && kind.bounds(c, k).size().x > 0)
            box->addItem(QStringLiteral("%1 (%2)").arg(QString::fromStdString(item.name), tableWords("Item", kind.name)),
                         item.id);
    });
    box->setCurrentIndex(std::max(0, box->findData(now)));
    connect(box, &QComboBox::activated, this, [box, choose](int k) { choose(box->itemData(k).toUInt()); });
    return box;
}

/// Of the root and the tip of hair, or of a solid.
void OutgrowthSettings::addColours()
{
    if (!m_hand.of<OutgrowthHand>().rule().kind->is(outgrowth::Coloured))
        return;
    const auto shown = [this] {
        constexpr Vec3f kOwn{0.80f, 0.76f, 0.69f}; // sRGB, of hair that has none
        const std::vector<Vec3f> colours = m_hand.of<OutgrowthHand>().rule().colours;
        return colours.size() == 2 ? colours : std::vector<Vec3f>{kOwn, kOwn};
    };
    const auto set = [this](const std::vector<Vec3f> &colours) {
        outgrowth::Outgrowth rule = m_hand.of<OutgrowthHand>().rule();
        rule.colours = colours;
        apply(rule);
    };
    auto *row = new QHBoxLayout;
    const std::tuple<const char *, QString, QString> ends[] = {{"outgrowthRootColour", tr("Root"), tr("Root colour")},
                                                               {"outgrowthTipColour", tr("Tip"), tr("Tip colour")}};
    for (std::size_t k = 0; k < 2; ++k) {
        const auto &[id, word, title] = ends[k];
        auto *button = colourButton(QLatin1String(id), title, Qt::white, title, [set, shown, k](QColor c) {
            std::vector<Vec3f> next = shown();
            next[k] = {c.redF(), c.greenF(), c.blueF()};
            set(next);
        });
        m_refresh.push_back([shown, button, k] {
            const Vec3f c = shown()[k];
            showColour(button, QColor::fromRgbF(c.x, c.y, c.z));
        });
        row->addWidget(new QLabel(word));
        row->addWidget(button);
        row->addSpacing(8);
    }
    auto *own = new QPushButton(tr("Plain"));
    own->setObjectName(QStringLiteral("outgrowthPlainColour"));
    own->setToolTip(tr("Back to the colour of its kind"));
    connect(own, &QPushButton::clicked, this, [set] { set({}); });
    m_refresh.push_back([this, own] { own->setVisible(!m_hand.of<OutgrowthHand>().rule().colours.empty()); });
    row->addWidget(own);
    row->addStretch();
    m_column->addLayout(row);
    auto *skin = new ValueSlider(tr("Colour of the skin"), {0, 1, false, QStringLiteral("%"), 0, 100});
    skin->setObjectName(QStringLiteral("outgrowthSkinColour"));
    skin->setToolTip(tr("How far each takes its colour from the skin at its root"));
    connect(skin, &ValueSlider::released, this, [this](double v) {
        outgrowth::Outgrowth rule = m_hand.of<OutgrowthHand>().rule();
        rule.skinColour = float(v);
        apply(rule);
    });
    m_refresh.push_back([this, skin] { skin->setValue(double(m_hand.of<OutgrowthHand>().rule().skinColour)); });
    m_column->addWidget(skin);
}

/// A ready finish, or that of its kind.
void OutgrowthSettings::addFinish()
{
    auto *box = new QComboBox;
    box->setObjectName(QStringLiteral("outgrowthFinish"));
    box->setAccessibleName(tr("Finish"));
    box->addItem(tr("Finish of its kind"));
    for (const colour::ReadyFinish &f : colour::kReadyFinishes)
        box->addItem(tr("Finish: %1").arg(tableWords("Finish", f.title)));
    connect(box, &QComboBox::activated, this, [this](int k) {
        outgrowth::Outgrowth rule = m_hand.of<OutgrowthHand>().rule();
        rule.finish = {};
        for (std::size_t i = 0; k > 0 && i < kFinishes; ++i)
            rule.finish[i] = colour::kReadyFinishes[std::size_t(k) - 1].values[i];
        apply(rule);
    });
    m_refresh.push_back([this, box] {
        const Finish &now = m_hand.of<OutgrowthHand>().rule().finish;
        const auto isSame = [&](const colour::ReadyFinish &f) {
            return std::equal(now.begin(), now.end(), f.values.begin(),
                              [](const std::optional<float> &a, float b) { return a && std::abs(*a - b) < 1e-4f; });
        };
        const auto &all = colour::kReadyFinishes;
        const auto at = std::find_if(all.begin(), all.end(), isSame);
        box->setCurrentIndex(at == all.end() ? now == Finish() ? 0 : -1 : int(at - all.begin()) + 1);
        if (box->currentIndex() < 0)
            box->setPlaceholderText(tr("Finish: its own"));
    });
    m_column->addWidget(box);
}

/// What is said of the whole of it.
void OutgrowthSettings::addWhole()
{
    if (m_hand.of<OutgrowthHand>().rule().kind->is(outgrowth::Repeats)) {
        auto *line = new QHBoxLayout;
        line->addWidget(new QLabel(tr("Repeats")));
        auto *box = itemChoice(m_hand.of<OutgrowthHand>().rule().item, [this](std::uint32_t id) {
            outgrowth::Outgrowth rule = m_hand.of<OutgrowthHand>().rule();
            rule.item = id;
            apply(rule);
        });
        box->setObjectName(QStringLiteral("outgrowthItem"));
        box->setAccessibleName(tr("Repeats"));
        box->setToolTip(tr("What stands for each member: a piece, a cage or a form, or its own shape"));
        line->addWidget(box, 1);
        m_column->addLayout(line);
    }
    auto *row = new QHBoxLayout;
    auto *mirror = new QCheckBox(tr("Both sides"));
    mirror->setObjectName(QStringLiteral("outgrowthMirror"));
    connect(mirror, &QCheckBox::clicked, this, [this](bool on) {
        outgrowth::Outgrowth rule = m_hand.of<OutgrowthHand>().rule();
        rule.isMirrored = on;
        apply(rule);
    });
    m_refresh.push_back([this, mirror] { mirror->setChecked(m_hand.of<OutgrowthHand>().rule().isMirrored); });
    auto *other = new QPushButton(tr("Another seed"));
    other->setObjectName(QStringLiteral("outgrowthSeed"));
    other->setToolTip(tr("The same rule with other chances"));
    connect(other, &QPushButton::clicked, this, [this] {
        outgrowth::Outgrowth rule = m_hand.of<OutgrowthHand>().rule();
        ++rule.seed;
        apply(rule);
    });
    row->addWidget(mirror);
    row->addStretch();
    row->addWidget(other);
    m_column->addLayout(row);
}

/// What was done to the one member that is chosen.
void OutgrowthSettings::addMember()
{
    const outgrowth::Outgrowth *o = m_hand.of<OutgrowthHand>().chosen();
    const auto member = m_hand.of<OutgrowthHand>().member();
    if (!o || !member)
        return;
    using Correct = command::CorrectMember;
    const outgrowth::Correction *now = o->correction(member->number, member->isTwin);
    auto *title =
        new QLabel(member->isTwin ? tr("Member %1, the twin").arg(member->number + 1) : tr("Member %1").arg(member->number + 1));
    title->setProperty("group", true);
    m_column->addWidget(title);
    const auto send = [this, member, id = o->id](Correct change) {
        change.outgrowth = id, change.member = member->number, change.isTwin = member->isTwin;
        runLater(toCommand(change));
    };
    const auto slider = [&](const char *what, std::optional<float> Correct::*value, const QString &name, ValueSlider::Range range,
                            float shown) {
        auto *s = new ValueSlider(name, range);
        s->setObjectName(QStringLiteral("member_") + QLatin1String(what));
        s->setValue(double(shown));
        connect(s, &ValueSlider::released, this, [send, value](double v) {
            Correct change;
            change.*value = float(v);
            send(change);
        });
        m_column->addWidget(s);
    };
    slider("size", &Correct::size, tr("Size"), {0.2, 3, true, QString(), 2}, now ? now->size : 1);
    const auto vector = [&](const char *what, std::optional<Vec3f> Correct::*value, Vec3f shown, std::array<QString, 3> names,
                            ValueSlider::Range range) {
        for (int axis = 0; axis < 3; ++axis) {
            auto *s = new ValueSlider(names[std::size_t(axis)], range);
            s->setObjectName(QStringLiteral("member_%1%2").arg(QLatin1String(what)).arg(axis));
            s->setValue(double(at(shown, axis)));
            connect(s, &ValueSlider::released, this, [send, value, shown, axis](double v) {
                Vec3f next = shown;
                (axis == 0 ? next.x : axis == 1 ? next.y : next.z) = float(v);
                Correct change;
                change.*value = next;
                send(change);
            });
            m_column->addWidget(s);
        }
    };
    vector("turn", &Correct::turn, now ? now->rotation : Vec3f{}, {tr("Lean"), tr("Turn"), tr("Splay")},
           {-180, 180, false, tr("°"), 0});
    slider("bend", &Correct::bend, tr("Bend"), {-120, 120, false, tr("°"), 0}, now ? now->bend : 0);
    slider("broken", &Correct::broken, tr("Broken off"), {0, 0.9, false, QStringLiteral("%"), 0, 100}, now ? now->broken : 0);
    slider("thin", &Correct::thin, tr("Thickness"), {0.3, 2, true, QString(), 2}, now ? now->thin : 1);
    vector("pull", &Correct::pull, now ? now->pull : Vec3f{}, {tr("Tip aside"), tr("Tip up"), tr("Tip ahead")},
           {-30, 30, false, tr("mm"), 1});
    auto *swap = new QHBoxLayout;
    swap->addWidget(new QLabel(tr("Swap for")));
    auto *box = itemChoice(now ? now->item : 0, [send](std::uint32_t id) {
        Correct change;
        change.item = command::ItemName(id);
        send(change);
    });
    box->setObjectName(QStringLiteral("memberItem"));
    box->setAccessibleName(tr("Swap for"));
    box->setToolTip(tr("Another item in its place"));
    swap->addWidget(box, 1);
    m_column->addLayout(swap);
    auto *row = new QHBoxLayout;
    const auto button = [&](const char *id, const QString &text, Correct change) {
        auto *b = new QPushButton(text);
        b->setObjectName(QLatin1String(id));
        connect(b, &QPushButton::clicked, this, [send, change] { send(change); });
        row->addWidget(b);
    };
    Correct missing, reset;
    missing.isMissing = true, reset.isReset = true;
    button("memberMissing", tr("Leave out"), missing);
    button("memberReset", tr("As the rule has it"), reset);
    m_column->addLayout(row);
    auto *whole = new QLabel(tr("All members"));
    whole->setProperty("group", true);
    m_column->addWidget(whole);
}

/// What an outgrowth can become.
void OutgrowthSettings::addEnd()
{
    const outgrowth::Outgrowth *o = m_hand.of<OutgrowthHand>().chosen();
    if (!o)
        return;
    const auto button = [&](const char *id, const QString &text, const QString &tip, const json &command) {
        auto *b = new QPushButton(text);
        b->setObjectName(QLatin1String(id));
        b->setToolTip(tip);
        connect(b, &QPushButton::clicked, this, [this, command] { runLater(command); });
        m_column->addWidget(b);
    };
    if (!o->corrections.empty()
        && std::any_of(o->corrections.begin(), o->corrections.end(), [](const auto &c) { return c.isMissing; })) {
        auto *all = new QPushButton(tr("Bring back those left out"));
        all->setObjectName(QStringLiteral("outgrowthBringBack"));
        connect(all, &QPushButton::clicked, this, [this] {
            const outgrowth::Outgrowth *now = m_hand.of<OutgrowthHand>().chosen();
            for (const auto &c : now ? now->corrections : std::vector<outgrowth::Correction>())
                if (c.isMissing) {
                    command::CorrectMember back{.outgrowth = now->id, .member = c.member, .isTwin = c.isTwin};
                    back.isMissing = false;
                    runLater(toCommand(back));
                }
        });
        m_column->addWidget(all);
    }
    if (o->kind->rooting != outgrowth::Rooting::Area && o->parent) {
        auto *rim = new ValueSlider(tr("Rim of skin"), {0, 6, false, tr("mm"), 2});
        rim->setObjectName(QStringLiteral("outgrowthRim"));
        rim->setToolTip(tr("Raises the skin round each root, as a detail layer"));
        rim->setValue(double(o->rim.height));
        connect(rim, &ValueSlider::released, this, [this, id = o->id](double v) {
            runLater(toCommand(command::RimOutgrowth{.outgrowth = id, .height = float(v)}));
        });
        m_column->addWidget(rim);
    }
    auto *copy = new QPushButton(tr("Copy its settings"));
    copy->setObjectName(QStringLiteral("outgrowthCopy"));
    copy->setToolTip(tr("For this creature or another: take them up with Paste, then press on the skin"));
    connect(copy, &QPushButton::clicked, this, [this] {
        const std::string text = command::copiedRule(m_hand.of<OutgrowthHand>().rule()).dump(2);
        QGuiApplication::clipboard()->setText(QString::fromStdString(text));
    });
    m_column->addWidget(copy);
    button("outgrowthMelt", tr("Melt into the skin"),
           o->kind->prepare ? tr("One skin with a flare round each root; the rule is gone then")
                            : tr("One skin with a flare round each root; it can be taken out again"),
           toCommand(command::MeltOutgrowth{.outgrowth = o->id}));
    button("outgrowthPiece", tr("Turn into a piece"), tr("To be sculpted on; the rule is gone then"),
           toCommand(command::OutgrowthToPiece{.outgrowth = o->id}));
    button("outgrowthDelete", tr("Delete"), tr("Takes the whole outgrowth away"),
           toCommand(command::RemoveOutgrowth{.outgrowth = o->id}));
}

} // namespace bonemoss::app
