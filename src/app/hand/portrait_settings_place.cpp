// The pages of the lens and of the place.
#include "app/hand/portrait_settings.h"

#include "app/hand/colour_button.h"
#include "app/hand/value_slider.h"
#include "app/theme/theme.h"
#include "command/fields.h"
#include "command/portrait/stage_fields.h"
#include "portrait/grounds.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFile>
#include <QFileDialog>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

void PortraitSettings::addCamera()
{
    const auto slider = [&](const char *id, const QString &title, ValueSlider::Range range, double now, const QString &tip,
                            auto change) {
        auto *s = new ValueSlider(title, range);
        s->setObjectName(QLatin1String(id));
        s->setToolTip(tip);
        s->setValue(now);
        connect(s, &ValueSlider::edited, this, [this, change](double v) {
            portrait::Shot shot = held().shot();
            float lens = held().lens();
            change(shot, lens, float(v));
            held().setShot(shot, lens);
        });
        m_column->addWidget(s);
        return s;
    };
    auto *lens = slider("shotLens", tr("Lens"), {12, 300, true, tr("mm"), 0}, double(held().lens()),
                        tr("On film 36 mm wide; the creature keeps its size in the view"),
                        [](portrait::Shot &, float &mm, float v) { mm = v; });
    auto *aperture = slider("shotAperture", tr("Aperture"), {0, 32, false, tr("f"), 1}, double(held().shot().aperture),
                            tr("0: all is sharp. Small numbers blur what is not in focus"),
                            [](portrait::Shot &s, float &, float v) { s.aperture = v; });
    auto *focus =
        slider("shotFocus", tr("Focus"), {0, 3000, false, tr("mm"), 0}, double(held().shot().focus),
               tr("From the eye; 0: at what the camera looks at"), [](portrait::Shot &s, float &, float v) { s.focus = v; });
    auto *tilt = slider("shotTilt", tr("Tilt"), {-180, 180, false, tr("°"), 0}, double(tiltOf(held().shot().camera)),
                        tr("Of the camera, about the way it looks"), [](portrait::Shot &, float &, float) {});
    connect(tilt, &ValueSlider::edited, this, [this](double v) {
        portrait::Camera c = held().shot().camera;
        c.rotation = portrait::uprightRotation(-c.forward()) * rotationAbout({0, 0, 1}, float(v) * kRadiansPerDegree);
        emit held().cameraWanted(c.rotation);
    });
    m_refresh.push_back([this, tilt] { tilt->setValue(double(tiltOf(held().shot().camera))); });
    m_refresh.push_back([this, lens, aperture, focus] {
        lens->setValue(double(held().lens())), aperture->setValue(double(held().shot().aperture));
        focus->setValue(double(held().shot().focus));
    });
    connect(&held(), &PortraitHand::shotChanged, this, &PortraitSettings::refresh);
    auto *shape = new QComboBox;
    shape->setObjectName(QStringLiteral("shotShape"));
    shape->setAccessibleName(tr("Shape of the picture"));
    for (const auto &[name, aspect] :
         {std::pair{tr("Wide, 16:9"), 16.0 / 9}, std::pair{tr("Landscape, 16:10"), 1.6}, std::pair{tr("Landscape, 3:2"), 1.5},
          std::pair{tr("Square"), 1.0}, std::pair{tr("Portrait, 4:5"), 0.8}, std::pair{tr("Portrait, 2:3"), 2.0 / 3}}) {
        shape->addItem(name, aspect);
        if (std::abs(aspect - double(held().shot().aspect)) < 0.01)
            shape->setCurrentIndex(shape->count() - 1);
    }
    connect(shape, &QComboBox::activated, this, [this, shape] {
        portrait::Shot shot = held().shot();
        shot.aspect = float(shape->currentData().toDouble());
        held().setShot(shot, held().lens());
    });
    m_column->addWidget(shape);
    auto *frame = new QCheckBox(tr("Show the frame")), *thirds = new QCheckBox(tr("Show thirds"));
    frame->setObjectName(QStringLiteral("shotFrame")), thirds->setObjectName(QStringLiteral("shotThirds"));
    frame->setToolTip(tr("What the picture will hold, and a border of 5 % inside it"));
    frame->setChecked(held().showsFrame()), thirds->setChecked(held().showsThirds());
    for (QCheckBox *b : {frame, thirds}) {
        connect(b, &QCheckBox::toggled, this,
                [this, frame, thirds] { held().setGuides(thirds->isChecked(), frame->isChecked()); });
        m_column->addWidget(b);
    }
    m_column->addStretch();
}

