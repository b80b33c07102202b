#include "app/hand/colour_disc.h"

#include "app/hand/colour_hand.h"
#include "app/hand/value_slider.h"
#include "app/theme/theme.h"
#include "colour/palette.h"

#include <QGridLayout>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

#include <cmath>

namespace bonemoss::app {

namespace {

constexpr float kMostChroma = 0.33f; ///< that sRGB has

/// Outward the chroma grows slowly at first, so that muted colours have room.
float chromaAt(double share)
{
    return kMostChroma * float(share * std::sqrt(share));
}
double shareOf(float chroma)
{
    return std::pow(double(std::clamp(chroma / kMostChroma, 0.0f, 1.0f)), 2.0 / 3);
}

} // namespace

ColourDisc::ColourDisc(QWidget *parent) : QWidget(parent)
{
    setObjectName(QStringLiteral("colourDisc"));
    setAccessibleName(tr("Hue and chroma"));
    setToolTip(tr("Hue round the disc, chroma outward; arrow keys turn and widen it"));
    setFocusPolicy(Qt::StrongFocus);
    setMinimumSize(120, 150);
}

double ColourDisc::radius() const
{
    return std::min(width(), height()) / 2.0 - 6;
}

QPointF ColourDisc::placeOf(float hue, float chroma) const
{
    const double a = double(hue * kRadiansPerDegree), r = radius() * shareOf(chroma);
    return QPointF(width() / 2.0 + r * std::cos(a), height() / 2.0 - r * std::sin(a));
}

Vec3f ColourDisc::now() const
{
    return colour::fromOklch({m_light, m_chroma, m_hue});
}

void ColourDisc::show(Vec3f srgb)
{
    const colour::Oklch c = colour::toOklch(srgb);
    m_light = c.l, m_chroma = c.c;
    if (c.c > 1e-3f)
        m_hue = c.h;
    update();
}

void ColourDisc::paintEvent(QPaintEvent *)
{
    const auto side = int(2 * radius());
    if (m_image.width() != side || m_imageLight != m_light) {
        m_image = QImage(side, side, QImage::Format_ARGB32);
        m_image.fill(Qt::transparent);
        m_imageLight = m_light;
        for (int y = 0; y < side; ++y)
            for (int x = 0; x < side; ++x) {
                const double dx = x + 0.5 - side / 2.0, dy = side / 2.0 - y - 0.5, r = std::hypot(dx, dy) / (side / 2.0);
                if (r > 1)
                    continue;
                const auto hue = float(std::atan2(dy, dx)) / kRadiansPerDegree;
                m_image.setPixelColor(x, y, qtColour(colour::fromOklch({m_light, chromaAt(r), hue})));
            }
    }
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.drawImage(QPointF(width() / 2.0 - side / 2.0, height() / 2.0 - side / 2.0), m_image);
    p.setPen(QPen(hasFocus() ? theme().moss : theme().line, hasFocus() ? 2 : 1));
    p.drawEllipse(QPointF(width() / 2.0, height() / 2.0), radius(), radius());
    const QPointF at = placeOf(m_hue, m_chroma);
    p.setBrush(qtColour(now()));
    p.setPen(QPen(Qt::white, 3));
    p.drawEllipse(at, 6, 6);
    p.setPen(QPen(theme().ink, 1));
    p.drawEllipse(at, 7.5, 7.5);
}

void ColourDisc::takeAt(QPointF at)
{
    const double dx = at.x() - width() / 2.0, dy = height() / 2.0 - at.y();
    m_chroma = chromaAt(std::min(1.0, std::hypot(dx, dy) / radius()));
    if (dx != 0 || dy != 0)
        m_hue = float(std::atan2(dy, dx)) / kRadiansPerDegree;
    update();
    emit edited(now());
}

void ColourDisc::mousePressEvent(QMouseEvent *e)
{
    takeAt(e->position());
}

void ColourDisc::mouseMoveEvent(QMouseEvent *e)
{
    if (e->buttons() & Qt::LeftButton)
        takeAt(e->position());
}

void ColourDisc::mouseReleaseEvent(QMouseEvent *)
{
    emit released(now());
}

void ColourDisc::keyPressEvent(QKeyEvent *e)
{
    const bool across = e->key() == Qt::Key_Left || e->key() == Qt::Key_Right,
               up = e->key() == Qt::Key_Up || e->key() == Qt::Key_Down;
    if (!across && !up)
        return QWidget::keyPressEvent(e);
    const float step = e->key() == Qt::Key_Right || e->key() == Qt::Key_Up ? 1.0f : -1.0f;
    if (across)
        m_hue += 5 * step;
    else
        m_chroma = std::clamp(m_chroma + 0.01f * step, 0.0f, kMostChroma);
    update();
    emit edited(now());
    emit released(now());
}

ColourChooser::ColourChooser(Session *session, QWidget *parent)
    : QWidget(parent), m_session(session), m_disc(new ColourDisc),
      m_light(new ValueSlider(tr("Lightness"), {0, 1, false, QStringLiteral("%"), 0, 100})), m_hex(new QLineEdit)
{
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    column->addWidget(m_disc);
    m_light->setObjectName(QStringLiteral("colourLight"));
    auto *row = new QHBoxLayout;
    row->addWidget(m_light, 1);
    m_hex->setObjectName(QStringLiteral("colourHex"));
    m_hex->setAccessibleName(tr("sRGB numbers"));
    m_hex->setToolTip(tr("Red, green and blue in sRGB, two hexadecimal digits each"));
    m_hex->setMaxLength(7);
    m_hex->setFixedWidth(74);
    row->addWidget(m_hex);
    column->addLayout(row);
    connect(m_disc, &ColourDisc::edited, this, [this](Vec3f c) { take(c, 0, false); });
    connect(m_disc, &ColourDisc::released, this, [this](Vec3f c) { take(c, 0, true); });
    const auto lit = [this](double v) {
        colour::Oklch c = colour::toOklch(m_colour);
        c.l = float(v);
        return colour::fromOklch(c);
    };
    connect(m_light, &ValueSlider::edited, this, [this, lit](double v) { take(lit(v), 0, false); });
    connect(m_light, &ValueSlider::released, this, [this, lit](double v) { take(lit(v), 0, true); });
    connect(m_hex, &QLineEdit::editingFinished, this, [this] {
        if (const auto c = colour::colourOfHex(m_hex->text().trimmed().toStdString())) {
            if (colour::hexOf(*c) != colour::hexOf(m_colour))
                take(*c, 0, true);
        } else {
            m_hex->setText(QString::fromStdString(colour::hexOf(m_colour)));
        }
    });
    if (session)
        connect(session, &Session::creatureChanged, this, &ColourChooser::rebuildSwatches);
    show({0.4f, 0.4f, 0.3f}, 0);
}

void ColourChooser::show(Vec3f srgb, std::uint32_t entry)
{
    m_colour = srgb, m_entry = entry;
    m_disc->show(srgb);
    m_light->setValue(double(colour::toOklch(srgb).l));
    m_hex->setText(QString::fromStdString(colour::hexOf(srgb)));
    rebuildSwatches();
}

void ColourChooser::take(Vec3f srgb, std::uint32_t entry, bool isDone)
{
    m_colour = srgb, m_entry = entry;
    if (!isDone || entry)
        m_disc->show(srgb);
    m_light->setValue(double(colour::toOklch(srgb).l));
    m_hex->setText(QString::fromStdString(colour::hexOf(srgb)));
    if (isDone) {
        rememberColour(srgb);
        QMetaObject::invokeMethod(this, &ColourChooser::rebuildSwatches, Qt::QueuedConnection); // the pressed one may go
        emit released(srgb, entry);
    } else {
        emit edited(srgb, entry);
    }
}

void ColourChooser::rebuildSwatches()
{
    delete m_swatches;
    m_swatches = new QWidget;
    auto *grid = new QGridLayout(m_swatches);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setSpacing(2);
    int k = 0;
    const auto add = [&](Vec3f c, std::uint32_t entry, const QString &name, const QString &tip) {
        auto *b = new QPushButton;
        b->setObjectName(name);
        b->setAccessibleName(tip);
        b->setToolTip(tip);
        b->setFixedSize(21, 18);
        const bool isHeld = entry != 0 && entry == m_entry;
        b->setStyleSheet(QStringLiteral("background: %1; border: %2px solid %3; padding: 0;")
                             .arg(qtColour(c).name())
                             .arg(isHeld ? 2 : 1)
                             .arg((isHeld ? theme().moss : theme().line).name()));
        connect(b, &QPushButton::clicked, this, [this, c, entry] {
            m_disc->show(c);
            take(c, entry, true);
        });
        grid->addWidget(b, k / 10, k % 10);
        ++k;
    };
    for (const Vec3f c : recentColours())
        add(c, 0, QStringLiteral("recentColour%1").arg(k), tr("%1, used lately").arg(QString::fromStdString(colour::hexOf(c))));
    k = (k + 9) / 10 * 10;
    if (m_session)
        for (const skin::PaletteColour &c : m_session->creature().palette)
            add(c.colour, c.id, QStringLiteral("paletteColour_%1").arg(c.id),
                tr("%1 of the palette: what is painted with it follows when it is changed").arg(QString::fromStdString(c.name)));
    grid->setColumnStretch(10, 1);
    layout()->addWidget(m_swatches);
    m_swatches->show();
}

} // namespace bonemoss::app
