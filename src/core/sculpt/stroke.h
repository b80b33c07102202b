#pragma once

#include "base/finish.h"
#include "image/picture.h"
#include "mesh/island.h"
#include "mesh/surface.h"
#include "sculpt/falloff.h"
#include "sculpt/stencil.h"
#include "sculpt/symmetry.h"
#include "sculpt/tool.h"

#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace bonemoss::sculpt {

/// One reading of the pen: a ray into the creature (mm) and how hard it was pressed. With a zero
/// direction the origin itself is meant, and the surface point nearest to it.
struct PenSample {
    Vec3f origin, direction;
    float pressure = 1; ///< 0 to 1
    float timeMs = 0;   ///< since the stroke began
    Vec3f lean{};       ///< unit, where the pen's upper end points; zero when it is not known
};

struct StrokeSettings {
    Tool tool = Tool::Raise;
    float size = 10;       ///< radius in mm
    float strength = 0.5f; ///< 0 to 1
    Falloff falloff = Falloff::Dome;
    DrawnFalloff drawn = kFirstDrawn; ///< of Falloff::Drawn
    float spacing = 0.15f;            ///< of the radius, between dabs
    float scatter = 0;                ///< of the radius: how far prints fall beside the way, at random
    float sizeScatter = 0;            ///< 0 to 1: by how much prints are smaller, at random
    float steadiness = 0;             ///< 0 to 0.95: how much of each step is taken from the path before
    float rope = 0;                   ///< of the radius: the tool hangs on a rope of this length and comes along when it is taut
    bool isReversed = false;
    bool isMirrored = true; ///< repeated as the symmetry says
    Symmetry symmetry;
    /// Only skin that hangs together with the middle of the dab inside its ball; the far bank of a fold
    /// and the lid across the eye stay as they are.
    bool isConnected = true;
    bool isIslandOnly = false; ///< where not only connected skin is meant: only the island the stroke began on
    bool isFrontOnly = false;  ///< of tools that also move what faces away from the dab: only what faces it
    bool guardsThin = true;    ///< of tools that settle the skin: where it is thinner than the ring, its far side stays
    float tilt = 0;            ///< 0 to 1: how far the dab leans with the pen
    std::shared_ptr<const Stencil> stencil; ///< that the stroke goes through; none for all of the skin
    bool pressureToStrength = true, pressureToSize = false;
    float strengthCurve = 1, sizeCurve = 1; ///< powers of the pressure: below 1 soft, above 1 firm
    float limit = 0;                        ///< mm that a vertex may go from where the stroke found it; 0 for any way
    std::string stamp = "scales";
    std::shared_ptr<const image::HeightPicture> picture; ///< of the stamp, when it is none of those that come with the program
    float depth = 1;          ///< mm; of a stamp from its middle to its extremes, of a slab over the skin as it was
    bool isDragged = false;   ///< stamp: one print, drawn out to size and angle
    float randomRotation = 0; ///< stamp: 0 none, 1 any angle
    float randomStrength = 0; ///< stamp: 0 all alike, 1 from nothing to full
    bool randomFlip = false;  ///< stamp: every other print or so is its mirror image
    float rotation = 0;       ///< stamp: radians
    std::uint32_t seed = 1;
    PlaneSide planeSide = PlaneSide::Both;
    PlaneFrom planeFrom = PlaneFrom::Area;
    Vec3f planePoint, planeNormal{0, 1, 0}; ///< of a locked plane
    KneadKind knead = KneadKind::Drag;
    bool shrinks = false;              ///< smooth: does not keep the volume
    float reach = 0;                   ///< smooth: width of the bumps that go, of the size; 0 for those of single faces
    Vec3f colour{0.36f, 0.42f, 0.22f}; ///< of tools that paint: sRGB, 0 to 1
    std::uint32_t entry = 0;           ///< of the palette, that gives the colour; 0 for none
    bool laysColour = true;            ///< tools that paint: colour, or finish alone
    Finish finish;                     ///< tools that paint: what is laid of it
    bool isTinting = false;            ///< tools that shape: the stroke also lays `colour`, as Paint does
    float colourScatter = 0;           ///< Spray: 0 to 1, how much dots differ in colour, at random
    float edge = 0.12f;                ///< tools that change faces: length of the edges wanted, of the radius; of Tendril at most

