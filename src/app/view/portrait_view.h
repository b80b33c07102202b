#pragma once

#include "app/session/latest.h"
#include "document/creature.h"
#include "portrait/path_tracer.h"
#include "portrait/develop.h"

#include <QImage>
#include <QObject>
#include <QSize>

#include <memory>

namespace bonemoss::app {

/// The picture in a view: gathers itself behind one's work while nothing changes, coarse at first.
class PortraitView : public QObject
{
    Q_OBJECT
public:
    explicit PortraitView(QObject *parent = nullptr);
    ~PortraitView() override;

    /// What is to be seen; another than before begins anew, and what was shown is no more.
    void want(std::shared_ptr<const document::Creature> creature, const portrait::Stage &stage, const portrait::Shot &shot,
              QSize pixels);
    void stop();                           ///< nothing is gathered or shown
    void hold() { m_stop.request_stop(); } ///< no more is gathered; what is shown stays
    void setMix(std::vector<portrait::LightMix> mix);
    /// As far as it is; null before the first.
    const QImage &image() const { return m_image; }
    int samples() const { return m_samples; } ///< of each pixel so far
    bool isWanted() const { return m_isWanted; }

signals:
    void changed();                  ///< there is more of it
    void failed(const QString &why); ///< it cannot be made

private:
    struct Shared;
    void develop();
    void take(std::uint64_t number, std::shared_ptr<const portrait::Gathered> gathered,
              std::shared_ptr<const std::vector<Vec3f>> light);

    std::shared_ptr<Shared> m_shared;
    std::shared_ptr<const document::Creature> m_creature;
    portrait::Stage m_stage;
    portrait::Shot m_shot;
    QSize m_pixels;
    bool m_isWanted = false;
    std::uint64_t m_number = 0; ///< of what is wanted
    std::vector<portrait::LightMix> m_mix;
    std::shared_ptr<const portrait::Gathered> m_gathered;
    std::shared_ptr<const std::vector<Vec3f>> m_light; ///< filtered
    QImage m_image;
    int m_samples = 0;
    std::stop_source m_stop;
    Latest<bool> m_work;
};

/// A picture as Qt has it.
QImage toImage(const image::ColourPicture &picture);

} // namespace bonemoss::app
