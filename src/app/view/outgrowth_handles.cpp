#include "app/view/outgrowth_handles.h"

#include "document/ops/outgrowths.h"
#include "outgrowth/shapes.h"

#include <array>
#include <cmath>

namespace bonemoss::app {

using outgrowth::Outgrowth;
using outgrowth::Setting;

namespace {

/// Which settings a handle changes: of each group the first that the kind has.
std::vector<std::size_t> settingsOf(const outgrowth::Kind &kind, OutgrowthHandle which)
{
    using Group = std::vector<std::string_view>;
    static const std::vector<Group> tip{{"length", "height", "radius"}, {"lean", "lift"}, {"splay"}},
        middle{{"expansion", "curve"}, {"bearing", "spread"}};
    std::vector<std::size_t> out;
    for (const Group &group : which == OutgrowthHandle::Tip ? tip : middle)
        for (const std::string_view name : group) {
            const auto it =
                std::find_if(kind.settings.begin(), kind.settings.end(), [&](const Setting &s) { return s.name == name; });
            if (it == kind.settings.end())
                continue;
            out.push_back(std::size_t(it - kind.settings.begin()));
            break;
        }
    return out;
}

/// Settings over a wide range go by their logarithm.
bool isWide(const Setting &s)
{
    return s.min > 0 && s.max > 50 * s.min;
}

float moved(const Setting &s, float value, float steps)
{
    constexpr float kStep = 0.01f; // of the range
    const float next = isWide(s) ? value * std::pow(s.max / s.min, kStep * steps) : value + (s.max - s.min) * kStep * steps;
    return std::clamp(next, s.min, s.max);
}

/// Solves a x = b for up to three unknowns; a: symmetric and positive.
std::array<float, 3> solved(std::array<std::array<float, 3>, 3> a, std::array<float, 3> b, std::size_t n)
{
    for (std::size_t k = 0; k < n; ++k)
        for (std::size_t row = k + 1; row < n; ++row) {
            const float times = a[row][k] / a[k][k];
            for (std::size_t c = k; c < n; ++c)
                a[row][c] -= times * a[k][c];
            b[row] -= times * b[k];
        }
    for (std::size_t k = n; k-- > 0;) {
        for (std::size_t c = k + 1; c < n; ++c)
            b[k] -= a[k][c] * b[c];
        b[k] /= a[k][k];
    }
    return b;
}

} // namespace

std::optional<Vec3f> handleOf(const Outgrowth &o, OutgrowthHandle which)
{
    if (o.kind->rooting != outgrowth::Rooting::Point || o.made->members.empty() || settingsOf(*o.kind, which).empty())
        return {};
    const outgrowth::Member &m = o.made->members.front();
    const auto &points = o.made->shapes[m.shape]->positions; // section by section
    if (which == OutgrowthHandle::Tip)
        return m.place.apply(points.back());
    const std::size_t some = std::max<std::size_t>(points.size() / 24, 1), from = (points.size() - some) / 2;
    Vec3f sum;
    for (std::size_t i = from; i < from + some; ++i)
        sum += points[i];
    return m.place.apply(sum * (1 / float(some)));
}

Outgrowth draggedTo(const document::Creature &creature, const Outgrowth &o, OutgrowthHandle which, Vec3f to)
{
    const std::vector<std::size_t> settings = settingsOf(*o.kind, which);
    const std::size_t n = settings.size();
    Outgrowth best = o;
    const auto handleWith = [&](const std::vector<float> &values) -> std::optional<Vec3f> {
        Outgrowth tried = o;
        tried.values = values;
        Operation context;
        const auto made = document::regrown(creature, std::move(tried), context);
        return made ? handleOf(*made, which) : std::nullopt;
    };
    auto now = handleOf(o, which);
    for (int pass = 0; pass < 3 && now; ++pass) {
        const Vec3f wanted = to - *now;
        std::array<Vec3f, 3> slope{};
        for (std::size_t k = 0; k < n; ++k) {
            std::vector<float> values = best.values;
            const Setting &s = o.kind->settings[settings[k]];
            const float up = moved(s, values[settings[k]], 1), way = up != values[settings[k]] ? 1.0f : -1.0f; // at its end: back
            values[settings[k]] = moved(s, values[settings[k]], way);
            const auto there = handleWith(values);
            if (!there)
                return best;
            slope[k] = (*there - *now) * way;
        }
        std::array<std::array<float, 3>, 3> a{};
        std::array<float, 3> b{};
        for (std::size_t r = 0; r < n; ++r) {
            for (std::size_t c = 0; c < n; ++c)
                a[r][c] = dot(slope[r], slope[c]);
            a[r][r] += 0.02f * a[r][r] + 1e-6f;
            b[r] = dot(slope[r], wanted);
        }
        const std::array<float, 3> steps = solved(a, b, n);
        std::vector<float> values = best.values;
        for (std::size_t k = 0; k < n; ++k)
            values[settings[k]] = moved(o.kind->settings[settings[k]], values[settings[k]], std::clamp(steps[k], -12.0f, 12.0f));
        const auto next = handleWith(values);
        if (!next || length(to - *next) >= length(wanted))
            break;
        best.values = std::move(values);
        now = next;
    }
    return best;
}

namespace {

/// How high the knob of size 1 stands, mm: over the members, and in sight where they are low.
float reachOf(const Outgrowth &o)
{
    return 1.25f * std::max({o.value("height"), o.value("length"), 0.5f});
}

} // namespace

std::vector<ProfileKnob> profileOf(const Outgrowth &o)
{
    constexpr std::size_t kKnobs = 7;
    std::vector<ProfileKnob> out;
    if (o.kind->rooting != outgrowth::Rooting::Line || o.roots.size() < 2 || (o.value("height") <= 0 && o.value("length") <= 0))
        return out;
    const outgrowth::Track track(o.roots);
    for (std::size_t k = 0; k < kKnobs; ++k) {
        const float t = float(k) / float(kKnobs - 1);
        Vec3f forward;
        const outgrowth::Root root = track.at(t * track.whole(), forward);
        const float size = outgrowth::profileAt(o, t);
        out.push_back({root.at, root.normal, root.at + root.normal * (reachOf(o) * size), size});
    }
    return out;
}

std::vector<float> profileDragged(const Outgrowth &o, std::size_t knob, const mesh::Ray &ray)
{
    const std::vector<ProfileKnob> knobs = profileOf(o);
    std::vector<float> out;
    for (const ProfileKnob &k : knobs)
        out.push_back(k.size);
    const Vec3f up = knobs[knob].up, from = knobs[knob].root - ray.origin;
    const float slant = dot(up, ray.direction), square = 1 - slant * slant;
    if (square > 1e-3f)
        out[knob] = std::clamp((slant * dot(ray.direction, from) - dot(up, from)) / square / reachOf(o), 0.05f, 3.0f);
    return out;
}

} // namespace bonemoss::app
