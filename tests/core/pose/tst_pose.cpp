// Skeletons, weights, blending, reaching, and the commands about poses. Oracles: closed forms of screw motions (Kavan et al. 2007, section
// 3), a dense solve of the heat equation, lengths and limits of the bones, what lay there before.
#include "base/parallel.h"
#include "base/random.h"
#include "document/creature.h"
#include "document/ops/posing.h"
#include "mesh/measures.h"
#include "outgrowth/outgrowth.h"
#include "pose/blend.h"
#include "store/store.h"
#include "support/beasts.h"
#include "support/pieces.h"
#include "support/run.h"
#include "support/shapes.h"

#include <QTemporaryDir>
#include <QtTest>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using pose::Rigid;
using pose::Skeleton;
using test::beast;
using test::chainOf;
using test::need;
using test::pipe;
using test::skinOf;

class TestPose : public QObject
{
    Q_OBJECT
private slots:
    void theSkeletonFollowsTheForms()
    {
        const Creature c = beast(2000);
        const Skeleton s = skeletonOf(c);
        for (const char *name : {"body", "arm left", "arm right", "shank left", "shank right", "tail 1", "tail 4"})
            QVERIFY2(s.find(name) != kNone, name);
        QCOMPARE(s.find("hand left"), kNone); // a mass rides on the shank
        QCOMPARE(s.bones[s.find("shank left")].parent, s.find("arm left"));
        QCOMPARE(s.bones[s.find("tail 1")].parent, s.find("body"));
        QVERIFY(length(s.bones[s.find("arm left")].head - Vec3f{10, 40, 18}) < 1e-3f);
        QVERIFY(length(s.bones[s.find("arm right")].head - Vec3f{-10, 40, 18}) < 1e-3f);
        QCOMPARE(s.twinOf(s.find("shank left")), s.find("shank right"));
        const pose::Bone &right = s.bones[s.find("shank right")]; // limits on the other side are mirrored
        QCOMPARE(right.low.y, -20.0f);
        QCOMPARE(right.high.y, 100.0f);
        for (const pose::Bone &b : s.bones)
            QVERIFY(b.length() > 1e-4f && (b.parent == kNone || b.parent < s.find(b.key)));
        const Creature fewer = need(need(c, {{"do", "pose.bones"}, {"form", "tail"}, {"count", 2}}),
                                    {{"do", "pose.bones"}, {"form", "arm"}, {"count", 0}});
        const Skeleton less = skeletonOf(fewer);
        QVERIFY(less.find("tail 3") == kNone && less.find("arm left") == kNone);
        QCOMPARE(less.bones[less.find("shank left")].parent, less.find("body"));
        for (const auto &[key, text] : {std::pair{pose::BoneKey{12, 0, false}, "12"}, {pose::BoneKey{12, 3, true}, "12t.3"}}) {
            QCOMPARE(textOf(key), std::string(text));
            QVERIFY(pose::boneKeyOf(text) == key);
        }
        for (const char *bad : {"", "t", "12x", "12.", "x"})
            QCOMPARE(pose::boneKeyOf(bad).form, 0u);
    }
    void twoBonesMakeAScrew()
    {
        // Half of one that stays and half of a screw about an axis is half the screw: Kavan et al. 2007.
        Skeleton s = chainOf(2, 10);
        s.bones[1].parent = kNone; // moves by itself
        const Vec3f axis = normalized(Vec3f{1, 2, -1}), through{3, 1, 2};
        const float angle = 1.1f, along = 4;
        pose::Posture posture;
        // the second bone's map: about an axis through a place, with a step along it; written as a whole map of a lone root
        Skeleton lone;
        lone.bones.push_back(s.bones[0]), lone.bones.push_back(s.bones[1]);
        posture.set(lone.bones[1].key, rotationAbout(axis, angle));
        lone.bones[1].head = through; // a rotation about a line through its joint
        const auto one = [](std::uint8_t share) { return mesh::BlockArray<std::uint8_t>(std::vector<std::uint8_t>{share}); };
        const pose::Weights half{{{1, 0, false}, one(128)}, {{2, 0, false}, one(127)}};
        const Rigid made = pose::Blend(lone, posture, half).at(0);
        const double w = 127.0 / 255; // of the second: dual quaternion blending of two is a rotation about the same axis
        const double wanted = 2 * std::atan2(w * std::sin(double(angle) / 2), (1 - w) + w * std::cos(double(angle) / 2));
        const Vec3f p{7, -2, 5}, q = rotate(rotationAbout(axis, float(wanted)), p - through) + through;
        QVERIFY2(length(made.apply(p) - q) < 2e-4f, qPrintable(QString::number(double(length(made.apply(p) - q)))));
        // With a step along: half way of the rotation, half of the step.
        pose::Posture step;
        step.whole = {Quat(), axis * along};
        Skeleton single = chainOf(1, 10);
        single.bones[0].head = through;
        step.set(single.bones[0].key, rotationAbout(axis, angle));
        const Rigid whole = placesOf(single, step)[0];
        QVERIFY(length(whole.apply(through) - (through + axis * along)) < 1e-4f);
    }
    void boneThatRestLeaveBlocksAsTheyAre()
    {
        const Creature c = need(beast(40000), {{"do", "pose.turn"}, {"bone", "tail 4"}, {"angles", {0, 30, 0}}});
        const Creature now = posed(c);
        std::size_t still = 0, moved = 0;
        for (std::size_t b = 0; b < skinOf(c).body.blockCount(); ++b)
            (skinOf(now).shown.positions.sharesWith(skinOf(c).shown.positions, b) ? still : moved) += 1;
        QVERIFY(still > 0 && moved > 0);
        const Creature rest = need(c, {{"do", "pose.rest"}});
        QVERIFY(rest.posing.now.isRest());
        QVERIFY(posed(rest).pieces[0] == rest.pieces[0]);
    }
    void weightsAddUpAndAreSymmetrical()
    {
        const Creature c = beast(12000);
        const Skeleton s = skeletonOf(c);
        std::vector<std::uint8_t> first;
        for (const int threads : {1, 3}) {
            const ThreadLimit limit(threads);
            std::vector<std::uint8_t> all;
            for (const auto &w : pose::heatWeights(skinOf(c).shown, s, {.coarse = 6000})) {
                const auto flat = w.values.flatten();
                all.insert(all.end(), flat.begin(), flat.end());
            }
            QVERIFY(first.empty() || first == all);
            first = all;
        }
        const pose::Weights w = pose::heatWeights(skinOf(c).shown, s, {.coarse = 0});
        const std::vector<Vec3f> p = skinOf(c).shown.positions.flatten();
        const auto at = [&](Vec3f place) {
            std::size_t best = 0;
            for (std::size_t v = 0; v < p.size(); ++v)
                if (squaredLength(p[v] - place) < squaredLength(p[best] - place))
                    best = v;
            return best;
        };
        const auto of = [&](std::size_t v, pose::BoneKey bone) {
            for (const auto &x : w)
                if (x.bone == bone)
                    return int(x.values[v]);
            return 0;
        };
        std::size_t pairs = 0;
        for (std::size_t v = 0; v < p.size(); ++v) {
            int sum = 0, bones = 0;
            for (const auto &x : w)
                sum += x.values[v], bones += x.values[v] > 0;
            QCOMPARE(sum, 255);
            QVERIFY(bones <= int(pose::kMostBones));
            if (v % 9 != 0)
                continue;
            const std::size_t twin = at(mirrored(p[v]));
            if (length(p[twin] - mirrored(p[v])) > 0.4f)
                continue;
            ++pairs;
            for (const auto &x : w) {
                pose::BoneKey other = x.bone;
                if (c.armature.find(other.form)->isMirrored)
                    other.isTwin = !other.isTwin;
                QVERIFY2(std::abs(int(x.values[v]) - of(twin, other)) <= 26,
                         qPrintable(QStringLiteral("%1 %2 %3: %4 %5 of %6")
                                        .arg(p[v].x)
                                        .arg(p[v].y)
                                        .arg(p[v].z)
                                        .arg(x.values[v])
                                        .arg(of(twin, other))
                                        .arg(QString::fromStdString(textOf(x.bone)))));
            }
        }
        QVERIFY(pairs > p.size() / 20);
        // The end of an arm is its shank's, the middle of the body its own.
        QVERIFY(of(at({74, 35, 28}), s.bones[s.find("shank left")].key) > 240);
        QVERIFY(of(at({0, 56, 0}), s.bones[s.find("body")].key) > 240);
    }
    void weightsAgreeWithADenseSolve()
    {
        // Heat on a pipe with three bones: (L + M H) w = M H p, solved densely here, from the same definition.
        const mesh::PolyMesh m = pipe(60, 5, 12, 30);
        Skeleton s = chainOf(3, 20);
        for (pose::Bone &b : s.bones)
            b.flesh = {{b.head, b.tail, 5}};
        const mesh::Surface surface = mesh::makeSurface(m);
        const pose::Weights made = pose::heatWeights(surface, s, {.coarse = 0});
        const std::size_t n = m.positions.size();
        std::vector<std::vector<double>> a(n, std::vector<double>(n, 0)), cot = a, p(n, std::vector<double>(3, 0));
        std::vector<double> area(n, 0);
        const auto corner = [&](std::uint32_t i, std::uint32_t j, std::uint32_t k) { // at k, against the edge i j
            const Vec3f u = m.positions[i] - m.positions[k], v = m.positions[j] - m.positions[k];
            const double c = double(dot(u, v)) / double(length(cross(u, v))) / 2;
            cot[i][j] += c, cot[j][i] += c, area[k] += double(length(cross(u, v))) / 6;
        };
        for (const mesh::Face &f : m.faces)
            for (std::size_t half = 0; half < (f.v[3] == kNone ? 1u : 2u); ++half) {
                const std::uint32_t i = f.v[0], j = f.v[half + 1], k = f.v[half + 2];
                corner(i, j, k), corner(j, k, i), corner(k, i, j);
            }
        for (std::size_t i = 0; i < n; ++i)
            for (std::size_t j = 0; j < n; ++j)
                if (cot[i][j] != 0)
                    a[i][j] -= std::max(cot[i][j], 1e-6), a[i][i] += std::max(cot[i][j], 1e-6);
        for (std::size_t v = 0; v < n; ++v) {
            double d[3], least = 1e9;
            for (int b = 0; b < 3; ++b) {
                const float t = std::clamp(m.positions[v].x, 20.0f * float(b), 20.0f * float(b + 1));
                d[b] = std::max(double(length(m.positions[v] - Vec3f{t, 0, 0})) - 0.75 * 5, 0.12 * 5);
                least = std::min(least, d[b]);
            }
            const double h = area[v] / (least * least);
            a[v][v] += h;
            int shared = 0;
            for (const double far : d)
                shared += far <= least * 1.0001;
            for (std::size_t b = 0; b < 3; ++b)
                if (d[b] <= least * 1.0001)
                    p[v][b] = h / shared;
        }
        for (std::size_t k = 0; k < n; ++k) // Gauss: the matrix is definite, so no rows are swapped
            for (std::size_t i = k + 1; i < n; ++i) {
                const double by = a[i][k] / a[k][k];
                for (std::size_t j = k; by != 0 && j < n; ++j)
                    a[i][j] -= by * a[k][j];
                for (std::size_t b = 0; b < 3; ++b)
                    p[i][b] -= by * p[k][b];
            }
        for (std::size_t k = n; k-- > 0;)
            for (std::size_t b = 0; b < 3; ++b) {
                for (std::size_t j = k + 1; j < n; ++j)
                    p[k][b] -= a[k][j] * p[j][b];
                p[k][b] /= a[k][k];
            }
        double worst = 0;
        for (const auto &bone : made)
            for (std::size_t v = 0; v < n; ++v)
                worst = std::max(worst, std::abs(double(bone.values[v]) / 255 - p[v][bone.bone.form - 1]));
        QVERIFY2(worst < 0.012, qPrintable(QString::number(worst))); // bytes, and the diagonals of quads
    }
    void bentPipesKeepTheirVolume()
    {
        const mesh::PolyMesh m = pipe(80, 6, 24, 60);
        Skeleton s = chainOf(2, 40);
        for (pose::Bone &b : s.bones)
            b.flesh = {{b.head, b.tail, 6}};
        const mesh::Surface rest = mesh::makeSurface(m);
        const pose::Weights w = pose::heatWeights(rest, s, {.coarse = 0});
        const auto volume = [](const mesh::Surface &of) { return mesh::measure(toPolyMesh(of)).volumeMm3; };
        for (const auto &[axis, degrees, least] :
             {std::tuple{Vec3f{0, 0, 1}, 60, 0.93}, {Vec3f{0, 0, 1}, 100, 0.85}, {Vec3f{1, 0, 0}, 120, 0.97}}) {
            pose::Posture posture;
            posture.set(s.bones[1].key, rotationAbout(axis, float(degrees) * kRadiansPerDegree));
            const double share = volume(posed(rest, pose::Blend(s, posture, w))) / volume(rest);
            QVERIFY2(share > least && share < 1.1, qPrintable(QString::number(share))); // (bounds by eye, no source)
        }
    }
    void theBlendIsUndoneExactly()
    {
        const Creature c = need(need(beast(8000), {{"do", "pose.turn"}, {"bone", "arm left"}, {"angles", {10, 25, 40}}}),
                                {{"do", "pose.turn"}, {"bone", "shank left"}, {"angles", {0, -60, 0}}});
        const Skeleton s = skeletonOf(c);
        const pose::Weights w = pose::weightsOf(skinOf(c));
        const pose::Blend blend(s, c.posing.now, w, &skinOf(c).body);
        const Creature now = posed(c);
        float worst = 0;
        for (std::size_t b = 0; b < skinOf(c).body.blockCount(); ++b) {
            const Vec3f *rest = skinOf(c).shown.positions.data(b);
            std::vector<Vec3f> p(skinOf(now).shown.positions.data(b),
                                 skinOf(now).shown.positions.data(b) + skinOf(now).shown.positions.countIn(b));
            for (std::size_t i = 0; i < p.size(); ++i)
                worst = std::max(worst, length(blend.at(b * mesh::kBlockSize + i).apply(rest[i]) - p[i]));
            blend.undo(b, p);
            for (std::size_t i = 0; i < p.size(); ++i)
                worst = std::max(worst, length(p[i] - rest[i]));
        }
        QVERIFY2(worst < 2e-4f, qPrintable(QString::number(double(worst))));
        // Work in the pose comes back to rest; what was not touched is the same, bit for bit.
        const pose::PosedSkin standing(skinOf(c), s, c.posing.now);
        skin::Skin worked = standing.standing();
        worked.body.edit(0)[5] += Vec3f{1, 0, 0};
        mixBlocks(worked, {0});
        const skin::Skin back = standing.atRest(worked);
        for (std::size_t v = 0; v < back.body.size(); ++v) {
            const float far = length(back.body[v] - skinOf(c).body[v]);
            if (v == 5)
                QVERIFY(std::abs(far - 1) < 1e-3f);
            else
                QVERIFY(far < 2e-4f);
        }
        for (std::size_t b = 1; b < back.body.blockCount(); ++b)
            QVERIFY(back.body.sharesWith(skinOf(c).body, b));
    }
    void reachingGetsThere()
    {
        const Skeleton s = chainOf(4, 10);
        const std::vector<std::uint32_t> chain{0, 1, 2, 3};
        for (std::uint64_t k = 0; k < 60; ++k) {
            const Vec3f way = normalized(Vec3f{randomSigned(7, k * 3), randomSigned(7, k * 3 + 1), randomSigned(7, k * 3 + 2)});
            const Vec3f to = way * (6 + 32 * randomUnit(9, k));
            pose::Posture posture;
            posture.set(s.bones[1].key, rotationAbout({0, 0, 1}, 0.2f));
            const float off =
                reach(s, posture, chain, s.bones[3].tail, to, {.keepsLimits = false, .steps = 400, .tolerance = 0.01f});
            const auto places = placesOf(s, posture);
            QVERIFY2(off < 0.05f, qPrintable(QString::number(double(off))));
            QVERIFY(std::abs(length(places[3].apply(s.bones[3].tail) - to) - off) < 1e-3f);
            for (std::size_t b = 0; b < 4; ++b)
                QVERIFY(std::abs(length(places[b].apply(s.bones[b].tail) - places[b].apply(s.bones[b].head)) - 10) < 1e-4f);
        }
        // Limits are never passed, and what is too far is come near to.
        Skeleton stiff = s;
        for (pose::Bone &b : stiff.bones)
            b.low = {-5, -30, -40}, b.high = {5, 30, 60};
        for (std::uint64_t k = 0; k < 40; ++k) {
            const Vec3f to{30 * randomSigned(3, k * 3), 30 * randomSigned(3, k * 3 + 1), 30 * randomSigned(3, k * 3 + 2)};
            pose::Posture posture;
            reach(stiff, posture, chain, stiff.bones[3].tail, to);
            for (const pose::Bone &b : stiff.bones)
                QVERIFY(beyondLimits(b, posture.turnOf(b.key)) < 0.02f);
        }
        pose::Posture far;
        const float off = reach(s, far, chain, s.bones[3].tail, {0, 100, 0}, {.keepsLimits = false, .steps = 200});
        QVERIFY(std::abs(off - 60) < 0.5f);
    }
    void pinnedEndsStay()
    {
        Creature c = beast(4000);
        c = need(c, {{"do", "pose.pin"}, {"bone", "shank left"}});
        const Skeleton s = skeletonOf(c);
        const std::uint32_t shank = s.find("shank left");
        const Vec3f before = s.bones[shank].tail;
        c = need(c, {{"do", "pose.reach"}, {"bone", "body"}, {"at", {0, 36, 2}}});
        const auto places = placesOf(s, c.posing.now);
        QVERIFY(length(rotate(places[shank].turn, Vec3f{0, 1, 0}) - Vec3f{0, 1, 0}) < 0.05f); // it does not turn either
        QVERIFY(length(places[s.find("body")].apply(s.bones[s.find("body")].head) - Vec3f{0, 36, 2}) < 1e-3f);
        QVERIFY2(length(places[shank].apply(before) - before) < 0.5f,
                 qPrintable(QString::number(double(length(places[shank].apply(before) - before)))));
        const Vec3f right = s.bones[s.find("shank right")].tail; // not pinned: it goes along
        QVERIFY(length(places[s.find("shank right")].apply(right) - right) > 3);
        c = need(c, {{"do", "pose.pin"}, {"bone", "shank left"}, {"on", false}});
        QVERIFY(c.posing.pins.empty());
    }
    void weightsGivenAndEvenedOut()
    {
        Creature c = need(beast(6000), {{"do", "pose.bind"}});
        const Skeleton s = skeletonOf(c);
        c = test::masked(c, [](Vec3f p) { return p.z < -60; });
        const auto sums = [](const Creature &of) {
            std::vector<int> out(skinOf(of).body.size(), 0);
            for (const auto &m : skinOf(of).boneWeights)
                for (std::size_t v = 0; v < out.size(); ++v)
                    out[v] += m.values[v];
            return std::all_of(out.begin(), out.end(), [](int x) { return x == 255; });
        };
        const Creature given = need(c, {{"do", "pose.rigid"}, {"bone", "body"}, {"masked", true}});
        QVERIFY(sums(given));
        for (const auto &w : pose::weightsOf(skinOf(given)))
            for (std::size_t v = 0; v < skinOf(c).body.size(); ++v)
                if (skinOf(c).mask[v] == 255)
                    QCOMPARE(int(w.values[v]), w.bone == s.bones[s.find("body")].key ? 255 : 0);
        const Creature even = need(need(given, {{"do", "mask.clear"}}), {{"do", "pose.even"}, {"passes", 6}});
        QVERIFY(sums(even));
        int steepest[2]{};
        for (int k = 0; k < 2; ++k) {
            const skin::Skin &skin = skinOf(k == 0 ? given : even);
            for (const mesh::Face &f : toPolyMesh(skin.shown).faces)
                for (const auto &m : skin.boneWeights)
                    steepest[k] = std::max(steepest[k], std::abs(int(m.values[f.v[0]]) - int(m.values[f.v[1]])));
        }
        QVERIFY2(steepest[0] > 200 && steepest[1] < steepest[0] / 2,
                 qPrintable(QStringLiteral("%1 %2").arg(steepest[0]).arg(steepest[1])));
        QVERIFY(!test::run(beast(1500), {{"do", "pose.even"}}));
    }
    void itSettlesOnTheGround()
    {
        const Creature c = need(beast(4000), {{"do", "pose.move"}, {"by", {0, 30, 0}}});
        const Creature down = need(c, {{"do", "pose.settle"}});
        QVERIFY(test::isSaid("stands on body")); // the lowest there
        QVERIFY(std::abs(skinOf(posed(down)).shown.box().lo.y - skinOf(c).shown.box().lo.y) < 1e-3f);
    }
    void posesAreKeptMirroredAndBlended()
    {
        Creature c = need(beast(4000), {{"do", "pose.turn"}, {"bone", "arm left"}, {"angles", {0, 20, 50}}});
        c = need(c, {{"do", "pose.keep"}, {"name", "wave"}});
        const Skeleton s = skeletonOf(c);
        const auto angles = [&](const Creature &of, const char *bone) {
            return pose::anglesOf(of.posing.now.turnOf(s.bones[s.find(bone)].key));
        };
        const Creature swapped = need(c, {{"do", "pose.mirror"}});
        QVERIFY(length(angles(swapped, "arm right") - Vec3f{0, -20, -50}) < 0.01f);
        QVERIFY(length(angles(swapped, "arm left")) < 0.01f);
        const Creature both = need(c, {{"do", "pose.mirror"}, {"how", "fromLeft"}});
        const Creature now = posed(both); // a mirrored pair stands as a mirrored pair
        const auto box = skinOf(now).shown.box();
        QVERIFY(std::abs(box.lo.x + box.hi.x) < 0.5f);
        const Creature half = need(need(c, {{"do", "pose.rest"}}), {{"do", "pose.use"}, {"pose", "wave"}, {"share", 0.5}});
        QVERIFY(std::abs(2 * std::acos(half.posing.now.turnOf(s.bones[s.find("arm left")].key).w)
                         - std::acos(c.posing.now.turnOf(s.bones[s.find("arm left")].key).w))
                < 1e-3f);
        QVERIFY(need(half, {{"do", "pose.use"}, {"pose", "wave"}}).posing.now == c.posing.now);
        QVERIFY(need(c, {{"do", "pose.use"}, {"pose", "rest"}}).posing.now.isRest());
        QTemporaryDir folder;
        const std::filesystem::path file = (folder.path() + "/c.bonemoss").toStdString();
        QVERIFY(bool(store::saveAs(file, c)));
        const auto back = store::loadStore(file);
        QVERIFY(bool(back) && back->damage.empty());
        QCOMPARE(back->creature.posing.poses.size(), std::size_t(1));
        for (std::size_t k = 0; k < skinOf(c).boneWeights.size(); ++k)
            QVERIFY(skinOf(back->creature).boneWeights[k].values.flatten() == skinOf(c).boneWeights[k].values.flatten());
        const auto a = skinOf(posed(back->creature)).shown.positions.flatten(), b = skinOf(posed(c)).shown.positions.flatten();
        for (std::size_t v = 0; v < a.size(); ++v)
            QVERIFY(length(a[v] - b[v]) < 1e-4f);
        // Knitted anew the pose stays.
        const Creature finer = need(c, {{"do", "piece.reknit"}, {"faces", 9000}});
        QVERIFY(!skinOf(finer).boneWeights.empty());
        const auto wide = skinOf(posed(finer)).shown.box(), was = skinOf(posed(c)).shown.box();
        QVERIFY(length(wide.hi - was.hi) < 1.5f && length(wide.lo - was.lo) < 1.5f);
        QVERIFY(checkPose(finer).weightError < 0.03);
    }
    void thePoseBecomesTheRest()
    {
        const Creature c = need(beast(4000), {{"do", "pose.turn"}, {"bone", "arm left"}, {"angles", {0, 0, 40}}});
        const Creature applied = need(c, {{"do", "pose.apply"}});
        QVERIFY(applied.posing.now.isRest());
        const auto a = skinOf(applied).shown.positions.flatten(), b = skinOf(posed(c)).shown.positions.flatten();
        QVERIFY(a == b);
        QVERIFY(skeletonOf(applied).find("arm") != kNone || skeletonOf(applied).bones.size() > 3);
        QVERIFY(!test::run(applied, {{"do", "pose.apply"}}));
    }
    void strokesInThePoseGoToTheRest()
    {
        // Where one bone alone moves the skin, a stroke in the pose is the same stroke at rest.
        Creature c = need(beast(20000), {{"do", "pose.turn"}, {"bone", "arm left"}, {"angles", {0, 20, 45}}});
        const Skeleton s = skeletonOf(c);
        const Rigid place = placesOf(s, c.posing.now)[s.find("shank left")];
        const auto stroke = [&](bool isPosed, const char *tool, bool isMirrored) {
            json samples = json::array();
            for (int k = 0; k <= 6; ++k) {
                Vec3f from{69, 60, 24 + float(k)}, way{0, -1, 0};
                if (isPosed)
                    from = place.apply(from), way = rotate(place.turn, way);
                samples.push_back({from.x, from.y, from.z, way.x, way.y, way.z, 1, k * 10});
            }
            return json{{"do", "sculpt.stroke"}, {"tool", tool},     {"size", 3},         {"strength", 0.8},
                        {"mirror", isMirrored},  {"posed", isPosed}, {"samples", samples}};
        };
        const Creature inPose = need(c, stroke(true, "raise", false)), atRest = need(c, stroke(false, "raise", false));
        float moved = 0, off = 0;
        for (std::size_t v = 0; v < skinOf(c).body.size(); ++v) {
            moved = std::max(moved, length(skinOf(atRest).body[v] - skinOf(c).body[v]));
            off = std::max(off, length(skinOf(atRest).body[v] - skinOf(inPose).body[v]));
        }
        QVERIFY2(moved > 0.3f && off < 0.02f * moved + 2e-3f,
                 qPrintable(QStringLiteral("%1 %2").arg(double(moved)).arg(double(off))));
        // Of a mirrored one the other side follows by the symmetry of the rest, though it stands otherwise.
        const Creature both = need(c, stroke(true, "raise", true));
        float right = 0, left = 0;
        for (std::size_t v = 0; v < skinOf(c).body.size(); ++v) {
            const float by = length(skinOf(both).body[v] - skinOf(c).body[v]);
            (skinOf(c).body[v].x > 0 ? left : right) = std::max(skinOf(c).body[v].x > 0 ? left : right, by);
        }
        QVERIFY2(std::abs(left - right) < 0.15f * left, qPrintable(QStringLiteral("%1 %2").arg(double(left)).arg(double(right))));
        // Paint goes along; faces cannot change there.
        const Creature painted = need(c, stroke(true, "paint", false));
        QVERIFY(!skinOf(painted).paint.of(skin::Channel::Cover).isBlank());
        for (std::size_t b = 0; b < skinOf(c).body.blockCount(); ++b)
            QVERIFY(skinOf(painted).body.sharesWith(skinOf(c).body, b));
        QVERIFY(!test::run(c, stroke(true, "denser", false)));
    }
    void outgrowthsGoAlong()
    {
        Creature c = beast(6000);
        c = need(c, {{"do", "outgrow.claw"}, {"at", {73, 35, 28}}});
        const Vec3f root = c.outgrowths[0]->made->members[0].root;
        c = need(c, {{"do", "pose.turn"}, {"bone", "arm left"}, {"angles", {0, 0, 50}}});
        const Creature now = posed(c);
        const Skeleton s = skeletonOf(c);
        const Rigid place = placesOf(s, c.posing.now)[s.find("shank left")];
        QVERIFY(length(now.outgrowths[0]->made->members[0].root - place.apply(root)) < 1);
        QVERIFY(length(now.outgrowths[0]->made->members[0].root - root) > 5);
        QVERIFY(c.outgrowths[0]->made->members[0].root == root);
    }
    void badInputIsTold()
    {
        const Creature c = beast(2000);
        for (const json &bad : {json{{"do", "pose.turn"}, {"bone", "wing"}, {"angles", {0, 0, 0}}},
                                {{"do", "pose.turn"}, {"bone", "arm left"}},
                                {{"do", "pose.reach"}, {"bone", "wing"}, {"at", {0, 0, 0}}},
                                {{"do", "pose.use"}, {"pose", "none"}},
                                {{"do", "pose.keep"}, {"name", ""}},
                                {{"do", "pose.keep"}, {"name", "rest"}},
                                {{"do", "pose.remove"}, {"pose", "none"}},
                                {{"do", "pose.bones"}, {"form", "body"}, {"count", 0}},
                                {{"do", "pose.bones"}, {"form", "tail"}, {"count", 99}},
                                {{"do", "pose.apply"}},
                                {{"do", "pose.rigid"}, {"bone", "arm left"}, {"masked", true}},
                                {{"do", "pose.curl"}, {"bone", "tail 1"}, {"to", "arm left"}, {"angles", {0, 0, 9}}}})
            QVERIFY2(!test::run(c, bad), bad.dump().c_str());
        const Creature none = test::withPieces({test::sphere(10, 12, 16)});
        QVERIFY(!test::run(none, {{"do", "pose.turn"}, {"bone", "arm"}, {"angles", {0, 0, 0}}}));
        QVERIFY(!test::run(none, {{"do", "pose.bind"}}));
        // Far out of reach: as near as it gets, and a word.
        const auto far = test::run(c, {{"do", "pose.reach"}, {"bone", "shank left"}, {"at", {500, 500, 0}}});
        QVERIFY(bool(far) && test::isSaid("short of"));
        QVERIFY(!test::run(c, {{"do", "pose.move"}, {"by", {1e30, 0, 0}}}));
        // A form that was a bone is deleted: the skin is bound to what is left.
        Creature gone = need(c, {{"do", "pose.bind"}});
        gone = need(need(gone, {{"do", "form.remove"}, {"form", "shank"}}),
                    {{"do", "pose.turn"}, {"bone", "arm left"}, {"angles", {0, 0, 30}}});
        for (const auto &w : pose::weightsOf(skinOf(gone)))
            QVERIFY(skeletonOf(gone).find(w.bone) != kNone);
        // A bone outside the skin, one without length, two islands of which one has no bone.
        Creature odd = need(c, {{"do", "form.add"},
                                {"kind", "limb"},
                                {"name", "ghost"},
                                {"path", {{0, 300, 0, 1}, {0, 300.0001, 0, 1}}},
                                {"parent", "body"}});
        odd = need(odd, {{"do", "pose.turn"}, {"bone", "ghost"}, {"angles", {0, 0, 30}}});
        for (const Vec3f p : skinOf(posed(odd)).shown.positions.flatten())
            QVERIFY(isFinite(p));
    }
    void roundingKeepsTheSum()
    {
        std::vector<std::uint8_t> bytes(6);
        for (std::uint64_t k = 0; k < 200; ++k) {
            std::vector<float> shares(6);
            for (std::size_t i = 0; i < 6; ++i)
                shares[i] = randomUnit(4, k * 6 + i) < 0.3f ? 0 : randomUnit(5, k * 6 + i);
            pose::roundWeights(shares, bytes);
            int sum = 0, n = 0;
            for (std::size_t i = 0; i < 6; ++i)
                sum += bytes[i], n += bytes[i] > 0;
            const bool any = std::any_of(shares.begin(), shares.end(), [](float s) { return s > 0; });
            QCOMPARE(sum, any ? 255 : 0);
            QVERIFY(n <= int(pose::kMostBones));
        }
    }
};

BONEMOSS_TEST(TestPose)
#include "tst_pose.moc"
