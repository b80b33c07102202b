#include "app/hand/colour_pages.h"

#include "app/hand/colour_button.h"
#include "app/hand/palette_settings.h"
#include "app/hand/scheme_settings.h"
#include "app/hand/value_slider.h"
#include "app/theme/table_words.h"
#include "app/theme/theme.h"
#include "colour/finish.h"
#include "command/colours/colour_fields.h"
#include "command/fields.h"
#include "command/skin/piece_fields.h"

#include <QButtonGroup>
#include <QGridLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QRadialGradient>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

namespace {

/// A ball with a highlight as hard as the finish is glossy or wet.
void paintBall(QPainter &p, QRectF in, QColor colour, const FinishValues &finish)
{
    const float hard = std::max(finish[0], finish[2]);
    QRadialGradient body(in.center() - QPointF(in.width(), in.height()) * 0.18, in.width() * 0.75);
    const QColor lit = finish[1] > 0.5f ? colour.darker(150) : colour;
    body.setColorAt(0, lit.lighter(int(118 + 20 * finish[3])));
    body.setColorAt(1, lit.darker(int(190 - 60 * finish[3])));
    p.setPen(Qt::NoPen);
    p.setBrush(body);
    p.drawEllipse(in);
    QRadialGradient shine(in.center() - QPointF(in.width(), in.height()) * 0.2, in.width() * double(0.42f - 0.28f * hard));
    QColor white(255, 255, 255, int(30 + 215 * hard));
    shine.setColorAt(0, white);
    white.setAlpha(0);
    shine.setColorAt(1, white);
    p.setBrush(shine);
    p.drawEllipse(in);
}

QImage blank(QSize size)
{
    QImage image(size, QImage::Format_ARGB32_Premultiplied);
    image.fill(theme().field);
    return image;
}

QImage finishPicture(QSize size)
{
    QImage image = blank(size);
    QPainter p(&image);
    p.setRenderHint(QPainter::Antialiasing);
    const double side = size.height() * 0.62, y = (size.height() - side) / 2;
    paintBall(p, {size.width() * 0.08, y, side, side}, QColor(150, 132, 108), colour::kReadyFinishes[0].values);
    paintBall(p, {size.width() * 0.54, y, side, side}, QColor(120, 84, 76), colour::kReadyFinishes[1].values);
    return image;
}

QImage palettePicture(QSize size)
{
    QImage image = blank(size);
    QPainter p(&image);
    constexpr std::array<QRgb, 8> kShown{0xff6b6254, 0xff5c7a3d, 0xffc79a2b, 0xffa8452e,
                                         0xff3e6470, 0xffe3d6ba, 0xff8c7a5e, 0xff2b2722};
    const int w = size.width() / 5, h = size.height() / 3;
    for (int k = 0; k < 8; ++k)
        p.fillRect(QRect(w / 2 + (k % 4) * w, h / 2 + (k / 4) * h, w - 3, h - 3), QColor(kShown[std::size_t(k)]));
    return image;
}

QImage schemesPicture(QSize size)
{
    QImage image = blank(size);
    QPainter p(&image);
    p.setRenderHint(QPainter::Antialiasing);
    const double side = size.height() * 0.5;
    constexpr std::array<QRgb, 3> kShown{0xff8b7049, 0xffb9b3a6, 0xff51463a};
    for (int k = 0; k < 3; ++k)
        paintBall(p, {size.width() * (0.06 + 0.31 * k), (size.height() - side) / 2, side, side}, QColor(kShown[std::size_t(k)]),
                  {0.2f, 0, 0, 0});
    return image;
}

template <typename Settings> HandSettings *made(Session &session, HandModel &hand, QSet<QString> &openSections)
{
    return new Settings(session, hand, openSections);
}

constexpr std::array kPages{
    ColourPage{"finish", QT_TRANSLATE_NOOP("ColourPage", "Finish"),
               QT_TRANSLATE_NOOP("ColourPage", "Gloss, metal, wet, translucent and grain: ready ones, or your own"),
               ColourHand::Holding::Finish, finishPicture, made<FinishSettings>},
    ColourPage{"palette", QT_TRANSLATE_NOOP("ColourPage", "Palette"),
               QT_TRANSLATE_NOOP("ColourPage", "Colours that can be changed after painting with them"),
               ColourHand::Holding::Palette, palettePicture, made<PaletteSettings>},
    ColourPage{"schemes", QT_TRANSLATE_NOOP("ColourPage", "Schemes"),
               QT_TRANSLATE_NOOP("ColourPage", "Several ways to colour one creature"), ColourHand::Holding::Schemes,
               schemesPicture, made<SchemeSettings>},
};

} // namespace

std::span<const ColourPage> colourPages()
{
    return kPages;
}

