// A paint plan as pages to print.
#include "colour/palette.h"
#include "export/canvas.h"
#include "export/paint_plan.h"
#include "portrait/camera.h"

#include <fmt/format.h>

#include <algorithm>

namespace bonemoss::exporting {

namespace {

constexpr float kLeft = 15, kTop = 18, kWide = 180, kBottom = 284; // mm on A4
constexpr Vec3f kInk{0.17f, 0.15f, 0.13f}, kFrame{0.6f, 0.57f, 0.5f};

std::string mixWords(const colour::Mix &mix, const std::vector<skin::PaletteColour> &paints)
{
    std::string out;
    for (const colour::Mix::Part &p : mix.parts)
        out += fmt::format("{}{} {}", out.empty() ? "" : " + ", p.parts, paints[p.paint].name);
    return out;
}

void swatch(Canvas &c, float x, float y, float w, float h, Vec3f colour)
{
    c.box({x, y}, w, h, colour);
    c.line({{x, y}, {x + w, y}, {x + w, y + h}, {x, y + h}}, 0.18f, kFrame, true);
}

float heightOf(const image::ColourPicture &p, float width)
{
    return width * float(p.height) / float(std::max(1, p.width));
}

/// Heading and the six views.
void drawHead(Canvas &c, const PaintPlan &plan)
{
    c.words({kLeft, kTop}, "Paint plan: " + plan.name, {.size = 7, .colour = kInk});
    c.words({kLeft, kTop + 6},
            fmt::format("{} colours, {:g} mm high. From the base to the accents; parts by volume.", plan.colours.size(),
                        plan.heightMm),
            {.size = 3.4f, .colour = kInk});
    const auto &views = portrait::anatomicalViews();
    const float w = kWide / 3;
    float y = kTop + 10;
    for (std::size_t v = 0; v < plan.views.size(); ++v) {
        const float h = heightOf(plan.views[v], w - 2), x = kLeft + w * float(v % 3);
        c.picture({x, y}, w - 2, plan.views[v]);
        c.words({x, y + h + 3.4f}, std::string(views[v].title), {.size = 2.8f, .colour = kInk});
        if (v % 3 == 2 || v + 1 == plan.views.size())
            y += h + 6;
    }
}

void drawColour(Canvas &c, const PaintPlan &plan, std::size_t k, float y, float rowHeight)
{
    const PlannedColour &colour = plan.colours[k];
    constexpr float kText = kLeft + 24;
    swatch(c, kLeft, y, 20, rowHeight - 3, colour.colour);
    c.words({kText, y + 3.2f},
            fmt::format("{}   {}   {:.1f} % of the surface", k + 1, colour::hexOf(colour.colour), 100 * colour.share),
            {.size = 3.6f, .colour = kInk});
    swatch(c, kText, y + 5, 3.2f, 3, colour.mix.colour);
    c.words({kText + 5, y + 7.6f},
            mixWords(colour.mix, plan.paints) + (colour.mix.difference > 0.03f ? "   (the nearest mix; it differs visibly)" : ""),
            {.size = 3.3f, .colour = kInk});
    c.picture({kText, y + 9.5f}, kWide - 24, plan.places[k]);
}

} // namespace

Status writePaintPlan(const std::filesystem::path &path, const PaintPlan &plan)
{
    struct Row {
        std::size_t colour;
        float y, height;
    };
    std::vector<std::vector<Row>> rows(1);
    float y = kTop + 12; // where the head ends
    for (std::size_t v = 0; v < plan.views.size(); v += 3)
        y += heightOf(plan.views[v], kWide / 3 - 2) + 6;
    for (std::size_t k = 0; k < plan.colours.size(); ++k) {
        const float h = 13 + heightOf(plan.places[k], kWide - 24);
        if (y + h > kBottom)
            rows.emplace_back(), y = kTop;
        rows.back().push_back({k, y, h});
        y += h;
    }
    std::vector<Page> pages;
    for (std::size_t p = 0; p < rows.size(); ++p)
        pages.push_back({210, 297, [&plan, &rows, p](Canvas &c) {
                             if (p == 0)
                                 drawHead(c, plan);
                             for (const Row &r : rows[p])
                                 drawColour(c, plan, r.colour, r.y, r.height);
                         }});
    return writePages(path, pages, "Paint plan: " + plan.name, 200);
}

} // namespace bonemoss::exporting
