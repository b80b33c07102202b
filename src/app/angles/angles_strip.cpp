#include "app/angles/angles_strip.h"

#include "app/theme/table_words.h"
#include "app/theme/theme.h"
#include "base/parallel.h"
#include "export/shown_scene.h"
#include "portrait/silhouette.h"

#include <QMouseEvent>
#include <QPainter>

namespace bonemoss::app {

namespace {
constexpr int kNameHeight = 20; // height of a tile's name
} // namespace

AnglesStrip::AnglesStrip(Session &session, QWidget *parent)
    : QWidget(parent), m_session(session), m_next([this](Pictures pictures) {
          m_pictures = std::move(pictures);
          update();
      })
{
    setObjectName(QStringLiteral("anglesStrip"));
    setAccessibleName(tr("Angles: six silhouettes"));
    setToolTip(tr("Click to fly to a view. Double-click to pin this state and compare later ones with it; again to let go."));
    setMinimumHeight(84);
    m_later.setSingleShot(true);
    m_later.setInterval(120);
    connect(&m_later, &QTimer::timeout, this, &AnglesStrip::redraw);
    connect(&session, &Session::creatureChanged, &m_later, qOverload<>(&QTimer::start));
    connect(&session, &Session::lookChanged, &m_later, qOverload<>(&QTimer::start));
    connect(&session, &Session::benchChanged, &m_later, qOverload<>(&QTimer::start)); // on some it stands in its pose
}

QRect AnglesStrip::tile(int i) const
{
    const int gap = 8, w = (width() - gap * 7) / 6;
    return {gap + i * (w + gap), 7, w, height() - 14};
}

namespace {

std::vector<std::uint8_t> shapeOf(const io::Scene &scene, std::size_t view, QSize size, const Box3f &frame)
{
    portrait::Camera camera;
    camera.isParallel = true;
    camera.rotation = *portrait::viewRotation(portrait::anatomicalViews()[view].key);
    camera = portrait::framing(camera, frame, float(size.width()) / float(size.height()));
    camera.distance *= 1.08f;
    return portrait::silhouette(scene, camera, size.width(), size.height());
}

/// Silhouettes of a state, with what a pinned one has beyond them. size: in pixels, twice as fine as shown.
std::array<QImage, 6> picturesOf(const document::Creature &now, const document::Creature *pinned, QSize size, qreal dpr, QRgb ink,
                                 QRgb gone)
{
    Box3f frame = now.bounds();
    if (pinned)
        frame.add(pinned->bounds());
    const bool isEmpty = frame.isEmpty();
    const io::Scene scene = exporting::shownScene(now);
    const io::Scene before = pinned ? exporting::shownScene(*pinned) : io::Scene{};
    std::array<QImage, 6> pictures;
    forEachBlock(pictures.size(), 1, [&](BlockRange r) { // each view is a picture of its own
        QImage picture(size, QImage::Format_ARGB32_Premultiplied);
        picture.fill(Qt::transparent);
        if (!isEmpty) {
            const auto shape = shapeOf(scene, r.begin, size, frame);
            const auto old = pinned ? shapeOf(before, r.begin, size, frame) : std::vector<std::uint8_t>(shape.size(), 0);
            for (int y = 0; y < size.height(); ++y)
                for (int x = 0; x < size.width(); ++x) {
                    const std::size_t i = std::size_t(y) * std::size_t(size.width()) + std::size_t(x);
                    if (shape[i] || old[i])
                        reinterpret_cast<QRgb *>(picture.scanLine(y))[x] = shape[i] ? ink : gone;
                }
        }
        picture = picture.scaled(size / 2, Qt::IgnoreAspectRatio, Qt::SmoothTransformation);
        picture.setDevicePixelRatio(dpr);
        pictures[r.begin] = std::move(picture);
    });
    return pictures;
}

} // namespace

void AnglesStrip::redraw()
{
    const qreal dpr = devicePixelRatioF(); // twice as fine, then softened: no steps in the outline
    const QSize size = (QSizeF(tile(0).size() - QSize(12, kNameHeight + 8)) * dpr * 2).toSize();
    if (size.width() < 4 || size.height() < 4)
        return;
    m_next.ask([now = m_session.standing(), pinned = m_pinned, size, dpr, ink = theme().ink.rgba(), gone = theme().lichen.rgba()](
                   const std::stop_token &) { return picturesOf(*now, pinned.get(), size, dpr, ink, gone); },
               kFramePatience);
}

void AnglesStrip::paintEvent(QPaintEvent *)
{
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme().window);
    for (int i = 0; i < 6; ++i) {
        const portrait::NamedView &v = portrait::anatomicalViews()[std::size_t(i)];
        const QString title = tableWords("View", v.title);
        const bool here = title.toLower() == m_current;
        const QRect box = tile(i);
        p.setPen(QPen(here ? theme().moss : theme().line, here ? 1.6 : 1));
        p.setBrush(theme().field);
        p.drawRoundedRect(QRectF(box).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
        p.drawImage(box.topLeft() + QPoint(6, 5), m_pictures[std::size_t(i)]);
        p.setPen(here ? theme().moss : theme().softInk);
        p.drawText(box.adjusted(0, 0, 0, -4), Qt::AlignHCenter | Qt::AlignBottom, title);
    }
    if (m_pinned) {
        p.setPen(theme().softInk);
        p.drawText(QRect(8, 0, width() - 16, 14), Qt::AlignRight, tr("compared with a pinned state"));
    }
}

void AnglesStrip::setCurrent(const QString &viewName)
{
    if (m_current == viewName)
        return;
    m_current = viewName;
    update();
}

void AnglesStrip::mousePressEvent(QMouseEvent *e)
{
    for (int i = 0; i < 6; ++i)
        if (tile(i).contains(e->pos()))
            emit viewChosen(QString::fromUtf8(portrait::anatomicalViews()[std::size_t(i)].key.data()));
}

void AnglesStrip::mouseDoubleClickEvent(QMouseEvent *)
{
    emit viewTakenBack(); // its first click flew there
    m_pinned = m_pinned ? nullptr : m_session.share();
    redraw();
}

void AnglesStrip::resizeEvent(QResizeEvent *)
{
    m_later.start();
}

} // namespace bonemoss::app
