// What keeps a stroke where it is meant: rope, tilt, islands, thin parts, stencils, and what is told before it begins.
#include "support/run.h"
#include "image/picture.h"
#include "mesh/depth_picture.h"
#include "mesh/island.h"
#include "sculpt/dab.h"
#include "support/bed.h"
#include "support/forest.h"
#include "support/shapes.h"

#include <QtTest>

using namespace bonemoss;
using sculpt::StrokeSettings;
using sculpt::Tool;
using test::Bed;
using test::plainSettings;
using test::stroke;

namespace {

mesh::PolyMesh joined(mesh::PolyMesh a, const mesh::PolyMesh &b)
{
    const auto first = std::uint32_t(a.positions.size());
    a.positions.insert(a.positions.end(), b.positions.begin(), b.positions.end());
    for (mesh::Face f : b.faces) {
        for (std::uint32_t &v : f.v)
            if (v != kNone)
                v += first;
        a.faces.push_back(f);
    }
    return a;
}

/// White where u < 0.5, black beyond.
std::shared_ptr<const image::HeightPicture> halves()
{
    auto p = std::make_shared<image::HeightPicture>();
    p->width = p->height = 64;
    for (int i = 0; i < 64 * 64; ++i)
        p->values.push_back(i % 64 < 32 ? 1.0f : 0.0f);
    return p;
}

sculpt::Stencil overThePlane(float half)
{
    sculpt::Stencil s;
    s.picture = halves();
    s.centre = {0, 20, 0};
    s.right = {half, 0, 0}, s.up = {0, 0, -half}; // seen from above
    return s;
}

} // namespace

