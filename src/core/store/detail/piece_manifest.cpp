#include "store/detail/piece_manifest.h"

#include "base/parallel.h"
#include "store/detail/form_manifest.h"
#include "store/detail/colour_manifest.h"
#include "store/detail/growth_manifest.h"
#include "store/store.h"
#include "growth/growth.h"
#include "skin/attributes.h"
#include "skin/level_values.h"
#include "skin/mix_positions.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <unordered_map>

namespace bonemoss::store::detail {

using nlohmann::json;

namespace {

template <typename Values> std::vector<std::byte> bytesOf(const Values &values)
{
    const auto bytes = std::as_bytes(std::span(values));
    return {bytes.begin(), bytes.end()};
}

/// Names of blocks as a blob of their own: what a step did not touch is one name in the manifest, not thousands.
json writeNames(const std::vector<Hash> &names, const WriteBlob &write)
{
    Hash own{};
    return toHex(write(own, [&] { return bytesOf(names); }));
}

template <typename T> json writeArray(const mesh::BlockArray<T> &array, const WriteBlob &write)
{
    if (array.isBlank())
        return nullptr;
    std::vector<Hash> names(array.blockCount());
    for (std::size_t b = 0; b < names.size(); ++b)
        if (const auto block = array.share(b))
            names[b] = write(block->contentHash, [&] { return bytesOf(block->values); });
    return writeNames(names, write);
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

/// Reads what a piece is made of. What its states share in the file they share again in memory.
class PieceReader
{
public:
    PieceReader(const ReadBlob &read, std::vector<std::string> &damage) : m_read(read), m_damage(damage) {}
    Result<std::shared_ptr<const Piece>> piece(const json &j);

private:
    /// The names of n blocks; all zero where there is nothing.
    Result<std::vector<Hash>> names(const json &list, std::size_t n);
    template <typename T> Result<mesh::BlockArray<T>> array(const json &list, std::size_t size);
    Result<std::shared_ptr<const mesh::Topology>> topology(const json &list, std::size_t vertices);
    /// All but what is shown of it: that has its faces and what is hidden.
    Result<skin::Skin> skin(const json &j, const std::string &name);
    void readLevels(const json &j, Piece &piece);

    template <typename T> using ByName = std::unordered_map<Hash, T, FirstHalf>;
    /// What was met before.
    struct Known {
        std::map<std::size_t, ByName<std::shared_ptr<void>>> blocks;   ///< by size of a value and by content
        ByName<std::shared_ptr<const mesh::Topology>> topologies;      ///< by their blocks' names together
        std::map<json, std::shared_ptr<const growth::Growth>> growths; ///< by how they are written
    };

    const ReadBlob &m_read;
    std::vector<std::string> &m_damage;
    Known m_known;
};

/// Makes the surface of a skin that was read.
void show(skin::Skin &skin)
{
    std::vector<bool> layered(skin.body.blockCount(), false);
    for (const skin::Layer &l : skin.layers)
        skin::note(layered, l);
    std::vector<std::uint32_t> blocks;
    for (std::uint32_t b = 0; b < layered.size(); ++b)
        if (layered[b])
            blocks.push_back(b);
    skin.shown.positions = skin.body;
    skin::mixPositions(skin, blocks);
    mesh::BlockArray<std::uint8_t> hidden = std::move(skin.shown.hidden);
    skin.shown = mesh::makeSurface(std::move(skin.shown.topology), std::move(skin.shown.positions));
    skin.shown.hidden = std::move(hidden);
}

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

/// Whether rows share the key of a kind in files, and so a list.
bool isListed(const skin::AttributeKind &kind)
{
    const auto all = skin::attributeKinds();
    return std::count_if(all.begin(), all.end(), [&](const auto &k) { return k.fileKey == kind.fileKey; }) > 1;
}

/// The first format listed names in the manifest itself.
Result<std::vector<Hash>> PieceReader::names(const json &list, std::size_t n)
{
    const Error damaged{ErrorCode::Damaged, "", "a list of blocks has the wrong length"};
    if (list.is_null())
        return std::vector<Hash>(n);
    std::vector<Hash> names;
    if (list.is_array()) {
        for (const json &name : list)
            names.push_back(name.is_null() ? Hash{} : nameIn(name));
    } else {
        const auto bytes = m_read(nameIn(list));
        if (!bytes)
            return bytes.error();
        names.resize(bytes->size() / sizeof(Hash));
        if (!names.empty())
            std::memcpy(names.data(), bytes->data(), names.size() * sizeof(Hash));
    }
    return names.size() == n ? Result<std::vector<Hash>>(std::move(names)) : damaged;
}

template <typename T> Result<mesh::BlockArray<T>> PieceReader::array(const json &list, std::size_t size)
{
    mesh::BlockArray<T> out(size);
    const auto names = this->names(list, out.blockCount());
    if (!names)
        return names.error();
    struct Wanted {
        Hash name;
        std::size_t count;
        std::shared_ptr<void> *to;
    };
    auto &blocks = m_known.blocks[sizeof(T)];
    std::vector<Wanted> wanted; // what was not met before
    std::vector<std::shared_ptr<void> *> found(names->size(), nullptr);
    for (std::size_t b = 0; b < names->size(); ++b) {
        if ((*names)[b] == Hash{})
            continue;
        const auto [at, isNew] = blocks.try_emplace((*names)[b]);
        found[b] = &at->second;
        if (isNew)
            wanted.push_back({(*names)[b], out.countIn(b), &at->second});
    }
    const Status done = readEach(wanted.size(), [&](std::size_t k) -> Status {
        const auto bytes = m_read(wanted[k].name);
        if (!bytes)
            return bytes.error();
        if (bytes->size() != wanted[k].count * sizeof(T))
            return Error{ErrorCode::Damaged, "", "a block has the wrong size"};
        auto block = std::make_shared<mesh::Block<T>>();
        const T *values = reinterpret_cast<const T *>(bytes->data());
        block->values.assign(values, values + wanted[k].count);
        *wanted[k].to = std::move(block);
        return Done{};
    });
    if (!done) { // what failed shall fail again, not be missing
        std::erase_if(blocks, [](const auto &b) { return !b.second; });
        return done.error();
    }
    for (std::size_t b = 0; b < found.size(); ++b) {
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
    if (list.is_null()) // it tells how many vertices there can be, so it must be there
        return Error{ErrorCode::Damaged, "", "the list of faces is missing"};
    const std::size_t count = mesh::blockCountFor(vertices);
    const auto names = this->names(list, count);
    if (!names)
        return names.error();
    std::shared_ptr<const mesh::Topology> &known = m_known.topologies[hashOf(std::as_bytes(std::span(*names)))];
    if (known && known->vertexCount() == vertices)
        return known;
    std::vector<std::shared_ptr<const mesh::BlockFaces>> blocks(count);
    const Status done = readEach(count, [&](std::size_t b) -> Status {
        const auto bytes = m_read((*names)[b]);
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

/// Attributes by their rows; what an older file does not have is blank. read(value, list, what): an array of values like that.
template <typename Read> void readAttributes(const json &j, skin::Skin &skin, const Read &read)
{
    std::map<std::string_view, std::size_t> place; // in lists
    for (const skin::AttributeKind &kind : skin::attributeKinds()) {
        const std::size_t k = place[kind.fileKey]++;
        const json values = j.value(std::string(kind.fileKey), json());
        const auto take = [&]<typename T>(T none, const std::string &name, const json &list) {
            skin::placeOf(skin, kind, name, none) =
                read(none, list, name.empty() ? std::string(kind.name) : fmt::format("{} {}", kind.name, name));
        };
        const bool isInList = values.is_array() && isListed(kind);
        const json &own = !isInList ? values : k < values.size() ? values[k] : json();
        if (kind.named)
            for (const json &m : values)
                take(std::uint8_t{}, m.at("name"), m.at("values"));
        else if (kind.numbers)
            take(std::uint16_t{}, "", own);
        else
            take(std::uint8_t{}, "", own);
    }
}

Result<skin::Skin> PieceReader::skin(const json &j, const std::string &name)
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
    skin::Skin skin;
    skin.body = std::move(*body);
    // What cannot be read of the rest is left empty, and told.
    const auto readOr = [&]<typename T>(T, const json &list, const std::string &what) {
        auto values = array<T>(list, n);
        if (!values)
            m_damage.push_back(fmt::format("{} of {} could not be read and is empty now", what, name));
        return values ? std::move(*values) : mesh::BlockArray<T>(n);
    };
    for (const json &g : j.value("groups", json::array()))
        skin.groups.push_back({g.at("number").get<std::uint16_t>(), g.at("name")});
    for (const json &l : j.value("colourLayers", json::array()))
        skin.colourLayers.push_back(readColourLayer(l, name, m_damage));
    skin.palette = readPalette(j.value("palette", json::array()));
    readAttributes(j, skin,
                   [&]<typename T>(T value, const json &list, const std::string &what) { return readOr(value, list, what); });
    for (const json &l : j.at("layers")) {
        skin::Layer layer(n);
        layer.id = l.at("id"), layer.name = l.at("name"), layer.strength = l.at("strength"), layer.isOn = l.at("on");
        readRule(l, layer, m_damage);
        if (layer.growth)
            layer.growth = m_known.growths.try_emplace(l.at("growth"), layer.growth).first->second;
        auto offsets = array<Vec3f>(l.at("offsets"), n);
        if (!offsets) {
            m_damage.push_back(fmt::format("layer {} of {} could not be read and is left out", layer.name, name));
            continue;
        }
        layer.offsets = std::move(*offsets);
        if (l.contains("mask"))
            layer.mask = readOr(std::uint8_t{}, l.at("mask"), "the mask of layer " + layer.name);
        skin.layers.push_back(std::move(layer));
    }
    skin.shown.topology = std::move(*faces);
    return skin;
}

/// Levels that cannot be read are left out together: a half of them would not fit.
void PieceReader::readLevels(const json &j, Piece &piece)
{
    std::vector<std::shared_ptr<skin::Skin>> states;
    std::vector<std::string> damage;
    PieceReader quiet(m_read, damage);
    std::swap(quiet.m_known, m_known);
    for (const json &state : j.at("states"))
        if (auto read = quiet.skin(state, piece.name))
            states.push_back(std::make_shared<skin::Skin>(std::move(*read)));
        else
            damage.push_back(read.error().text());
    if (!damage.empty() || states.size() != j.at("states").size()) {
        m_damage.push_back(fmt::format("the other levels of {} could not be read and are left out", piece.name));
        return;
    }
    std::vector<std::array<std::shared_ptr<skin::Skin>, 2>> links;
    for (const json &link : j.at("links"))
        links.push_back({states.at(link.at(0).get<std::size_t>()), states.at(link.at(1).get<std::size_t>())});
    const std::size_t level = std::min(j.at("level").get<std::size_t>(), links.size());
    const auto fits = [](const skin::Skin &a, const skin::Skin &b) { return a.body.size() == b.body.size(); };
    for (std::size_t k = 0; k < links.size(); ++k)
        if ((k == level && !fits(*links[k][0], piece.skin)) || (k + 1 == level && !fits(*links[k][1], piece.skin))
            || (k > 0 && !fits(*links[k][0], *links[k - 1][1]))) {
            m_damage.push_back(fmt::format("the levels of {} do not fit each other and are left out", piece.name));
            return;
        }
    for (std::size_t k = 0; k < links.size(); ++k)
        if (skin::Skin &other = *links[k][k < level ? 0 : 1]; !skin::hasSurface(other))
            show(other);
    for (const auto &[coarse, fine] : links)
        piece.skin.links.push_back({coarse, fine});
    piece.skin.level = level;
}

Result<std::shared_ptr<const Piece>> PieceReader::piece(const json &j)
{
    auto piece = std::make_shared<Piece>();
    readItem(j, *piece);
    piece->liveSpacing = j.value("live", 0.0f);
    if (const json inside = j.value("inside", json()); inside.is_object()) {
        piece->inside.depth = std::clamp(inside.value("depth", 0.0f), 0.0f, 1000.0f);
        piece->inside.tint = min(max(vec(inside.at("tint")), Vec3f{0.01f, 0.01f, 0.01f}), Vec3f{1, 1, 1});
    }
    if (j.contains("symmetry"))
        piece->symmetry = readSymmetry(j.at("symmetry"));
    if (j.contains("guides"))
        piece->guides = readGuides(j.at("guides"));
    auto read = skin(j, piece->name);
    if (!read)
        return read.error();
    piece->skin = std::move(*read);
    show(piece->skin);
    if (j.contains("levels"))
        readLevels(j.at("levels"), *piece);
    return std::shared_ptr<const Piece>(piece);
}

json writeSkin(const skin::Skin &skin, const WriteBlob &write)
{
    std::vector<Hash> faces(skin.shown.topology->blockCount());
    json layers = json::array(), groups = json::array();
    for (std::size_t b = 0; b < faces.size(); ++b) {
        const auto block = skin.shown.topology->shareBlock(b);
        faces[b] = write(block->contentHash, [&] { return bytesOfFaces(*block); });
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
    for (const auto &g : skin.groups)
        groups.push_back({{"number", g.number}, {"name", g.name}});
    json colours = json::array();
    for (const auto &l : skin.colourLayers)
        colours.push_back(writeColourLayer(l));
    json out = {{"vertices", skin.body.size()}, {"faces", writeNames(faces, write)},  {"body", writeArray(skin.body, write)},
                {"groups", std::move(groups)},  {"colourLayers", std::move(colours)}, {"layers", std::move(layers)}};
    if (!skin.palette.empty())
        out["palette"] = writePalette(skin.palette);
    for (const skin::AttributeKind &kind : skin::attributeKinds())
        if (kind.named || isListed(kind))
            out[std::string(kind.fileKey)] = json::array();
    skin::eachAttribute(skin, [&](const skin::AttributeKind &kind, const std::string &name, const auto &values) {
        json &at = out[std::string(kind.fileKey)];
        if (kind.named)
            at.push_back({{"name", name}, {"values", writeArray(values, write)}});
        else if (isListed(kind))
            at.push_back(writeArray(values, write));
        else
            at = writeArray(values, write);
    });
    for (const skin::AttributeKind &kind : skin::attributeKinds()) // a list of nothing is written as none
        if (json &at = out[std::string(kind.fileKey)];
            std::all_of(at.begin(), at.end(), [](const json &v) { return v.is_null(); }))
            at = at.is_array() ? json::array() : at;
    return out;
}

/// Each state once, and the links by number.
json writeLevels(const skin::Skin &skin, const WriteBlob &write)
{
    std::vector<const skin::Skin *> states;
    json written = json::array(), links = json::array();
    const auto numberOf = [&](const skin::Skin *state) {
        const auto it = std::find(states.begin(), states.end(), state);
        if (it != states.end())
            return std::size_t(it - states.begin());
        states.push_back(state);
        written.push_back(writeSkin(*state, write));
        return states.size() - 1;
    };
    for (const skin::LevelLink &link : skin.links) {
        const std::size_t coarse = numberOf(link.coarse.get()), fine = numberOf(link.fine.get());
        links.push_back({coarse, fine});
    }
    return {{"level", skin.level}, {"states", std::move(written)}, {"links", std::move(links)}};
}

} // namespace

json writePiece(const Piece &p, const WriteBlob &write)
{
    json piece = writeSkin(p.skin, write);
    writeItem(p, piece);
    piece.update({{"live", p.liveSpacing}, {"symmetry", writeSymmetry(p.symmetry)}});
    if (p.inside != Scattering())
        piece["inside"] = {{"depth", p.inside.depth}, {"tint", row(p.inside.tint)}};
    if (!p.guides.empty())
        piece["guides"] = writeGuides(p.guides);
    if (!p.skin.links.empty())
        piece["levels"] = writeLevels(p.skin, write);
    return piece;
}

Result<std::shared_ptr<const Piece>> readPiece(const json &j, const ReadBlob &read, std::vector<std::string> &damage)
{
    return PieceReader(read, damage).piece(j);
}

} // namespace bonemoss::store::detail
