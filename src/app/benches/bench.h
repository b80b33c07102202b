#pragma once

#include "base/types.h"
#include "sculpt/tool.h"

#include <QString>
#include <nlohmann/json_fwd.hpp>

#include <span>

namespace bonemoss::app {

class Session;
struct HandPart;
class HandModel;
struct ControlRow;

enum class Bench { Armature, Sculpt, Detail, Outgrowths, Colour, Pose, Portrait, Proof };

/// A bench as one row: what the window shows of it, and what the actions that every bench has mean there. Each of these gives a
/// command for what is chosen, or null where there is nothing for it.
struct BenchRow {
    Bench bench;
    const char *id;          ///< in settings and object names
    const char *title;       ///< translated by benchTitle()
    const char *manual;      ///< page
    bool showsForms = false; ///< forms are in hand; else skins
    bool hasPlan = false;    ///< pages of planning on the left
    bool hasLayers = false;  ///< detail layers on the left
    bool hasColours = false; ///< colour layers on the left
    bool poses = false;      ///< bones and poses on the left
    bool isPosed = false;    ///< the creature is shown in its pose
    bool portrays = false;   ///< cameras and lights on the left; the view is a picture that gathers itself
    bool holdsTools = false; ///< brushes, with keys held while stroking
    /// Whether a press on the skin begins a stroke; null: always.
    bool (*strokes)(const HandModel &hand) = nullptr;
    bool grows = false;       ///< growths stay chosen in the hand
    bool deforms = false;     ///< whole pieces are moved and bent from the hand's settings
    bool solosLayers = false; ///< Solo is about the chosen layer, where there is one
    bool foldsGroups = false; ///< large groups of tiles are folded until they are opened
    int tileColumns = 4;
    std::span<const HandPart *const> hand{};       ///< its tiles and settings
    std::span<const sculpt::Tool> tools{};         ///< its brushes, in the order of their number keys
    const char *oneGroup = nullptr;                ///< heading of all of them, translated; null: each under its tool's own group
    std::span<const ControlRow *const> controls{}; ///< in the view, the first asked first
    sculpt::Tool first = sculpt::Tool::Raise;      ///< in hand when nothing was chosen there yet
    nlohmann::json (*deletion)(const Session &session) = nullptr;
    nlohmann::json (*duplication)(const Session &session, bool isLinked) = nullptr;
    /// What is framed when something is chosen; empty: all of it.
    Box3f (*framed)(const Session &session) = nullptr;
};

/// In their order along the top; the first is where a new creature begins.
std::span<const BenchRow> benches();
const BenchRow &rowOf(Bench bench);
/// The first bench of which that is true.
Bench benchThat(bool BenchRow::*is);
/// Where work on a creature goes on after it was opened: at its skin when it has one.
Bench benchFor(const Session &session);
QString benchTitle(const BenchRow &row);

} // namespace bonemoss::app
