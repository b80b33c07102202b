#pragma once

#include "armature/balance.h"
#include "armature/form.h"
#include "mesh/surface.h"

#include <QObject>

#include <atomic>
#include <memory>
#include <optional>

namespace bonemoss::app {

/// The skin that the forms would knit into, worked out beside the window while they move: coarser during a
/// drag when the machine is slow, exact when still. Always the newest asked for; older ones are dropped.
class LiveSkin : public QObject
{
    Q_OBJECT
public:
    explicit LiveSkin(QObject *parent = nullptr);
    ~LiveSkin() override;

    /// Asks for the skin of these forms. isMoving: a drag is under way.
    void want(const armature::Armature &forms, bool isMoving);
    const mesh::Surface *surface() const { return m_surface ? m_surface.get() : nullptr; }
    const std::optional<armature::Balance> &balance() const { return m_balance; }
    double lastMs() const { return m_lastMs; }
    bool isBusy() const { return m_isBusy; }

signals:
    void changed();

private:
    struct Answer {
        std::shared_ptr<const mesh::Surface> surface;
        std::optional<armature::Balance> balance;
        float spacing = 0; ///< used, mm
        std::size_t vertices = 0;
        double ms = 0;
    };
    void start();
    void take(const Answer &answer);
    static Answer make(const armature::Armature &forms, float spacing, std::stop_token stop);

    std::shared_ptr<std::atomic<bool>> m_alive;
    armature::Armature m_wanted, m_shown;
    bool m_isMoving = false, m_isBusy = false, m_isExact = false;
    float m_exactSpacing = 0, m_spacing = 0; ///< mm; of the last answer that had the wanted count
    double m_lastMs = 0;
    std::shared_ptr<const mesh::Surface> m_surface;
    std::optional<armature::Balance> m_balance;
};

} // namespace bonemoss::app
