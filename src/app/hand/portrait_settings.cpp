#include "app/hand/portrait_settings.h"

#include "app/hand/colour_button.h"
#include "app/hand/outgrowth_settings.h"
#include "app/hand/tile.h"
#include "app/hand/value_slider.h"
#include "app/theme/theme.h"
#include "command/fields.h"
#include "command/portrait/light_fields.h"
#include "command/portrait/stage_fields.h"
#include "document/ops/portraits.h"
#include "export/portrait_series.h"
#include "portrait/grounds.h"
#include "portrait/picture_look.h"

#include <QCheckBox>
#include <QComboBox>
#include <QCoreApplication>
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QSpinBox>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

using nlohmann::json;

namespace {

/// A page of the bench: one row.
struct PageRow {
    PortraitPage page;
    const char *id, *title, *hint; ///< translated by QCoreApplication, "PortraitPage"
    void (*draw)(QPainterPath &);  ///< in a box of 100 by 40
    void (PortraitSettings::*build)();
};

void ray(QPainterPath &p, double x, double y, double dx, double dy)
{
    p.moveTo(x, y), p.lineTo(x + dx, y + dy);
}

const PageRow kPages[] = {
    {PortraitPage::Sets, "sets", QT_TRANSLATE_NOOP("PortraitPage", "Ready light"),
     QT_TRANSLATE_NOOP("PortraitPage", "Lights, surroundings, backdrop and ground that go together"),
     [](QPainterPath &p) {
         p.addEllipse(QPointF(50, 25), 8, 8);
         ray(p, 26, 10, 12, 7), ray(p, 74, 10, -12, 7), ray(p, 50, 3, 0, 9);
     },
     &PortraitSettings::addSets},
    {PortraitPage::Lights, "lights", QT_TRANSLATE_NOOP("PortraitPage", "Light"),
     QT_TRANSLATE_NOOP("PortraitPage", "Drag the highlight of the chosen light over the creature; with Shift its shadow"),
     [](QPainterPath &p) {
         p.addEllipse(QPointF(50, 18), 7, 7);
         p.moveTo(46, 28), p.lineTo(54, 28), p.moveTo(47, 32), p.lineTo(53, 32);
         ray(p, 36, 18, -9, 0), ray(p, 64, 18, 9, 0), ray(p, 40, 8, -6, -5), ray(p, 60, 8, 6, -5);
     },
     &PortraitSettings::addLights},
    {PortraitPage::Camera, "camera", QT_TRANSLATE_NOOP("PortraitPage", "Lens"),
     QT_TRANSLATE_NOOP("PortraitPage",
                       "Focal length, aperture, focus and shape of the picture; press on the creature to focus there"),
     [](QPainterPath &p) {
         p.addEllipse(QPointF(50, 20), 14, 14), p.addEllipse(QPointF(50, 20), 6, 6);
         ray(p, 50, 6, 8, 12), ray(p, 64, 20, -10, 9), ray(p, 50, 34, -8, -12), ray(p, 36, 20, 10, -9);
     },
     &PortraitSettings::addCamera},
    {PortraitPage::Place, "place", QT_TRANSLATE_NOOP("PortraitPage", "Place"),
     QT_TRANSLATE_NOOP("PortraitPage", "Surroundings that give light, what is seen behind, the ground, fog"),
     [](QPainterPath &p) {
         p.moveTo(16, 30), p.quadTo(34, 10, 48, 24), p.quadTo(62, 12, 84, 30);
         p.moveTo(12, 35), p.lineTo(88, 35);
     },
     &PortraitSettings::addPlace},
    {PortraitPage::Picture, "picture", QT_TRANSLATE_NOOP("PortraitPage", "Picture"),
     QT_TRANSLATE_NOOP("PortraitPage", "How it is developed, and a picture to a file at any size"),
     [](QPainterPath &p) {
         p.addRoundedRect(QRectF(28, 6, 44, 28), 2, 2);
         p.moveTo(32, 30), p.lineTo(44, 18), p.lineTo(54, 27), p.lineTo(60, 22), p.lineTo(68, 30);
     },
     &PortraitSettings::addPicture},
    {PortraitPage::Mix, "mix", QT_TRANSLATE_NOOP("PortraitPage", "Mix lights"),
     QT_TRANSLATE_NOOP("PortraitPage",
                       "Strength and colour of each light on the picture that is there: nothing is rendered again"),
     [](QPainterPath &p) {
         for (const double x : {34.0, 50.0, 66.0})
             p.moveTo(x, 6), p.lineTo(x, 34);
         p.addRect(30, 12, 8, 5), p.addRect(46, 22, 8, 5), p.addRect(62, 9, 8, 5);
     },
     &PortraitSettings::addMix},
    {PortraitPage::Plate, "plate", QT_TRANSLATE_NOOP("PortraitPage", "Plate"),
     QT_TRANSLATE_NOOP("PortraitPage",
                       "A natural-history page: press on the creature to write a label there, drag one to move it"),
     [](QPainterPath &p) {
         p.addRect(QRectF(28, 5, 44, 30)), p.addRect(QRectF(31, 8, 38, 24));
         p.moveTo(36, 24), p.quadTo(44, 10, 54, 18), p.quadTo(62, 20, 64, 25), p.moveTo(54, 18), p.lineTo(62, 12);
     },
     &PortraitSettings::addPlate},
};

TileWords words(const BenchRow &, std::size_t k)
{
    const PageRow &row = kPages[k];
    return {QStringLiteral("portraitTile_") + QLatin1String(row.id), portraitWords(row.title), portraitWords(row.hint),
            portraitWords("Portrait")};
}

} // namespace

