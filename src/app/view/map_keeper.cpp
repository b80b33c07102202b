#include "app/view/map_keeper.h"

#include "app/session/latest.h"

#include <QCoreApplication>
#include <QThreadPool>

namespace bonemoss::app {

namespace {

/// The pieces that the numbers of one depend on, its own first.
std::vector<std::shared_ptr<const document::Piece>> sources(const document::Creature &c, std::uint32_t id, Look look)
{
    std::vector<std::shared_ptr<const document::Piece>> out(1);
    for (const auto &p : c.pieces) {
        if (p->id == id)
            out[0] = p;
        else if (rowOf(look).dependsOnOthers && !p->isHidden)
            out.push_back(p);
    }
    return out;
}

} // namespace

MapKeeper::MapKeeper(QObject *parent) : QObject(parent), m_alive(std::make_shared<std::atomic<bool>>(true)) {}

MapKeeper::~MapKeeper()
{
    *m_alive = false;
    m_stop.request_stop();
}

void MapKeeper::setSight(const mesh::Sight &sight)
{
    m_sight = sight;
    ++m_sightNumber;
    emit changed();
}

MapValues MapKeeper::values(const std::shared_ptr<const document::Creature> &c, std::uint32_t id, Look look, bool waits)
{
    std::erase_if(m_known, [&](const auto &known) { return !c->piece(known.first.first); });
    const document::Piece *piece = c->piece(id);
    if (!piece)
        return nullptr;
    const Known &known = m_known[{id, look}];
    const auto now = sources(*c, id, look);
    bool isNew = rowOf(look).dependsOnCamera && known.sight != m_sightNumber;
    isNew = isNew || now.size() != known.madeOf.size();
    for (std::size_t k = 0; k < now.size() && !isNew; ++k)
        isNew = now[k].owner_before(known.madeOf[k]) || known.madeOf[k].owner_before(now[k]);
    if (isNew && !waits && !m_isBusy)
        order(c, id, look);
    return known.values && known.values->size() == piece->skin.body.size() ? known.values : nullptr;
}

void MapKeeper::order(const std::shared_ptr<const document::Creature> &c, std::uint32_t id, Look look)
{
    m_isBusy = true;
    auto from = sources(*c, id, look);
    skin::MapSettings settings;
    settings.sight = m_sight;
    settings.point = from[0]->symmetry.point, settings.normal = from[0]->symmetry.normal;
    QThreadPool::globalInstance()->start([this, alive = m_alive, stop = m_stop.get_token(), from = std::move(from), settings, id,
                                          look, sight = m_sightNumber]() mutable {
        for (std::size_t k = 1; k < from.size(); ++k)
            settings.others.push_back(&from[k]->skin.shown);
        Known known;
        known.values = workedOut<MapValues>(nullptr, [&] {
            return std::make_shared<const std::vector<float>>(skin::mapOf(from[0]->skin, rowOf(look).map, settings, {stop, {}}));
        });
        known.madeOf.assign(from.begin(), from.end());
        known.sight = sight;
        QMetaObject::invokeMethod(
            qApp,
            [this, alive, known = std::move(known), id, look] {
                if (!*alive)
                    return;
                m_isBusy = false;
                m_known[{id, look}] = known;
                emit changed();
            },
            Qt::QueuedConnection);
    });
}

} // namespace bonemoss::app
