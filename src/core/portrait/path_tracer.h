#pragma once

#include "base/progress.h"
#include "base/result.h"
#include "io/scene.h"
#include "portrait/gathered.h"
#include "portrait/stage.h"
#include "portrait/traced_scene.h"

#include <memory>

namespace bonemoss::portrait {

/// How far a picture is gathered.
struct Gathering {
    int samples = 64; ///< of each pixel at most, all in all
    int fewest = 16;  ///< before its error is asked for
    float error = 0;  ///< relative, at which a pixel is done; 0: all samples
    std::uint64_t seed = 1;
};

/// Traces light through a scene: paths from the eye, at each place of which lights are asked for as well (J. Kajiya 1986; both ways of
/// finding a light weighed after E. Veach & L. Guibas 1995). Inside of what is translucent light walks at random (M. Chiang, P. Kutz &
/// B. Burley 2016). A sample depends on its pixel, its number and the seed alone: the same bits on any threads, and in parts.
class PathTracer
{
public:
    /// creature: what is shown, shared with whoever made it. before: of a creature that was Live, whose scene becomes this one at the
    /// cost of what changed. Errors: Empty where nothing is shown, those of pictures.
    static Result<std::unique_ptr<PathTracer>> make(io::Scene creature, const Stage &stage, const Shot &shot,
                                                    TracedScene::Upkeep upkeep = TracedScene::Upkeep::Once,
                                                    std::unique_ptr<PathTracer> before = {});
    ~PathTracer();
    PathTracer(const PathTracer &) = delete;
    PathTracer &operator=(const PathTracer &) = delete;

    /// Blank, for a tile (x, y, width, height) of a picture.
    Gathered blank(int width, int height, std::array<int, 4> tile) const;
    Gathered blank(int width, int height) const { return blank(width, height, {0, 0, width, height}); }
    /// TooLarge, in words, where such a picture or tile would take more memory at once than is right (8 GB).
    Status hasRoom(int width, int height) const;
    /// Adds samples until each pixel has as many, or is good enough. False where it was cancelled: some pixels have more than others then.
    bool gather(Gathered &into, const Gathering &how, const Progress &progress = {}) const;
    /// The same seen by another camera or with other lights, sharing the scene. Errors: those of pictures.
    Result<std::unique_ptr<PathTracer>> with(const Stage &stage, const Shot &shot) const;

    const Box3f &box() const; ///< of the creature
    std::size_t memoryBytes() const;
    /// Rays that were cast so far, of all kinds.
    std::uint64_t rays() const;
    /// Tells pictures apart by all they are made of. O(points).
    std::uint64_t digest() const;
    /// Of the creature, for measuring.
    TracedScene &traced() const;
    /// What Gathered numbers: items of the creature by name, however many copies they have; then what the ground is made of.
    const std::vector<std::string> &items() const;

private:
    struct Inside;
    explicit PathTracer(std::unique_ptr<Inside> inside);
    std::unique_ptr<Inside> m_inside;
};

} // namespace bonemoss::portrait