QString portraitWords(std::string_view words)
{
    return QCoreApplication::translate("PortraitPage", words.data());
}

const HandPart kPortraitPart{
    .count = [](const BenchRow &) { return std::size(kPages); },
    .words = words,
    .tile =
        [](const BenchRow &bench, std::size_t k, int key) {
            QPainterPath path;
            kPages[k].draw(path);
            return new Tile(words(bench, k).title, key, path, false);
        },
    .pick = [](HandModel &hand, const BenchRow &, std::size_t k) { hand.of<PortraitHand>().setPage(kPages[k].page); },
    .held = [](const HandModel &hand, const BenchRow &) { return int(hand.of<PortraitHand>().page()); },
    .settings = [](Session &session, HandModel &hand, QSet<QString> &open) -> HandSettings * {
        return new PortraitSettings(session, hand, open);
    },
};

PortraitSettings::PortraitSettings(Session &session, HandModel &hand, QSet<QString> &)
    : m_session(session), m_hand(hand), m_column(new QVBoxLayout(this))
{
    m_column->setContentsMargins(0, 6, 0, 0);
    m_column->setSpacing(4);
    const PageRow &row = kPages[std::size_t(held().page())];
    m_column->addWidget(softWords(portraitWords(row.hint)));
    (this->*row.build)();
    m_madeFor = state();
    refresh();
}

std::vector<std::uint32_t> PortraitSettings::state() const
{
    const portrait::Stage &s = m_session.creature().stage;
    const portrait::Light *l = held().light();
    std::vector<std::uint32_t> out{std::uint32_t(s.surroundings.kind), l ? l->id : 0};
    for (const portrait::Light &other : s.lights) // mixing has a row for each
        out.push_back(2 * other.id + other.isOn);
    if (held().page() == PortraitPage::Plate) {
        out.push_back(held().mark());
        for (const portrait::PlateMark &m : s.plate.marks)
            out.push_back(m.id);
    }
    return out;
}

bool PortraitSettings::isOfOneState() const
{
    return state() != m_madeFor;
}

void PortraitSettings::refresh()
{
    for (const auto &show : m_refresh)
        show();
}

void PortraitSettings::run(json command)
{
    QMetaObject::invokeMethod( // the panel may be made anew by it
        &m_session, [session = &m_session, command = std::move(command)] { session->run(command); }, Qt::QueuedConnection);
}

ValueSlider *PortraitSettings::addSlider(const char *id, const QString &title, double least, double most, const QString &unit,
                                         int digits, double per, bool isLogarithmic, const std::function<double()> &value,
                                         const std::function<json(double)> &command, const QString &tip)
{
    auto *s = new ValueSlider(title, {least, most, isLogarithmic, unit, digits, per});
    s->setObjectName(QLatin1String(id));
    s->setToolTip(tip);
    connect(s, &ValueSlider::edited, this, [this, command](double v) { held().tryCommand(command(v)); });
    connect(s, &ValueSlider::released, this, [this, command](double v) {
        held().tryCommand({});
        run(command(v));
    });
    m_refresh.push_back([s, value] { s->setValue(value()); });
    m_column->addWidget(s);
    return s;
}

