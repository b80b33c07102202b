#include "outgrowth/specimen.h"

#include <algorithm>

namespace bonemoss::outgrowth {

namespace {

mesh::PolyMesh patch(float half, std::uint32_t cells)
{
    mesh::PolyMesh out;
    for (std::uint32_t z = 0; z <= cells; ++z)
        for (std::uint32_t x = 0; x <= cells; ++x)
            out.positions.push_back({(float(x) / float(cells) * 2 - 1) * half, 0, (float(z) / float(cells) * 2 - 1) * half});
    for (std::uint32_t z = 0; z < cells; ++z)
        for (std::uint32_t x = 0; x < cells; ++x) {
            const std::uint32_t a = z * (cells + 1) + x, b = a + cells + 1;
            out.faces.push_back({{a, b, b + 1, a + 1}});
        }
    return out;
}

} // namespace

float specimenWidth(const Kind &kind)
{
    const Outgrowth o = outgrowthOf(kind);
    if (kind.rooting == Rooting::Area && o.value("spacing") > 0)
        return 1.3f * std::max(1.6f * o.value("height"), 5 * o.value("spacing"));
    if (kind.rooting == Rooting::Lines)
        return 40;
    return 1.7f * std::max({o.value("length"), o.value("height") * 2.2f, o.value("radius") * 3, o.value("thickness") * 4});
}

io::Scene specimenOf(const Outgrowth &given)
{
    Outgrowth rule = given;
    rule.isMirrored = false, rule.roots.clear(), rule.starts.clear(), rule.corrections.clear(), rule.item = 0;
    const float reach = specimenWidth(*rule.kind);
    const mesh::Surface ground = mesh::makeSurface(patch(reach * 3, 72));
    if (rule.kind->rooting == Rooting::Line)
        for (int k = 0; k <= 40; ++k)
            rule.roots.push_back({{0, 0, reach * 0.62f * (1 - float(k) / 20)}, {0, 1, 0}});
    else if (rule.kind->rooting == Rooting::Lines)
        for (int line = 0; line < 3; ++line) { // a fan of three
            if (line > 0)
                rule.starts.push_back(std::uint32_t(rule.roots.size()));
            for (int k = 0; k <= 12; ++k) {
                const float t = float(k) / 12, turn = (float(line) - 1) * 0.5f;
                rule.roots.push_back({{reach * 0.75f * std::sin(turn) * (0.2f + t), reach * (0.15f + 0.55f * t),
                                       reach * (0.3f - 0.75f * std::cos(turn) * t)},
                                      {0, 0.7f, 0.7f}});
            }
        }
    else
        rule.roots.push_back({});
    const growth::Surroundings about;
    Input input{rule, ground, about, {}};
    if (rule.kind->rooting == Rooting::Area) { // a spot about the middle
        input.area = mesh::BlockArray<std::uint8_t>(ground.positions.size());
        for (std::size_t b = 0; b < input.area.blockCount(); ++b)
            for (std::size_t i = 0; i < input.area.countIn(b); ++i)
                input.area.edit(b)[i] = length(ground.positions.data(b)[i]) < 0.8f * reach ? 255 : 0;
    }
    io::Scene scene;
    scene.add({"skin", ground});
    if (auto made = make(input)) {
        rule.made = std::move(*made);
        io::Scene own;
        rule.show(own);
        scene.append(std::move(own));
    }
    return scene;
}

} // namespace bonemoss::outgrowth