void PortraitSettings::addPlace()
{
    const auto stage = [this] { return m_session.creature().stage; };
    const auto combo = [&](const char *id, const QString &name, const QStringList &items, auto current, auto command) {
        auto *label = new QLabel(name);
        label->setProperty("soft", true);
        auto *c = new QComboBox;
        c->setObjectName(QLatin1String(id));
        c->setAccessibleName(name);
        c->addItems(items);
        m_refresh.push_back([c, current] { c->setCurrentIndex(current()); });
        connect(c, &QComboBox::activated, this, [this, command](int k) { command(k); });
        m_column->addWidget(label), m_column->addWidget(c);
    };
    const auto askPicture = [this](auto command) { // from the event loop: this page may be made anew
        QMetaObject::invokeMethod(
            &m_session,
            [session = &m_session, window = window(), command]() mutable {
                const QString path = QFileDialog::getOpenFileName(window, tr("Picture"), {},
                                                                  tr("Pictures (*.exr *.hdr *.jpg *.jpeg *.png *.tif *.tiff)"));
                if (path.isEmpty())
                    return;
                command.path = std::filesystem::path(QFile::encodeName(path).toStdString());
                session->run(toCommand(command));
            },
            Qt::QueuedConnection);
    };
    combo(
        "placeSurroundings", tr("Light from all around"), {tr("None"), tr("Even, two colours"), tr("Sky"), tr("Picture…")},
        [stage] { return int(stage().surroundings.kind); },
        [this, askPicture, stage](int k) {
            if (k == 3 && !stage().surroundings.picture)
                return askPicture(command::SetSurroundings{});
            run(toCommand(command::SetSurroundings{.kind = portrait::Surroundings::Kind(k)}));
        });
    addSlider(
        "placeStrength", tr("Its strength"), 0, 3, {}, 2, 1, false, [stage] { return double(stage().surroundings.strength); },
        [](double v) { return toCommand(command::SetSurroundings{.strength = float(v)}); });
    addSlider(
        "placeTurn", tr("Turned"), -180, 180, tr("°"), 0, 1, false, [stage] { return double(stage().surroundings.rotation); },
        [](double v) { return toCommand(command::SetSurroundings{.turn = float(v)}); },
        tr("The sun's place in a sky, or a picture's"));
    if (stage().surroundings.kind == portrait::Surroundings::Kind::Sky) {
        addSlider(
            "placeSun", tr("Sun above the horizon"), 0, 90, tr("°"), 0, 1, false,
            [stage] { return double(stage().surroundings.sunHeight); },
            [](double v) { return toCommand(command::SetSurroundings{.sunHeight = float(v)}); });
        addSlider(
            "placeHaze", tr("Haze"), 2, 10, {}, 1, 1, false, [stage] { return double(stage().surroundings.haze); },
            [](double v) { return toCommand(command::SetSurroundings{.haze = float(v)}); });
    }
    const auto colours = [&](const char *high, const char *low, const QString &title, auto now, auto command) {
        auto *line = new QHBoxLayout;
        for (const bool isHigh : {true, false})
            line->addWidget(colourButton(QLatin1String(isHigh ? high : low), isHigh ? tr("Above") : tr("Below"),
                                         ofLight(now(isHigh)), title,
                                         [this, isHigh, command](QColor c) { run(command(isHigh, lightOf(c))); }));
        m_column->addLayout(line);
    };
    if (stage().surroundings.kind == portrait::Surroundings::Kind::Even)
        colours(
            "placeAbove", "placeBelow", tr("Colour of the light"),
            [stage](bool isHigh) { return isHigh ? stage().surroundings.above : stage().surroundings.below; },
            [](bool isHigh, Vec3f c) {
                command::SetSurroundings set;
                (isHigh ? set.above : set.below) = c;
                return toCommand(set);
            });
    combo(
        "placeBackdrop", tr("Behind it"), {tr("Surroundings"), tr("Colour"), tr("Gradient"), tr("Picture…"), tr("Hills")},
        [stage] { return int(stage().backdrop.kind); },
        [this, askPicture, stage](int k) {
            if (k == 3 && !stage().backdrop.picture)
                return askPicture(command::SetBackdrop{});
            run(toCommand(command::SetBackdrop{.kind = portrait::Backdrop::Kind(k)}));
        });
    colours(
        "placeHigh", "placeLow", tr("Colour of the backdrop"),
        [stage](bool isHigh) { return isHigh ? stage().backdrop.high : stage().backdrop.low; },
        [](bool isHigh, Vec3f c) {
            command::SetBackdrop set;
            (isHigh ? set.high : set.low) = c;
            return toCommand(set);
        });
    QStringList grounds;
    for (const portrait::GroundKind &k : portrait::groundKinds())
        grounds << portraitWords(k.title);
    combo(
        "placeGround", tr("Ground"), grounds,
        [stage] {
            const auto kinds = portrait::groundKinds();
            return int(&portrait::groundKind(stage().ground.kind) - kinds.data());
        },
        [this](int k) { run(toCommand(command::SetGround{.kind = std::string(portrait::groundKinds()[std::size_t(k)].id)})); });
    if (stage().ground.kind == "piece") {
        QStringList names;
        for (const auto &piece : m_session.creature().pieces)
            names << textOf(piece->name);
        combo(
            "placePiece", tr("The piece it stands on"), names,
            [this, stage] {
                const auto &pieces = m_session.creature().pieces;
                const auto at =
                    std::find_if(pieces.begin(), pieces.end(), [&](const auto &p) { return p->id == stage().ground.piece; });
                return at == pieces.end() ? -1 : int(at - pieces.begin());
            },
            [this](int k) {
                if (const auto &pieces = m_session.creature().pieces; k < int(pieces.size()))
                    run(toCommand(command::SetGround{.piece = pieces[std::size_t(k)]->id}));
            });
    }
    addSlider(
        "placeSink", tr("Stands in it"), -50, 50, tr("mm"), 1, 1, false, [stage] { return double(stage().ground.sink); },
        [](double v) { return toCommand(command::SetGround{.sink = float(v)}); },
        tr("How deep the creature stands in the ground"));
    addSlider(
        "placeFog", tr("Fog at"), 0, 20000, tr("mm"), 0, 1, false, [stage] { return double(stage().fog.distance); },
        [](double v) { return toCommand(command::SetFog{.distance = float(v)}); }, tr("Behind the creature; 0 for none"));
    m_column->addStretch();
}

} // namespace bonemoss::app
