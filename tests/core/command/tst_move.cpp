// Pieces and parts of them moved, maps over skins that look far, pictures held before them.
#include "support/run.h"
#include "skin/reshape.h"
#include "skin/skin_maps.h"
#include "mesh/measures.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QtTest>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using test::run, test::withPieces, test::masked, test::skinOf;

namespace {

std::vector<Vec3f> bodyOf(const Creature &c)
{
    return skinOf(c).body.flatten();
}

mesh::PolyMesh twoBalls()
{
    mesh::PolyMesh m = test::sphere(5, 20, 30, {-10, 0, 0});
    const mesh::PolyMesh other = test::sphere(5, 20, 30, {10, 0, 0});
    const auto first = std::uint32_t(m.positions.size());
    m.positions.insert(m.positions.end(), other.positions.begin(), other.positions.end());
    for (mesh::Face f : other.faces) {
        for (std::uint32_t &v : f.v)
            if (v != kNone)
                v += first;
        m.faces.push_back(f);
    }
    return m;
}

} // namespace

class TestMove : public QObject
{
    Q_OBJECT
private slots:
    void aPieceMovesTurnsAndIsSized()
    {
        const Creature c = withPieces({test::box({-1, -2, -3}, {1, 2, 3})});
        const auto moved = run(c, {{"do", "piece.move"},
                                   {"piece", "a"},
                                   {"by", {1, 0, 0}},
                                   {"turn", {0, 90, 0}},
                                   {"scale", {1, 1, 2}},
                                   {"about", {0, 0, 0}}});
        QVERIFY2(moved, moved ? "" : moved.error().text().c_str());
        const auto before = bodyOf(c), after = bodyOf(*moved);
        for (std::size_t v = 0; v < before.size(); ++v) { // z was doubled, then a quarter turn about y takes z to x, x to -z
            const Vec3f p = before[v], want{1 + 2 * p.z, p.y, -p.x};
            QVERIFY(length(after[v] - want) < 1e-4f);
        }
        // Its relief of 0.2 mm along x turned along with it.
        QVERIFY(length(skinOf(*moved).layers[0].offsets[0] - Vec3f{0, 0, -0.2f}) < 1e-5f);
    }
    void whatIsMaskedStaysAndTheBorderGoesInPart()
    {
        const Creature c = masked(withPieces({test::sphere(10, 40, 60)}), [](Vec3f p) { return p.y < 0; });
        const auto moved = run(c, {{"do", "piece.move"}, {"piece", "a"}, {"by", {0, 4, 0}}});
        QVERIFY(moved);
        const auto before = bodyOf(c), after = bodyOf(*moved);
        for (std::size_t v = 0; v < before.size(); ++v)
            QCOMPARE(after[v].y, skinOf(c).mask[v] ? before[v].y : before[v].y + 4);
    }
    void oneIslandOrOneGroup()
    {
        Creature c = withPieces({twoBalls()});
        const auto one = run(c, {{"do", "piece.move"}, {"piece", "a"}, {"by", {0, 5, 0}}, {"island", {12, 0, 0}}});
        QVERIFY(one);
        const auto before = bodyOf(c), after = bodyOf(*one);
        for (std::size_t v = 0; v < before.size(); ++v)
            QCOMPARE(after[v].y, before[v].x > 0 ? before[v].y + 5 : before[v].y);
        const auto grouped =
            run(masked(c, [](Vec3f p) { return p.x < 0; }), {{"do", "group.make"}, {"piece", "a"}, {"name", "left"}});
        QVERIFY2(grouped, grouped ? "" : grouped.error().text().c_str());
        auto free = run(*grouped, {{"do", "mask.clear"}, {"piece", "a"}});
        QVERIFY(free);
        const auto two = run(*free, {{"do", "piece.move"}, {"piece", "a"}, {"by", {0, 5, 0}}, {"group", "left"}});
        QVERIFY2(two, two ? "" : two.error().text().c_str());
        const auto later = bodyOf(*two);
        for (std::size_t v = 0; v < before.size(); ++v)
            QCOMPARE(later[v].y, before[v].x < 0 ? before[v].y + 5 : before[v].y);
        QVERIFY(!run(*free, {{"do", "piece.move"}, {"piece", "a"}, {"group", "nose"}}));
    }
    // A rod whose share of a turn rises along it: each section turns rigidly, by the smooth step of its place (common
    // practice, no source), so its points keep their distance from the axis.
    void aLineBendsSoftly()
    {
        mesh::PolyMesh rod = test::box({-1, 0, -1}, {1, 40, 1});
        const Creature c = withPieces({rod});
        const auto turned = run(c, {{"do", "piece.move"},
                                    {"piece", "a"},
                                    {"turn", {0, 80, 0}},
                                    {"about", {0, 0, 0}},
                                    {"lineFrom", {0, 0, 0}},
                                    {"lineTo", {0, 40, 0}}});
        QVERIFY(turned);
        const auto before = bodyOf(c), after = bodyOf(*turned);
        for (std::size_t v = 0; v < before.size(); ++v) {
            const Vec3f p = before[v], q = after[v];
            QVERIFY(std::abs(std::hypot(p.x, p.z) - std::hypot(q.x, q.z)) < 1e-4f);
            const float t = p.y / 40, share = t * t * (3 - 2 * t);
            const float angle = std::remainder(std::atan2(q.x, q.z) - std::atan2(p.x, p.z), 2 * kPi);
            QVERIFY(std::abs(angle - share * 80 * kPi / 180) < 1e-3f);
        }
    }
    void mirroredMovesAreMirrored()
    {
        const Creature c = withPieces({test::sphere(10, 40, 60)});
        const auto moved = run(c, {{"do", "piece.move"},
                                   {"piece", "a"},
                                   {"by", {3, 1, 0}},
                                   {"turn", {0, 0, 30}},
                                   {"about", {6, 0, 0}},
                                   {"mirror", true},
                                   {"lineFrom", {0, 0, 0}},
                                   {"lineTo", {10, 0, 0}}});
        QVERIFY(moved);
        const auto before = bodyOf(c), after = bodyOf(*moved);
        // Only the left takes part along this line, so the right must not have moved; without a line both do.
        for (std::size_t v = 0; v < before.size(); ++v)
            if (before[v].x < 0)
                QVERIFY(after[v] == before[v]);
        const auto both =
            run(c, {{"do", "piece.move"}, {"piece", "a"}, {"by", {3, 1, 0}}, {"about", {6, 0, 0}}, {"mirror", true}});
        const auto later = bodyOf(*both);
        for (std::size_t v = 0; v < before.size(); ++v) {
            QCOMPARE(later[v].y, before[v].y + 1);
            QVERIFY(std::abs(later[v].x - (before[v].x > 0 ? before[v].x + 3 : before[v].x < 0 ? before[v].x - 3 : 0)) < 1e-5f);
        }
    }
    void nothingIsMovedInVain()
    {
        const Creature c = masked(withPieces({test::sphere(5, 20, 30)}), [](Vec3f) { return true; });
        const auto moved = run(c, {{"do", "piece.move"}, {"piece", "a"}, {"by", {1, 0, 0}}});
        QVERIFY(!moved);
        QVERIFY(QString::fromStdString(moved.error().text()).contains("masked"));
    }
    // At the bottom of a bowl that is seen through an opening of half angle a, the share of light that falls in, weighed by its
    // slope, is sin^2 a (of Lambert's cosine law, by integration).
    void hollowsAreCovered()
    {
        for (const float a : {0.5f, 0.9f, 1.3f}) {
            mesh::PolyMesh bowl = test::sphere(20, 160, 200);
            std::erase_if(bowl.faces, [&](const mesh::Face &f) { // the cap above the rim goes
                Vec3f m;
                for (int k = 0; k < f.size(); ++k)
                    m += bowl.positions[f.v[std::size_t(k)]];
                m = m * (1.0f / float(f.size())) + Vec3f{0, 20, 0}; // from the bottom
                return std::acos(std::clamp(m.y / length(m), -1.0f, 1.0f)) < a;
            });
            for (mesh::Face &f : bowl.faces) // faces inward
                f.size() == 4 ? std::swap(f.v[1], f.v[3]) : std::swap(f.v[1], f.v[2]);
            const skin::Skin skin = skin::makeSkin(bowl, false);
            const auto covered = skin::mapOf(skin, skin::SkinMap::AmbientOcclusion, {});
            std::size_t lowest = 0;
            for (std::size_t v = 0; v < covered.size(); ++v)
                if (skin.body[v].y < skin.body[lowest].y)
                    lowest = v;
            const float want = 1 - std::sin(a) * std::sin(a);
            QVERIFY2(std::abs(covered[lowest] - want) < 0.06f, qPrintable(QString("%1 for %2").arg(covered[lowest]).arg(want)));
        }
        const skin::Skin ball = skin::makeSkin(test::sphere(20, 100, 140), false);
        for (const float v : skin::mapOf(ball, skin::SkinMap::AmbientOcclusion, {}))
            QVERIFY(v < 0.1f);
    }
    void overlapsAreCounted()
    {
        const skin::Skin ball = skin::makeSkin(test::sphere(10, 40, 60), false);
        const skin::Skin other = skin::makeSkin(test::sphere(6, 40, 60, {9, 0, 0}), false);
        skin::MapSettings settings;
        settings.others = {&other.shown};
        const auto inside = skin::mapOf(ball, skin::SkinMap::Overlap, settings);
        for (std::size_t v = 0; v < inside.size(); ++v) {
            const float far = length(ball.body[v] - Vec3f{9, 0, 0});
            if (std::abs(far - 6) > 0.1f)
                QCOMPARE(inside[v], far < 6 ? 1.0f : 0.0f);
        }
    }
    void masksOfThem()
    {
        const Creature c = withPieces({test::sphere(10, 60, 80)});
        const auto seen =
            run(c, {{"do", "mask.shape"}, {"piece", "a"}, {"what", "seen"}, {"eye", {200, 0, 0}}, {"target", {0, 0, 0}}});
        QVERIFY2(seen, seen ? "" : seen.error().text().c_str());
        for (std::size_t v = 0; v < skinOf(*seen).mask.size(); ++v)
            if (const float x = skinOf(*seen).shown.positions[v].x; std::abs(x - 0.6f) > 1)
                QCOMPARE(skinOf(*seen).mask[v] > 127, x > 0);
        QVERIFY(!run(c, {{"do", "mask.shape"}, {"piece", "a"}, {"what", "seen"}}));
        // By a camera that was kept, the same as by its place.
        const Creature kept =
            test::need(c, {{"do", "camera.keep"}, {"name", "side"}, {"eye", {200, 0, 0}}, {"target", {0, 0, 0}}, {"lens", 50}});
        const auto by = run(kept, {{"do", "mask.shape"}, {"piece", "a"}, {"what", "seen"}, {"camera", "side"}});
        QVERIFY(bool(by));
        for (std::size_t v = 0; v < skinOf(*seen).mask.size(); ++v)
            QCOMPARE(skinOf(*by).mask[v], skinOf(*seen).mask[v]);
        const auto none = run(kept, {{"do", "mask.shape"}, {"piece", "a"}, {"what", "seen"}, {"camera", "top"}});
        QVERIFY(!none && none.error().text().find("side") != std::string::npos);
        QVERIFY(run(c, {{"do", "mask.shape"}, {"piece", "a"}, {"what", "covered"}}));
        QVERIFY(run(c, {{"do", "mask.shape"}, {"piece", "a"}, {"what", "overlapping"}}));
    }
    void picturesAreHeldBeforeTheSkin()
    {
        const Creature c = withPieces({test::sphere(10, 100, 140)});
        json place = {{"piece", "a"},
                      {"stencil", "scales"},
                      {"stencilAt", {20, 0, 0}},
                      {"stencilRight", {0, 0, -5}},
                      {"stencilUp", {0, 5, 0}}};
        json mask = place;
        mask["do"] = "mask.picture";
        const auto painted = run(c, mask);
        QVERIFY2(painted, painted ? "" : painted.error().text().c_str());
        const auto &skin = skinOf(*painted);
        const image::HeightPicture &picture = *image::builtInStamp("scales");
        std::size_t count = 0;
        for (std::size_t v = 0; v < skin.mask.size(); ++v) {
            const Vec3f p = skinOf(c).shown.positions[v];
            const bool isBefore = std::abs(p.y) < 5 && std::abs(p.z) < 5;
            if (!isBefore || p.x < 0) {
                QCOMPARE(int(skin.mask[v]), 0); // beside it, or on the far side
                continue;
            }
            const float want = std::clamp(picture.at(0.5f - 0.1f * p.z, 0.5f - 0.1f * p.y), 0.0f, 1.0f);
            QVERIFY(std::abs(float(skin.mask[v]) / 255 - want) < 0.01f);
            ++count;
        }
        QVERIFY(count > 200);
        json press = place;
        press["do"] = "stencil.press", press["layer"] = "relief", press["depth"] = 0.4;
        const auto pressed = run(c, press);
        QVERIFY2(pressed, pressed ? "" : pressed.error().text().c_str());
        QVERIFY(bodyOf(*pressed) == bodyOf(c)); // it lies on the layer
        float most = 0;
        for (std::size_t v = 0; v < skinOf(c).body.size(); ++v) {
            const Vec3f p = skinOf(c).shown.positions[v], way = skinOf(*pressed).shown.positions[v] - p;
            const float height = dot(way, skinOf(c).shown.normals[v].unpack());
            most = std::max(most, std::abs(height));
            if (p.x < 0)
                QCOMPARE(way, Vec3f{});
            else if (std::abs(p.y) < 4.9f && std::abs(p.z) < 4.9f)
                QVERIFY(std::abs(height - (picture.at(0.5f - 0.1f * p.z, 0.5f - 0.1f * p.y) - picture.middle) * 0.8f) < 0.004f);
        }
        QVERIFY(most > 0.1f && most <= 0.401f);
        place["do"] = "stencil.press", place["stencilAt"] = {20, 90, 0};
        QVERIFY(!run(c, place)); // before nothing
        place["do"] = "mask.picture", place["stencil"] = "moon";
        QVERIFY(!run(c, place));
    }
    void aStrokeThroughAStencilReplays()
    {
        const Creature c = withPieces({test::sphere(10, 60, 80)});
        json stroke = {{"do", "sculpt.stroke"},
                       {"piece", "a"},
                       {"tool", "raise"},
                       {"size", 4},
                       {"samples", {{10, 0, 0}, {9, 3, 0}}},
                       {"stencil", "scales"},
                       {"stencilAt", {20, 0, 0}},
                       {"stencilRight", {0, 0, -5}},
                       {"stencilUp", {0, 5, 0}},
                       {"stencilEye", {80, 0, 0}}};
        const auto one = run(c, stroke);
        QVERIFY2(one, one ? "" : one.error().text().c_str());
        QVERIFY(!(bodyOf(*one) == bodyOf(c)));
        stroke.erase("stencil");
        const auto all = run(c, stroke);
        QVERIFY(all && !(bodyOf(*one) == bodyOf(*all)));
        stroke["stencil"] = "scales", stroke["stencilUp"] = {0, 0, 5};
        QVERIFY(!run(c, stroke)); // not square to its right
    }
};

BONEMOSS_TEST(TestMove)
#include "tst_move.moc"
