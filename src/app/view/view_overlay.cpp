// What is painted over the picture: labels, compass, brush ring, handles.
#include "app/view/creature_view.h"
#include "app/view/balance_mark.h"
#include "app/theme/table_words.h"

#include "app/theme/theme.h"
#include "app/view/compass.h"
#include "armature/proportions.h"

#include <QOpenGLPaintDevice>
#include <QPainter>
#include <QPainterPath>

#include <numbers>

namespace bonemoss::app {

namespace {

QColor inkOnBackdrop()
{
    return theme().isDark ? theme().ink : QColor("#2B2722");
}

/// Text that can be read over the creature as well as over the backdrop.
void drawOver(QPainter &p, QPointF at, const QString &text, bool isOnPicture = false)
{
    const QColor ink = isOnPicture ? boneTheme().field : inkOnBackdrop();
    QPainterPath path;
    path.addText(at, p.font(), text);
    QColor halo = isOnPicture ? QColor("#1E1C18") : theme().isDark ? QColor("#3A3833") : QColor("#C2BFB1");
    halo.setAlpha(isOnPicture ? 110 : 190);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(halo, 3.5, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    p.drawPath(path);
    p.setPen(ink);
    p.drawText(at, text);
}

} // namespace

QString viewKeyOf(const portrait::Camera &camera)
{
    for (const portrait::NamedView &v : portrait::anatomicalViews())
        if (dot(normalized(v.from), -camera.forward()) > 0.9995f && dot(v.up, camera.up()) > 0.999f)
            return textOf(v.key);
    return {};
}

QString CreatureView::viewKey() const
{
    return viewKeyOf(pane().camera);
}

namespace {

QString nameOfView(const QString &key)
{
    for (const portrait::NamedView &v : portrait::anatomicalViews())
        if (key == textOf(v.key))
            return tableWords("View", v.title).toLower();
    return CreatureView::tr("free view");
}

} // namespace

QString CreatureView::viewName() const
{
    return nameOfView(viewKey());
}

/// What the colours of a look say; empty where they need no words.
/// What stands in the upper left corner of a view, line by line; the first tells the most. foot: what stands below instead,
/// clear of the creature where views are small.
QStringList CreatureView::labels(std::size_t index, QString &foot) const
{
    const Pane &pane = m_panes[index];
    QStringList lines{
        tr("%1 · %2").arg(nameOfView(viewKeyOf(pane.camera)), pane.camera.isParallel ? tr("parallel") : tr("perspective"))};
    if (pane.kept)
        return lines << tr("kept to compare: %1").arg(pane.keptName);
    if (rowOf(m_session.bench()).portrays) {
        if (index == m_active)
            lines << (m_portrait.image().isNull()  ? tr("the picture is being prepared")
                      : m_portrait.samples() == 0 ? tr("picture, coarse")
                                                  : tr("picture of %1 samples").arg(m_portrait.samples()));
        return lines;
    }
    const document::Creature &c = m_session.creature();
    const document::Piece *piece = c.piece(m_session.piece());
    if (index == 0) {
        QString line = m_hand.isMirrored() ? tr("mirror on") : tr("mirror off");
        if (piece && !showsForms() && m_hand.isMirrored() && piece->symmetry.around > 1)
            line = piece->symmetry.hasPlane ? tr("mirror on, %1 times around").arg(piece->symmetry.around)
                                            : tr("%1 times around").arg(piece->symmetry.around);
        else if (piece && !showsForms() && m_hand.isMirrored() && !piece->symmetry.hasPlane)
            line = tr("no symmetry plane");
        if (showsForms()) {
            line += c.armature.forms.size() == 1 ? tr(" · 1 form") : tr(" · %1 forms").arg(c.armature.forms.size());
        } else if (piece) {
            line += tr(" · %1 at %2 faces of %3 mm · %4 mm high")
                        .arg(QString::fromStdString(piece->name), grouped(piece->skin.shown.topology->faceCount()))
                        .arg(double(mesh::meanEdgeLength(piece->skin.shown)), 0, 'f', 2)
                        .arg(double(c.heightMm), 0, 'g', 5);
            if (piece->skin.hasHidden())
                line += tr(" · a part is hidden");
        }
        lines << line;
        QStringList third;
        if (m_showTimes)
            third << tr("frame %1 ms · stroke %2 ms · %3 triangles")
                         .arg(m_lastFrameMs, 0, 'f', 1)
                         .arg(m_strokeMs, 0, 'f', 1)
                         .arg(grouped(m_drawnTriangles));
        if (m_leftOut)
            third << tr("the picture of all these faces is being prepared");
        else if (m_drewLight)
            third << tr("lighter while moving");
        else if (finenessNow() == Fineness::Still)
            third << tr("drawn lighter: all faces would take %1 s")
                         .arg(double(m_stage->renderer->fullTriangles()) * double(m_paneCount) * m_msPerTriangle / 1e3, 0, 'f',
                              0);
        const QString rest = third.join(QStringLiteral(" · "));
        if (m_paneCount < 3)
            lines << rest;
        else
            foot = rest;
    }
    if (!showsForms()) {
        QString words = lookLegend(rowOf(pane.look), c);
        if (rowOf(pane.look).numbers == LookRow::Numbers::BesideTheWindow && m_maps.isBusy())
            words += tr(" · being worked out");
        lines << words;
    }
    lines.removeAll(QString());
    return lines;
}

/// One of the plates of a view, clipped to it.
void CreatureView::plate(const char *name, std::size_t index, const QString &says, QRectF area,
                         const std::function<void(QPainter &)> &paint)
{
    const QString whole = says + QLatin1Char('\n') + (theme().isDark ? QLatin1Char('d') : QLatin1Char('l'));
    m_plates->draw(QLatin1String(name) + QString::number(index), whole,
                   {area & paneArea(int(index)), QSizeF(size()), devicePixelRatioF()}, [&](QPainter &p) {
                       p.setFont(font());
                       paint(p);
                   });
}

void CreatureView::plateWords(std::size_t index)
{
    const QRectF area = paneArea(int(index));
    const QFontMetrics metrics(font());
    const auto put = [&](const char *name, QStringList lines, QPointF at, double room) {
        int widest = 0;
        for (QString &l : lines) {
            l = metrics.elidedText(l, Qt::ElideRight, int(room));
            widest = std::max(widest, metrics.horizontalAdvance(l));
        }
        const QRectF box(at - QPointF(6, 18), QSizeF(widest + 14, 18 * double(lines.size()) + 8));
        plate(name, index, lines.join(QLatin1Char('\n')), box, [&](QPainter &p) {
            for (qsizetype k = 0; k < lines.size(); ++k)
                drawOver(p, at + QPointF(0, 18 * double(k)), lines[k], rowOf(m_session.bench()).portrays);
        });
    };
    QString foot;
    const QStringList lines = labels(index, foot);
    put("labels", lines, area.topLeft() + QPointF(14, 24), area.width() - 28 - (area.width() > 300 ? 112 : 0));
    if (!foot.isEmpty())
        put("foot", {foot}, area.bottomLeft() + QPointF(14, -12), area.width() - 28);
}

QString CreatureView::balanceWords() const
{
    const auto &b = m_live.balance();
    if (!b || !showsForms() || !m_showLive)
        return {};
    return app::balanceWords(*b);
}

/// Where something was found: a ring with four ticks in lichen, over the creature.
void CreatureView::paintPlace(QPainter &p, const Projection &view) const
{
    if (!m_place)
        return;
    const QPointF at = view.toScreen(*m_place);
    for (const auto &[colour, width] : {std::pair{theme().field, 5.0}, std::pair{theme().lichen, 2.4}}) {
        p.setPen(QPen(colour, width));
        p.setBrush(Qt::NoBrush);
        p.drawEllipse(at, 15, 15);
        for (const QPointF way : {QPointF(0, -1), QPointF(0, 1), QPointF(-1, 0), QPointF(1, 0)})
            p.drawLine(at + way * 15, at + way * 24);
    }
}

void CreatureView::paintTape(QPainter &p, const Projection &view) const
{
    if (!showsForms() || m_hand.armature().formTile() != FormTile::Tape)
        return;
    m_tape.paint(p, view);
    const QString words = m_tape.words(unitLength(m_session.creature()));
    if (words.isEmpty())
        return;
    const QRectF box = p.fontMetrics().boundingRect(words).adjusted(-8, -4, 8, 4);
    const QRectF label(m_last + QPointF(16, -30), box.size());
    p.setPen(QPen(theme().line, 1));
    p.setBrush(theme().field);
    p.drawRoundedRect(label, 4, 4);
    p.setPen(theme().ink);
    p.drawText(label, Qt::AlignCenter, words);
}

void CreatureView::paintRing(QPainter &p, const Projection &view) const
{
    if (!m_ring || m_gesture == Gesture::Orbit || m_gesture == Gesture::Slide)
        return;
    const sculpt::StrokeSettings s = m_strokes.settingsFor(m_held);
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    const auto places = s.isMirrored && piece ? piece->symmetry.places() : std::vector<sculpt::Isometry>(1);
    for (std::size_t twin = 0; twin < places.size(); ++twin) {
        const Vec3f centre = places[twin].apply(m_ring->point), normal = places[twin].turn(m_ring->normal);
        const Vec3f u = normalized(cross(std::abs(normal.y) < 0.9f ? Vec3f{0, 1, 0} : Vec3f{1, 0, 0}, normal));
        const Vec3f v = cross(normal, u);
        QPainterPath ring;
        for (int k = 0; k <= 64; ++k) {
            const float a = float(k) * std::numbers::pi_v<float> / 32;
            const QPointF q = view.toScreen(centre + u * (s.size * std::cos(a)) + v * (s.size * std::sin(a)));
            k == 0 ? ring.moveTo(q) : ring.lineTo(q);
        }
        QPainterPath stem(view.toScreen(centre));
        stem.lineTo(view.toScreen(centre + normal * (s.size * 0.7f * s.strength)));
        QColor halo = theme().field, moss = theme().isDark ? theme().moss : QColor("#4C6A2E");
        halo.setAlpha(twin ? 110 : 200);
        moss.setAlpha(twin ? 140 : 255);
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(halo, 3.6));
        p.drawPath(ring);
        p.drawPath(stem);
        QPen pen(moss, twin ? 1.3 : 1.8);
        if (changesFaces(s.tool)) { // beads
            pen.setWidthF(twin ? 3 : 4);
            pen.setCapStyle(Qt::RoundCap);
            pen.setDashPattern({0.01, s.isReversed ? 3.4 : 2.2});
        } else if (s.isReversed)
            pen.setDashPattern({5, 4});
        p.setPen(pen);
        p.drawPath(ring);
        p.setPen(QPen(moss, 1.8));
        p.drawPath(stem);
    }
    if (m_gesture == Gesture::Adjust || m_adjustKey != HeldKey::None) {
        p.setPen(inkOnBackdrop());
        const QString falloff = QString::fromUtf8(sculpt::nameOf(s.falloff).data());
        p.drawText(view.toScreen(m_ring->point) + QPointF(16, -12),
                   tr("%1 mm · %2 % · %3").arg(double(s.size), 0, 'f', 1).arg(int(s.strength * 100)).arg(falloff));
    }
}

/// In the middle of a view that has nothing to show, what to do.
QString CreatureView::wordsForNothing(const QString &key) const
{
    const document::Creature &c = m_session.creature();
    if (c.pieces.empty() && c.armature.forms.empty() && m_references.shown(key).empty())
        return tr("Nothing here yet.\nChoose a form in the hand, press in the view and drag it to size;\nor drop a drawing here "
                  "to work from.");
    if (c.pieces.empty() && !showsForms())
        return tr("There is no skin yet: knit the forms on the Armature bench first.");
    return {};
}

/// What stands in its place whatever is done in the view, over all else.
void CreatureView::platePane(std::size_t index)
{
    const Projection view = projectionOf(index);
    const QString key = viewKeyOf(view.camera);
    plateWords(index);
    const Vec3f right = view.camera.right(), up = view.camera.up();
    QString turn;
    for (const float v : {right.x, right.y, right.z, up.x, up.y, up.z})
        turn += QString::number(std::lround(v * 1000)) + QLatin1Char(' ');
    plate("compass", index, turn, compassArea(view.area), [&](QPainter &p) { paintCompass(p, view.camera, view.area); });
    const QString words = m_panes[index].kept ? QString() : wordsForNothing(key);
    if (words.isEmpty())
        return;
    const bool isBelow = !m_session.creature().armature.forms.empty() || !m_references.shown(key).empty();
    const int flags = int(Qt::AlignHCenter) | int(isBelow ? Qt::AlignBottom : Qt::AlignVCenter);
    const QRectF room = view.area.adjusted(0, 0, 0, -40);
    const QRectF box = QFontMetricsF(font()).boundingRect(room, flags, words).adjusted(-4, -4, 4, 4);
    plate("nothing", index, words, box, [&](QPainter &p) {
        p.setPen(inkOnBackdrop());
        p.drawText(room, flags, words);
    });
}

void CreatureView::paintPane(QPainter &p, std::size_t index)
{
    const Projection view = projectionOf(index);
    const QString key = viewKeyOf(view.camera);
    const bool isActive = index == m_active;
    if (m_panes[index].kept)
        return;
    p.setClipRect(view.area);
    if (isActive && showsPicture())
        p.drawImage(view.area, m_portrait.image());
    if (rowOf(m_session.bench()).holdsTools && !m_trim.isOn() && !m_harvest.isFraming() && (!m_guides.isOn() || !m_held.isNone()))
        paintRing(p, view);
    const auto all = controls();
    for (auto c = all.rbegin(); c != all.rend(); ++c) // what is asked first lies on top
        if (isActive || !(*c)->isOfActiveView())
            (*c)->paintOn(p, view, key);
    paintTape(p, view);
    paintPlace(p, view);
    if (m_live.balance() && showsForms() && m_showLive)
        app::paintBalance(p, view, *m_live.balance());
}

void CreatureView::paintOverlay()
{
    QOpenGLPaintDevice device(size() * devicePixelRatioF()); // whatever is drawn on
    device.setDevicePixelRatio(devicePixelRatioF());
    QPainter p(&device);
    p.setRenderHint(QPainter::Antialiasing);
    p.setFont(font());
    for (std::size_t k = 0; k < m_paneCount; ++k)
        paintPane(p, k);
    p.setClipping(false);
    if (m_paneCount > 1)
        paintFrames(p);
    p.end();
    for (std::size_t k = 0; k < m_paneCount; ++k)
        platePane(k);
}

void CreatureView::paintFrames(QPainter &p) const
{
    p.setPen(Qt::NoPen);
    p.setBrush(theme().line);
    for (std::size_t k = 0; k + 1 < m_paneCount; ++k) { // the gaps between
        const QRectF a = paneArea(int(k)), b = paneArea(int(k + 1));
        if (b.left() > a.right())
            p.drawRect(QRectF(a.right(), 0, b.left() - a.right(), height()));
        else
            p.drawRect(QRectF(0, a.bottom(), width(), b.top() - a.bottom()));
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(theme().moss, 2));
    p.drawRect(paneArea(activePane()).adjusted(1, 1, -1, -1));
}

} // namespace bonemoss::app
