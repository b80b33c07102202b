#pragma once

#include "app/view/look.h"
#include "document/creature.h"
#include "skin/skin_maps.h"

#include <QObject>

#include <atomic>
#include <map>
#include <memory>
#include <stop_token>

namespace bonemoss::app {

using MapValues = std::shared_ptr<const std::vector<float>>;

/// Numbers over pieces that take time: worked out beside the window, the last known ones shown until newer ones are there.
class MapKeeper : public QObject
{
    Q_OBJECT
public:
    explicit MapKeeper(QObject *parent = nullptr);
    ~MapKeeper() override;

    /// Of a piece as it is in a creature; null while there are none that fit its vertices. Orders newer ones unless `waits`.
    MapValues values(const std::shared_ptr<const document::Creature> &creature, std::uint32_t piece, Look look, bool waits);
    /// What Look::Seen is seen by.
    void setSight(const mesh::Sight &sight);
    bool isBusy() const { return m_isBusy; }

signals:
    void changed();

private:
    struct Known {
        MapValues values;
        std::vector<std::weak_ptr<const void>> madeOf; ///< the pieces that it depends on, its own first
        int sight = -1;
    };
    void order(const std::shared_ptr<const document::Creature> &creature, std::uint32_t piece, Look look);

    std::map<std::pair<std::uint32_t, Look>, Known> m_known;
    std::shared_ptr<std::atomic<bool>> m_alive;
    std::stop_source m_stop;
    mesh::Sight m_sight;
    int m_sightNumber = 0;
    bool m_isBusy = false;
};

} // namespace bonemoss::app
