// Commands about the natural-history plate: what it says, and what it points at.
#include "command/fields.h"
#include "command/portrait/plate_fields.h"
#include "document/items.h"
#include "document/ops/standing.h"
#include "portrait/plate.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

namespace {

using portrait::PlateMark;
constexpr std::size_t kMostMarks = 60, kLongest = 400; ///< words on a page, characters of a text

void checkText(const std::string &text, const char *what)
{
    if (text.size() > kLongest)
        throw Failure(Error{ErrorCode::TooLarge, what, fmt::format("must be at most {} characters", kLongest)});
}

Result<Creature> setPlate(const Creature &before, const SetPlate &p, CommandContext &)
{
    Creature after = before;
    portrait::Plate &plate = after.stage.plate;
    for (const auto &[text, what] : {std::pair{&p.name, "name"}, {&p.latin, "latin"}, {&p.caption, "caption"}})
        if (*text)
            checkText(**text, what);
    setIfGiven(plate.name, p.name), setIfGiven(plate.latin, p.latin), setIfGiven(plate.caption, p.caption);
    setIfGiven(plate.paper, p.paper), setIfGiven(plate.beside, p.beside), setIfGiven(plate.lifeHeight, p.lifeHeight);
    return after;
}

/// A place on the creature as it stands, at rest.
Vec3f atRest(const Creature &creature, Vec3f at)
{
    if (creature.posing.now.isRest())
        return at;
    const document::Standing standing(std::make_shared<const Creature>(creature), creature.posing.now);
    float nearest = 1e30f;
    Vec3f out = at;
    for (const auto &piece : creature.pieces) {
        const pose::PosedSkin *skin = standing.skin(piece->id);
        const document::Piece *stands = standing.creature()->piece(piece->id);
        if (!skin || !stands || !isVisible(*piece) || stands->skin.shown.isEmpty())
            continue;
        const auto hit = mesh::nearestPoint(stands->skin.shown, at);
        if (hit && length(hit->point - at) < nearest)
            nearest = length(hit->point - at), out = restPlace(*skin, hit->point);
    }
    return out;
}

void change(const Creature &creature, PlateMark &m, const MarkChanges &p)
{
    if (p.text)
        checkText(*p.text, "text");
    setIfGiven(m.text, p.text), setIfGiven(m.radius, p.radius);
    if (p.at)
        m.at = p.isPosed ? atRest(creature, *p.at) : *p.at;
    if (m.text.empty() && m.radius <= 0)
        throw Failure(Error{ErrorCode::BadValue, "text", "a label needs words, or a radius to be enlarged"});
}

PlateMark &markOf(Creature &c, std::uint32_t id)
{
    for (PlateMark &m : c.stage.plate.marks)
        if (m.id == id)
            return m;
    throw Failure(Error{ErrorCode::Unknown, "mark", fmt::format("there is no label {} on the plate", id)});
}

Result<Creature> addMark(const Creature &before, const AddMark &p, CommandContext &)
{
    Creature after = before;
    if (!p.changes.at)
        return Error{ErrorCode::BadValue, "at", "must be a place on the creature"};
    if (after.stage.plate.marks.size() >= kMostMarks)
        return Error{ErrorCode::TooLarge, "plate", fmt::format("has {} labels already; delete some", kMostMarks)};
    PlateMark mark{.id = after.nextId++};
    change(before, mark, p.changes);
    after.stage.plate.marks.push_back(std::move(mark));
    return after;
}

Result<Creature> setMark(const Creature &before, const SetMark &p, CommandContext &)
{
    Creature after = before;
    change(before, markOf(after, p.mark), p.changes);
    return after;
}

Result<Creature> removeMark(const Creature &before, const RemoveMark &p, CommandContext &)
{
    Creature after = before;
    markOf(after, p.mark);
    std::erase_if(after.stage.plate.marks, [&](const PlateMark &m) { return m.id == p.mark; });
    return after;
}

} // namespace

Fields<SetPlate> SetPlate::fields()
{
    using P = SetPlate;
    return {fieldOf<P>(&P::name, "name", "", "heading of the plate"),
            fieldOf<P>(&P::latin, "latin", "", "scientific name, set in italics"),
            fieldOf<P>(&P::caption, "caption", "", "a few lines below it"),
            wordOf<P>(&P::paper, "paper", "what it is printed on", idsOf(portrait::platePapers())),
            wordOf<P>(&P::beside, "beside", "known size that its silhouette stands beside", idsOf(portrait::knownSizes())),
            fieldOf<P>(&P::lifeHeight, "lifeHeight", "mm",
                       "how high the living animal stands, for scale bar and known size; 0: as high as the figure", 0, 1e6)};
}

Fields<MarkChanges> MarkChanges::fields()
{
    using P = MarkChanges;
    return {fieldOf<P>(&P::text, "text", "", "words at the end of the line"),
            fieldOf<P>(&P::at, "at", "mm", "place on the creature at rest", -1e6, 1e6),
            fieldOf<P>(&P::radius, "radius", "mm", "of what is enlarged in a circle; 0: words alone", 0, 1e6),
            fieldOf<P>(&P::isPosed, "posed", "", "the place is that of the creature as it stands in its pose")};
}

Fields<AddMark> AddMark::fields()
{
    using P = AddMark;
    return fieldList<P>({nested<P>(&P::changes, MarkChanges::fields())});
}

Fields<SetMark> SetMark::fields()
{
    using P = SetMark;
    return fieldList<P>({fieldOf<P>(&P::mark, "mark", "", "id").required(), nested<P>(&P::changes, MarkChanges::fields())});
}

Fields<RemoveMark> RemoveMark::fields()
{
    using P = RemoveMark;
    return {fieldOf<P>(&P::mark, "mark", "", "id").required()};
}

std::vector<CommandSpec> plateCommands()
{
    return {commandOf(setPlate), commandOf(addMark), commandOf(setMark), commandOf(removeMark)};
}

} // namespace bonemoss::command
