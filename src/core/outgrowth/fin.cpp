// Fins: skin stretched between spines along a line.
#include "outgrowth/shapes.h"

#include <algorithm>

namespace bonemoss::outgrowth {

/// Height of a hanging chain over its lowest point, at x from -1 to 1 between ends that are 2 apart, with that sag: y = a (cosh(x / a) - 1),
/// a found by Newton's method from a (cosh(1 / a) - 1) = sag.
float chainHeight(float x, float sag)
{
    if (sag < 1e-4f)
        return 0;
    float a = 0.5f / sag; // of the parabola
    for (int k = 0; k < 12; ++k) {
        const float f = a * (std::cosh(1 / a) - 1) - sag, slope = std::cosh(1 / a) - 1 - std::sinh(1 / a) / a;
        a = std::clamp(a - f / slope, 0.08f, 1e4f);
    }
    return a * (std::cosh(x / a) - 1);
}

void oneFin(const Input &in, std::vector<Spot> &out)
{
    if (in.rule.roots.size() < 2)
        return;
    Spot s;
    s.root = in.rule.roots.front();
    if (in.about.plane && in.about.planeNormal)
        s.isOnPlane = std::all_of(in.rule.roots.begin(), in.rule.roots.end(), [&](const Root &r) {
            return std::abs(dot(r.at - *in.about.plane, *in.about.planeNormal)) < 0.6f;
        });
    out.push_back(s);
}

/// In the frame of its first root: a sheet of even columns between spines, its rim hanging from spine to spine like a chain.
mesh::PolyMesh finShape(const Input &in, const Variation &)
{
    const Track track(in.rule.roots);
    const int spines = std::max(2, in.count("spines"));
    constexpr std::uint32_t kBetween = 8, kUp = 10;
    const std::uint32_t columns = std::uint32_t(spines - 1) * kBetween;
    const float whole = track.whole(), gap = whole / float(spines - 1);
    const float high = in.value("height"), thick = in.value("thickness"), rib = in.value("ribs"), torn = in.value("torn"),
                lean = in.value("lean") * kRadiansPerDegree, deep = in.value("sink") + 0.2f * thick, folds = in.value("folds");
    const io::Placement frame = frameAt(in.rule.roots.front(), {0, 0, 1});
    const auto own = [&](Vec3f p) { // in that frame
        const Vec3f d = p - in.rule.roots.front().at;
        return Vec3f{dot(d, {frame.m[0], frame.m[1], frame.m[2]}), dot(d, {frame.m[3], frame.m[4], frame.m[5]}),
                     dot(d, {frame.m[6], frame.m[7], frame.m[8]})};
    };
    mesh::PolyMesh out;
    for (const float side : {1.0f, -1.0f})
        for (std::uint32_t k = 0; k <= kUp; ++k)
            for (std::uint32_t i = 0; i <= columns; ++i) {
                const float u = float(i) / float(columns), v = float(k) / float(kUp);
                Vec3f forward;
                const Root root = track.at(u * whole, forward);
                const Vec3f up = normalized(root.normal - forward * dot(root.normal, forward)), aside = cross(up, forward);
                const std::uint32_t place = i % kBetween, spine = i / kBetween;
                const float x = float(place) / kBetween * 2 - 1;
                const float even =
                    std::lerp(in.profileAt(float(spine) / float(spines - 1)),
                              in.profileAt(float(spine + (place > 0)) / float(spines - 1)), float(place) / kBetween);
                // The chain hangs between two ends that are a gap apart; lower than half the fin it does not come.
                const float sag = in.value("sag");
                float fall = (sag - chainHeight(x, sag)) * gap / 2;
                fall = place == 0 ? 0 : std::min(fall, 0.6f * high * even);
                const float tear =
                    torn * std::max(0.0f, waver(std::uint64_t(in.rule.seed) << 8, float(i) * 0.9f)) * float(place != 0);
                const float tip = std::max(high * even - fall, 0.05f * high) * (1 - 0.5f * tear);
                const float isSpine = std::max(0.0f, 1 - std::abs(x < 0 ? x + 1 : 1 - x) * 3.5f);
                const float fold = folds * 0.25f * gap * std::sin(kPi * (x + 1)) * smooth(0, 0.5f, v);
                const float half = thick * std::lerp(0.5f, 0.5f * in.value("rim"), v) * (1 + rib * isSpine * (1 - 0.7f * v));
                const float h = std::lerp(-deep, tip, v);
                const Vec3f way = up * std::cos(lean) - forward * std::sin(lean);
                out.positions.push_back(own(root.at + way * h + aside * (side * half + fold)));
            }
    closeSheet(out, columns, kUp, true);
    return out;
}

} // namespace bonemoss::outgrowth
