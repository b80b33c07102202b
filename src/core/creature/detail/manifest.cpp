#include "creature/detail/manifest.h"

#include "base/parallel.h"
#include "creature/detail/form_manifest.h"
#include "creature/detail/growth_manifest.h"
#include "detail/mix_positions.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <optional>
#include <unordered_map>
#define XXH_INLINE_ALL
#include <xxhash.h>

namespace bonemoss::creature::detail_store {

using nlohmann::json;

namespace {

template <typename T> std::vector<std::byte> bytesOf(const std::vector<T> &values)
{
    std::vector<std::byte> out(values.size() * sizeof(T));
    if (!out.empty())
        std::memcpy(out.data(), values.data(), out.size());
    return out;
}

template <typename T> json writeArray(const mesh::BlockArray<T> &array, const WriteBlob &write)
{
    json list = json::array();
    for (std::size_t b = 0; b < array.blockCount(); ++b) {
        const auto block = array.share(b);
        if (!block)
            list.push_back(nullptr);
        else
            list.push_back(write(block->contentHash, [&] { return bytesOf(block->values); }));
    }
    return list;
}

std::vector<std::byte> bytesOfFaces(const mesh::BlockFaces &f)
{
    const std::uint32_t head[4] = {f.own, f.drawnFaces, std::uint32_t(f.faces.size()), std::uint32_t(f.borrowed.size())};
    std::vector<std::byte> out(sizeof head);
    std::memcpy(out.data(), head, sizeof head);
    for (const auto &part : {bytesOf(f.faces), bytesOf(f.borrowed)})
        out.insert(out.end(), part.begin(), part.end());
    return out;
}

json writeSymmetry(const sculpt::Symmetry &s)
{
    return {{"plane", s.hasPlane}, {"point", row(s.point)},         {"normal", row(s.normal)},
            {"around", s.around},  {"axisPoint", row(s.axisPoint)}, {"axis", row(s.axis)}};
}

sculpt::Symmetry readSymmetry(const json &j)
{
    const auto unit = [](Vec3f v) { return std::abs(squaredLength(v) - 1) < 1e-5f ? v : normalized(v); }; // bit for bit
    sculpt::Symmetry s;
    s.hasPlane = j.at("plane"), s.point = vec(j.at("point")), s.normal = unit(vec(j.at("normal")));
    s.around = std::clamp(j.at("around").get<int>(), 1, sculpt::Symmetry::kMostAround);
    s.axisPoint = vec(j.at("axisPoint")), s.axis = unit(vec(j.at("axis")));
    return s;
}

} // namespace

namespace {

/// Reads what a piece is made of. What its states share in the file they share again in memory.
class PieceReader
{
public:
    PieceReader(const ReadBlob &read, std::vector<std::string> &damage) : m_read(read), m_damage(damage) {}
    Result<std::shared_ptr<const Piece>> piece(const json &j);

private:
    template <typename T> Result<mesh::BlockArray<T>> array(const json &list, std::size_t size);
    Result<std::shared_ptr<const mesh::Topology>> topology(const json &list, std::size_t vertices);
    Result<detail::Skin> skin(const json &j, const std::string &name);
    void readLevels(const json &j, Piece &piece);

