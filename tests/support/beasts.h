#pragma once

#include "document/ops/posing.h"
#include "support/pieces.h"

#include <cmath>
#include <string>

// Creatures and skeletons to be posed.
namespace bonemoss::test {

/// A body with two arms of two bones each, their hands, and a tail.
inline document::Creature beast(int faces)
{
    using nlohmann::json;
    document::Creature c;
    for (const json &command : std::vector<json>{
             {{"do", "form.add"}, {"kind", "ellipsoid"}, {"name", "body"}, {"at", {0, 40, 0}}, {"radii", {14, 16, 30}}},
             {{"do", "form.add"},
              {"kind", "limb"},
              {"name", "arm"},
              {"path", {{10, 40, 18, 7}, {38, 40, 22, 5}}},
              {"parent", "body"},
              {"mirror", true}},
             {{"do", "form.add"},
              {"kind", "limb"},
              {"name", "shank"},
              {"path", {{38, 40, 22, 5}, {66, 36, 26, 4}}},
              {"parent", "arm"},
              {"mirror", true}},
             {{"do", "form.add"},
              {"kind", "ball"},
              {"name", "hand"},
              {"at", {69, 35, 27}},
              {"radius", 5},
              {"parent", "shank"},
              {"mirror", true}},
             {{"do", "form.add"},
              {"kind", "tube"},
              {"name", "tail"},
              {"path", {{0, 40, -24, 7}, {0, 44, -44, 5}, {0, 52, -62, 4}, {0, 64, -76, 3}}},
              {"parent", "body"}},
             {{"do", "form.joint"}, {"form", "shank"}, {"low", {-10, -100, -10}}, {"high", {10, 20, 10}}},
             {{"do", "knit.forms"}, {"faces", faces}, {"name", "Beast"}}})
        c = need(c, command);
    return c;
}
/// Bones one after the other along x, each as long.
inline pose::Skeleton chainOf(int n, float each)
{
    pose::Skeleton s;
    for (int k = 0; k < n; ++k) {
        pose::Bone b;
        b.key = {std::uint32_t(k + 1), 0, false}, b.name = "b" + std::to_string(k);
        b.parent = k == 0 ? kNone : std::uint32_t(k - 1);
        b.head = {each * float(k), 0, 0}, b.tail = {each * float(k + 1), 0, 0};
        b.flesh = {{b.head, b.tail, 2}};
        s.bones.push_back(b);
    }
    return s;
}
/// A pipe along x with closed ends; n points around.
inline mesh::PolyMesh pipe(float length, float radius, int n, int rings)
{
    mesh::PolyMesh m;
    for (int r = 0; r <= rings; ++r)
        for (int k = 0; k < n; ++k) {
            const float a = 2 * kPi * float(k) / float(n);
            m.positions.push_back({length * float(r) / float(rings), radius * std::cos(a), radius * std::sin(a)});
        }
    const auto at = [&](int r, int k) { return std::uint32_t(r * n + k % n); };
    for (int r = 0; r < rings; ++r)
        for (int k = 0; k < n; ++k)
            m.faces.push_back({{at(r, k), at(r, k + 1), at(r + 1, k + 1), at(r + 1, k)}});
    for (const int r : {0, rings}) {
        const auto middle = std::uint32_t(m.positions.size());
        m.positions.push_back({length * float(r) / float(rings), 0, 0});
        for (int k = 0; k < n; ++k)
            m.faces.push_back(r == 0 ? mesh::Face{{at(r, k + 1), at(r, k), middle, kNone}}
                                     : mesh::Face{{at(r, k), at(r, k + 1), middle, kNone}});
    }
    return m;
}

} // namespace bonemoss::test
