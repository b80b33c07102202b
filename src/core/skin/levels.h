#pragma once

#include "skin/skin.h"

namespace bonemoss::skin {

// Levels: a skin may carry coarser and finer states of itself, each one Catmull-Clark step apart. What a finer level has
// over the subdivided coarser one is kept in the frame of that surface, so it rides along when the large form turns.
// The frames are those of the body: layers stay sums.

/// One step finer, with a level kept below; layers, masks, groups and hidden parts come along by the same linear rule.
/// BadValue when a finer level is there already.
Result<Skin> refine(const Skin &skin, const Progress &progress = {});

/// The same skin with another of its levels in hand. What was changed since that level was left comes over to it: going
/// down as the least-squares fit, going up with the detail turned. Unchanged, the other level comes back bit for bit
/// and at once; else O(vertices of the finer level).
Result<Skin> atLevel(const Skin &skin, std::size_t level, const Progress &progress = {});

/// The finest level without those below, and without unused vertices: what a change of faces starts from.
Skin finest(const Skin &skin, const Progress &progress = {});

void dropLower(Skin &skin);
void dropHigher(Skin &skin);

/// Finds up to `count` levels below a skin by undoing subdivision in its faces: its vertices are numbered anew but stay
/// bit for bit where they are. It must have one level. BadValue when its faces did not come from subdivision.
Result<Skin> findLower(const Skin &skin, std::size_t count, const Progress &progress = {});

/// One skin of states of which each is one step finer than that before, the finest in hand. O(1) beside copies of blocks' addresses.
Skin linked(std::vector<Skin> states);

/// To be called when a growth of the level in hand grew anew: what the level was like when it agreed with the ones beside it
/// keeps no copy of the old growth, since a growth comes to another level as a whole.
void forgetGrown(Skin &skin, std::uint32_t layer);

/// Calls edit with the skin and with each kept state of its levels, as they are.
void eachState(Skin &skin, const std::function<void(Skin &)> &edit);

/// Does the same to every level. edit is called with the skin, and with each kept state after its layers were made as many and
/// as named as those in hand; it may find no surface there (hasSurface, surfaceOf). A level that was not changed since it was
/// left stays unchanged. layer: the one it is about, 0 for none. On an error all levels are as they were.
Status onAllLevels(Skin &skin, std::uint32_t layer, const std::function<Status(Skin &)> &edit);
/// What a state shows, though it keeps no surface. O(1) where it does.
mesh::Surface surfaceOf(const Skin &skin);

/// Adds a layer to the one below it or to the body, at all levels.
Status mergeDown(Skin &skin, std::uint32_t layer);

} // namespace bonemoss::skin