QPushButton *PortraitSettings::addButton(const char *id, const QString &text, const QString &tip,
                                         const std::function<void()> &act)
{
    auto *b = new QPushButton(text);
    b->setObjectName(QLatin1String(id));
    b->setToolTip(tip);
    connect(b, &QPushButton::clicked, this, act);
    m_column->addWidget(b);
    return b;
}

void PortraitSettings::addSets()
{
    auto *keeps = new QCheckBox(tr("Keep the place as it is"));
    keeps->setObjectName(QStringLiteral("portraitKeepPlace"));
    keeps->setToolTip(tr("Lights and surroundings alone are changed: backdrop, ground and fog stay"));
    for (const portrait::LightSet &set : portrait::lightSets())
        addButton(qPrintable(QStringLiteral("portraitSet_") + textOf(set.id)), portraitWords(set.title), portraitWords(set.hint),
                  [this, keeps, id = std::string(set.id)] {
                      run(toCommand(command::UseLights{.set = id, .keepsPlace = keeps->isChecked()}));
                  });
    m_column->addWidget(keeps);
    m_column->addStretch();
}

void PortraitSettings::addLights()
{
    auto *roles = new QComboBox;
    roles->setObjectName(QStringLiteral("portraitRole"));
    roles->setAccessibleName(tr("Kind of light"));
    roles->setToolTip(tr("A light that plays this part is added"));
    roles->addItem(tr("Add a light…"));
    for (const portrait::LightRole &r : portrait::lightRoles()) {
        roles->addItem(portraitWords(r.title), textOf(r.id));
        roles->setItemData(roles->count() - 1, portraitWords(r.hint), Qt::ToolTipRole);
    }
    connect(roles, &QComboBox::activated, this, [this, roles](int k) {
        if (k > 0)
            run(toCommand(command::AddLight{.role = roles->itemData(k).toString().toStdString()}));
        roles->setCurrentIndex(0);
    });
    m_column->addWidget(roles);
    const portrait::Light *light = held().light();
    if (!light) {
        m_column->addWidget(
            softWords(tr("There is no light of its own yet: what is seen is the museum case. Add one, or take a ready set.")));
        m_column->addStretch();
        return;
    }
    auto *name = heading(textOf(light->name), 11);
    name->setObjectName(QStringLiteral("lightName"));
    m_refresh.push_back([this, name] { name->setText(held().light() ? textOf(held().light()->name) : QString()); });
    m_column->addWidget(name);
    const auto now = [this] { return held().light() ? *held().light() : portrait::Light(); };
    const auto set = [this](auto member) {
        return [this, member](double v) {
            command::SetLight c{.light = held().light() ? held().light()->id : 0u};
            c.changes.*member = float(v);
            return toCommand(c);
        };
    };
    using Changes = command::LightChanges;
    addSlider(
        "lightStrength", tr("Strength"), 0, 6, {}, 2, 1, false, [now] { return double(now().strength); }, set(&Changes::strength),
        tr("1 lights a white surface to white; size and distance do not change that"));
    addSlider(
        "lightKelvin", tr("Temperature"), 1500, 15000, tr("K"), 0, 1, true,
        [now] { return double(std::max(1500.0f, now().kelvin)); }, set(&Changes::kelvin),
        tr("Candle 1 900, lamp 2 700, noon 5 500, shade 8 000"));
    addSlider(
        "lightAzimuth", tr("Around"), -180, 180, tr("°"), 0, 1, false, [now] { return double(now().azimuth); },
        set(&Changes::azimuth), tr("0 from the nose, positive to the left flank"));
    addSlider(
        "lightElevation", tr("Height"), -60, 90, tr("°"), 0, 1, false, [now] { return double(now().elevation); },
        set(&Changes::elevation));
    const bool isSun = light->shape == portrait::Light::Shape::Sun;
    addSlider(
        "lightSize", isSun ? tr("Width of the sun") : tr("Size"), isSun ? 0.1 : 1, isSun ? 20 : 5000, isSun ? tr("°") : tr("mm"),
        1, 1, true, [now] { return double(now().size); }, set(&Changes::size), tr("Larger is softer; as bright as before"));
    if (!isSun)
        addSlider(
            "lightDistance", tr("Distance"), 10, 10000, tr("mm"), 0, 1, true, [now] { return double(now().distance); },
            set(&Changes::distance), tr("Nearer falls off faster; as bright as before where it is aimed"));
    auto *colour = colourButton(QStringLiteral("lightColour"), tr("Colour"), ofLight(light->colour), tr("Colour of the light"),
                                [this](QColor c) {
                                    command::SetLight other{.light = held().light() ? held().light()->id : 0u};
                                    other.changes.colour = lightOf(c);
                                    run(toCommand(other));
                                });
    auto *line = new QHBoxLayout;
    auto *word = new QLabel(tr("Colour"));
    word->setProperty("soft", true);
    line->addWidget(word), line->addStretch(), line->addWidget(colour);
    m_column->addLayout(line);
    const auto box = [&](const char *id, const QString &text, const QString &tip, bool on, auto member) {
        auto *b = new QCheckBox(text);
        b->setObjectName(QLatin1String(id));
        b->setToolTip(tip);
        b->setChecked(on);
        connect(b, &QCheckBox::clicked, this, [this, member](bool is) {
            command::SetLight c{.light = held().light() ? held().light()->id : 0u};
            c.changes.*member = is;
            run(toCommand(c));
        });
        m_column->addWidget(b);
    };
    box("lightOn", tr("It shines"), {}, light->isOn, &Changes::isOn);
    box("lightWithCamera", tr("It goes with the camera"), tr("Around and height are told from the camera"), light->goesWithCamera,
        &Changes::goesWithCamera);
    addButton("lightRemove", tr("Delete light"), {}, [this] {
        if (held().light())
            run(toCommand(command::RemoveLight{.light = held().light()->id}));
    });
    m_column->addStretch();
}

