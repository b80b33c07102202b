#include "export/print_sheet.h"

#include "document/items.h"
#include "document/ops/posing.h"
#include "export/plate.h"

#include <fmt/format.h>

#include <algorithm>
#include <memory>

namespace bonemoss::exporting {

namespace {

constexpr float kLeft = 18, kRight = 192, kTop = 22, kBottom = 284;
constexpr Vec3f kInk{0.13f, 0.12f, 0.11f}, kFaint{0.55f, 0.53f, 0.5f};
constexpr std::array<Vec3f, 3> kSeverityColours{{{0.76f, 0.27f, 0.18f}, {0.84f, 0.6f, 0.23f}, {0.5f, 0.56f, 0.59f}}};

struct Sheet {
    std::string title;
    PlateSheet views;
    proof::PrinterProfile profile;
    proof::Report report;
    std::vector<std::string> parts; ///< name and size of each piece that is printed
};

std::string valueWords(const proof::Finding &f)
{
    return f.value >= 100 ? fmt::format("{:.0f} {}", f.value, f.kind->unit) : fmt::format("{:.2g} {}", f.value, f.kind->unit);
}

/// The three views in a row, at one scale, with the size of the print below.
float drawViews(Canvas &c, const Sheet &s, float y)
{
    float wide = 0, high = 0;
    for (const PlateView &v : s.views.views)
        wide += v.width, high = std::max(high, v.height);
    const float gap = 8, scale = std::min((kRight - kLeft - 2 * gap) / std::max(wide, 1e-3f), 80 / std::max(high, 1e-3f));
    float x = kLeft + (kRight - kLeft - wide * scale - 2 * gap) / 2;
    const std::array<std::string, 3> sizes{fmt::format("{:.1f} mm long, {:.1f} mm high", s.report.size.z, s.report.size.y),
                                           fmt::format("{:.1f} mm wide", s.report.size.x), "from above"};
    for (std::size_t k = 0; k < 3; ++k) {
        const PlateView &v = s.views.views[k];
        const float w = v.width * scale, h = v.height * scale;
        c.picture({x, y + (high * scale - h)}, w, v.picture);
        c.words({x + w / 2, y + high * scale + 6}, sizes[k], {.size = 3, .colour = kInk, .anchor = 0.5f});
        x += w + gap;
    }
    return y + high * scale + 14;
}

float drawRows(Canvas &c, float y, const std::vector<std::pair<std::string, std::string>> &rows)
{
    for (const auto &[name, value] : rows) {
        c.words({kLeft, y}, name, {.size = 3.2f, .colour = kFaint});
        for (const std::string &line : c.wrapped(value, {.size = 3.4f}, kRight - kLeft - 42)) {
            c.words({kLeft + 42, y}, line, {.size = 3.4f, .colour = kInk});
            y += 5.2f;
        }
    }
    return y + 3;
}

void drawFindings(Canvas &c, const Sheet &s, float y)
{
    c.words({kLeft, y}, s.report.findings.empty() ? "Nothing was found." : "Findings that are left",
            {.size = 4.4f, .colour = kInk});
    y += 7;
    // Of each kind how many, and the first of them: the worst as the report has it.
    std::vector<std::pair<const proof::Finding *, std::size_t>> kinds;
    for (const proof::Finding &f : s.report.findings) {
        const auto at = std::find_if(kinds.begin(), kinds.end(),
                                     [&](const auto &k) { return k.first->kind == f.kind && k.first->severity == f.severity; });
        if (at == kinds.end())
            kinds.emplace_back(&f, 1);
        else
            ++at->second;
    }
    for (const auto &[f, count] : kinds) {
        if (y > kBottom)
            return;
        c.dot({kLeft + 1.2f, y - 1.1f}, 1.2f, kSeverityColours[std::size_t(f->severity)]);
        c.words({kLeft + 5, y}, std::string(f->kind->title), {.size = 3.4f, .colour = kInk});
        c.words({kLeft + 66, y}, count == 1 ? "once" : fmt::format("{} times", count), {.size = 3.4f, .colour = kInk});
        c.words({kLeft + 88, y}, valueWords(*f), {.size = 3.4f, .colour = kInk});
        c.words({kLeft + 116, y}, f->piece, {.size = 3.4f, .colour = kFaint});
        c.words({kRight, y}, std::string(proof::kSeverityNames[std::size_t(f->severity)]),
                {.size = 3.4f, .colour = kFaint, .anchor = 1});
        y += 4.6f;
        for (const std::string &line : c.wrapped(std::string(f->kind->hint) + ". " + std::string(f->kind->mend) + ".",
                                                 {.size = 2.9f}, kRight - kLeft - 5)) {
            c.words({kLeft + 5, y}, line, {.size = 2.9f, .colour = kFaint});
            y += 4.2f;
        }
        y += 1.6f;
    }
}

void draw(Canvas &c, const Sheet &s)
{
    c.box({0, 0}, 210, 297, {1, 1, 1});
    c.words({kLeft, kTop}, s.title, {.size = 8, .colour = kInk});
    c.words({kRight, kTop}, s.report.isSound() ? "sound" : "not sound",
            {.size = 4, .colour = s.report.isSound() ? Vec3f{0.3f, 0.45f, 0.2f} : kSeverityColours[0], .anchor = 1});
    c.line({{kLeft, kTop + 4}, {kRight, kTop + 4}}, 0.3f, kInk);
    float y = drawViews(c, s, kTop + 10);
    const proof::Report &r = s.report;
    std::string parts;
    for (const std::string &p : s.parts)
        parts += (parts.empty() ? "" : ", ") + p;
    const proof::PrinterProfile &p = s.profile;
    y = drawRows(
        c, y,
        {{"Printer",
          fmt::format("{}: layers of {:.3g} mm, walls from {:.3g} mm, gaps from {:.3g} mm", p.title, p.layer, p.wall, p.gap)},
         {"Material", fmt::format("{:.1f} cm3, {:.0f} g; it costs {:.2f}", r.volumeMm3 / 1000, r.weightG, r.cost)},
         {"Time", fmt::format("{} layers, about {:.1f} h", r.layers, r.hours)},
         {"Stands", r.stands ? fmt::format("by itself, {:.1f} mm from tipping", r.marginMm) : std::string("not by itself")},
         {"Thinnest place", r.leastThicknessMm > 0 ? fmt::format("{:.2f} mm", r.leastThicknessMm) : std::string("not measured")},
         {"Parts", parts}});
    drawFindings(c, s, y + 4);
}

} // namespace

Result<Page> printSheet(const document::Creature &creature, const proof::PrinterProfile &profile, const proof::Report &report,
                        const PrintSheetOptions &options, const Progress &progress)
{
    auto views = plateOf(creature, {.dpi = 150, .samples = options.samples, .seed = options.seed}, progress);
    if (!views)
        return views.error();
    auto sheet = std::make_shared<Sheet>();
    sheet->views = std::move(*views), sheet->profile = profile, sheet->report = report;
    sheet->title = creature.stage.plate.name.empty() ? std::string("Print sheet") : creature.stage.plate.name;
    for (const auto &piece : creature.pieces)
        if (document::isVisible(*piece)) {
            const Vec3f size = piece->skin.shown.box().size() * report.scale;
            sheet->parts.push_back(fmt::format("{} ({:.0f} x {:.0f} x {:.0f} mm)", piece->name, size.x, size.y, size.z));
        }
    return Page{210, 297, [sheet](Canvas &c) { draw(c, *sheet); }};
}

} // namespace bonemoss::exporting
