#pragma once

#include "command/command.h"

#include <QtGlobal>
#include <nlohmann/json.hpp>

namespace bonemoss::test {

inline std::vector<std::string> notes; // of the last command

inline Result<document::Creature> run(const document::Creature &c, const nlohmann::json &command)
{
    command::CommandContext context;
    auto next = command::apply(c, command, context);
    notes.clear();
    for (const Note &n : context.notes)
        notes.push_back(command::told(n));
    return next;
}

/// The same of a command that has to work: the test ends where it does not.
inline document::Creature need(const document::Creature &c, const nlohmann::json &command)
{
    auto next = run(c, command);
    if (!next)
        qFatal("%s: %s", command.dump().c_str(), next.error().text().c_str());
    return *next;
}
inline const skin::Skin &skinOf(const document::Creature &c, std::size_t piece = 0)
{
    return c.pieces[piece]->skin;
}

inline bool isSaid(const char *words)
{
    return std::any_of(notes.begin(), notes.end(), [&](const std::string &n) { return n.find(words) != std::string::npos; });
}

/// Pieces from meshes, named a, b, c; each with a layer called "relief" that lifts it by 0.2 mm along x.
inline document::Creature withPieces(std::initializer_list<mesh::PolyMesh> meshes)
{
    document::Creature c;
    char name = 'a';
    for (const mesh::PolyMesh &m : meshes) {
        auto piece = std::make_shared<document::Piece>();
        piece->id = c.nextId++;
        piece->name = std::string(1, name++);
        piece->skin = skin::makeSkin(m, false);
        skin::Layer l(piece->skin.body.size());
        l.id = c.nextId++, l.name = "relief", l.strength = 0.5f;
        l.offsets = mesh::BlockArray<Vec3f>(std::vector<Vec3f>(piece->skin.body.size(), {0.2f, 0, 0}));
        piece->skin.layers.push_back(l);
        std::vector<std::uint32_t> all(piece->skin.body.blockCount());
        for (std::uint32_t b = 0; b < all.size(); ++b)
            all[b] = b;
        skin::mixBlocks(piece->skin, all);
        c.pieces.push_back(std::move(piece));
    }
    return c;
}

/// The first piece masked where the rule says.
template <typename Rule> document::Creature masked(document::Creature c, const Rule &rule)
{
    auto piece = std::make_shared<document::Piece>(*c.pieces.front());
    for (std::size_t b = 0; b < piece->skin.mask.blockCount(); ++b) {
        std::uint8_t *m = piece->skin.mask.edit(b);
        for (std::size_t i = 0; i < piece->skin.mask.countIn(b); ++i)
            m[i] = rule(piece->skin.shown.positions.data(b)[i]) ? 255 : 0;
    }
    c.put(piece);
    return c;
}

} // namespace bonemoss::test
