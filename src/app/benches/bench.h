#pragma once

#include <QString>
#include <nlohmann/json_fwd.hpp>

#include <span>

namespace bonemoss::app {

class Session;

enum class Bench { Armature, Sculpt, Detail };

/// A bench as one row: what the window shows of it, and what the actions that every bench has mean there. Each of these gives a
/// command for what is chosen, or null where there is nothing for it.
struct BenchRow {
    Bench bench;
    const char *id;     ///< in settings and object names
    const char *title;  ///< translated by benchTitle()
    const char *manual; ///< page
    bool showsForms;    ///< forms are in hand; else skins
    bool hasPlan;       ///< pages of planning on the left
    bool hasLayers;     ///< detail layers on the left
    bool holdsTools;    ///< brushes, with keys held while stroking
    int tileColumns;
    nlohmann::json (*deletion)(const Session &session);
    nlohmann::json (*duplication)(const Session &session, bool isLinked);
};

/// In their order along the top; the first is where a new creature begins.
std::span<const BenchRow> benches();
const BenchRow &rowOf(Bench bench);
QString benchTitle(const BenchRow &row);

} // namespace bonemoss::app
