#include "creature/detail/manifest.h"

#include "creature/detail/form_manifest.h"
#include "creature/detail/growth_manifest.h"
#include "creature/detail/piece_manifest.h"
#include "creature/finite.h"

#include <algorithm>
#include <charconv>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#define XXH_INLINE_ALL
#include <xxhash.h>

namespace bonemoss::creature::detail_store {

using nlohmann::json;

namespace {

constexpr std::size_t kPictureChunk = 4u << 20; // below the largest block a store takes

json writeReference(const Reference &r, const WriteBlob &write)
{
    const PictureFile &file = *r.file;
    json chunks = json::array();
    file.contentHashes.resize((file.bytes.size() + kPictureChunk - 1) / kPictureChunk);
    for (std::size_t i = 0; i < file.contentHashes.size(); ++i)
        chunks.push_back(toHex(write(file.contentHashes[i], [&] {
            const auto from = file.bytes.begin() + std::ptrdiff_t(i * kPictureChunk);
            return std::vector<std::byte>(from,
                                          from + std::ptrdiff_t(std::min(kPictureChunk, file.bytes.size() - i * kPictureChunk)));
        })));
    const auto mark = [](const std::optional<PicturePoint> &p) { return p ? json{p->u, p->v} : json(nullptr); };
    return {{"id", r.id},
            {"name", r.name},
            {"view", r.view},
            {"file", chunks},
            {"width", file.width},
            {"height", file.height},
            {"across", r.across},
            {"up", r.up},
            {"heightMm", r.heightMm},
            {"turn", r.turn},
            {"opacity", r.opacity},
            {"over", r.isOver},
            {"locked", r.isLocked},
            {"hidden", r.isHidden},
            {"crown", mark(r.crown)},
            {"ground", mark(r.ground)}};
}

Result<Reference> readReference(const json &j, const ReadBlob &read)
{
    Reference r;
    auto file = std::make_shared<PictureFile>();
    for (const json &chunk : j.at("file")) {
        const auto bytes = read(nameIn(chunk));
        if (!bytes)
            return bytes.error();
        file->bytes.insert(file->bytes.end(), bytes->begin(), bytes->end());
    }
    file->width = std::max(1, j.at("width").get<int>()), file->height = std::max(1, j.at("height").get<int>());
    r.file = std::move(file);
    r.id = j.at("id"), r.name = j.at("name"), r.view = j.at("view");
    r.across = j.at("across"), r.up = j.at("up"), r.heightMm = j.at("heightMm"), r.turn = j.at("turn");
    r.opacity = j.at("opacity"), r.isOver = j.at("over"), r.isLocked = j.at("locked"), r.isHidden = j.at("hidden");
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

} // namespace

std::string toHex(Hash h)
{
    std::string out(32, '0');
    for (std::size_t k = 0; k < 32; ++k)
        out[k] = "0123456789abcdef"[h[k / 16] >> (60 - 4 * (k % 16)) & 15];
    return out;
}

std::optional<Hash> fromHex(std::string_view hex)
{
    Hash h{};
    if (hex.size() != 32)
        return {};
    for (std::size_t k = 0; k < 2; ++k) {
        const char *begin = hex.data() + 16 * k, *end = begin + 16;
        if (std::from_chars(begin, end, h[k], 16).ptr != end)
            return {};
    }
    return h;
}

Hash nameIn(const json &text)
{
    return fromHex(text.get_ref<const std::string &>()).value_or(Hash{});
}

Hash hashOf(std::span<const std::byte> bytes)
{
    const XXH128_hash_t h = XXH3_128bits(bytes.data(), bytes.size());
    return {h.high64, h.low64};
}

json toManifest(const Creature &c, const WriteBlob &write)
{
    json forms = json::array(), pieces = json::array();
    for (const auto &f : c.armature.forms)
        forms.push_back(writeForm(f));
    for (const auto &p : c.pieces)
        pieces.push_back(writePiece(*p, write));
    json targets = json::array();
    for (const auto &t : c.armature.targets)
        targets.push_back({{"form", t.form}, {"ratio", t.ratio}, {"tolerance", t.tolerance}});
    json cages = json::array();
    for (const auto &cage : c.cages) {
        json points = json::array(), faces = json::array();
        for (const Vec3f q : cage->mesh.positions)
            points.push_back(row(q));
        for (const mesh::Face &f : cage->mesh.faces)
            faces.push_back(std::vector<std::uint32_t>(f.v.begin(), f.v.begin() + f.size()));
        cages.push_back({{"id", cage->id},
                         {"name", cage->name},
                         {"smooth", cage->smooth},
                         {"mirror", cage->isMirrored},
                         {"hidden", cage->isHidden},
                         {"locked", cage->isLocked},
                         {"points", points},
                         {"faces", faces}});
    }
    json references = json::array();
    for (const Reference &r : c.references)
        references.push_back(writeReference(r, write));
    return {{"heightMm", c.heightMm},
            {"nextId", c.nextId},
            {"forms", std::move(forms)},
            {"pieces", std::move(pieces)},
            {"targets", std::move(targets)},
            {"unitForm", c.armature.unitForm},
            {"references", std::move(references)},
            {"cages", std::move(cages)},
            {"stamps", writeStamps(c.stamps, write)}};
}

Result<Creature> fromManifest(const json &m, const ReadBlob &read, std::vector<std::string> &damage)
{
    try { // wrong kinds and missing members come as exceptions from the JSON library; none leaves here
        Creature c;
        c.heightMm = m.at("heightMm"), c.nextId = m.at("nextId");
        c.armature.unitForm = m.value("unitForm", 0u);
        if (m.contains("targets"))
            for (const json &t : m.at("targets"))
                c.armature.targets.push_back({t.at("form"), t.at("ratio"), t.at("tolerance")});
        for (const json &f : m.at("forms"))
            readFormOr(f, !m.at("pieces").empty(), c.armature, damage);
        for (const json &p : m.at("pieces")) {
            auto piece = readPiece(p, read, damage);
            if (piece)
                c.pieces.push_back(std::move(*piece));
            else
                damage.push_back(fmt::format("piece {} could not be read ({}) and is left out", p.at("name").get<std::string>(),
                                             piece.error().text()));
        }
        for (const json &j : m.value("cages", json::array())) {
            auto cage = std::make_shared<Cage>();
            cage->id = j.at("id"), cage->name = j.at("name"), cage->smooth = std::clamp(j.at("smooth").get<int>(), 0, 4);
            cage->isMirrored = j.at("mirror"), cage->isHidden = j.at("hidden"), cage->isLocked = j.at("locked");
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
        readStamps(m, read, c.stamps, damage);
        for (const json &r : m.value("references", json::array())) {
            auto reference = readReference(r, read);
            if (reference)
                c.references.push_back(std::move(*reference));
            else
                damage.push_back(fmt::format("picture {} could not be read ({}) and is left out", r.at("name").get<std::string>(),
                                             reference.error().text()));
        }
        return c;
    } catch (const std::exception &e) {
        return Error{ErrorCode::Damaged, "state", e.what()};
    }
}

} // namespace bonemoss::creature::detail_store
