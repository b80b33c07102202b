// What a printer will make of a creature or a mesh.
#include "cli/commands.h"
#include "cli/reading.h"

#include "base/files.h"
#include "base/parallel.h"
#include "export/print_sheet.h"
#include "export/shown_scene.h"
#include "image/gray_picture.h"
#include "proof/layers.h"
#include "proof/outlines.h"
#include "proof/proof.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <cstdio>
#include <mutex>

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
                            {"outward", {f.outward.x, f.outward.y, f.outward.z}},
                            {"piece", f.piece},
                            {"places", f.count},
                            {"mend", f.kind->mend},
                            {"command", f.kind->command}});
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

Result<io::Scene> printSource(const std::filesystem::path &in, document::PrintPlan *plan)
{
    if (!isCreature(in))
        return readPictureScene(in);
    auto loaded = loadTold(in);
    if (!loaded)
        return loaded.error();
    if (plan)
        *plan = loaded->print;
    return exporting::printScene(*loaded);
}

int proofOf(const ProofOptions &o)
{
    if (!o.profile.empty()) // a wrong name is told before any work is done
        if (const auto known = proof::printerProfile(o.profile); !known)
            return fail(known.error(), kUsage);
    document::PrintPlan plan;
    const auto scene = printSource(o.in, &plan);
    if (!scene)
        return fail(scene.error(), kUnreadable);
    const auto profile = proof::printerProfile(o.profile.empty() ? plan.printer : o.profile);
    if (!profile)
        return fail(profile.error(), kUsage);
    const auto report =
        proof::prove(*scene, {.profile = *profile, .heightMm = o.height > 0 ? o.height : plan.heightMm, .isQuick = o.isQuick});
    if (!report)
        return fail(report.error(), kFailed);
    if (o.json)
        fmt::print("{}\n", toJson(*report).dump(2));
    else
        tell(*report, *profile);
    return report->isSound() ? kDone : kFindings;
}

int printSheet(const ProofOptions &o)
{
    if (const Status is = exporting::isPageFile(o.out); !is)
        return fail(is.error(), kUsage);
    auto loaded = loadTold(o.in);
    if (!loaded)
        return fail(loaded.error(), kUnreadable);
    auto profile = proof::printerProfile(o.profile.empty() ? loaded->print.printer : o.profile);
    if (!profile)
        return fail(profile.error(), kUsage);
    const float height = o.height > 0 ? o.height : loaded->print.heightMm;
    const auto report = proof::prove(exporting::printScene(*loaded), {.profile = *profile, .heightMm = height});
    if (!report)
        return fail(report.error(), kFailed);
    const auto page = exporting::printSheet(*loaded, *profile, *report, {.samples = o.samples});
    if (!page)
        return fail(page.error(), kFailed);
    if (const Status done = exporting::writePages(o.out, std::span(&*page, 1), "Print sheet", 150); !done)
        return fail(done.error(), kFailed);
    return kDone;
}

namespace {

/// Layers as pictures, white where there is material, seen from above with the nose up.
Status writeStack(const std::filesystem::path &folder, const proof::Layers &layers)
{
    std::error_code ec;
    std::filesystem::create_directories(folder, ec);
    if (ec)
        return Error{ErrorCode::Unwritable, shownPath(folder), "the folder could not be made: " + ec.message()};
    Status done = Done{};
    std::mutex guard;
    forEachBlock(std::size_t(layers.count), 8, [&](BlockRange r) {
        image::GrayPicture picture{layers.columns, layers.rows, {}};
        for (std::size_t k = r.begin; k < r.end; ++k) {
            picture.values.assign(std::size_t(layers.columns) * std::size_t(layers.rows), 0);
            for (int z = 0; z < layers.rows; ++z)
                for (const proof::Run run : layers.row(int(k), z)) {
                    const auto from = std::ptrdiff_t(layers.rows - 1 - z) * layers.columns;
                    std::fill(picture.values.begin() + from + run.begin, picture.values.begin() + from + run.end,
                              std::uint8_t(255));
                }
            Status written = image::writePng(folder / fmt::format("layer-{:05}.png", k + 1), picture);
            const std::scoped_lock lock(guard);
            if (done && !written)
                done = std::move(written);
        }
    });
    return done;
}

} // namespace

