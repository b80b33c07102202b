#include "store/detail/item_codecs.h"

#include "document/finite.h"
#include "document/ops/outgrowths.h"
#include "store/detail/colour_manifest.h"
#include "store/detail/pose_manifest.h"
#include "store/detail/form_manifest.h"
#include "store/detail/growth_manifest.h"
#include "store/detail/outgrowth_manifest.h"
#include "store/detail/picture_manifest.h"
#include "store/detail/piece_manifest.h"
#include "store/detail/stage_manifest.h"
#include "outgrowth/outgrowth.h"

#include <algorithm>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace bonemoss::store::detail {

using nlohmann::json;

namespace {

json writeReference(const Reference &r, const WriteBlob &write)
{
    json out = writePicture(*r.file, write);
    const auto mark = [](const std::optional<PicturePoint> &p) { return p ? json{p->u, p->v} : json(nullptr); };
    out.update({{"view", r.view},
                {"across", r.across},
                {"up", r.up},
                {"heightMm", r.heightMm},
                {"turn", r.rotation},
                {"opacity", r.opacity},
                {"over", r.isOver},
                {"crown", mark(r.crown)},
                {"ground", mark(r.ground)}});
    writeItem(r, out);
    return out;
}

Result<Reference> readReference(const json &j, const ReadBlob &read)
{
    Reference r;
    auto file = readPicture(j, read);
    if (!file)
        return file.error();
    r.file = std::move(*file);
    readItem(j, r);
    r.view = j.at("view");
    r.across = j.at("across"), r.up = j.at("up"), r.heightMm = j.at("heightMm"), r.rotation = j.at("turn");
    r.opacity = j.at("opacity"), r.isOver = j.at("over");
    for (const auto &[key, mark] : {std::pair{"crown", &r.crown}, std::pair{"ground", &r.ground}})
        if (!j.at(key).is_null())
            *mark = PicturePoint{j.at(key).at(0), j.at(key).at(1)};
    return r;
}

/// A form that cannot be read, as one with a number that is none, is left out and named; what hung from it stands on its own.
/// hasSkin: the older files do not say of which forms their skins were knitted; of all of them, then.
void readFormOr(const json &j, bool hasSkin, armature::Armature &armature, std::vector<std::string> &damage)
{
    std::string why = "it has a number that is none";
    try {
        armature::Form form = readForm(j);
        form.isKnitted = j.value("knitted", hasSkin);
        if (isFinite(form)) {
            if (form.parent && !armature.find(form.parent) && !damage.empty())
                form.parent = 0;
            armature.forms.push_back(std::move(form));
            return;
        }
    } catch (const std::exception &e) {
        why = e.what();
    }
    const auto name = j.is_object() ? j.find("name") : j.end();
    damage.push_back(fmt::format("form {} could not be read ({}) and is left out",
                                 name != j.end() && name->is_string() ? name->get<std::string>() : "?", why));
}

json writeForms(const Creature &c, const WriteBlob &)
{
    json out = json::array();
    for (const auto &f : c.armature.forms)
        out.push_back(writeForm(f));
    return out;
}

Status readForms(const json &m, const ReadBlob &, Creature &c, std::vector<std::string> &damage)
{
    for (const json &f : m.at("forms"))
        readFormOr(f, !m.at("pieces").empty(), c.armature, damage);
    return Done{};
}

json writePieces(const Creature &c, const WriteBlob &write)
{
    json out = json::array();
    for (const auto &p : c.pieces)
        out.push_back(writePiece(*p, write));
    return out;
}

Status readPieces(const json &m, const ReadBlob &read, Creature &c, std::vector<std::string> &damage)
{
    for (const json &p : m.at("pieces")) {
        auto piece = readPiece(p, read, damage);
        if (piece)
            c.pieces.push_back(std::move(*piece));
        else
            damage.push_back(fmt::format("piece {} could not be read ({}) and is left out", p.at("name").get<std::string>(),
                                         piece.error().text()));
    }
    return Done{};
}

json writeCages(const Creature &c, const WriteBlob &)
{
    json out = json::array();
    for (const auto &cage : c.cages) {
        json points = json::array(), faces = json::array();
        for (const Vec3f q : cage->mesh.positions)
            points.push_back(row(q));
        for (const mesh::Face &f : cage->mesh.faces)
            faces.push_back(std::vector<std::uint32_t>(f.v.begin(), f.v.begin() + f.size()));
        out.push_back({{"smooth", cage->smooth}, {"mirror", cage->isMirrored}, {"points", points}, {"faces", faces}});
        writeItem(*cage, out.back());
    }
    return out;
}

Status readCages(const json &m, const ReadBlob &, Creature &c, std::vector<std::string> &)
{
    for (const json &j : m.value("cages", json::array())) {
        auto cage = std::make_shared<Cage>();
        readItem(j, *cage);
        cage->smooth = std::clamp(j.at("smooth").get<int>(), 0, 4), cage->isMirrored = j.at("mirror");
        for (const json &q : j.at("points"))
            cage->mesh.positions.push_back(vec(q));
        for (const json &f : j.at("faces")) {
            mesh::Face face;
            if (f.size() < 3 || f.size() > 4)
                return Error{ErrorCode::Damaged, cage->name, "a face of the cage does not hold together"};
            for (std::size_t k = 0; k < f.size(); ++k)
                if ((face.v[k] = f.at(k).get<std::uint32_t>()) >= cage->mesh.positions.size())
                    return Error{ErrorCode::Damaged, cage->name, "a face of the cage does not hold together"};
            cage->mesh.faces.push_back(face);
        }
        c.cages.push_back(std::move(cage));
    }
    return Done{};
}

json writePictures(const Creature &c, const WriteBlob &write)
{
    json out = json::array();
    for (const Reference &r : c.references)
        out.push_back(writeReference(r, write));
    return out;
}

Status readPictures(const json &m, const ReadBlob &read, Creature &c, std::vector<std::string> &damage)
{
    for (const json &r : m.value("references", json::array())) {
        auto reference = readReference(r, read);
        if (reference)
            c.references.push_back(std::move(*reference));
        else
            damage.push_back(fmt::format("picture {} could not be read ({}) and is left out", r.at("name").get<std::string>(),
                                         reference.error().text()));
    }
    return Done{};
}

json writeOwnStamps(const Creature &c, const WriteBlob &write)
{
    return writeStamps(c.stamps, write);
}

Status readOwnStamps(const json &m, const ReadBlob &read, Creature &c, std::vector<std::string> &damage)
{
    readStamps(m, read, c.stamps, damage);
    return Done{};
}

json writeOutgrowths(const Creature &c, const WriteBlob &)
{
    json out = json::array();
    for (const auto &o : c.outgrowths)
        out.push_back(writeOutgrowth(*o));
    return out;
}

/// Made anew, since what was made is a cache. A rule that cannot be followed now (its mask is gone, say) is kept and named; only one
/// that cannot be read is left out.
Status readOutgrowths(const json &m, const ReadBlob &, Creature &c, std::vector<std::string> &damage)
{
    for (const json &j : m.value("outgrowths", json::array())) {
        auto rule = readOutgrowth(j);
        if (!rule) {
            damage.push_back(fmt::format("outgrowth {} could not be read ({}) and is left out", j.value("name", std::string("?")),
                                         rule.error().text()));
            continue;
        }
        c.outgrowths.push_back(std::make_shared<const outgrowth::Outgrowth>(std::move(*rule)));
    }
    for (const bool isBetween : {false, true}) // those that stand between others when these are made
        for (auto &o : c.outgrowths) {
            if (o->between.empty() == isBetween)
                continue;
            Operation quiet;
            if (auto made = regrown(c, *o, quiet))
                o = std::make_shared<const outgrowth::Outgrowth>(std::move(*made));
            else
                damage.push_back(
                    fmt::format("outgrowth {} could not be made ({}); its settings are kept", o->name, made.error().text()));
        }
    return Done{};
}

json writePrint(const Creature &c, const WriteBlob &)
{
    return {{"printer", c.print.printer}, {"height", c.print.heightMm}};
}

Status readPrint(const json &m, const ReadBlob &, Creature &c, std::vector<std::string> &damage)
{
    const json print = m.value("print", json());
    if (!print.is_object())
        return Done{};
    if (print.contains("printer") && print["printer"].is_string())
        c.print.printer = print["printer"].get<std::string>();
    const json height = print.value("height", json(0));
    if (height.is_number() && height.get<double>() >= 0 && height.get<double>() <= 100000)
        c.print.heightMm = height.get<float>();
    else
        damage.push_back("the height of the print was no height; the creature's own is taken");
    return Done{};
}

constexpr std::array kCodecs{
    ItemCodec{"forms", writeForms, readForms},
    ItemCodec{"pieces", writePieces, readPieces},
    ItemCodec{"cages", writeCages, readCages},
    ItemCodec{"outgrowths", writeOutgrowths, readOutgrowths},
    ItemCodec{"stamps", writeOwnStamps, readOwnStamps},
    ItemCodec{"references", writePictures, readPictures},
    ItemCodec{"palette", writeOwnPalette, readOwnPalette},
    ItemCodec{"schemes", writeSchemes, readSchemes},
    ItemCodec{"posing", writePosing, readPosing},
    ItemCodec{"stage", writeStage, readStage},
    ItemCodec{"print", writePrint, readPrint},
};

} // namespace

std::span<const ItemCodec> itemCodecs()
{
    return kCodecs;
}

} // namespace bonemoss::store::detail
