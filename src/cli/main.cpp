#include "cli/commands.h"

#include "base/parallel.h"
#include "base/result.h"
#include "command/command.h"

#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <map>

using namespace bonemoss;

namespace {

using Command = nlohmann::json;

/// What the verbs were given, and how the one that ran ended.
struct Given {
    int result = cli::kDone;
    std::filesystem::path in, out, on, onto;
    std::vector<std::filesystem::path> inputs, exports, parts;
    bool json = false, smooth = false;
    field::Density density;
    cli::RenderOptions picture;
    cli::MixOptions mix;
    cli::PoseOptions pose;
    cli::ProofOptions proof;
    cli::SliceOptions slice;
    cli::PrintOptions print;
    std::map<std::string, std::string> values; ///< of a command's parameters
    std::string form, title, outward, stampOf, how = "join", side = "raised", rim = "square";
    std::vector<float> plane;
    int rate = 24, cell = 640; ///< frames a second, pixels
    float dpi = 200;
    int bits = 16, columns = 4, colours = 8;
    bool lists = false;
    std::size_t count = 0;
    float fits = 0, thickness = 0;
};

/// Verbs that measure, knit, replay, convert and draw.
void addMakers(CLI::App &app, Given &g)
{
    auto *info = app.add_subcommand("info", "Counts and measures of a creature or a mesh file (mm)");
    info->add_option("FILE", g.in)->required();
    info->add_flag("--json", g.json, "as JSON");
    info->callback([&g] { g.result = cli::info(g.in, g.json); });

    auto *knit = app.add_subcommand("knit", "One closed skin of quads from meshes or creatures");
    knit->add_option("IN", g.inputs)->required();
    knit->add_option("--out", g.out, "mesh file or .bonemoss")->required();
    auto *spacing = knit->add_option("--spacing", g.density.spacing, "cell size in mm")->check(CLI::PositiveNumber);
    auto *faces = knit->add_option("--faces", g.density.faces, "faces wanted, met within 3 %")->check(CLI::PositiveNumber);
    spacing->excludes(faces);
    knit->add_flag("--json", g.json,
                   "report as JSON; its seconds: read (files), field (signs and crossings of the lattice), contour (faces), "
                   "measure (distances to the input), write (the file)");
    knit->callback([&g, spacing, faces] {
        if (spacing->count() + faces->count() != 1)
            throw CLI::RequiredError("--spacing or --faces");
        g.result = cli::knit(g.inputs, g.out, g.density, g.json);
    });

    auto *replay = app.add_subcommand("replay", "Replays a recipe into a creature");
    replay->add_option("RECIPE", g.in)->required();
    replay->add_option("--on", g.on, "a .bonemoss file to begin with; left out: a new creature");
    replay->add_option("--out", g.out, "the .bonemoss file to write")->required();
    replay->add_option("--export", g.exports, "also write a mesh file");
    replay->callback([&g] { g.result = cli::replay(g.in, g.on, g.out, g.exports); });

    auto *convert = app.add_subcommand("convert", "From one mesh format or creature to another");
    convert->add_option("IN", g.in)->required();
    convert->add_option("OUT", g.out)->required();
    convert->callback([&g] { g.result = cli::convert(g.in, g.out); });
}

/// What a picture shows, and in which light.
void addShown(CLI::App &verb, cli::RenderOptions &p)
{
    verb.add_option("IN", p.in)->required();
    verb.add_option("--samples", p.samples, "of each pixel; 64 when not given")->check(CLI::Range(1, 65536));
    verb.add_option("--seed", p.seed, "another number, other noise")->capture_default_str();
    verb.add_option("--lights", p.lights, "a ready set: museum, moor, low-sun, campfire, storm-rim, overhead");
    verb.add_option("--surroundings", p.surroundings, "picture of a whole sphere that gives light");
    verb.add_option("--ground", p.ground, "none, floor, turf, rock, water, pedestal, piece (the lowest one)");
    verb.add_option("--look", p.look, "painted, clay, wax, bronze, silhouette, ink");
    verb.add_option("--scheme", p.scheme, "colour scheme by name");
    verb.add_option("--pose", p.pose, "pose by name");
    verb.add_option("--exposure", p.exposure, "stops");
}

/// From where, and how large.
void addCamera(CLI::App &verb, cli::RenderOptions &p)
{
    verb.add_option("--view", p.view, "nose, left, tail, right, crown, belly, three-quarter")->capture_default_str();
    verb.add_option("--camera", p.camera, "a camera that was kept, or a view");
    verb.add_option("--lens", p.lens, "of a view: mm on film 36 mm wide")->check(CLI::Range(8, 1000))->capture_default_str();
    verb.add_option("--on", p.on, "name of the piece or form that shall fill the picture, for a close view; else all");
    verb.add_option("--size", p.size, "WxH in pixels, up to 16384 each")->capture_default_str();
    verb.add_flag("--parallel", p.parallel, "without perspective, as drawings are made");
}

/// How a picture is developed.
void addFilm(CLI::App &verb, cli::MixOptions &o)
{
    verb.add_option("--exposure", o.exposure, "stops")->check(CLI::Range(-10, 10));
    verb.add_option("--contrast", o.contrast, "of the tone curve")->check(CLI::Range(0, 1))->capture_default_str();
    verb.add_option("--bloom", o.bloom, "share of the light that the lens scatters")->check(CLI::Range(0, 1));
    verb.add_flag("--metered", o.isMetered, "exposed by the picture first");
}

/// Verbs that make pictures.
void addPictures(CLI::App &app, Given &g)
{
    cli::RenderOptions &p = g.picture;
    auto *render = app.add_subcommand(
        "render", "A picture in the creature's own light, or in that of the museum case where it has none; needs no display");
    addShown(*render, p);
    addCamera(*render, p);
    render->add_option("--error", p.error, "relative error at which a pixel is done before")->check(CLI::Range(0.0f, 1.0f));
    render->add_option(
        "--passes", p.passes,
        "beside the picture: lights, albedo, normal, depth, occlusion, facing, object, samples, all; with commas between");
    render->add_option("--tile", p.tile, "X,Y,WIDTH,HEIGHT: that part of the picture alone");
    render->add_option("--part", p.part, "I/N: the I-th of N bands of rows");
    render->add_option("--frames", p.frames, "A-B: those frames of a turn about the creature, as NAME-0001.png and so on");
    render->add_option("--turn", p.turn, "frames of a whole turn")->check(CLI::Range(1, 9999))->capture_default_str();
    render->add_flag("--transparent", p.isClear, "nothing behind the creature and its ground");
    render->add_flag("--raw", p.isRaw, "as it was gathered, without the filter");
    render->add_flag("--json", p.json, "tells seconds, rays, samples and error");
    render->add_option("--out", p.out, "PNG or EXR file; EXR holds all passes, PNGs of them lie beside")->required();
    render->callback([&g] { g.result = cli::render(g.picture); });

    auto *join = app.add_subcommand("join", "Puts parts of a picture together that were rendered as EXR with --part or --tile");
    join->add_option("PARTS", g.parts, "EXR files")->required();
    addFilm(*join, g.mix);
    join->add_option("--out", g.mix.out, "EXR or PNG file")->required();
    join->callback([&g] { g.result = cli::join(g.parts, g.mix); });

    auto *turn = app.add_subcommand("turntable", "A turn about the creature as a film, or as numbered pictures");
    addShown(*turn, p);
    addCamera(*turn, p);
    turn->add_option("--frames", p.frames, "A-B: those frames alone, of pictures");
    turn->add_option("--turn", p.turn, "frames of a whole turn")->check(CLI::Range(1, 9999))->capture_default_str();
    turn->add_option("--rate", g.rate, "frames a second")->check(CLI::Range(1, 120))->capture_default_str();
    turn->add_option("--out", p.out, "WebP film, MP4 where there is an encoder, or PNG: NAME-0001.png and so on")->required();
    turn->callback([&g] { g.result = cli::turntable(g.picture, g.rate); });

    auto *sheet =
        app.add_subcommand("sheet", "Six views of a creature on one sheet; or, of IN outgrowths or coats, all of that table");
    addShown(*sheet, p);
    sheet->add_option("--width", g.cell, "pixels of one view")->check(CLI::Range(16, 8192))->capture_default_str();
    sheet->add_option("--on", g.on, "of coats: the .bonemoss file they grow on");
    sheet->add_option("--columns", g.columns, "of a table: pictures beside each other")
        ->check(CLI::Range(1, 20))
        ->capture_default_str();
    sheet->add_option("--out", p.out, "PNG file, or PDF of views")->required();
    sheet->callback([&g] {
        if (g.picture.in == "coats" && g.on.empty())
            throw CLI::RequiredError("--on");
        const int samples = g.picture.samples > 0 ? g.picture.samples : 16;
        g.result = g.picture.in == "coats"        ? cli::sheetOfCoats(g.on, g.picture.out, g.columns, samples)
                   : g.picture.in == "outgrowths" ? cli::sheetOfOutgrowths(g.picture.out, g.columns, samples)
                                                  : cli::sheet(g.picture, g.cell);
    });

    auto *plate = app.add_subcommand("plate", "The natural-history plate of a creature: A4, with its labels and details");
    addShown(*plate, p);
    plate->add_option("--dpi", g.dpi, "fineness of its pictures")->check(CLI::Range(20.0f, 1200.0f))->capture_default_str();
    plate->add_option("--out", p.out, "PNG or PDF file")->required();
    plate->callback([&g] { g.result = cli::plate(g.picture, g.dpi); });

    auto *mix = app.add_subcommand("mix", "Mixes the lights of a picture that was rendered with --passes lights");
    mix->add_option("IN", g.mix.in, "EXR file")->required();
    mix->add_option("--light", g.mix.lights, "NAME=STRENGTH or NAME=STRENGTH,RED,GREEN,BLUE (0 to 255)");
    addFilm(*mix, g.mix);
    mix->add_option("--out", g.mix.out, "PNG file")->required();
    mix->callback([&g] { g.result = cli::mix(g.mix); });
}

/// Verbs about parts, girths, stamps and how a creature stands.
void addLookers(CLI::App &app, Given &g)
{
    auto *part = app.add_subcommand("part", "Writes a form with all that hangs from it as a part file");
    part->add_option("FILE", g.in, "a .bonemoss file")->required();
    part->add_option("FORM", g.form, "name of the form")->required();
    part->add_option("--out", g.out, "the .part.json file to write")->required();
    part->add_option("--title", g.title, "as the shelf shows it");
    part->add_option("--outward", g.outward, "x,y,z from the body out through it; \"upright\" for one that is never turned");
    part->add_option("--fits", g.fits, "mm: thickness of what it is made to sit on")->check(CLI::PositiveNumber);
    part->callback([&g] { g.result = cli::savePart(g.in, g.form, g.out, g.title, g.outward, g.fits); });

    auto *girth = app.add_subcommand("girth", "How long it is around a part, where a plane cuts it");
    girth->add_option("FILE", g.in, "creature or mesh file (mm)")->required();
    girth->add_option("--at", g.plane, "X Y Z of a place in the part and X Y Z of the direction across which it is cut")
        ->expected(6)
        ->required();
    girth->add_flag("--json", g.json, "as JSON");
    girth->callback([&g] { g.result = cli::girth(g.in, g.plane, g.json); });

    auto *stamp = app.add_subcommand("stamp", "Writes a stamp as a height picture");
    stamp->add_option("NAME", g.form, "of the stamp")->required();
    stamp->add_option("--of", g.stampOf, "the .bonemoss file it belongs to; left out: one that comes with the program");
    stamp->add_option("--out", g.out, "PNG or TIFF file, or EXR with 32 bits")->required();
    stamp->add_option("--bits", g.bits, "16 or 32")->capture_default_str()->check(CLI::IsMember({16, 32}));
    stamp->callback([&g] { g.result = cli::writeStamp(g.form, g.stampOf, g.out, g.bits); });

    auto *stand = app.add_subcommand("stand", "How a creature stands, and its proportions");
    stand->add_option("FILE", g.in, "a .bonemoss file")->required();
    stand->add_flag("--json", g.json, "as JSON");
    stand->callback([&g] { g.result = cli::stand(g.in, g.json); });
}

void addColours(CLI::App &app, Given &g)
{
    auto *colours = app.add_subcommand("colours", "Colour layers of a creature: what each holds, and how much it covers");
    colours->add_option("FILE", g.in, "a .bonemoss file")->required();
    colours->add_flag("--json", g.json, "as JSON");
    colours->callback([&g] { g.result = cli::listColours(g.in, g.json); });
    auto *palette = app.add_subcommand("palette", "The main colours of a picture as a palette");
    palette->add_option("PICTURE", g.in)->required();
    palette->add_option("--colours", g.colours, "how many")->check(CLI::Range(1, 64))->capture_default_str();
    palette->add_option("--out", g.out, "text file, or PNG with swatches")->required();
    palette->callback([&g] { g.result = cli::makePalette(g.in, g.colours, g.out); });
    auto *plan = app.add_subcommand("paint-plan", "For whoever paints the print: colours, shares, places and mixes");
    plan->add_option("FILE", g.in, "a .bonemoss file")->required();
    plan->add_option("--colours", g.colours, "how many at most")->check(CLI::Range(1, 24))->capture_default_str();
    plan->add_option("--paints", g.on, "palette file of the paints to mix from; left out: usual ones");
    plan->add_option("--out", g.out, "PDF file");
    plan->add_flag("--json", g.json, "as JSON");
    plan->callback([&g] { g.result = cli::planPaint(g.in, g.on, g.colours, g.out, g.json); });
}

void addPose(CLI::App &app, Given &g)
{
    auto *pose = app.add_subcommand("pose", "Bones and poses of a creature, and the creature in one of them");
    pose->add_option("FILE", g.pose.in, "a .bonemoss file")->required();
    pose->add_flag("--list", g.pose.lists, "bones with parents, lengths and limits, and poses");
    pose->add_option("--to", g.pose.to, "name of the pose it is brought into; rest is always one");
    pose->add_option("--turn", g.pose.turns, "BONE=x,y,z: degrees about the bone's own axes");
    pose->add_option("--reach", g.pose.reaches, "BONE=x,y,z: mm, where the end of the bone shall come to");
    pose->add_option("--pin", g.pose.pins, "BONE whose end stays where it is");
    pose->add_option("--control", g.pose.controls, "NAME=VALUE: a jaw, toes, lids and the like, as --list tells them");
    pose->add_flag("--freeze", g.pose.freezes, "the pose becomes the rest of what is written");
    pose->add_flag("--check", g.pose.checks, "weights, stretch, limits and stance");
    pose->add_option("--out", g.pose.out, ".bonemoss, which keeps its rest, or a mesh file of it in the pose");
    pose->add_flag("--json", g.pose.json, "as JSON");
    pose->callback([&g] { g.result = cli::pose(g.pose); });
}

void addProof(CLI::App &app, Given &g)
{
    auto *proof = app.add_subcommand("proof", "What a printer will make of it; exit code 1 where something spoils the print");
    proof->add_option("IN", g.proof.in, "creature or mesh file (mm)")->required();
    proof->add_option("--profile", g.proof.profile,
                      "resin, resin-large, filament, filament-fine, or a JSON file; left out: the creature's");
    proof->add_option("--height", g.proof.height, "mm of the print; left out: as it is")->check(CLI::Range(0.1f, 100000.0f));
    proof->add_flag("--quick", g.proof.isQuick, "coarser, without self-crossings");
    proof->add_flag("--json", g.proof.json, "as JSON");
    proof->callback([&g] { g.result = cli::proofOf(g.proof); });

    auto *sheet =
        app.add_subcommand("print-sheet", "One page for whoever prints a creature: views, sizes, parts, settings, findings");
    sheet->add_option("IN", g.proof.in, "creature")->required();
    sheet->add_option("--out", g.proof.out, ".pdf or .png")->required();
    sheet->add_option("--profile", g.proof.profile, "printer profile; left out: the creature's");
    sheet->add_option("--height", g.proof.height, "mm of the print; left out: the creature's")
        ->check(CLI::Range(0.1f, 100000.0f));
    sheet->add_option("--samples", g.proof.samples, "of each pixel of its pictures")
        ->check(CLI::Range(1, 4096))
        ->capture_default_str();
    sheet->callback([&g] { g.result = cli::printSheet(g.proof); });

    auto *slice = app.add_subcommand("slice", "Layers for a printer: areas, outlines, islands");
    slice->add_option("IN", g.slice.in, "creature or mesh file (mm)")->required();
    slice->add_option("--layer", g.slice.layer, "mm")->check(CLI::Range(0.005f, 10.0f))->capture_default_str();
    slice->add_option("--height", g.slice.height, "mm of the print; left out: as it is")->check(CLI::Range(0.1f, 100000.0f));
    slice->add_option("--pixel", g.slice.pixel, "mm of a picture's pixels")
        ->check(CLI::Range(0.01f, 10.0f))
        ->capture_default_str();
    slice->add_option("--out", g.slice.out, ".svg file of outlines, or a folder for a PNG of each layer and layers.json");
    slice->add_flag("--json", g.slice.json, "tells each layer");
    slice->callback([&g] { g.result = cli::slice(g.slice); });
}

/// Verbs that make what a printer takes.
void addPrinting(CLI::App &app, Given &g)
{
    const auto verb = [&](const char *name, const char *text) {
        auto *v = app.add_subcommand(name, text);
        v->add_option("IN", g.print.inputs, "creatures or mesh files (mm); all of it becomes one body first")->required();
        v->add_option("--out", g.print.out, "mesh file or .bonemoss")->required();
        v->add_option("--height", g.print.height, "mm of the print; left out: as it is")->check(CLI::Range(0.1f, 100000.0f));
        v->add_flag("--keep-pockets", g.print.keepsPockets, "closed hollows are not filled");
        v->add_flag("--json", g.print.json, "what was made, as JSON");
        return v;
    };
    verb("solid", "One closed body without anything inside it")->callback([&g] { g.result = cli::solid(g.print); });
    // Their options are the parameters of the commands.
    for (const auto &[name, does] : {std::pair{"hollow", "print.hollow"},
                                     {"base", "print.base"},
                                     {"part-for-print", "print.part"},
                                     {"orient", "print.orient"},
                                     {"supports", "print.supports"},
                                     {"drill", "print.drill"},
                                     {"thicken", "print.thicken"},
                                     {"flatten", "print.flatten"}}) {
        const command::CommandSpec &spec = *command::findCommand(does);
        auto *v = verb(name, spec.description.c_str());
        v->add_option("--profile", g.print.profile, "printer profile, or a .json file of one; left out: the creature's");
        for (const command::ParamSpec &p : spec.params)
            if (p.name != "piece" && p.name != "name")
                v->add_option("--" + p.name, g.values[p.name],
                              p.description + (p.unit.empty() ? "" : ", " + p.unit)
                                  + (p.kind == command::ParamKind::Point ? ", as x,y,z" : ""));
        v->callback([&g, &spec] {
            Command command{{"do", spec.name}};
            for (const command::ParamSpec &p : spec.params)
                if (const auto it = g.values.find(p.name); it != g.values.end() && !it->second.empty())
                    command[p.name] = p.kind == command::ParamKind::Choice ? Command(it->second)
                                      : p.kind == command::ParamKind::Point
                                          ? Command::parse("[" + it->second + "]", nullptr, false)
                                          : Command::parse(it->second, nullptr, false);
            g.result = cli::makeForPrint(g.print, command);
        });
    }
}

/// Verbs about what the program's tables have.
void addTables(CLI::App &app, Given &g)
{
    auto *outgrowth = app.add_subcommand("outgrowth", "Kinds of outgrowths and their settings");
    outgrowth->add_flag("--list", g.lists, "all kinds: name, unit, range and default of each setting")->required();
    outgrowth->add_flag("--json", g.json, "as JSON");
    outgrowth->callback([&g] { g.result = cli::listOutgrowths(g.json); });
}

/// Verbs that give meshes new faces.
void addReworkers(CLI::App &app, Given &g)
{
    const auto verb = [&](const char *name, const char *text, bool many) {
        auto *v = app.add_subcommand(name, text);
        if (many)
            v->add_option("IN", g.inputs, "creatures or mesh files (mm)")->required();
        else
            v->add_option("IN", g.in, "creature or mesh file (mm)")->required();
        v->add_option("--out", g.out, "mesh file or .bonemoss")->required();
        v->add_flag("--json", g.json, "measures of the result as JSON");
        return v;
    };
    auto *boolean = verb("boolean", "Exact join, cut or common part of solids", true);
    boolean->add_option("--how", g.how, "join, cut, common")
        ->check(CLI::IsMember({"join", "cut", "common"}))
        ->capture_default_str();
    boolean->callback([&g] {
        g.result =
            cli::rework(g.inputs, g.out, Command{{"do", "pieces.combine"}, {"how", g.how}, {"pieces", Command::array()}}, g.json);
    });
    auto *split = verb("split", "Islands as pieces of their own", false);
    split->callback([&g] { g.result = cli::rework({g.in}, g.out, Command{{"do", "piece.split"}, {"by", "islands"}}, g.json); });
    auto *shell = verb("shell", "A closed plate of an open sheet", false);
    shell->add_option("--thickness", g.thickness, "mm")->required()->check(CLI::PositiveNumber);
    shell->add_option("--side", g.side, "raised, sunk, centred")->check(CLI::IsMember({"raised", "sunk", "centred"}));
    shell->add_option("--rim", g.rim, "square, round")->check(CLI::IsMember({"square", "round"}));
    shell->callback([&g] {
        g.result =
            cli::rework({g.in}, g.out,
                        Command{{"do", "piece.solidify"}, {"thickness", g.thickness}, {"side", g.side}, {"rim", g.rim}}, g.json);
    });
    auto *simplify = verb("simplify", "Fewer triangles of the same shape", false);
    simplify->add_option("--faces", g.count, "triangles wanted, met within 1 %")->required()->check(CLI::PositiveNumber);
    simplify->callback([&g] {
        g.result = cli::rework({g.in}, g.out, Command{{"do", "piece.simplify"}, {"faces", g.count}}, g.json);
    });
    auto *repair = verb("repair", "Reads with repairs told, and closes holes", false);
    repair->add_flag("--smooth", g.smooth, "holes go on with the curvature around them");
    repair->callback([&g] {
        g.result = cli::rework({g.in}, g.out, Command{{"do", "piece.repair"}, {"smooth", g.smooth}}, g.json);
    });
    auto *project = verb("project", "Lays new faces on the shape of another mesh", false);
    project->add_option("ONTO", g.onto, "whose shape it takes")->required();
    project->callback([&g] { g.result = cli::rework({g.in, g.onto}, g.out, Command{{"do", "piece.project"}}, g.json); });
}

} // namespace

int main(int argc, char **argv)
{
    keepFreedMemory();
    CLI::App app{"Bone Moss without a window: measure, knit, replay, convert and render creatures.", "bonemoss-cli"};
    app.set_version_flag("--version", BONEMOSS_VERSION);
    app.require_subcommand(1);
    Given given;
    addMakers(app, given);
    addPictures(app, given);
    addColours(app, given);
    addPose(app, given);
    addProof(app, given);
    addTables(app, given);
    addLookers(app, given);
    addReworkers(app, given);
    addPrinting(app, given);
    auto *schema = app.add_subcommand("schema", "JSON Schema of every command of the recipe format");
    schema->callback([&] { given.result = cli::schema(); });

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError &e) {
        return app.exit(e) == 0 ? cli::kDone : cli::kUsage;
    } catch (...) { // the one place where an exception of a verb ends
        fmt::print(stderr, "bonemoss-cli: {}\n", errorInFlight({}).text());
        return cli::kFailed;
    }
    return given.result;
}
