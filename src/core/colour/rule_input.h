#pragma once

#include "colour/rule.h"
#include "growth/flow.h"

#include <mutex>

namespace bonemoss::colour {

/// The skin as rules see it, worked out when it is first asked for; any thread may ask.
class RuleGround
{
public:
    RuleGround(const Skin &skin, const growth::Surroundings &about) : m_skin(skin), m_about(about) {}
    const growth::Ground &ground() const;
    std::shared_ptr<const growth::Flow> flow() const;
    /// Neighbours of each vertex: those of v are all[first[v]] to all[first[v + 1]].
    struct Net {
        std::vector<std::uint32_t> first, all;
        std::span<const std::uint32_t> of(std::size_t v) const { return {all.data() + first[v], first[v + 1] - first[v]}; }
    };
    const Net &net() const;
    const std::vector<Vec3f> &positions() const;

private:
    const Skin &m_skin;
    const growth::Surroundings &m_about;
    mutable std::mutex m_lock;
    mutable std::unique_ptr<growth::Ground> m_ground;
    mutable std::shared_ptr<const growth::Flow> m_flow;
    mutable std::unique_ptr<Net> m_net;
    mutable std::vector<Vec3f> m_positions;
};

/// What a rule works from.
struct RuleInput {
    const Rule &rule;
    const Skin &skin;
    const growth::Surroundings &about;
    const RuleGround &ground;
    std::vector<const mesh::Surface *> others; ///< other pieces that shade and thicken
    std::vector<Vec3f> places;                 ///< Source::Place: mm
    skin::Bytes area;                          ///< Source::Place: a mask, or a group as one; blank without
    std::vector<const skin::Layer *> layers;   ///< Source::Growth, Source::Layer: one or more
    std::uint64_t fingerprint = 0;             ///< of the skin, for what is kept between runs
    const Progress &progress;

    float value(std::string_view setting) const { return rule.value(setting); }
    /// A place for noise: of twins both have the same, on wish.
    Vec3f folded(Vec3f p) const;
};

/// The mean of the neighbours of each vertex and itself, that many times; what lays nothing (below 0) is left out.
void blurred(const RuleGround::Net &net, std::uint32_t passes, std::vector<float> &values);

/// Distance over the skin from the nearest of some vertices, mm: a sweep that keeps the straight way to the vertex it began at, so that
/// it is short by no more than the bend of the way. kFar beyond reach. O(vertices log vertices).
inline constexpr float kFar = 1e9f;
std::vector<float> distances(const RuleGround &ground, std::span<const std::uint32_t> from, float reach = kFar,
                             std::vector<std::uint32_t> *nearest = nullptr);
/// The same along edges, for long ways round: too long by up to a twelfth on square faces.
std::vector<float> waysAlong(const RuleGround &ground, std::span<const std::uint32_t> from);

} // namespace bonemoss::colour
