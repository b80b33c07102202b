// A natural-history plate as a page.
#include "base/noise.h"
#include "base/types.h"
#include "export/plate.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bonemoss::exporting {

namespace {

constexpr float kWide = 297, kHigh = 210;

/// The paper's colour, a little uneven and with a few fibres.
image::ColourPicture paperOf(const portrait::PlatePaper &paper)
{
    constexpr int kAcross = 594, kDown = 420;
    image::ColourPicture out{kAcross, kDown, std::vector<std::uint8_t>(std::size_t(kAcross) * kDown * 4, 255)};
    for (int y = 0; y < kDown; ++y)
        for (int x = 0; x < kAcross; ++x) {
            const Vec3f p{float(x), float(y), 0};
            const float cloud = noiseAt(p, 90, 3) * 0.6f + noiseAt(p, 17, 4) * 0.3f + noiseAt(p, 2.5f, 5) * 0.35f;
            const float fibre = noiseAt({float(x) * 0.25f, float(y) * 2.2f, 7}, 6, 6);
            const float v = paper.mottle * (cloud + (fibre > 0.62f ? -0.8f : 0));
            const std::array<float, 3> c{paper.paper.x + v, paper.paper.y + v, paper.paper.z + v * 1.2f};
            for (std::size_t k = 0; k < 3; ++k)
                out.rgba[(std::size_t(y) * kAcross + std::size_t(x)) * 4 + k] =
                    std::uint8_t(std::clamp(c[k], 0.0f, 1.0f) * 255 + 0.5f);
        }
    return out;
}

std::string lengthWords(float mm)
{
    return mm >= 1000 ? fmt::format("{:g} m", std::round(mm / 10) / 100) : fmt::format("{:g} mm", std::round(mm * 10) / 10);
}

/// The round length nearest below: 1, 2 or 5 times a power of ten.
float roundLength(float mm)
{
    const float ten = std::pow(10.0f, std::floor(std::log10(std::max(mm, 1e-6f))));
    return mm >= 5 * ten ? 5 * ten : mm >= 2 * ten ? 2 * ten : ten;
}

/// Words in a row, each as near above or below its place as the others leave room.
void drawLabels(Canvas &c, const PlateSheet &s, std::vector<const PlateLabel *> labels, float baseline, bool isAbove, float left,
                float right)
{
    if (labels.empty())
        return;
    std::sort(labels.begin(), labels.end(), [](const auto *a, const auto *b) { return a->place.x < b->place.x; });
    Words how{.size = 3.3f, .colour = s.paper->ink, .anchor = 0.5f};
    std::vector<float> x, half;
    float all = 0;
    for (const PlateLabel *l : labels)
        half.push_back(c.widthOf(l->text, how) / 2 + 1.4f), all += 2 * half.back(), x.push_back(l->place.x);
    if (all > right - left) { // too many for a line: smaller
        const float by = (right - left) / all;
        how.size *= by;
        for (float &h : half)
            h *= by;
    }
    float free = left;
    for (std::size_t k = 0; k < x.size(); ++k)
        x[k] = std::max(x[k], free + half[k]), free = x[k] + half[k];
    free = right;
    for (std::size_t k = x.size(); k-- > 0;)
        x[k] = std::min(x[k], free - half[k]), free = x[k] - half[k];
    for (std::size_t k = 0; k < x.size(); ++k) {
        const PlateLabel &l = *labels[k];
        c.words({x[k], baseline}, l.text, how);
        const float from = isAbove ? baseline + 1.2f : baseline - 0.72f * how.size - 0.6f;
        c.line({{x[k], from}, l.place}, 0.16f, s.paper->line);
        c.dot(l.place, 0.42f, s.paper->ink);
    }
}

void drawViews(Canvas &c, const PlateSheet &s)
{
    for (const PlateView &v : s.views)
        c.picture(v.corner, v.width, v.picture);
    for (std::size_t v = 0; v < s.views.size(); ++v) {
        std::vector<const PlateLabel *> above, below;
        const PlateView &view = s.views[v];
        for (const PlateLabel &l : s.labels)
            if (l.view == v)
                (v != 2 && l.place.y < view.corner.y + view.height * 0.55f ? above : below).push_back(&l);
        const float left = v == 1 ? 191.0f : 12.0f, right = v == 0 ? 189.0f : v == 1 ? 247.0f : 180.0f;
        drawLabels(c, s, above, view.corner.y - 4, true, left, right);
        drawLabels(c, s, below, view.corner.y + view.height + 6.5f, false, left, right);
    }
}

void drawScale(Canvas &c, const PlateSheet &s)
{
    const float mm = roundLength(40 / s.scale), wide = mm * s.scale, x = 219 - wide / 2, y = 121;
    c.box({x, y}, wide / 2, 1.1f, s.paper->ink);
    c.line({{x, y}, {x + wide, y}, {x + wide, y + 1.1f}, {x, y + 1.1f}}, 0.2f, s.paper->ink, true);
    c.words({x, y + 4.6f}, "0", {.size = 3.2f, .colour = s.paper->ink, .anchor = 0.5f});
    c.words({x + wide, y + 4.6f}, lengthWords(mm), {.size = 3.2f, .colour = s.paper->ink, .anchor = 0.5f});
}

/// The silhouette beside something known.
void drawKnownSize(Canvas &c, const PlateSheet &s)
{
    constexpr float kLeft = 186, kRoom = 60, kTall = 32, kFoot = 164;
    if (!s.beside->outline)
        return;
    float known = 0;
    const auto outlines = s.beside->outline();
    for (const auto &o : outlines)
        for (const auto &p : o)
            known = std::max(known, p[0] * s.beside->height);
    const float gap = 0.08f * (s.animalWidth + known);
    const float scale = std::min(kTall / std::max(s.animalHeight, s.beside->height), kRoom / (s.animalWidth + gap + known));
    const float wide = s.animalWidth * scale, high = s.animalHeight * scale;
    c.picture({kLeft, kFoot - high}, wide, s.silhouette);
    std::vector<Outline> shapes;
    for (const auto &o : outlines) {
        Outline &shape = shapes.emplace_back();
        for (const auto &p : o)
            shape.push_back(
                {kLeft + wide + gap * scale + p[0] * s.beside->height * scale, kFoot - p[1] * s.beside->height * scale});
    }
    c.fill(shapes, s.paper->line);
    c.line({{kLeft - 1, kFoot}, {kLeft + kRoom + 1, kFoot}}, 0.16f, s.paper->line);
    c.words({kLeft + kRoom / 2, kFoot + 5},
            fmt::format("{} high, beside a {}", lengthWords(s.animalHeight), s.beside->id), // as one says it
            {.size = 2.9f, .colour = s.paper->ink, .anchor = 0.5f});
}

/// Circles below each other on the right, each with a letter that stands beside its place too.
void drawDetails(Canvas &c, const PlateSheet &s)
{
    constexpr float kMiddle = 266, kTop = 20, kRoom = 154, kWords = 8;
    if (s.details.empty())
        return;
    const float n = float(s.details.size()), step = std::min(kRoom / n, 48.0f), radius = std::min(17.0f, (step - kWords) / 2);
    float y = kTop + (kRoom - step * n) / 2;
    for (std::size_t k = 0; k < s.details.size(); ++k, y += step) {
        const PlateDetail &d = s.details[k];
        const PagePoint at{kMiddle, y + radius + 1};
        const std::string mark(1, char('a' + k % 26));
        c.circle(d.place, d.radius, 0.22f, s.paper->ink);
        c.words({d.place.x + d.radius * 0.75f + 0.6f, d.place.y - d.radius * 0.75f}, mark,
                {.size = 3.2f, .colour = s.paper->ink, .isItalic = true});
        c.picture({at.x - radius, at.y - radius}, 2 * radius, d.picture, true);
        c.circle(at, radius, 0.35f, s.paper->ink);
        c.circle(at, radius + 0.8f, 0.14f, s.paper->line);
        c.words({at.x, at.y + radius + 4.6f}, d.text.empty() ? mark : mark + ".  " + d.text,
                {.size = 3.2f, .colour = s.paper->ink, .isItalic = true, .anchor = 0.5f});
    }
}

void drawWords(Canvas &c, const PlateSheet &s)
{
    Words name{.size = 8.5f, .colour = s.paper->ink, .anchor = 0.5f};
    while (c.widthOf(s.name, name) > 250 && name.size > 3)
        name.size *= 0.95f;
    c.words({kWide / 2, 184}, s.name, name);
    c.words({kWide / 2, 190.2f}, s.latin, {.size = 5, .colour = s.paper->ink, .isItalic = true, .anchor = 0.5f});
    Words small{.size = 3.4f, .colour = s.paper->ink, .anchor = 0.5f};
    std::vector<std::string> lines = c.wrapped(s.caption, small, 240);
    while (lines.size() > 2 && small.size > 2)
        small.size *= 0.93f, lines = c.wrapped(s.caption, small, 250);
    float y = 195.2f;
    for (const std::string &line : lines)
        c.words({kWide / 2, y}, line, small), y += small.size * 1.18f;
}

} // namespace

Page plateAsPage(const PlateSheet &sheet)
{
    return {
        kWide, kHigh, [sheet](Canvas &c) {
            if (sheet.paper->mottle > 0)
                c.picture({0, 0}, kWide, paperOf(*sheet.paper));
            else
                c.box({0, 0}, kWide, kHigh, sheet.paper->paper);
            const auto frame = [&](float in, float width) {
                c.line({{in, in}, {kWide - in, in}, {kWide - in, kHigh - in}, {in, kHigh - in}}, width, sheet.paper->line, true);
            };
            frame(7, 0.5f), frame(8.4f, 0.16f);
            drawViews(c, sheet);
            drawScale(c, sheet);
            drawKnownSize(c, sheet);
            drawDetails(c, sheet);
            drawWords(c, sheet);
        }};
}

} // namespace bonemoss::exporting
