// How a creature stands and how its parts compare: what the Armature bench shows, without a window.
#include "armature/balance.h"
#include "armature/proportions.h"
#include "cli/commands.h"
#include "creature/store.h"
#include "mesh/measures.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace bonemoss::cli {

using nlohmann::json;

namespace {

constexpr float kCellsAcross = 250; // of the skin that forms are weighed by where there is no piece

/// What is weighed: the visible pieces, or the skin that the forms would knit into. Sets the length within
/// which points touch the floor.
Result<mesh::PolyMesh> bodyOf(const creature::Creature &c, float &tolerance)
{
    mesh::PolyMesh all;
    for (const auto &p : c.pieces)
        if (!p->isHidden) {
            append(all, toPolyMesh(p->skin.shown));
            tolerance = std::max(tolerance, meanEdgeLength(p->skin.shown));
        }
    if (!all.isEmpty())
        return all;
    const auto source = armature::makeDistance(c.armature);
    if (source->bounds().isEmpty())
        return Error{ErrorCode::Empty, "creature", "there is nothing to weigh"};
    tolerance = source->bounds().diagonal() / kCellsAcross;
    return field::previewSource(*source, tolerance);
}

} // namespace

int stand(const std::filesystem::path &file, bool asJson)
{
    const auto loaded = creature::loadStore(file);
    const auto say = [](const Error &e, int code) { return fmt::print(stderr, "bonemoss-cli: {}\n", e.text()), code; };
    if (!loaded)
        return say(loaded.error(), kUnreadable);
    const creature::Creature &c = loaded->creature;
    float tolerance = 0;
    const auto body = bodyOf(c, tolerance);
    if (!body)
        return say(body.error(), kFailed);
    const mesh::Mass mass = mesh::massOf(*body);
    const armature::Balance b = armature::balanceOf(body->positions, mass.centre, tolerance);
    const auto row = [](Vec3f v) { return json{v.x, v.y, v.z}; };
    json contact = json::array(), parts = json::array();
    for (const Vec3f p : b.contact)
        contact.push_back(row(p));
    for (const armature::Proportion &p : proportionsOf(c.armature)) {
        json part = {{"form", c.armature.find(p.form)->name}, {"lengthMm", p.lengthMm}};
        if (p.inUnits > 0)
            part["units"] = p.inUnits;
        if (p.target)
            part["wanted"] = p.target->ratio, part["missed"] = p.isMissed;
        parts.push_back(std::move(part));
    }
    if (asJson) {
        fmt::print("{}\n", json{{"volumeMm3", mass.volumeMm3},
                                {"weightPointMm", row(b.weightPoint)},
                                {"floorMm", b.floor},
                                {"contactMm", contact},
                                {"marginMm", b.margin},
                                {"stands", b.stands()},
                                {"proportions", parts}}
                               .dump(2));
        return kDone;
    }
    fmt::print("{}: {:.1f} mm {}\n", b.stands() ? "stands" : "would tip", std::abs(b.margin),
               b.stands() ? "to spare" : "outside what carries it");
    for (const json &p : parts)
        fmt::print("{:24} {:8.1f} mm{}{}\n", p["form"].get<std::string>(), p["lengthMm"].get<double>(),
                   p.contains("units") ? fmt::format(" {:6.2f} units", p["units"].get<double>()) : "",
                   p.contains("wanted")
                       ? fmt::format(", {:g} wanted{}", p["wanted"].get<double>(), p["missed"].get<bool>() ? ": missed" : "")
                       : "");
    return kDone;
}

} // namespace bonemoss::cli