void PortraitSettings::addFilm()
{
    const auto film = [this] { return m_session.creature().stage.film; };
    auto *look = new QComboBox;
    look->setObjectName(QStringLiteral("filmLook"));
    look->setAccessibleName(tr("Look"));
    look->setToolTip(tr("What pictures make of the creature; the view shows the same"));
    for (const portrait::PictureLook &l : portrait::pictureLooks()) {
        look->addItem(portraitWords(l.title), textOf(l.id));
        look->setItemData(look->count() - 1, portraitWords(l.hint), Qt::ToolTipRole);
    }
    connect(look, &QComboBox::activated, this,
            [this, look] { run(toCommand(command::SetFilm{.look = look->currentData().toString().toStdString()})); });
    m_refresh.push_back([look, film] { look->setCurrentIndex(look->findData(textOf(portrait::pictureLook(film().look).id))); });
    m_column->addWidget(look);
    addSlider(
        "filmExposure", tr("Exposure"), -5, 5, tr("stops"), 1, 1, false, [film] { return double(film().exposure); },
        [](double v) { return toCommand(command::SetFilm{.exposure = float(v)}); });
    addSlider(
        "filmContrast", tr("Contrast"), 0, 1, tr("%"), 0, 100, false, [film] { return double(film().contrast); },
        [](double v) { return toCommand(command::SetFilm{.contrast = float(v)}); });
    addSlider(
        "filmBloom", tr("Bloom"), 0, 0.5, tr("%"), 0, 100, false, [film] { return double(film().bloom); },
        [](double v) { return toCommand(command::SetFilm{.bloom = float(v)}); },
        tr("Light that the lens scatters about what is bright"));
    addSlider(
        "filmGrain", tr("Grain"), 0, 1, tr("%"), 0, 100, false, [film] { return double(film().grain); },
        [](double v) { return toCommand(command::SetFilm{.grain = float(v)}); });
    auto *metered = new QCheckBox(tr("Expose by the picture"));
    metered->setObjectName(QStringLiteral("filmMetered"));
    metered->setChecked(film().isMetered);
    connect(metered, &QCheckBox::clicked, this, [this](bool on) { run(toCommand(command::SetFilm{.isMetered = on})); });
    m_column->addWidget(metered);
}