    float edgeMm() const { return edge * size; }
};

/// One print of a tool on the surface.
struct Dab {
    Vec3f centre, normal; ///< unit normal of the area
    Vec3f along;          ///< unit direction of the stroke, {} at its start
    Vec3f drag;           ///< tools that take hold: mm of the pull; Knead's squeeze: its share along its way; Gouge: unit way
    Vec3f u, v;           ///< Stamp: unit axes of the picture
    Vec3f lean;           ///< unit, of the pen; zero when it does not count
    Vec3f base;           ///< Daub, Plane: a point of the plane, square to the normal
    float radius = 1;
    float amount = 0; ///< mm for what builds and carves; of edges for what changes faces; else a share
    float spin = 0;   ///< radians about the normal
};
/// A dab and its twins in all places of the symmetry.
using DabSet = std::vector<Dab>;

struct DabWork;

/// Gives the skin under dabs other faces and brings surface and mask of the stroke in line. Returns the
/// blocks that changed.
using EvenOut = std::function<std::vector<std::uint32_t>(const DabSet &)>;

/// What a dab reaches, for tools that mix what lies on the skin: the share of each own vertex of each block, 0 to 1; empty for a block
/// that is not reached.
using MixUnder =
    std::function<void(const DabSet &, const std::vector<std::uint32_t> &blocks, const std::vector<std::vector<float>> &shares)>;

/// What some tools need to know of the skin beyond the surface.
struct StrokeNeeds {
    EvenOut evenOut;               ///< of tools that change faces
    MixUnder mix;                  ///< of tools that mix
    mesh::BlockArray<Vec3f> layer; ///< of Restore: offsets that lead from the state it goes back to
    float layerStrength = 0;       ///< at which they are shown
};

/// Runs one stroke on a surface as samples arrive. The surface belongs to the caller and is edited in
/// place, block by block, copying only blocks that other states share; nothing else is touched.
/// Cost of a dab: O(blocks) to find its blocks, then O(vertices of those blocks).
/// The same samples give the same bits on any number of threads.
class Stroke
{
public:
    /// mask: 255 keeps a vertex as it is. Only the Mask tool changes it.
    Stroke(mesh::Surface &surface, mesh::BlockArray<std::uint8_t> &mask, StrokeSettings settings, StrokeNeeds needs = {});
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
    void print(Dab dab);
    void findPlane(Dab &dab, const std::vector<std::uint32_t> &blocks);
    bool followRope(Steady &next) const;
    void findIslands(const mesh::Hit &hit);
    void stampTo(const PenSample &s);
    void mark(const std::vector<std::uint32_t> &blocks);
    // Tools that take hold
    void takeHold(const PenSample &s, const mesh::Hit &hit);
    void follow(const PenSample &s);
    void tugTo(Vec3f target);
    void twistTo(Vec3f target);
    void kneadTo(Vec3f target);
    void kneadBy(Vec3f from, Vec3f to);
    void drawOutTo(const PenSample &s, Vec3f target);
    void changeFaces(const DabSet &dabs);
    float turnBy(Vec3f target);

    mesh::Surface &m_surface;
    mesh::BlockArray<std::uint8_t> &m_mask;
    const mesh::Surface m_start; // shares blocks with the surface as it was
    StrokeSettings m_settings;
    StrokeNeeds m_needs;
    std::vector<Isometry> m_places;
    const image::HeightPicture *m_picture = nullptr; ///< of Stamp
    bool m_hasLast = false;
    Steady m_last;
    float m_leftOver = 0; // path since the last dab, mm
    std::uint32_t m_dabs = 0;
    Dab m_lastDab;
    std::vector<bool> m_touched, m_dirty;
    std::unique_ptr<DabWork> m_work;
    std::optional<std::pair<Vec3f, Vec3f>> m_plane; // point and normal, once found for the whole stroke
    // Tools that take hold
    Dab m_grab;
    float m_grabDepth = 0;
    float m_grabEdge = 0; // mm, of the face that was taken: a limb is drawn out no coarser
    std::vector<std::uint32_t> m_grabBlocks;
    std::optional<Vec3f> m_pen; // Knead: where the pen was at the last step
    Vec3f m_arm;                // of the pen about the middle, once it is long enough to turn by
    float m_turned = 0;         // radians
};

} // namespace bonemoss::sculpt