FinishSettings::FinishSettings(Session &session, HandModel &hand, QSet<QString> &) : m_session(session), m_hand(hand)
{
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(0, 6, 0, 0);
    column->setSpacing(4);
    column->addWidget(heading(tr("Finish"), 12));
    auto *grid = new QGridLayout;
    grid->setSpacing(4);
    for (std::size_t k = 0; k < colour::kReadyFinishes.size(); ++k) {
        const colour::ReadyFinish &f = colour::kReadyFinishes[k];
        auto *button = new QPushButton(tableWords("Finish", f.title));
        button->setObjectName(QStringLiteral("finish_") + textOf(f.name));
        button->setCheckable(true);
        QImage ball(20, 20, QImage::Format_ARGB32_Premultiplied);
        ball.fill(Qt::transparent);
        {
            QPainter p(&ball);
            p.setRenderHint(QPainter::Antialiasing);
            paintBall(p, {1, 1, 18, 18}, QColor(146, 122, 98), f.values);
        }
        button->setIcon(QPixmap::fromImage(ball));
        button->setIconSize({20, 20});
        connect(button, &QPushButton::clicked, this, [this, k] {
            m_hand.of<ColourHand>().setFinish(k);
            refresh();
        });
        m_refresh.push_back([this, button, k] { button->setChecked(m_hand.of<ColourHand>().finish() == k); });
        grid->addWidget(button, int(k / 2), int(k % 2));
    }
    column->addLayout(grid);
    constexpr std::array<const char *, kFinishes> kNames{QT_TR_NOOP("Gloss"), QT_TR_NOOP("Metal"), QT_TR_NOOP("Wet"),
                                                         QT_TR_NOOP("Translucent"), QT_TR_NOOP("Grain")};
    constexpr std::array<const char *, kFinishes> kIds{"finishGloss", "finishMetal", "finishWet", "finishTranslucent",
                                                       "finishGrain"};
    for (std::size_t k = 0; k < kNames.size(); ++k) {
        auto *slider = new ValueSlider(tr(kNames[k]), {0, 1, false, QStringLiteral("%"), 0, 100});
        slider->setObjectName(QLatin1String(kIds[k]));
        connect(slider, &ValueSlider::edited, this, [this, k](double v) {
            FinishValues values = m_hand.of<ColourHand>().finishValues();
            values[k] = float(v);
            m_hand.of<ColourHand>().setFinishValues(values);
        });
        m_refresh.push_back([this, slider, k] { slider->setValue(double(m_hand.of<ColourHand>().finishValues()[k])); });
        column->addWidget(slider);
    }
    auto *lay = new QPushButton;
    lay->setObjectName(QStringLiteral("finishFill"));
    lay->setProperty("main", true);
    lay->setToolTip(tr("On the chosen colour layer; its colour stays"));
    connect(lay, &QPushButton::clicked, this, &FinishSettings::fill);
    m_refresh.push_back([this, lay] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
        lay->setText(piece && piece->skin.hasMask() ? tr("Fill what is masked") : tr("Fill the whole skin"));
        lay->setEnabled(piece != nullptr);
    });
    auto *paint = new QPushButton(tr("Paint with it"));
    paint->setObjectName(QStringLiteral("finishPaint"));
    paint->setToolTip(tr("Takes up the Paint brush with this finish and without colour"));
    connect(paint, &QPushButton::clicked, this, [this] {
        QMetaObject::invokeMethod( // another tool has these settings built anew
            &m_hand,
            [hand = &m_hand, values = m_hand.of<ColourHand>().finishValues()] {
                hand->setTool(sculpt::Tool::Paint);
                hand->change([&](sculpt::StrokeSettings &s) {
                    s.laysColour = false;
                    for (std::size_t k = 0; k < values.size(); ++k)
                        s.finish[k] = values[k];
                });
            },
            Qt::QueuedConnection);
    });
    column->addWidget(lay);
    column->addWidget(paint);
    addInside(column);
    connect(&m_session, &Session::creatureChanged, this, &FinishSettings::refresh);
    refresh();
}

/// How far light goes inside the chosen piece where it is translucent.
void FinishSettings::addInside(QVBoxLayout *column)
{
    const auto inside = [this] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
        return piece ? piece->inside : Scattering();
    };
    const auto set = [this](command::SetPiece change) {
        change.piece = m_session.piece();
        QMetaObject::invokeMethod(
            &m_session, [session = &m_session, command = toCommand(change)] { session->run(command); }, Qt::QueuedConnection);
    };
    column->addSpacing(6);
    auto *title = new QLabel(tr("Light inside what is translucent"));
    title->setProperty("soft", true);
    column->addWidget(title);
    auto *depth = new ValueSlider(tr("Depth"), {0, 20, false, tr("mm"), 2});
    depth->setObjectName(QStringLiteral("insideDepth"));
    depth->setToolTip(tr("How far light goes before it is scattered, in the whole piece and what grows on it; "
                         "0: by the size of the creature. Pictures show it"));
    connect(depth, &ValueSlider::released, this, [set](double v) { set({.lightDepth = float(v)}); });
    auto *tint = colourButton(QStringLiteral("insideTint"), tr("Tint"), ofLight(inside().tint), tr("Colour of the light inside"),
                              [set](QColor c) {
                                  set({.lightTint = max(lightOf(c), Vec3f{0.01f, 0.01f, 0.01f})});
                              });
    tint->setToolTip(tr("Which colours go farthest inside: red for flesh and blood"));
    m_refresh.push_back([this, inside, depth, tint] {
        depth->setValue(double(inside().depth));
        showColour(tint, ofLight(inside().tint));
        depth->setEnabled(m_session.piece() != 0), tint->setEnabled(m_session.piece() != 0);
    });
    column->addWidget(depth), column->addWidget(tint);
}

void FinishSettings::refresh()
{
    for (const auto &show : m_refresh)
        show();
}

void FinishSettings::fill()
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    if (!piece)
        return;
    const FinishValues f = m_hand.of<ColourHand>().finishValues();
    command::FillColour fill{.piece = piece->id, .gloss = f[0], .metal = f[1], .wet = f[2], .translucent = f[3], .grain = f[4]};
    if (m_session.colourLayer())
        fill.layer = command::ItemName(m_session.colourLayer());
    if (piece->skin.hasMask())
        fill.where = command::FillWhere::Masked;
    QMetaObject::invokeMethod(
        &m_session, [session = &m_session, window = window(), command = toCommand(fill)] { session->runLong(command, window); },
        Qt::QueuedConnection);
}

} // namespace bonemoss::app
