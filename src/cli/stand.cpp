// How a creature stands and how its parts compare: what the Armature bench shows, without a window.
#include "armature/balance.h"
#include "base/files.h"
#include "armature/proportions.h"
#include "cli/commands.h"

#include "image/picture_file.h"
#include "store/part.h"
#include "store/store.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "mesh/section.h"

#include <algorithm>
#include <cstdio>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace bonemoss::cli {

using nlohmann::json;

namespace {

constexpr float kCellsAcross = 250; // of the skin that forms are weighed by where there is no piece

/// What is weighed: the visible pieces, or the skin that the forms would knit into. Sets the length within
/// which points touch the floor.
Result<mesh::PolyMesh> bodyOf(const document::Creature &c, float &tolerance)
{
    mesh::PolyMesh all;
    for (const auto &p : c.pieces)
        if (!p->isHidden) {
            append(all, document::meshOf(*p));
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

/// A mesh file, or what of a creature there is to measure.
Result<mesh::PolyMesh> wholeOf(const std::filesystem::path &file)
{
    if (file.extension() != ".bonemoss") {
        auto read = io::readMesh(file);
        if (!read)
            return read.error();
        return std::move(read->mesh);
    }
    const auto loaded = store::loadStore(file);
    if (!loaded)
        return loaded.error();
    float tolerance = 0;
    return bodyOf(loaded->creature, tolerance);
}

} // namespace

int girth(const std::filesystem::path &file, const std::vector<float> &numbers, bool asJson)
{
    const auto say = [](const Error &e, int code) { return fmt::print(stderr, "bonemoss-cli: {}\n", e.text()), code; };
    const Vec3f place{numbers[0], numbers[1], numbers[2]}, across{numbers[3], numbers[4], numbers[5]};
    if (!(length(across) > 1e-6f))
        return say({ErrorCode::BadValue, "girth", "the plane's direction has no length"}, kUsage);
    const auto body = wholeOf(file);
    if (!body)
        return say(body.error(), kUnreadable);
    const std::vector<mesh::Section> all = mesh::sections(mesh::makeSurface(*body), place, normalized(across));
    const mesh::Section *s = mesh::nearestSection(all, place);
    if (!s)
        return say({ErrorCode::Empty, shownPath(file), "the plane cuts nothing"}, kFailed);
    if (asJson)
        fmt::print("{}\n",
                   json{{"girthMm", s->length}, {"closed", s->isClosed}, {"areaMm2", s->area}, {"lines", all.size()}}.dump(2));
    else
        fmt::print("{:.2f} mm{}\n", s->length, s->isClosed ? "" : " along an open line");
    return kDone;
}

int writeStamp(const std::string &name, const std::filesystem::path &of, const std::filesystem::path &out, int bits)
{
    const auto say = [](const Error &e, int code) { return fmt::print(stderr, "bonemoss-cli: {}\n", e.text()), code; };
    document::Creature c;
    if (!of.empty()) {
        auto loaded = store::loadStore(of);
        if (!loaded)
            return say(loaded.error(), kUnreadable);
        c = std::move(loaded->creature);
    }
    const auto picture = document::stampNamed(c, name);
    if (!picture)
        return say({ErrorCode::Unknown, "stamp", fmt::format("there is no stamp \"{}\"", name)}, kUsage);
    if (const Status written = image::writeHeights(out, *picture, bits); !written)
        return say(written.error(), kFailed);
    fmt::print("{} by {} pixels, {} bits\n", picture->width, picture->height, bits);
    return kDone;
}

int savePart(const std::filesystem::path &file, const std::string &form, const std::filesystem::path &out,
             const std::string &title, const std::string &outward, float fits)
{
    const auto say = [](const Error &e, int code) { return fmt::print(stderr, "bonemoss-cli: {}\n", e.text()), code; };
    const auto loaded = store::loadStore(file);
    if (!loaded)
        return say(loaded.error(), kUnreadable);
    const auto &forms = loaded->creature.armature.forms;
    const auto found = std::find_if(forms.begin(), forms.end(), [&](const auto &f) { return f.name == form; });
    if (found == forms.end())
        return say({ErrorCode::Unknown, form, "there is no such form"}, kUsage);
    auto part = store::partFrom(loaded->creature, found->id);
    if (!part)
        return say(part.error(), kFailed);
    if (!title.empty())
        part->title = title;
    if (fits > 0)
        part->fitsRadius = fits;
    if (outward == "upright") {
        part->turnsToNormal = false;
    } else if (!outward.empty()) {
        Vec3f v;
        char rest = 0;
        if (std::sscanf(outward.c_str(), "%f,%f,%f%c", &v.x, &v.y, &v.z, &rest) != 3 || !(length(v) > 1e-6f))
            return say({ErrorCode::BadValue, "--outward", "must be x,y,z or upright"}, kUsage);
        part->outward = normalized(v);
    }
    const Status done = store::writePart(out, *part);
    return done ? kDone : say(done.error(), kFailed);
}

int stand(const std::filesystem::path &file, bool asJson)
{
    const auto loaded = store::loadStore(file);
    const auto say = [](const Error &e, int code) { return fmt::print(stderr, "bonemoss-cli: {}\n", e.text()), code; };
    if (!loaded)
        return say(loaded.error(), kUnreadable);
    const document::Creature &c = loaded->creature;
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
    for (const armature::Proportion &p : proportionsOf(c)) {
        json part = {{"form", p.name}, {"lengthMm", p.lengthMm}};
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
