#pragma once

#include "mesh/surface.h"
#include "sculpt/falloff.h"

#include <functional>
#include <string>
#include <string_view>
#include <vector>

namespace bonemoss::sculpt {

enum class Tool { Raise, Swell, Crease, Tug, Smooth, Stamp, Mask, Tendril, Denser, Sparser };
inline constexpr std::size_t kToolCount = 10;
std::string_view nameOf(Tool tool);
std::optional<Tool> toolNamed(std::string_view name);
/// Whether strokes of it give the skin new faces.
constexpr bool changesFaces(Tool tool)
{
    return tool == Tool::Tendril || tool == Tool::Denser || tool == Tool::Sparser;
}

/// One reading of the pen: a ray into the creature (mm) and how hard it was pressed. With a zero
/// direction the origin itself is meant, and the surface point nearest to it.
struct PenSample {
    Vec3f origin, direction;
    float pressure = 1; ///< 0 to 1
    float timeMs = 0;   ///< since the stroke began
};

struct StrokeSettings {
    Tool tool = Tool::Raise;
    float size = 10;       ///< radius in mm
    float strength = 0.5f; ///< 0 to 1
    Falloff falloff = Falloff::Dome;
    float spacing = 0.15f; ///< of the radius, between dabs
    float steadiness = 0;  ///< 0 to 0.95: how much of each step is taken from the path before
    bool isReversed = false;
    bool isMirrored = true; ///< across the middle plane
    /// Only skin that hangs together with the middle of the dab inside its ball; the far bank of a fold
    /// and the lid across the eye stay as they are.
    bool isConnected = true;
    bool pressureToStrength = true, pressureToSize = false;
    std::string stamp = "scales";
    float depth = 1;        ///< stamp: mm from its middle to its extremes
    bool isDragged = false; ///< stamp: one print, drawn out to size and angle
    float randomTurn = 0;   ///< stamp: 0 none, 1 any angle
    float turn = 0;         ///< stamp: radians
    std::uint32_t seed = 1;
    float edge = 0.12f; ///< tools that change faces: length of the edges wanted, of the radius; of Tendril at most

    float edgeMm() const { return edge * size; }
};

/// One print of a tool on the surface.
struct Dab {
    Vec3f centre, normal; ///< unit normal of the area
    Vec3f along;          ///< unit direction of the stroke, {} at its start
    Vec3f drag;           ///< Tug: mm from where it was taken
    Vec3f u, v;           ///< Stamp: unit axes of the picture
    float radius = 1;
    float amount = 0; ///< mm for Raise, Swell, Crease, Stamp; of edges for what changes faces; share for Smooth, Mask
};

struct DabWork;
struct DabPair;

/// Gives the skin under a dab and its twin other faces and brings surface and mask of the stroke in line. Returns the
/// blocks that changed.
using EvenOut = std::function<std::vector<std::uint32_t>(const DabPair &)>;

/// Runs one stroke on a surface as samples arrive. The surface belongs to the caller and is edited in
/// place, block by block, copying only blocks that other states share; nothing else is touched.
/// Cost of a dab: O(blocks) to find its blocks, then O(vertices of those blocks).
/// The same samples give the same bits on any number of threads.
class Stroke
{
public:
    /// mask: 255 keeps a vertex as it is. Only the Mask tool changes it.
    /// evenOut: needed by tools that change faces.
    Stroke(mesh::Surface &surface, mesh::BlockArray<std::uint8_t> &mask, StrokeSettings settings, EvenOut evenOut = {});
    ~Stroke();
    Stroke(const Stroke &) = delete;
    Stroke &operator=(const Stroke &) = delete;

    void add(const PenSample &sample);
    /// Blocks changed since the last call, each once, in order.
    std::vector<std::uint32_t> takeDirty();
    /// All blocks changed by the stroke so far, in order.
    std::vector<std::uint32_t> touched() const;
    bool hasStarted() const { return m_hasLast; }
    /// Where the last dab fell.
    const Dab &lastDab() const { return m_lastDab; }

private:
    struct Steady {
        PenSample sample;
        Vec3f start; ///< where it meets the skin as it was before the stroke
    };
    std::optional<mesh::Hit> find(const mesh::Surface &surface, const PenSample &s) const;
    void walkTo(const Steady &next);
    void dabAt(const PenSample &s, const mesh::Hit &hit);
    void tugTo(const PenSample &s);
    void stampTo(const PenSample &s);
    void startTug(const PenSample &s, const mesh::Hit &hit);
    void drawOutTo(const PenSample &s);
    void moveAlong(const DabPair &pair, const mesh::Surface &from, const std::vector<std::uint32_t> &blocks);
    void changeFaces(const DabPair &pair);
    Vec3f targetOf(const PenSample &s) const;
    void print(Dab dab);
    void mark(const std::vector<std::uint32_t> &blocks);

    mesh::Surface &m_surface;
    mesh::BlockArray<std::uint8_t> &m_mask;
    const mesh::Surface m_start; // shares blocks with the surface as it was
    StrokeSettings m_settings;
    bool m_hasLast = false;
    Steady m_last;
    float m_leftOver = 0; // path since the last dab, mm
    std::uint32_t m_dabs = 0;
    Dab m_lastDab;
    std::vector<bool> m_touched, m_dirty;
    std::unique_ptr<DabWork> m_work;
    EvenOut m_evenOut;
    // Tug, Tendril
    Dab m_grab;
    float m_grabDepth = 0;
    float m_grabEdge = 0; // mm, of the face that was taken: a limb is drawn out no coarser
    std::vector<std::uint32_t> m_grabBlocks;
};

} // namespace bonemoss::sculpt
