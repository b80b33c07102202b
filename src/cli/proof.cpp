// What a printer will make of a creature or a mesh.
#include "cli/commands.h"
#include "cli/reading.h"

#include "document/ops/posing.h"
#include "export/shown_scene.h"
#include "proof/proof.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <cstdio>

namespace bonemoss::cli {

namespace {

using nlohmann::json;

json toJson(const proof::Report &r)
{
    json findings = json::array();
    for (const proof::Finding &f : r.findings)
        findings.push_back({{"kind", f.kind->id},
                            {"severity", proof::kSeverityNames[std::size_t(f.severity)]},
                            {"value", f.value},
                            {"unit", f.kind->unit},
                            {"at", {f.at.x, f.at.y, f.at.z}},
                            {"radius", f.radius},
                            {"piece", f.piece},
                            {"places", f.count},
                            {"mend", f.kind->mend}});
    return {{"sound", r.isSound()},
            {"findings", std::move(findings)},
            {"sizeMm", {r.size.x, r.size.y, r.size.z}},
            {"volumeMm3", r.volumeMm3},
            {"overlapMm3", r.overlapMm3},
            {"weightG", r.weightG},
            {"cost", r.cost},
            {"hours", r.hours},
            {"layers", r.layers},
            {"checkedAt", {{"layerMm", r.layerMm}, {"cellMm", r.cellMm}}},
            {"stands", r.stands},
            {"marginMm", r.marginMm},
            {"pockets", r.pockets},
            {"islands", r.islands},
            {"selfCrossings", r.selfCrossings},
            {"leastThicknessMm", r.leastThicknessMm},
            {"fibresLeftOut", r.fibres}};
}

void tell(const proof::Report &r, const proof::PrinterProfile &p)
{
    fmt::print("{}: {:.1f} x {:.1f} x {:.1f} mm, {:.1f} cm3, {:.0f} g, {} layers, about {:.1f} h, {:.2f} of material\n", p.title,
               r.size.x, r.size.y, r.size.z, r.volumeMm3 / 1000, r.weightG, r.layers, r.hours, r.cost);
    fmt::print("{}; thinnest place {:.2f} mm\n",
               r.stands ? fmt::format("stands, {:.1f} mm from tipping", r.marginMm) : std::string("does not stand"),
               r.leastThicknessMm);
    if (r.fibres > 0)
        fmt::print("{} hairs are left out: printers make surfaces alone; locks and plates are kept\n", r.fibres);
    for (const proof::Finding &f : r.findings)
        fmt::print("{:7} {}: {:.2f} {}{} at {:.1f} {:.1f} {:.1f}. {}\n", proof::kSeverityNames[std::size_t(f.severity)],
                   f.kind->title, f.value, f.kind->unit, f.piece.empty() ? std::string() : ", " + f.piece, f.at.x, f.at.y, f.at.z,
                   f.kind->mend);
    fmt::print("{}\n", r.isSound() ? "Sound: nothing that would spoil the print" : "Not sound");
}

} // namespace

int proofOf(const ProofOptions &o)
{
    auto profile = proof::printerProfile(o.profile);
    if (!profile)
        return fail(profile.error(), kUsage);
    io::Scene scene;
    if (isCreature(o.in)) {
        auto loaded = loadTold(o.in);
        if (!loaded)
            return fail(loaded.error(), kUnreadable);
        scene = exporting::shownScene(document::posed(*loaded));
        scene.leaveOut(loaded->stage.ground.standsOn());
    } else {
        auto read = readPictureScene(o.in);
        if (!read)
            return fail(read.error(), kUnreadable);
        scene = std::move(*read);
    }
    const auto report = proof::prove(scene, {.profile = *profile, .heightMm = o.height, .isQuick = o.isQuick});
    if (!report)
        return fail(report.error(), kFailed);
    if (o.json)
        fmt::print("{}\n", toJson(*report).dump(2));
    else
        tell(*report, *profile);
    return report->isSound() ? kDone : kFindings;
}

} // namespace bonemoss::cli