class TestGuards : public QObject
{
    Q_OBJECT
private slots:
    // A thing pulled on a taut rope follows the pursuit curve: pulled along x from rest beside the way, it lies on the
    // tractrix (Huygens 1692; x = t - a tanh(t/a), y = a / cosh(t/a)).
    void aRopeDrawsATractrix()
    {
        Bed bed(test::plane(60, 300));
        StrokeSettings s = plainSettings(Tool::Raise);
        s.size = 2, s.rope = 3, s.spacing = 0.05f; // 6 mm of rope
        s.strength = 0.001f;                       // the skin stays as good as flat
        std::vector<Vec3f> pen{{-10, 0, 6}};
        for (int k = 0; k <= 400; ++k)
            pen.push_back({-10 + 0.05f * float(k), 0, 0});
        sculpt::Stroke st(bed.surface, bed.mask, s);
        for (const Vec3f p : pen) {
            st.add({p, {}, 1, 0});
            const float t = p.x + 10;
            if (t < 1)
                continue;
            const Vec3f at = st.lastDab().centre;
            const float x = -10 + t - 6 * std::tanh(t / 6), y = 6 / std::cosh(t / 6);
            QVERIFY2(std::hypot(at.x - x, at.z - y) < 0.15f, qPrintable(QString("%1: %2 %3").arg(t).arg(at.x - x).arg(at.z - y)));
        }
    }
    void aSlackRopeDoesNothing()
    {
        Bed bed(test::plane(40, 80));
        StrokeSettings s = plainSettings(Tool::Raise);
        s.rope = 2;
        stroke(bed, s, {{0, 0, 0}});
        const auto once = bed.surface.positions.flatten();
        Bed same(test::plane(40, 80));
        stroke(same, s, {{0, 0, 0}, {3, 0, 0}, {-5, 0, 2}, {0, 0, 7.9f}});
        QVERIFY(same.surface.positions.flatten() == once);
    }
    void dabsLeanWithThePen()
    {
        const Vec3f lean = normalized(Vec3f{0.5f, 1, 0.2f});
        StrokeSettings s = plainSettings(Tool::Raise);
        s.tilt = 1;
        Bed bed(test::plane(40, 80)), upright(test::plane(40, 80)), unknown(test::plane(40, 80));
        const auto before = bed.surface.positions.flatten();
        sculpt::Stroke st(bed.surface, bed.mask, s);
        st.add({{0, 0, 0}, {}, 1, 0, lean});
        const auto after = bed.surface.positions.flatten();
        std::size_t moved = 0;
        for (std::size_t v = 0; v < after.size(); ++v)
            if (const Vec3f way = after[v] - before[v]; length(way) > 0.02f) {
                QVERIFY(dot(normalized(way), lean) > 0.9999f);
                ++moved;
            }
        QVERIFY(moved > 50);
        stroke(unknown, s, {{0, 0, 0}}); // a mouse has no lean
        s.tilt = 0;
        sculpt::Stroke plain(upright.surface, upright.mask, s);
        plain.add({{0, 0, 0}, {}, 1, 0, lean});
        QVERIFY(upright.surface.positions.flatten() == unknown.surface.positions.flatten());
    }
    void aStampTurnsToThePen()
    {
        StrokeSettings s = plainSettings(Tool::Stamp);
        s.tilt = 1;
        Bed bed(test::plane(40, 80));
        sculpt::Stroke st(bed.surface, bed.mask, s);
        st.add({{0, 0, 0}, {}, 1, 0, normalized(Vec3f{1, 1, 0})});
        QVERIFY2(dot(st.lastDab().v, Vec3f{1, 0, 0}) > 0.999f, "its top lies where the pen leans to");
    }
    void oneIslandOnly()
    {
        // Two sheets 1 mm apart: a ball of 4 mm holds both.
        const mesh::PolyMesh both = [] {
            mesh::PolyMesh low = test::plane(40, 60);
            for (Vec3f &p : low.positions)
                p.y = -1;
            return joined(test::plane(40, 60), low);
        }();
        StrokeSettings s = plainSettings(Tool::Tug);
        s.isConnected = false;
        const auto lowest = [&](StrokeSettings settings) { // how far the lower sheet was moved
            Bed bed(both);
            stroke(bed, settings, {{0, 0, 0}, {0, 3, 0}});
            float far = 0;
            for (const Vec3f p : bed.surface.positions.flatten())
                if (std::abs(p.x) < 1 && std::abs(p.z) < 1)
                    far = p.y < 1.9f ? std::max(far, p.y + 1) : far;
            return far;
        };
        QVERIFY(lowest(s) > 0.5f);
        s.isIslandOnly = true;
        QCOMPARE(lowest(s), 0.0f);
    }
    // A dab off the skin whose normal leans so far that what it reaches faces away, while what lies just beyond does not.
    void aDabThatAllFacesAwayFrom()
    {
        const Bed bed(joined(test::sphere(10, 90, 120), test::sphere(9.9f, 90, 120)));
        sculpt::Dab dab;
        dab.centre = {13.6f, 0, 0};
        dab.radius = 4;
        const float lean = 100 * kPi / 180;
        dab.normal = {std::cos(lean), std::sin(lean), 0};
        const auto blocks = sculpt::blocksOf(bed.surface, {dab});
        sculpt::DabWeights weights;
        sculpt::Spread spread;
        spread.facesTheBrush = false;
        weights.compute(bed.surface, dab, blocks, spread);
        std::size_t reached = 0;
        for (std::size_t k = 0; k < blocks.size(); ++k)
            for (std::size_t i = 0; weights.of(k) && i < bed.surface.positions.countIn(blocks[k]); ++i)
                if (weights.of(k)[i] > 0) {
                    const Vec3f p = bed.surface.positions.data(blocks[k])[i];
                    QVERIFY(length(p - dab.centre) < 4);
                    QVERIFY(std::abs(length(p) - 10) < 0.05f); // of the outer ball alone
                    ++reached;
                }
        QVERIFY(reached > 3);
    }
    // Beside a plain search over faces.
    void islandsAreWhatHangsTogether()
    {
        const Bed bed(joined(test::sphere(10, 90, 120, {0, 0, 0}), test::sphere(6, 60, 80, {30, 0, 0})));
        const mesh::Topology &t = *bed.surface.topology;
        test::Forest islands(t, [](std::uint32_t, std::uint32_t) { return true; });
        for (const std::uint32_t seed : {0u, std::uint32_t(t.vertexCount() / 2), std::uint32_t(t.vertexCount() - 1)}) {
            const mesh::Island island = mesh::islandsAt(t, {&seed, 1});
            for (std::uint32_t v = 0; v < t.vertexCount(); ++v)
                QCOMPARE(island.has(v), islands.root(v) == islands.root(seed));
        }
    }
    void theFarSideOfAThinPartStays()
    {
        // A closed fin 0.6 mm thick with a bump on each side, smoothed from above with a ring of 4 mm.
        mesh::PolyMesh fin = test::box({-10, -0.3f, -10}, {10, 0.3f, 10});
        for (int k = 0; k < 6; ++k) {
            mesh::PolyMesh finer; // plain quadrisection
            finer.positions = fin.positions;
            std::map<std::pair<std::uint32_t, std::uint32_t>, std::uint32_t> middles;
            const auto middle = [&](std::uint32_t a, std::uint32_t b) {
                const auto [it, isNew] = middles.try_emplace(std::minmax(a, b), std::uint32_t(finer.positions.size()));
                if (isNew)
                    finer.positions.push_back((fin.positions[a] + fin.positions[b]) * 0.5f);
                return it->second;
            };
            for (const mesh::Face &f : fin.faces) {
                const auto m = std::uint32_t(finer.positions.size());
                finer.positions.push_back((fin.positions[f.v[0]] + fin.positions[f.v[2]]) * 0.5f);
                std::uint32_t e[4];
                for (std::size_t c = 0; c < 4; ++c)
                    e[c] = middle(f.v[c], f.v[(c + 1) % 4]);
                for (std::size_t c = 0; c < 4; ++c)
                    finer.faces.push_back({{f.v[c], e[c], m, e[(c + 3) % 4]}});
            }
            fin = finer;
        }
        for (Vec3f &p : fin.positions)
            if (std::abs(p.y) > 0.29f)
                p.y += (p.y > 0 ? 1.0f : -1.0f) * 0.2f * std::sin(p.x * 3) * std::sin(p.z * 3);
        const auto moved = [&](bool guards) {
            Bed bed(fin);
            StrokeSettings s = plainSettings(Tool::Smooth);
            s.guardsThin = guards;
            const auto before = bed.surface.positions.flatten();
            stroke(bed, s, {{0.5f, 0.5f, 0.5f}});
            const auto after = bed.surface.positions.flatten();
            float above = 0, below = 0;
            for (std::size_t v = 0; v < after.size(); ++v)
                if (std::hypot(before[v].x, before[v].z) < 2)
                    (before[v].y > 0 ? above : below) = std::max(before[v].y > 0 ? above : below, length(after[v] - before[v]));
            return std::pair(above, below);
        };
        // A ring that reaches the rim hangs together with the far side.
        const auto free = moved(false), guarded = moved(true);
        QVERIFY(free.first > 0.01f && guarded.first > 0.01f);
        QCOMPARE(guarded.second, 0.0f);
    }
    void strokesGoThroughStencils()
    {
        Bed bed(test::plane(40, 160));
        StrokeSettings s = plainSettings(Tool::Raise);
        s.stencil = std::make_shared<const sculpt::Stencil>(overThePlane(10));
        stroke(bed, s, {{-15, 0, 0}, {15, 0, 0}});
        for (const Vec3f p : bed.surface.positions.flatten())
            if (p.x > 0.4f || p.x < -10.01f)
                QCOMPARE(p.y, 0.0f); // dark, or beside the card
        QVERIFY(mesh::boundsOf(bed.surface.positions.flatten()).hi.y > 0.05f);
    }
    void aMirroredStrokeGoesThroughTheMirroredStencil()
    {
        Bed bed(test::plane(40, 160));
        StrokeSettings s = plainSettings(Tool::Raise);
        sculpt::Stencil right = overThePlane(4);
        right.centre.x = 8;
        s.stencil = std::make_shared<const sculpt::Stencil>(right);
        s.isMirrored = true;
        stroke(bed, s, {{8, 0, 0}});
        std::map<std::pair<int, int>, float> heights;
        for (const Vec3f p : bed.surface.positions.flatten())
            heights[{int(std::lround(p.x * 4)), int(std::lround(p.z * 4))}] = p.y;
        float most = 0;
        for (const auto &[at, y] : heights) {
            const float twin = heights.at({-at.first, at.second});
            QVERIFY(std::abs(y - twin) < 1e-6f);
            most = std::max(most, y);
        }
        QVERIFY(most > 0.05f);
    }
    void perspectiveWidensAStencil()
    {
        sculpt::Stencil s = overThePlane(10);
        s.eye = Vec3f{0, 40, 0}; // twice as far from the plane as the card
        QCOMPARE(s.openness({-19.9f, 0, 0}), 1.0f);
        QCOMPARE(s.openness({-20.1f, 0, 0}), 0.0f); // beside it
        QCOMPARE(s.openness({5, 0, 0}), 0.0f);
        s.isInverted = true;
        QCOMPARE(s.openness({5, 0, 0}), 1.0f);
        QCOMPARE(s.openness({0, 50, 0}), 0.0f); // behind the eye
    }
    void tellsWhatAStrokeWouldTouch()
    {
        for (const Tool tool : {Tool::Raise, Tool::Smooth, Tool::Tug, Tool::Knead, Tool::Mask}) {
            Bed bed(test::sphere(10, 60, 80));
            StrokeSettings s = plainSettings(tool);
            s.isMirrored = true;
            const auto hit = mesh::castRay(bed.surface, {{20, 1, 0}, {-1, 0, 0}});
            QVERIFY(hit);
            const sculpt::Touch touch = sculpt::touchOf(bed.surface, bed.mask, s, *hit);
            const auto before = bed.surface.positions.flatten();
            const auto masked = bed.mask.flatten();
            sculpt::Stroke st(bed.surface, bed.mask, s);
            st.add({{20, 1, 0}, {-1, 0, 0}, 1, 0});
            if (takesHold(tool))
                st.add({{20, 2, 0}, {-1, 0, 0}, 1, 0});
            const auto after = bed.surface.positions.flatten();
            const auto shareOf = [&](std::size_t v) {
                for (std::size_t k = 0; k < touch.blocks.size(); ++k)
                    if (touch.blocks[k] == v / mesh::kBlockSize && !touch.shares[k].empty())
                        return touch.shares[k][v % mesh::kBlockSize];
                return 0.0f;
            };
            std::size_t told = 0;
            for (std::size_t v = 0; v < after.size(); ++v) {
                told += shareOf(v) > 0;
                if (!(after[v] == before[v]) || bed.mask[v] != masked[v])
                    QVERIFY2(shareOf(v) > 0, nameOf(tool).data());
            }
            QVERIFY(told > 20 && told <= after.size() / (tool == Tool::Knead ? 1 : 2));
        }
    }
    // Seen or not, beside rays.
    void depthPicturesSeeWhatRaysSee()
    {
        const Bed bed(joined(test::sphere(10, 60, 80), test::sphere(4, 40, 60, {0, 3, 18})));
        mesh::Sight sights[2];
        sights[0] = {{0, 0, 60}, {1, 0, 0}, {0, 1, 0}, {0, 0, -1}, 25, 25, true};
        sights[1] = {{10, 20, 50}, {}, {}, normalized(Vec3f{-10, -20, -50}), 0.6f, 0.6f, false};
        sights[1].right = normalized(cross(sights[1].forward, {0, 1, 0}));
        sights[1].up = cross(sights[1].right, sights[1].forward);
        for (const mesh::Sight &sight : sights) {
            mesh::DepthPicture picture(sight, 512);
            picture.add(bed.surface);
            std::size_t same = 0, all = 0, seen = 0;
            for (std::size_t v = 0; v < bed.surface.positions.size(); ++v) {
                const Vec3f p = bed.surface.positions[v], n = bed.surface.normals[v].unpack();
                const Vec3f back = sight.isParallel ? -sight.forward : normalized(sight.eye - p);
                if (std::abs(dot(n, back)) < 0.1f)
                    continue; // at the edge either may be right
                const bool isFree = dot(n, back) > 0 && !mesh::castRay(bed.surface, {p + n * 0.05f, back});
                same += picture.sees(p, n) == isFree;
                seen += isFree;
                ++all;
            }
            QVERIFY(seen > all / 5);
            QVERIFY2(double(same) > 0.985 * double(all), qPrintable(QString::number(double(same) / double(all))));
        }
    }
};

BONEMOSS_TEST(TestGuards)
#include "tst_guards.moc"