int slice(const SliceOptions &o)
{
    const bool isSvg = o.out.extension() == ".svg";
    if (!o.out.empty() && o.out.has_extension() && !isSvg)
        return fail({ErrorCode::Unsupported, "--out", "must be an .svg file or a folder for PNG pictures"}, kUsage);
    auto source = printSource(o.in);
    if (!source)
        return fail(source.error(), kUnreadable);
    mesh::PolyMesh mesh = io::joined(proof::printable(std::move(*source)));
    const Box3f own = mesh::boundsOf(mesh.positions);
    if (mesh.faces.empty())
        return fail({ErrorCode::Empty, "slice", "there is nothing to print: only surfaces can be"}, kFailed);
    const float scale = o.height > 0 ? o.height / std::max(own.size().y, 1e-6f) : 1;
    for (Vec3f &p : mesh.positions)
        p = p * scale;
    const Box3f box = mesh::boundsOf(mesh.positions);
    if (box.size().y / o.layer > 100000)
        return fail({ErrorCode::TooLarge, "slice", "would have more than 100,000 layers: take higher ones"}, kFailed);
    const double start = now();
    const proof::Slicer slicer(mesh);
    std::vector<proof::Slice> slices = slicer.cut(proof::middlesOfLayers(box.lo.y, box.hi.y, o.layer));
    std::uint32_t open = 0;
    forEachBlock(slices.size(), 4, [&](BlockRange r) {
        for (std::size_t k = r.begin; k < r.end; ++k)
            slices[k] = proof::unionOf(slices[k]);
    });
    double volume = 0;
    for (const proof::Slice &s : slices)
        volume += s.area * double(o.layer), open += s.openLoops;
    std::vector<proof::Triangle> triangles;
    for (const auto &t : mesh::triangulate(mesh))
        triangles.push_back({mesh.positions[t[0]], mesh.positions[t[1]], mesh.positions[t[2]]});
    const auto layers = proof::layersOf(triangles, o.layer, o.pixel);
    if (!layers)
        return fail(layers.error(), kFailed);
    std::vector<std::uint32_t> islands(slices.size());
    for (const proof::Region &r : proof::regionsOf(*layers))
        if (r.kind == proof::Region::Kind::Island && std::size_t(r.layer) < islands.size())
            ++islands[std::size_t(r.layer)];
    const double seconds = now() - start;
    json list = json::array();
    for (std::size_t k = 0; k < slices.size(); ++k)
        list.push_back({{"heightMm", double(k + 1) * double(o.layer)},
                        {"areaMm2", slices[k].area},
                        {"perimeterMm", slices[k].perimeter()},
                        {"islands", islands[k]}});
    const json told{{"layers", std::move(list)}, {"layerMm", o.layer}, {"pixelMm", o.pixel},
                    {"volumeMm3", volume},       {"openLines", open},  {"seconds", seconds}};
    if (!o.out.empty()) {
        Status written = isSvg ? proof::writeSvg(o.out, slices, o.layer) : writeStack(o.out, *layers);
        if (written && !isSvg) {
            auto file = NewFile::beside(o.out / "layers.json");
            written = !file ? Status(file.error()) : file->write(told.dump(1));
            if (written)
                written = file->commit();
        }
        if (!written)
            return fail(written.error(), kFailed);
    }
    if (o.json)
        fmt::print("{}\n", told.dump(2));
    else
        fmt::print("{} layers of {} mm, {:.2f} cm3, {:.2f} s{}\n", slices.size(), o.layer, volume / 1000, seconds,
                   open > 0 ? fmt::format("; {} lines are open and were closed straight", open) : std::string());
    return kDone;
}

} // namespace bonemoss::cli
