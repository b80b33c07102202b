#pragma once

#include "document/items.h"
#include "io/scene.h"

namespace bonemoss::exporting {

using document::Creature;
using document::Shown;

/// What files, pictures and checks take of a creature, mm, creature space: what each kind of item shows (document/items.h). Pieces
/// share their blocks with it; the rest is made into meshes. O(cages and forms shown, blocks of pieces).
io::Scene shownScene(const Creature &creature, Shown what = Shown::All);
/// All of it, with the colour of what is painted at its points: for pictures and files. O(vertices of painted pieces) beyond that.
io::Scene colouredScene(const Creature &creature);
/// That with the finish beside it, which no file has: for pictures.
io::Scene pictureScene(const Creature &creature);
/// The coloured scene for a file: with bones, weights and poses at rest where the format has them and the skins are bound; else in the pose
/// that the creature stands in.
io::Scene sceneForFile(const Creature &creature, bool takesRig);
/// What a printer would make: all of it in its pose, but for the piece that pictures have it stand on.
io::Scene printScene(const Creature &creature);
/// The visible pieces alone.
io::Scene skinScene(const Creature &creature);

} // namespace bonemoss::exporting
