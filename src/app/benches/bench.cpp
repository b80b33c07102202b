#include "app/benches/bench.h"

#include "app/session/session.h"

#include <QCoreApplication>
#include <nlohmann/json.hpp>

#include <array>
#include <cassert>

namespace bonemoss::app {

namespace {

using nlohmann::json;

json deletedForms(const Session &s)
{
    if (s.cage())
        return {{"do", "cage.remove"}, {"cage", s.cage()}};
    return s.form() ? json{{"do", "forms.remove"}, {"forms", s.forms()}} : json();
}

json deletedPiece(const Session &s)
{
    return s.piece() ? json{{"do", "piece.remove"}, {"piece", s.piece()}} : json();
}

json deletedLayer(const Session &s)
{
    return s.layer() ? json{{"do", "layer.remove"}, {"piece", s.piece()}, {"layer", s.layer()}} : deletedPiece(s);
}

json duplicatedForm(const Session &s, bool isLinked)
{
    if (!s.form())
        return nullptr;
    json command = {{"do", "form.duplicate"}, {"form", s.form()}, {"move", {10, 0, 0}}};
    if (isLinked)
        command["linked"] = true;
    return command;
}

json duplicatedLayer(const Session &s, bool isLinked)
{
    return s.layer() && !isLinked ? json{{"do", "layer.duplicate"}, {"piece", s.piece()}, {"layer", s.layer()}} : json();
}

constexpr std::array<BenchRow, 3> kBenches{{
    {Bench::Armature, "armature", QT_TRANSLATE_NOOP("Bench", "Armature"), "armature", true, true, false, false, 3, deletedForms,
     duplicatedForm},
    {Bench::Sculpt, "sculpt", QT_TRANSLATE_NOOP("Bench", "Sculpt"), "sculpt", false, false, true, true, 4, deletedPiece,
     duplicatedLayer},
    {Bench::Detail, "detail", QT_TRANSLATE_NOOP("Bench", "Detail"), "detail", false, false, true, true, 4, deletedLayer,
     duplicatedLayer},
}};

} // namespace

std::span<const BenchRow> benches()
{
    return kBenches;
}

const BenchRow &rowOf(Bench bench)
{
    assert(kBenches[std::size_t(bench)].bench == bench);
    return kBenches[std::size_t(bench)];
}

QString benchTitle(const BenchRow &row)
{
    return QCoreApplication::translate("Bench", row.title);
}

} // namespace bonemoss::app
