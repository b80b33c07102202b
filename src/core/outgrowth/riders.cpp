#include "outgrowth/riders.h"

namespace bonemoss::outgrowth {

Riders::Riders(std::shared_ptr<const Made> made)
    : m_made(std::move(made)), m_anchors(m_made->members.size()), m_offsets(m_made->members.size())
{}

void Riders::anchor(const mesh::Surface &before, std::uint32_t block)
{
    const Box3f &box = before.bounds[block]->box;
    const Vec3f margin = Vec3f{1, 1, 1} * (0.02f * box.diagonal());
    const std::size_t count = before.positions.countIn(block);
    for (std::size_t m = 0; m < m_anchors.size(); ++m) {
        const Vec3f root = m_made->members[m].root, over = root - (box.hi + margin), under = (box.lo - margin) - root;
        if (std::max({over.x, over.y, over.z, under.x, under.y, under.z}) > 0)
            continue;
        Anchor &a = m_anchors[m];
        for (std::size_t i = 0; i < count; ++i) {
            const auto v = std::uint32_t(block * mesh::kBlockSize + i);
            const float away = squaredLength(before.positions[v] - root);
            if (a.vertex == kNone || away < a.away)
                a = {v, away};
        }
    }
}

bool Riders::follow(const mesh::Surface &before, const mesh::Surface &now, std::span<const std::uint32_t> touched)
{
    m_known.resize(before.positions.blockCount());
    for (const std::uint32_t b : touched)
        if (b < m_known.size() && !m_known[b]) {
            anchor(before, b);
            m_known[b] = true;
        }
    bool isNew = false;
    m_isMoved = false;
    for (std::size_t m = 0; m < m_anchors.size(); ++m) {
        const std::uint32_t v = m_anchors[m].vertex;
        const Vec3f offset = v == kNone ? Vec3f{} : now.positions[v] - before.positions[v];
        isNew = isNew || !(offset == m_offsets[m]);
        m_isMoved = m_isMoved || !(offset == Vec3f{});
        m_offsets[m] = offset;
    }
    return isNew;
}

} // namespace bonemoss::outgrowth
