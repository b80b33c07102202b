// Views side by side: their places, which one is active, and what is kept in them to compare with.
#include "app/view/creature_view.h"

namespace bonemoss::app {

namespace {

/// How wide what a box holds looks, over how high.
float shapeOf(const Box3f &box, const portrait::Camera &camera)
{
    const auto extent = [&](Vec3f along) {
        const Vec3f size = box.size();
        return std::abs(along.x) * size.x + std::abs(along.y) * size.y + std::abs(along.z) * size.z;
    };
    return extent(camera.right()) / std::max(extent(camera.up()), 1e-6f);
}

} // namespace

/// One beside the other, or two rows of two, with a gap for the line between.
QRectF CreatureView::paneArea(int index) const
{
    constexpr double kGap = 2;
    const QRectF all(rect());
    if (m_paneCount == 1)
        return all;
    const bool hasRows = m_paneCount == 4;
    const double w = (all.width() - kGap) / 2, h = hasRows ? (all.height() - kGap) / 2 : all.height();
    const int column = index % 2, row = hasRows ? index / 2 : 0;
    return {column * (w + kGap), row * (h + kGap), w, h};
}

std::size_t CreatureView::paneAt(QPointF at) const
{
    for (std::size_t k = 0; k < m_paneCount; ++k)
        if (paneArea(int(k)).contains(at))
            return k;
    return m_active;
}

void CreatureView::activatePane(int index)
{
    const auto wanted = std::size_t(index);
    if (wanted == m_active || wanted >= m_paneCount)
        return;
    m_active = wanted;
    emit paneChanged();
    emit cameraChanged();
    updateHint();
    update();
}

void CreatureView::setPanes(int count)
{
    const auto wanted = std::size_t(count <= 1 ? 1 : count <= 2 ? 2 : 4);
    if (wanted == m_paneCount)
        return;
    if (m_active >= wanted) { // what is worked in stays
        std::swap(m_panes[0], m_panes[m_active]);
        m_active = 0;
    }
    std::vector<float> before;
    for (std::size_t k = 0; k < std::min(m_paneCount, wanted); ++k)
        before.push_back(projectionOf(k).aspect());
    m_paneCount = wanted;
    // What was seen whole stays so in a narrower view, and is as large as before when that is wide again.
    const Box3f all = frameBox({});
    for (std::size_t k = 0; k < before.size() && !all.isEmpty(); ++k) {
        const float shape = shapeOf(all, m_panes[k].camera);
        m_panes[k].camera.distance *= std::min(shape, before[k]) / std::min(shape, projectionOf(k).aspect());
    }
    const char *const firstSeen[] = {"three-quarter", "left", "nose", "crown"};
    for (std::size_t k = 0; k < m_paneCount; ++k) {
        Pane &p = m_panes[k];
        if (std::exchange(p.wasUsed, true))
            continue;
        p.camera = pane().camera;
        p.camera.rotation = *portrait::viewRotation(firstSeen[k]);
        p.camera.isParallel = true;
        if (const Box3f box = frameBox(QString::fromLatin1(firstSeen[k])); !box.isEmpty())
            p.camera = portrait::framing(p.camera, box, projectionOf(k).aspect());
    }
    m_moving = true;
    m_settle.start();
    emit paneChanged();
    emit cameraChanged();
    update();
}

void CreatureView::keepInPane(std::shared_ptr<const document::Creature> creature, const QString &name)
{
    Pane &p = pane();
    makeCurrent();
    p.keptStage.reset();
    doneCurrent();
    p.kept = std::move(creature);
    p.keptName = name;
    emit paneChanged();
    update();
}

void CreatureView::chooseCamera()
{
    chooseCamera(portrait::sightOf(pane().camera, projection().aspect()));
}

void CreatureView::chooseCamera(const mesh::Sight &sight)
{
    m_hasChosenCamera = true;
    m_maps.setSight(sight);
    update();
}

} // namespace bonemoss::app
