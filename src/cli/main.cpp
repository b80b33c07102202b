#include "cli/commands.h"

#include "base/parallel.h"
#include "base/result.h"

#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

using namespace bonemoss;

int main(int argc, char **argv)
{
    keepFreedMemory();
    CLI::App app{"Bone Moss without a window: measure, knit, replay, convert and render creatures.", "bonemoss-cli"};
    app.set_version_flag("--version", BONEMOSS_VERSION);
    app.require_subcommand(1);
    int result = cli::kDone;

    std::filesystem::path in, out;
    std::vector<std::filesystem::path> inputs, exports;
    bool json = false;
    field::Density density;
    cli::RenderOptions picture;

    auto *info = app.add_subcommand("info", "Counts and measures of a creature or a mesh file (mm)");
    info->add_option("FILE", in)->required();
    info->add_flag("--json", json, "as JSON");
    info->callback([&] { result = cli::info(in, json); });

    auto *knit = app.add_subcommand("knit", "One closed skin of quads from meshes or creatures");
    knit->add_option("IN", inputs)->required();
    knit->add_option("--out", out, "mesh file or .bonemoss")->required();
    auto *spacing = knit->add_option("--spacing", density.spacing, "cell size in mm")->check(CLI::PositiveNumber);
    auto *faces = knit->add_option("--faces", density.faces, "faces wanted, met within 3 %")->check(CLI::PositiveNumber);
    spacing->excludes(faces);
    knit->add_flag("--json", json,
                   "report as JSON; its seconds: read (files), field (signs and crossings of the lattice), contour (faces), "
                   "measure (distances to the input), write (the file)");
    knit->callback([&] {
        if (spacing->count() + faces->count() != 1)
            throw CLI::RequiredError("--spacing or --faces");
        result = cli::knit(inputs, out, density, json);
    });

    auto *replay = app.add_subcommand("replay", "Replays a recipe into a creature");
    replay->add_option("RECIPE", in)->required();
    replay->add_option("--out", out, "the .bonemoss file to write")->required();
    replay->add_option("--export", exports, "also write a mesh file");
    replay->callback([&] { result = cli::replay(in, out, exports); });

    auto *convert = app.add_subcommand("convert", "From one mesh format or creature to another");
    convert->add_option("IN", in)->required();
    convert->add_option("OUT", out)->required();
    convert->callback([&] { result = cli::convert(in, out); });

    auto *render = app.add_subcommand("render", "A ray-traced clay picture; needs no display");
    render->add_option("IN", picture.in)->required();
    render->add_option("--view", picture.view, "nose, left, tail, right, crown, belly, three-quarter")->capture_default_str();
    render->add_option("--on", picture.on, "name of the piece or form that shall fill the picture, for a close view; else all");
    render->add_option("--size", picture.size, "WxH in pixels")->capture_default_str();
    render->add_option("--samples", picture.samples, "rays through each pixel")->check(CLI::Range(1, 64))->capture_default_str();
    render->add_flag("--parallel", picture.parallel, "without perspective, as drawings are made");
    render->add_option("--out", picture.out, "PNG file")->required();
    render->callback([&] { result = cli::render(picture); });

    std::string form, title, outward;
    float fits = 0;
    auto *part = app.add_subcommand("part", "Writes a form with all that hangs from it as a part file");
    part->add_option("FILE", in, "a .bonemoss file")->required();
    part->add_option("FORM", form, "name of the form")->required();
    part->add_option("--out", out, "the .part.json file to write")->required();
    part->add_option("--title", title, "as the shelf shows it");
    part->add_option("--outward", outward, "x,y,z from the body out through it; \"upright\" for one that is never turned");
    part->add_option("--fits", fits, "mm: thickness of what it is made to sit on")->check(CLI::PositiveNumber);
    part->callback([&] { result = cli::savePart(in, form, out, title, outward, fits); });

    std::vector<float> plane;
    auto *girth = app.add_subcommand("girth", "How long it is around a part, where a plane cuts it");
    girth->add_option("FILE", in, "creature or mesh file (mm)")->required();
    girth->add_option("--at", plane, "X Y Z of a place in the part and X Y Z of the direction across which it is cut")
        ->expected(6)
        ->required();
    girth->add_flag("--json", json, "as JSON");
    girth->callback([&] { result = cli::girth(in, plane, json); });

    int bits = 16;
    std::string stampOf;
    auto *stamp = app.add_subcommand("stamp", "Writes a stamp as a height picture");
    stamp->add_option("NAME", form, "of the stamp")->required();
    stamp->add_option("--of", stampOf, "the .bonemoss file it belongs to; left out: one that comes with the program");
    stamp->add_option("--out", out, "PNG or TIFF file, or EXR with 32 bits")->required();
    stamp->add_option("--bits", bits, "16 or 32")->capture_default_str()->check(CLI::IsMember({16, 32}));
    stamp->callback([&] { result = cli::writeStamp(form, stampOf, out, bits); });

    auto *stand = app.add_subcommand("stand", "How a creature stands, and its proportions");
    stand->add_option("FILE", in, "a .bonemoss file")->required();
    stand->add_flag("--json", json, "as JSON");
    stand->callback([&] { result = cli::stand(in, json); });

    // Verbs that give meshes new faces.
    std::string how = "join", side = "raised", rim = "square";
    std::size_t count = 0;
    float thickness = 0;
    bool smooth = false;
    const auto verb = [&](const char *name, const char *text, bool many) {
        auto *v = app.add_subcommand(name, text);
        if (many)
            v->add_option("IN", inputs, "creatures or mesh files (mm)")->required();
        else
            v->add_option("IN", in, "creature or mesh file (mm)")->required();
        v->add_option("--out", out, "mesh file or .bonemoss")->required();
        v->add_flag("--json", json, "measures of the result as JSON");
        return v;
    };
    using Command = nlohmann::json;
    auto *boolean = verb("boolean", "Exact join, cut or common part of solids", true);
    boolean->add_option("--how", how, "join, cut, common")
        ->check(CLI::IsMember({"join", "cut", "common"}))
        ->capture_default_str();
    boolean->callback([&] {
        result = cli::rework(inputs, out, Command{{"do", "pieces.combine"}, {"how", how}, {"pieces", Command::array()}}, json);
    });
    auto *split = verb("split", "Islands as pieces of their own", false);
    split->callback([&] { result = cli::rework({in}, out, Command{{"do", "piece.split"}, {"by", "islands"}}, json); });
    auto *shell = verb("shell", "A closed plate of an open sheet", false);
    shell->add_option("--thickness", thickness, "mm")->required()->check(CLI::PositiveNumber);
    shell->add_option("--side", side, "raised, sunk, centred")->check(CLI::IsMember({"raised", "sunk", "centred"}));
    shell->add_option("--rim", rim, "square, round")->check(CLI::IsMember({"square", "round"}));
    shell->callback([&] {
        result = cli::rework({in}, out, Command{{"do", "piece.solidify"}, {"thickness", thickness}, {"side", side}, {"rim", rim}},
                             json);
    });
    auto *simplify = verb("simplify", "Fewer triangles of the same shape", false);
    simplify->add_option("--faces", count, "triangles wanted, met within 1 %")->required()->check(CLI::PositiveNumber);
    simplify->callback([&] { result = cli::rework({in}, out, Command{{"do", "piece.simplify"}, {"faces", count}}, json); });
    auto *repair = verb("repair", "Reads with repairs told, and closes holes", false);
    repair->add_flag("--smooth", smooth, "holes go on with the curvature around them");
    repair->callback([&] { result = cli::rework({in}, out, Command{{"do", "piece.repair"}, {"smooth", smooth}}, json); });
    std::filesystem::path onto;
    auto *project = verb("project", "Lays new faces on the shape of another mesh", false);
    project->add_option("ONTO", onto, "whose shape it takes")->required();
    project->callback([&] { result = cli::rework({in, onto}, out, Command{{"do", "piece.project"}}, json); });

    auto *schema = app.add_subcommand("schema", "JSON Schema of every command of the recipe format");
    schema->callback([&] { result = cli::schema(); });

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError &e) {
        return app.exit(e) == 0 ? cli::kDone : cli::kUsage;
    } catch (...) { // the one place where an exception of a verb ends
        fmt::print(stderr, "bonemoss-cli: {}\n", errorInFlight({}).text());
        return cli::kFailed;
    }
    return result;
}