void PortraitSettings::addPicture()
{
    addFilm();
    m_column->addWidget(heading(tr("To a file"), 11));
    auto *line = new QHBoxLayout;
    auto *width = new QSpinBox, *samples = new QSpinBox;
    width->setObjectName(QStringLiteral("pictureWidth")), samples->setObjectName(QStringLiteral("pictureSamples"));
    width->setAccessibleName(tr("Width in pixels")), samples->setAccessibleName(tr("Samples of each pixel"));
    width->setRange(16, 16384), width->setValue(1920), width->setSuffix(tr(" px wide"));
    samples->setRange(1, 4096), samples->setValue(64), samples->setSuffix(tr(" samples"));
    line->addWidget(width), line->addWidget(samples);
    m_column->addLayout(line);
    auto *clear = new QCheckBox(tr("Nothing behind it (transparent)")), *passes = new QCheckBox(tr("All passes beside it"));
    clear->setObjectName(QStringLiteral("pictureClear")), passes->setObjectName(QStringLiteral("picturePasses"));
    passes->setToolTip(
        tr("Each light, colour, normal, depth, occlusion, facing, numbers of pieces: in the EXR, or as PNG files beside"));
    m_column->addWidget(clear), m_column->addWidget(passes);
    addButton("pictureMake", tr("Make picture…"), tr("PNG, or EXR with everything in it; can be cancelled"),
              [this, width, samples, clear, passes] {
                  const int w = width->value(), h = std::max(1, int(std::lround(double(w) / double(held().shot().aspect))));
                  makePicture({w, std::min(h, 16384)}, samples->value(), clear->isChecked(), passes->isChecked());
              });
    addButton("turntableMake", tr("Turntable…"),
              tr("A turn about the creature as it is seen now: 72 frames of half that width, as a film or as pictures"),
              [this, width, samples] {
                  const int w = std::max(16, width->value() / 2);
                  makeTurntable({w, std::max(1, int(std::lround(double(w) / double(held().shot().aspect))))},
                                std::max(1, samples->value() / 2));
              });
    addButton(
        "sheetMake", tr("Six views…"), tr("Nose, flanks, tail, crown and belly at one scale on one sheet, PNG or PDF"),
        [this, width, samples] {
            const int cell = std::max(16, width->value() / 3), n = samples->value();
            makePages(
                tr("Six views"), QStringLiteral("six views.png"),
                [cell, n](const document::Creature &c, const Progress &p) { return exporting::contactSheet(c, cell, n, 1, p); },
                exporting::kSheetDpi);
        });
    m_column->addStretch();
}

void PortraitSettings::addMix()
{
    const portrait::Stage stage = held().stage();
    std::vector<std::string> names;
    for (const portrait::Light &l : stage.lights)
        if (l.isOn)
            names.push_back(l.name);
    names.push_back("surroundings"), names.push_back("backdrop");
    for (const std::string &name : names) {
        const auto now = [this, name] {
            for (const portrait::LightMix &m : held().mix())
                if (m.light == name)
                    return m;
            return portrait::LightMix{name, 1, {1, 1, 1}};
        };
        auto *line = new QHBoxLayout;
        auto *s = new ValueSlider(name == "surroundings" ? tr("Surroundings")
                                  : name == "backdrop"   ? tr("Backdrop")
                                                         : textOf(name),
                                  {0, 4, false, QStringLiteral("%"), 0, 100});
        s->setObjectName(QStringLiteral("mix_") + textOf(name));
        s->setToolTip(tr("Of the light as it was gathered"));
        connect(s, &ValueSlider::edited, this, [this, now](double v) {
            portrait::LightMix m = now();
            m.strength = float(v);
            held().setMix(m);
        });
        auto *c = colourButton(QStringLiteral("mixColour_") + textOf(name), tr("Colour"), ofLight(now().colour),
                               tr("Colour of the light"), [this, now](QColor picked) {
                                   portrait::LightMix m = now();
                                   m.colour = lightOf(picked);
                                   held().setMix(m);
                               });
        m_refresh.push_back([s, c, now] { s->setValue(double(now().strength)), showColour(c, ofLight(now().colour)); });
        line->addWidget(s, 1), line->addWidget(c);
        m_column->addLayout(line);
    }
    addButton("mixKeep", tr("Keep it in the lights"),
              tr("The lights of the creature become as strong and as coloured as they are mixed"), [this] {
                  const auto mix = held().mix();
                  const portrait::Stage was = held().stage();
                  held().dropMix();
                  for (const portrait::LightMix &m : mix)
                      for (const portrait::Light &l : was.lights)
                          if (l.name == m.light && l.id) {
                              command::SetLight set{.light = l.id};
                              set.changes.strength = std::min(1000.0f, l.strength * m.strength),
                              set.changes.colour = l.colour * m.colour;
                              run(toCommand(set));
                          }
              });
    addButton("mixReset", tr("As it was gathered"), {}, [this] {
        held().dropMix();
        refresh();
    });
    m_column->addStretch();
}

} // namespace bonemoss::app
