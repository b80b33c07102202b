#include "app/view/portrait_view.h"

#include "document/ops/posing.h"
#include "export/shown_scene.h"
#include "portrait/filter.h"
#include "portrait/picture_look.h"

#include <algorithm>
#include <cmath>
#include <cstring>

namespace bonemoss::app {

namespace {
constexpr int kMostSamples = 256;
constexpr int kCoarse[] = {8, 4, 2}; ///< the first pictures have a pixel for so many by so many

/// Whether two states show the same shapes and colours: their lights may differ.
bool showTheSame(const document::Creature &a, const document::Creature &b)
{
    return a.pieces == b.pieces && a.cages == b.cages && a.outgrowths == b.outgrowths && a.armature == b.armature
           && a.palette == b.palette && a.scheme == b.scheme;
}

} // namespace

/// What work beside the window leaves for the next.
struct PortraitView::Shared {
    std::atomic<bool> isAlive{true};
    PortraitView *view = nullptr; ///< on the window's thread
    // Of the worker alone, of which there is one.
    std::shared_ptr<const document::Creature> creature;
    std::unique_ptr<portrait::PathTracer> tracer;
};

QImage toImage(const image::ColourPicture &p)
{
    QImage out(p.width, p.height, QImage::Format_RGBA8888);
    for (int y = 0; y < p.height; ++y)
        std::memcpy(out.scanLine(y), p.rgba.data() + std::size_t(y) * std::size_t(p.width) * 4, std::size_t(p.width) * 4);
    return out;
}

PortraitView::PortraitView(QObject *parent) : QObject(parent), m_shared(std::make_shared<Shared>()), m_work([](bool) {})
{
    m_shared->view = this;
}

PortraitView::~PortraitView()
{
    m_shared->isAlive = false;
    m_stop.request_stop();
}

void PortraitView::stop()
{
    m_stop.request_stop();
    m_isWanted = false;
    m_image = {};
    m_samples = 0;
    ++m_number;
}

void PortraitView::want(std::shared_ptr<const document::Creature> creature, const portrait::Stage &stage,
                        const portrait::Shot &shot, QSize pixels)
{
    if (m_isWanted && creature == m_creature && stage == m_stage && shot == m_shot && pixels == m_pixels)
        return;
    portrait::Stage before = m_stage, now = stage;
    const bool isOfSameLook = before.film.look == now.film.look;
    before.film = now.film, before.shots = now.shots, before.plate = now.plate;
    const bool isDevelopedAnew = isOfSameLook && m_isWanted && shot == m_shot && pixels == m_pixels && before == now
                                 && (creature == m_creature || showTheSame(*creature, *m_creature));
    m_creature = std::move(creature), m_stage = stage, m_shot = shot, m_pixels = pixels;
    if (isDevelopedAnew)
        return develop();
    stop();
    m_isWanted = true;
    m_stop = {};
    m_work.ask([shared = m_shared, creature = m_creature, stage, shot, pixels, number = m_number,
                stop = m_stop.get_token()](const std::stop_token &) {
        if (stop.stop_requested())
            return false;
        const auto tell = [&](const Error &e) {
            QMetaObject::invokeMethod(
                QCoreApplication::instance(),
                [shared, number, words = QString::fromStdString(e.text())] {
                    if (shared->isAlive && number == shared->view->m_number)
                        emit shared->view->failed(words);
                },
                Qt::QueuedConnection);
            return false;
        };
        if (!shared->tracer || !showTheSame(*shared->creature, *creature)) {
            auto made = portrait::PathTracer::make(exporting::pictureScene(*creature), stage, shot,
                                                   portrait::TracedScene::Upkeep::Live, std::move(shared->tracer));
            if (!made)
                return tell(made.error());
            shared->tracer = std::move(*made), shared->creature = creature;
        } else if (auto other = shared->tracer->with(stage, shot)) {
            shared->tracer = std::move(*other);
        } else {
            return tell(other.error());
        }
        shared->creature = creature;
        const auto give = [&](const portrait::Gathered &g, portrait::FilterQuality quality) {
            auto gathered = std::make_shared<const portrait::Gathered>(g);
            auto light = std::make_shared<const std::vector<Vec3f>>(filtered(*gathered, quality, {stop, {}}));
            if (stop.stop_requested())
                return;
            QMetaObject::invokeMethod(
                QCoreApplication::instance(),
                [shared, number, gathered, light] {
                    if (shared->isAlive)
                        shared->view->take(number, gathered, light);
                },
                Qt::QueuedConnection);
        };
        const auto &tracer = *shared->tracer;
        for (const int by : kCoarse) {
            portrait::Gathered coarse = tracer.blank(std::max(1, pixels.width() / by), std::max(1, pixels.height() / by));
            if (!tracer.gather(coarse, {.samples = 1}, {stop, {}}))
                return false;
            give(coarse, portrait::FilterQuality::Quick);
        }
        portrait::Gathered g = tracer.blank(pixels.width(), pixels.height());
        for (int samples = 1; samples <= kMostSamples; samples *= 2) {
            if (!tracer.gather(g, {.samples = samples}, {stop, {}}))
                return false;
            give(g, samples < 32 ? portrait::FilterQuality::Quick : portrait::FilterQuality::Full);
        }
        return true;
    });
}

void PortraitView::take(std::uint64_t number, std::shared_ptr<const portrait::Gathered> gathered,
                        std::shared_ptr<const std::vector<Vec3f>> light)
{
    if (number != m_number || !m_isWanted)
        return;
    m_gathered = std::move(gathered), m_light = std::move(light);
    m_samples = int(m_gathered->count.empty() ? 0 : m_gathered->count.front());
    if (m_gathered->width < m_pixels.width())
        m_samples = 0;
    develop();
}

void PortraitView::setMix(std::vector<portrait::LightMix> mix)
{
    m_mix = std::move(mix);
    develop();
}

void PortraitView::develop()
{
    if (!m_gathered || !m_isWanted)
        return;
    m_image = toImage(shownPicture(*m_gathered, m_mix, *m_light, m_stage.film));
    emit changed();
}

} // namespace bonemoss::app
