#pragma once

#include "outgrowth/outgrowth.h"

#include <memory>
#include <span>
#include <vector>

namespace bonemoss::outgrowth {

/// Members that go along while the skin below them is being moved, before they are made anew: each goes as far as the skin at its
/// root has gone. The vertex that it goes with is the nearest one to its root, found when its block is first touched.
class Riders
{
public:
    explicit Riders(std::shared_ptr<const Made> made);

    /// before, now: the skin with the same faces. touched: blocks that may differ. Whether any member stands elsewhere than after the last
    /// call. O(members for each block that is new, vertices of it for each member that stands there, members).
    bool follow(const mesh::Surface &before, const mesh::Surface &now, std::span<const std::uint32_t> touched);
    bool isMoved() const { return m_isMoved; }
    /// The members as they stand now, mm.
    Vec3f offset(std::size_t member) const { return m_offsets[member]; }
    const Made &made() const { return *m_made; }

private:
    struct Anchor {
        std::uint32_t vertex = kNone;
        float away = 0; ///< mm, squared
    };
    void anchor(const mesh::Surface &before, std::uint32_t block);

    std::shared_ptr<const Made> m_made;
    std::vector<Anchor> m_anchors;
    std::vector<Vec3f> m_offsets;
    std::vector<bool> m_known; ///< by block
    bool m_isMoved = false;
};

} // namespace bonemoss::outgrowth