    const ReadBlob &m_read;
    std::vector<std::string> &m_damage;
    std::unordered_map<std::string, std::shared_ptr<void>> m_blocks; ///< by kind and content
    std::unordered_map<std::string, std::shared_ptr<const mesh::Topology>> m_topologies;
};

/// read(k) for each of n blocks, side by side; the error of the first that has one.
template <typename Read> Status readEach(std::size_t n, const Read &read)
{
    std::vector<std::optional<Error>> errors(n);
    forEachBlock(n, 1, [&](BlockRange r) {
        if (const Status done = read(r.begin); !done)
            errors[r.begin] = done.error();
    });
    for (const auto &e : errors)
        if (e)
            return *e;
    return Done{};
}

template <typename T> Result<mesh::BlockArray<T>> PieceReader::array(const json &list, std::size_t size)
{
    mesh::BlockArray<T> out(size);
    if (list.size() != out.blockCount())
        return Error{ErrorCode::Damaged, "", "a list of blocks has the wrong length"};
    struct Wanted {
        std::string hash;
        std::size_t count;
        std::shared_ptr<void> *to;
    };
    std::vector<Wanted> wanted; // what was not met before
    std::vector<std::shared_ptr<void> *> found(list.size(), nullptr);
    for (std::size_t b = 0; b < list.size(); ++b) {
        if (list[b].is_null())
            continue;
        std::string hash = list[b].get<std::string>();
        const auto [at, isNew] = m_blocks.try_emplace(fmt::format("{}:{}", sizeof(T), hash));
        found[b] = &at->second;
        if (isNew)
            wanted.push_back({std::move(hash), out.countIn(b), &at->second});
    }
    const Status done = readEach(wanted.size(), [&](std::size_t k) -> Status {
        const auto bytes = m_read(wanted[k].hash);
        if (!bytes)
            return bytes.error();
        if (bytes->size() != wanted[k].count * sizeof(T))
            return Error{ErrorCode::Damaged, "", "a block has the wrong size"};
        auto block = std::make_shared<mesh::Block<T>>();
        block->values.resize(wanted[k].count);
        std::memcpy(block->values.data(), bytes->data(), bytes->size());
        *wanted[k].to = std::move(block);
        return Done{};
    });
    if (!done) { // what failed shall fail again, not be missing
        std::erase_if(m_blocks, [](const auto &b) { return !b.second; });
        return done.error();
    }
    for (std::size_t b = 0; b < list.size(); ++b) {
        if (!found[b])
            continue;
        auto block = std::static_pointer_cast<mesh::Block<T>>(*found[b]);
        if (block->values.size() != out.countIn(b))
            return Error{ErrorCode::Damaged, "", "a block has the wrong size"};
        out.put(b, std::move(block));
    }
    return out;
}

Result<std::shared_ptr<const mesh::BlockFaces>> readFaces(const std::vector<std::byte> &bytes, std::size_t own,
                                                          std::size_t vertices)
{
    const Error damaged{ErrorCode::Damaged, "", "a block of faces does not hold together"};
    std::uint32_t head[4];
    if (bytes.size() < sizeof head)
        return damaged;
    std::memcpy(head, bytes.data(), sizeof head);
    auto f = std::make_shared<mesh::BlockFaces>();
    f->own = head[0], f->drawnFaces = head[1];
    const std::size_t local = std::size_t(head[0]) + head[3];
    if (head[0] != own || head[1] > head[2] || local > 0xffff
        || bytes.size() != sizeof head + std::size_t(head[2]) * sizeof(mesh::LocalFace) + std::size_t(head[3]) * 4)
        return damaged;
    f->faces.resize(head[2]);
    f->borrowed.resize(head[3]);
    const std::byte *at = bytes.data() + sizeof head;
    if (!f->faces.empty())
        std::memcpy(f->faces.data(), at, f->faces.size() * sizeof(mesh::LocalFace));
    if (!f->borrowed.empty())
        std::memcpy(f->borrowed.data(), at + f->faces.size() * sizeof(mesh::LocalFace), f->borrowed.size() * 4);
    for (const mesh::LocalFace &face : f->faces)
        for (std::size_t c = 0; c < 4; ++c)
            if (face.v[c] >= local && !(c == 3 && face.v[c] == mesh::kLocalNone))
                return damaged;
    for (const std::uint32_t v : f->borrowed)
        if (v >= vertices)
            return damaged;
    return std::shared_ptr<const mesh::BlockFaces>(f);
}

Result<std::shared_ptr<const mesh::Topology>> PieceReader::topology(const json &list, std::size_t vertices)
{
    const std::size_t count = mesh::blockCountFor(vertices);
    if (list.size() != count)
        return Error{ErrorCode::Damaged, "", "a list of faces has the wrong length"};
    std::shared_ptr<const mesh::Topology> &known = m_topologies[list.dump()];
    if (known && known->vertexCount() == vertices)
        return known;
    std::vector<std::string> names;
    for (std::size_t b = 0; b < count; ++b)
        names.push_back(list[b].get<std::string>());
    std::vector<std::shared_ptr<const mesh::BlockFaces>> blocks(count);
    const Status done = readEach(count, [&](std::size_t b) -> Status {
        const auto bytes = m_read(names[b]);
        if (!bytes)
            return bytes.error();
        auto faces = readFaces(*bytes, std::min(mesh::kBlockSize, vertices - b * mesh::kBlockSize), vertices);
        if (!faces)
            return faces.error();
        blocks[b] = std::move(*faces);
        return Done{};
    });
    if (!done)
        return done.error();
    return known = mesh::Topology::fromBlocks(vertices, std::move(blocks));
}

Result<detail::Skin> PieceReader::skin(const json &j, const std::string &name)
{
    const std::size_t n = j.at("vertices").get<std::size_t>();
    auto faces = topology(j.at("faces"), n);
    if (!faces)
        return faces.error();
    auto body = array<Vec3f>(j.at("body"), n);
    if (!body)
        return body.error();
    for (std::size_t b = 0; b < body->blockCount(); ++b)
        if (!body->has(b))
            return Error{ErrorCode::Damaged, "", "a block of the body is missing"};
    detail::Skin skin;
    skin.body = std::move(*body);
    // What cannot be read of the rest is left empty, and told.
    const auto readOr = [&]<typename T>(T, const json &list, const std::string &what) {
        auto values = array<T>(list, n);
        if (!values)
            m_damage.push_back(fmt::format("{} of {} could not be read and is empty now", what, name));
        return values ? std::move(*values) : mesh::BlockArray<T>(n);
    };
    skin.mask = readOr(std::uint8_t{}, j.at("mask"), "the mask");
    for (const json &m : j.value("masks", json::array())) {
        const std::string mask = m.at("name");
        skin.masks.push_back({mask, readOr(std::uint8_t{}, m.at("values"), "mask " + mask)});
    }
    for (const json &g : j.value("groups", json::array()))
        skin.groups.push_back({g.at("number").get<std::uint16_t>(), g.at("name")});
    skin.paint = detail::Paint(n);
    if (const json paint = j.value("paint", json::array()); paint.size() >= detail::kSeenChannels) // older files have no Work
        for (std::size_t c = 0; c < std::min(paint.size(), detail::kChannels); ++c)
            skin.paint.channels[c] = readOr(std::uint8_t{}, paint[c], "a channel of the paint");
    skin.groupOf = mesh::BlockArray<std::uint16_t>(n);
    if (j.contains("groupOf"))
        skin.groupOf = readOr(std::uint16_t{}, j.at("groupOf"), "the groups");
    std::vector<bool> layered(skin.body.blockCount(), false);
    for (const json &l : j.at("layers")) {
        detail::Layer layer(n);
        layer.id = l.at("id"), layer.name = l.at("name"), layer.strength = l.at("strength"), layer.isOn = l.at("on");
        readRule(l, layer, m_damage);
        auto offsets = array<Vec3f>(l.at("offsets"), n);
        if (!offsets) {
            m_damage.push_back(fmt::format("layer {} of {} could not be read and is left out", layer.name, name));
            continue;
        }
        layer.offsets = std::move(*offsets);
        if (l.contains("mask"))
            layer.mask = readOr(std::uint8_t{}, l.at("mask"), "the mask of layer " + layer.name);
        for (const std::uint32_t b : detail::blocksWith(layer))
            layered[b] = true;
        skin.layers.push_back(std::move(layer));
    }
    std::vector<std::uint32_t> blocks;
    for (std::uint32_t b = 0; b < layered.size(); ++b)
        if (layered[b])
            blocks.push_back(b);
    skin.shown.positions = skin.body;
    detail::mixPositions(skin, blocks);
    skin.shown = mesh::makeSurface(std::move(*faces), std::move(skin.shown.positions));
    if (j.contains("hiddenSkin"))
        skin.shown.hidden = readOr(std::uint8_t{}, j.at("hiddenSkin"), "what is hidden");
    return skin;
}

/// Levels that cannot be read are left out together: a half of them would not fit.
void PieceReader::readLevels(const json &j, Piece &piece)
{
    std::vector<std::shared_ptr<const detail::Skin>> states;
    std::vector<std::string> damage;
    PieceReader quiet(m_read, damage);
    std::swap(quiet.m_blocks, m_blocks);
    for (const json &state : j.at("states"))
        if (auto read = quiet.skin(state, piece.name))
            states.push_back(std::make_shared<const detail::Skin>(std::move(*read)));
        else
            damage.push_back(read.error().text());
    if (!damage.empty() || states.size() != j.at("states").size()) {
        m_damage.push_back(fmt::format("the other levels of {} could not be read and are left out", piece.name));
        return;
    }
    detail::Skin &skin = piece.skin;
    for (const json &link : j.at("links"))
        skin.links.push_back({states.at(link.at(0).get<std::size_t>()), states.at(link.at(1).get<std::size_t>())});
    skin.level = std::min(j.at("level").get<std::size_t>(), skin.links.size());
    const auto fits = [](const detail::Skin &a, const detail::Skin &b) { return a.body.size() == b.body.size(); };
    for (std::size_t k = 0; k < skin.links.size(); ++k)
        if ((k == skin.level && !fits(*skin.links[k].coarse, skin)) || (k + 1 == skin.level && !fits(*skin.links[k].fine, skin))
            || (k > 0 && !fits(*skin.links[k].coarse, *skin.links[k - 1].fine))) {
            m_damage.push_back(fmt::format("the levels of {} do not fit each other and are left out", piece.name));
            skin.links.clear();
            skin.level = 0;
            return;
        }
}

Result<std::shared_ptr<const Piece>> PieceReader::piece(const json &j)
{
    auto piece = std::make_shared<Piece>();
    piece->id = j.at("id"), piece->name = j.at("name"), piece->isHidden = j.at("hidden"), piece->isLocked = j.at("locked");
    piece->liveSpacing = j.value("live", 0.0f);
    if (j.contains("symmetry"))
        piece->symmetry = readSymmetry(j.at("symmetry"));
    if (j.contains("guides"))
        piece->guides = readGuides(j.at("guides"));
    auto read = skin(j, piece->name);
    if (!read)
        return read.error();
    piece->skin = std::move(*read);
    if (j.contains("levels"))
        readLevels(j.at("levels"), *piece);
    return std::shared_ptr<const Piece>(piece);
}

constexpr std::size_t kPictureChunk = 4u << 20; // below the largest block a store takes

json writeSkin(const detail::Skin &skin, const WriteBlob &write)
{
    json faces = json::array(), layers = json::array(), masks = json::array(), groups = json::array(), paint = json::array();
    if (!skin.paint.isBlank())
        for (const auto &c : skin.paint.channels)
            paint.push_back(writeArray(c, write));
    for (std::size_t b = 0; b < skin.shown.topology->blockCount(); ++b) {
        const auto block = skin.shown.topology->shareBlock(b);
        faces.push_back(write(block->contentHash, [&] { return bytesOfFaces(*block); }));
    }
    for (const auto &l : skin.layers) {
        layers.push_back({{"id", l.id},
                          {"name", l.name},
                          {"strength", l.strength},
                          {"on", l.isOn},
                          {"offsets", writeArray(l.offsets, write)}});
        if (!l.mask.isBlank())
            layers.back()["mask"] = writeArray(l.mask, write);
        writeRule(l, layers.back());
    }
    for (const auto &m : skin.masks)
        masks.push_back({{"name", m.name}, {"values", writeArray(m.values, write)}});
    for (const auto &g : skin.groups)
        groups.push_back({{"number", g.number}, {"name", g.name}});
    return {{"vertices", skin.body.size()},
            {"faces", std::move(faces)},
            {"body", writeArray(skin.body, write)},
            {"mask", writeArray(skin.mask, write)},
            {"masks", std::move(masks)},
            {"groups", std::move(groups)},
            {"groupOf", writeArray(skin.groupOf, write)},
            {"hiddenSkin", writeArray(skin.shown.hidden, write)},
            {"paint", std::move(paint)},
            {"layers", std::move(layers)}};
}

/// Each state once, and the links by number.
json writeLevels(const detail::Skin &skin, const WriteBlob &write)
{
    std::vector<const detail::Skin *> states;
    json written = json::array(), links = json::array();
    const auto numberOf = [&](const detail::Skin *state) {
        const auto it = std::find(states.begin(), states.end(), state);
        if (it != states.end())
            return std::size_t(it - states.begin());
        states.push_back(state);
        written.push_back(writeSkin(*state, write));
        return states.size() - 1;
    };
    for (const detail::LevelLink &link : skin.links) {
        const std::size_t coarse = numberOf(link.coarse.get()), fine = numberOf(link.fine.get());
        links.push_back({coarse, fine});
    }
    return {{"level", skin.level}, {"states", std::move(written)}, {"links", std::move(links)}};
}

json writeReference(const Reference &r, const WriteBlob &write)
{
    const PictureFile &file = *r.file;
    json chunks = json::array();
    file.contentHashes.resize((file.bytes.size() + kPictureChunk - 1) / kPictureChunk);
    for (std::size_t i = 0; i < file.contentHashes.size(); ++i)
        chunks.push_back(write(file.contentHashes[i], [&] {
            const auto from = file.bytes.begin() + std::ptrdiff_t(i * kPictureChunk);
            return std::vector<std::byte>(from,
                                          from + std::ptrdiff_t(std::min(kPictureChunk, file.bytes.size() - i * kPictureChunk)));
        }));
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
        const auto bytes = read(chunk.get<std::string>());
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

} // namespace

std::string toHex(Hash h)
{
    std::string out(32, '0');
    for (std::size_t k = 0; k < 32; ++k)
        out[k] = "0123456789abcdef"[h[k / 16] >> (60 - 4 * (k % 16)) & 15];
    return out;
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
    for (const auto &p : c.pieces) {
        json piece = writeSkin(p->skin, write);
        piece.update({{"id", p->id},
                      {"name", p->name},
                      {"hidden", p->isHidden},
                      {"locked", p->isLocked},
                      {"live", p->liveSpacing},
                      {"symmetry", writeSymmetry(p->symmetry)}});
        if (!p->guides.empty())
            piece["guides"] = writeGuides(p->guides);
        if (!p->skin.links.empty())
            piece["levels"] = writeLevels(p->skin, write);
        pieces.push_back(std::move(piece));
    }
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
            c.armature.forms.push_back(readForm(f));
        for (const json &p : m.at("pieces")) {
            auto piece = PieceReader(read, damage).piece(p);
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
