// Skins in a pose with layers that come and go with it, and what is posed anew after a change. Oracles: closed forms of a bent bar and
// of a twisted one, the pose made from nothing, what lay there before.
#include "base/parallel.h"
#include "base/random.h"
#include "document/ops/posing.h"
#include "mesh/measures.h"
#include "outgrowth/outgrowth.h"
#include "pose/cells.h"
#include "pose/paint_weights.h"
#include "pose/stretch.h"
#include "store/store.h"
#include "support/beasts.h"
#include "support/pieces.h"
#include "support/run.h"

#include <QTemporaryDir>
#include <QtTest>

#include <map>

using namespace bonemoss;
using document::Creature;
using document::Standing;
using nlohmann::json;
using skin::LayerDrive;
using test::beast;
using test::need;
using test::skinOf;

namespace {

/// A layer that lifts all of a skin by so much along y.
Creature withLayer(Creature c, float lift)
{
    c = need(c, {{"do", "layer.add"}, {"name", "folds"}});
    auto piece = std::make_shared<document::Piece>(*c.pieces[0]);
    skin::Layer &l = piece->skin.layers.back();
    l.offsets = mesh::BlockArray<Vec3f>(std::vector<Vec3f>(piece->skin.body.size(), {0, lift, 0}));
    mixBlocks(piece->skin, skin::blocksWith(l));
    c.pieces[0] = std::move(piece);
    return c;
}

void compareAll(const skin::Skin &a, const skin::Skin &b)
{
    QVERIFY(a.shown.positions.flatten() == b.shown.positions.flatten());
    QVERIFY(a.body.flatten() == b.body.flatten());
    for (std::size_t v = 0; v < a.body.size(); ++v) {
        const auto n = a.shown.normals[v], m = b.shown.normals[v];
        QVERIFY(n.x == m.x && n.y == m.y && n.z == m.z);
    }
    for (std::size_t k = 0; k < a.layers.size(); ++k)
        QVERIFY(a.layers[k].offsets.flatten() == b.layers[k].offsets.flatten());
    for (std::size_t k = 0; k < a.shown.bounds.size(); ++k)
        QVERIFY(a.shown.bounds[k]->box == b.shown.bounds[k]->box);
}

} // namespace

class TestDrives : public QObject
{
    Q_OBJECT
private slots:
    void stretchOfABentBar()
    {
        // A bar along x bent to a circle about (0, R): at a distance y from its axis a length becomes (R - y) / R of it, what lies
        // across keeps its own (pure bending of a thin bar, e.g. Timoshenko, Strength of Materials; closed form).
        const mesh::PolyMesh bar = test::pipe(60, 5, 48, 120);
        const mesh::Surface rest = mesh::makeSurface(bar);
        constexpr float kRadius = 20;
        std::vector<Vec3f> bent;
        for (const Vec3f p : rest.positions.flatten()) {
            const float a = p.x / kRadius, r = kRadius - p.y;
            bent.push_back({r * std::sin(a), kRadius - r * std::cos(a), p.z});
        }
        const mesh::BlockArray<Vec3f> posed(bent);
        float worst = 0;
        for (std::size_t b = 0; b < rest.positions.blockCount(); ++b) {
            const std::vector<pose::Stretch> s = pose::stretchOf(rest, posed, b);
            for (std::size_t i = 0; i < s.size(); ++i) {
                const Vec3f p = rest.positions.data(b)[i];
                if (p.x < 2 || p.x > 58)
                    continue; // the lids are not bent lengthwise alone
                const float along = (kRadius - p.y) / kRadius;
                worst =
                    std::max({worst, std::abs(s[i].least - std::min(along, 1.0f)), std::abs(s[i].most - std::max(along, 1.0f))});
                QVERIFY(std::abs(s[i].of(LayerDrive::By::Area) - std::sqrt(along)) < 0.02f);
            }
        }
        QVERIFY2(worst < 0.02f, qPrintable(QString::number(double(worst))));
        for (const pose::Stretch &s : pose::stretchOf(rest, rest.positions, 0))
            QVERIFY(std::abs(s.least - 1) < 1e-3f && std::abs(s.most - 1) < 1e-3f);
    }
    void correctionsShowInTheirPoseAlone()
    {
        std::vector<skin::Layer> layers(3, skin::Layer(4));
        const Quat a = rotationAbout({1, 0, 0}, 1.2f), b = rotationAbout({0, 0, 1}, 0.9f);
        layers[0].drive = {.by = LayerDrive::By::Pose, .joints = {{"3", a}}};
        layers[1].drive = {.by = LayerDrive::By::Pose, .joints = {{"3", b}}};
        pose::Posture now;
        const auto shares = [&] { return poseShares(layers, now); };
        QVERIFY((shares() == std::vector<float>{0, 0, 1})); // at rest, exactly
        now.set({3, 0, false}, a);
        QCOMPARE(shares()[0], 1.0f);
        QVERIFY(shares()[1] < 1e-4f);
        now.set({3, 0, false}, b);
        QCOMPARE(shares()[1], 1.0f);
        QVERIFY(shares()[0] < 1e-4f);
        float before = 0;
        for (int k = 1; k <= 10; ++k) { // comes in all the way
            now.set({3, 0, false}, rotationAbout({1, 0, 0}, 0.12f * float(k)));
            QVERIFY(shares()[0] > before);
            before = shares()[0];
        }
        now.set({8, 0, false}, b); // a bone that it is not about does not matter
        QCOMPARE(shares()[0], 1.0f);
        layers[0].drive.joints[0].turn = {}; // a correction of rest corrects nothing
        QCOMPARE(shares()[0], 0.0f);
    }
    void correctionsVanishAtRest()
    {
        const Creature bent = need(beast(8000), {{"do", "pose.turn"}, {"bone", "shank left"}, {"angles", {0, -70, 0}}});
        const Creature c = need(bent, {{"do", "pose.correct"}, {"name", "elbow"}, {"bones", {"shank left"}}});
        const auto s = skeletonOf(c);
        const Vec3f at = placesOf(s, c.posing.now)[s.find("arm left")].apply({30, 40, 21});
        json samples = json::array();
        for (int k = 0; k < 5; ++k)
            samples.push_back({at.x + float(k) * 0.5f, at.y + 30, at.z, 0, -1, 0, 1, 10 * k});
        const Creature worked = need(c, {{"do", "sculpt.stroke"},
                                         {"tool", "raise"},
                                         {"size", 5},
                                         {"strength", 1},
                                         {"mirror", false},
                                         {"posed", true},
                                         {"layer", "elbow"},
                                         {"samples", samples}});
        QVERIFY(!skinOf(worked).layers.back().offsets.isBlank());
        QVERIFY(skinOf(worked).layers.back().drive.by == LayerDrive::By::Pose && skinOf(worked).layers.back().strength == 1);
        // At rest it is not there, bit for bit.
        QVERIFY(skinOf(worked).shown.positions.flatten() == skinOf(bent).shown.positions.flatten());
        // In the pose it is what the same stroke without a layer makes there.
        const Creature plain = need(bent, {{"do", "sculpt.stroke"},
                                           {"tool", "raise"},
                                           {"size", 5},
                                           {"strength", 1},
                                           {"mirror", false},
                                           {"posed", true},
                                           {"samples", samples}});
        const auto a = skinOf(posed(worked)).shown.positions.flatten(), b = skinOf(posed(plain)).shown.positions.flatten(),
                   was = skinOf(posed(bent)).shown.positions.flatten();
        float lifted = 0, off = 0;
        for (std::size_t v = 0; v < a.size(); ++v)
            lifted = std::max(lifted, length(b[v] - was[v])), off = std::max(off, length(a[v] - b[v]));
        QVERIFY2(lifted > 0.5f && off < 0.02f * lifted, qPrintable(QStringLiteral("%1 %2").arg(double(lifted)).arg(double(off))));
        // Mirrored strokes stay on the side of the bones that are corrected: the other side would show with them.
        json onBoth{{"do", "sculpt.stroke"}, {"tool", "raise"}, {"size", 5},        {"strength", 1},
                    {"mirror", true},        {"posed", true},   {"layer", "elbow"}, {"samples", samples}};
        const Creature oneSide = need(c, onBoth);
        QVERIFY(skinOf(oneSide).layers.back().offsets.flatten() == skinOf(worked).layers.back().offsets.flatten());
        // Half open it is half there; it survives the file; across the plane there is the same.
        const Creature half = need(worked, {{"do", "pose.turn"}, {"bone", "shank left"}, {"angles", {0, -35, 0}}});
        const std::vector<float> shares = poseShares(skinOf(half).layers, half.posing.now);
        QVERIFY(shares.back() > 0.2f && shares.back() < 0.9f);
        QTemporaryDir folder;
        const std::filesystem::path file = (folder.path() + "/c.bonemoss").toStdString();
        QVERIFY(bool(store::saveAs(file, worked)));
        const auto back = store::loadStore(file);
        QVERIFY(bool(back) && back->damage.empty());
        QVERIFY(skinOf(back->creature).layers.back().drive == skinOf(worked).layers.back().drive);
        const Creature both = need(worked, {{"do", "pose.correctOther"}, {"layer", "elbow"}});
        const LayerDrive &other = skinOf(both).layers.back().drive;
        QCOMPARE(other.joints.size(), std::size_t(1));
        QVERIFY(pose::boneKeyOf(other.joints[0].bone) == s.bones[s.find("shank right")].key);
        const Creature right = need(both, {{"do", "pose.mirror"}});
        const auto mirrored = poseShares(skinOf(right).layers, right.posing.now);
        QCOMPARE(mirrored[0], 0.0f);
        QCOMPARE(mirrored[1], 1.0f);
        // Its bone deleted: the layer is kept, and that it shows no longer is told once.
        command::CommandContext context;
        const auto without = command::apply(worked, {{"do", "form.remove"}, {"form", "shank"}}, context);
        QVERIFY(bool(without));
        const auto tells = [&] {
            return std::count_if(context.notes.begin(), context.notes.end(),
                                 [](const auto &n) { return n.text.find("elbow") != std::string::npos; });
        };
        QCOMPARE(int(tells()), 1);
        QVERIFY(skinOf(*without).layers.size() == skinOf(worked).layers.size());
        QVERIFY(checkPose(*without).lost == std::vector<std::string>{"elbow"} && checkPose(worked).lost.empty());
        QVERIFY(bool(command::apply(*without, {{"do", "layer.set"}, {"layer", "elbow"}, {"strength", 0.5}}, context)));
        QCOMPARE(int(tells()), 1);
    }
    void foldsComeAsTheSkinShrinks()
    {
        Creature c = withLayer(need(beast(20000), {{"do", "pose.turn"}, {"bone", "shank left"}, {"angles", {0, -80, 0}}}), 0.5f);
        const auto plain = skinOf(need(c, {{"do", "layer.set"}, {"layer", "folds"}, {"on", false}}));
        c = need(c, {{"do", "layer.drive"}, {"layer", "folds"}, {"by", "shrink"}, {"none", 1}, {"full", 0.7}});
        QVERIFY(skinOf(c).shown.positions.flatten() == plain.shown.positions.flatten()); // nothing of it at rest
        const auto s = skeletonOf(c);
        const pose::PosedSkin bare(plain, s, c.posing.now), driven(skinOf(c), s, c.posing.now);
        const LayerDrive drive = skinOf(c).layers[0].drive;
        std::size_t shown = 0;
        for (std::size_t b = 0; b < plain.body.blockCount(); ++b) {
            const auto stretch = pose::stretchOf(plain.shown, bare.standing().shown.positions, b);
            for (std::size_t i = 0; i < stretch.size(); ++i) {
                const Vec3f by = driven.standing().shown.positions.data(b)[i] - bare.standing().shown.positions.data(b)[i];
                const float wanted = 0.5f * drive.shareAt(stretch[i].least);
                QVERIFY2(std::abs(length(by) - wanted) < 2e-3f,
                         qPrintable(QStringLiteral("%1 %2").arg(double(length(by))).arg(double(wanted))));
                shown += wanted > 0.3f;
            }
        }
        QVERIFY(shown > 20);
        // Strokes in the pose keep what the drive adds there out of the body.
        skin::Skin worked = driven.standing();
        worked.body.edit(0)[3] += Vec3f{0, 1, 0};
        mixBlocks(worked, {0});
        const skin::Skin back = driven.atRest(worked);
        for (std::size_t v = 0; v < back.body.size(); ++v)
            QVERIFY(v == 3 || length(back.body[v] - plain.body[v]) < 5e-4f);
        // Such a layer cannot be added to what lies below unseen.
        QVERIFY(!test::run(c, {{"do", "layer.merge"}, {"layer", "folds"}}));
        QVERIFY(!test::run(c, {{"do", "layer.drive"}, {"layer", "folds"}, {"by", "grow"}, {"none", 1}, {"full", 1}}));
        QVERIFY(!test::run(c, {{"do", "layer.drive"}, {"layer", 0}, {"by", "grow"}}));
        const Creature always = need(c, {{"do", "layer.drive"}, {"layer", "folds"}, {"by", "none"}});
        QVERIFY(std::abs(skinOf(always).shown.positions[9].y - plain.shown.positions[9].y - 0.5f) < 1e-4f);
    }
    void whatIsPosedAnewIsAsFromNothing()
    {
        Creature c = withLayer(need(beast(30000), {{"do", "pose.turn"}, {"bone", "shank left"}, {"angles", {0, -40, 0}}}), 0.3f);
        c = need(c, {{"do", "layer.drive"}, {"layer", "folds"}, {"by", "area"}});
        c = need(need(c, {{"do", "pose.correct"}, {"bones", {"shank left"}}}), {{"do", "layer.add"}, {"name", "plain"}});
        c = need(c, {{"do", "outgrow.claw"}, {"at", {73, 35, 28}}});
        const char *const bones[] = {"shank left", "arm right", "tail 2", "tail 3"};
        auto last = std::make_shared<const Standing>(std::make_shared<const Creature>(c), c.posing.now);
        for (std::uint64_t k = 0; k < 12; ++k) {
            if (k % 3 == 2) { // work on it
                const Vec3f at = skinOf(c).shown.positions[std::size_t(randomUnit(2, k) * float(skinOf(c).body.size() - 1))];
                c = need(c, {{"do", "sculpt.stroke"},
                             {"tool", "raise"},
                             {"size", 4},
                             {"layer", k > 5 ? "plain" : "Correction"},
                             {"posed", true},
                             {"samples", {{at.x, at.y + 60, at.z, 0, -1, 0, 1, 0}}}});
            } else {
                c = need(c,
                         {{"do", "pose.turn"}, {"bone", bones[k % 4]}, {"angles", {3.0 * double(k), -30 - 3.0 * double(k), 4}}});
            }
            const auto now = std::make_shared<const Creature>(c);
            const auto next = std::make_shared<const Standing>(now, c.posing.now, Standing::Part::Whole, last.get());
            const Standing anew(now, c.posing.now);
            compareAll(skinOf(*next->creature()), skinOf(*anew.creature()));
            const auto &claw = next->creature()->outgrowths[0]->made->members[0],
                       &claw2 = anew.creature()->outgrowths[0]->made->members[0];
            QVERIFY(claw.root == claw2.root);
            last = next;
        }
        // Nothing changed: the same objects. A tail that moves leaves the arms as they are.
        const Standing again(last->rest(), c.posing.now, Standing::Part::Whole, last.get());
        QVERIFY(again.creature()->pieces[0] == last->creature()->pieces[0]);
        const Creature wag = need(c, {{"do", "pose.turn"}, {"bone", "tail 4"}, {"angles", {30, 0, 0}}});
        const Standing other(std::make_shared<const Creature>(wag), wag.posing.now, Standing::Part::Whole, last.get());
        std::size_t shared = 0;
        const auto &a = skinOf(*other.creature()).shown.positions, &b = skinOf(*last->creature()).shown.positions;
        for (std::size_t k = 0; k < a.blockCount(); ++k)
            shared += a.sharesWith(b, k);
        QVERIFY2(shared > 0 && shared < a.blockCount(), qPrintable(QString::number(shared)));
    }
    void twistIsSpreadAlongABone()
    {
        // A pipe of two bones, the second twisted by 120 degrees about its length: skin turns by the share of the way along it, and
        // keeps its distance from the axis, where one bone alone moves it (closed form).
        const pose::Skeleton s = test::chainOf(2, 30);
        const skin::Skin pipe = skin::makeSkin(test::pipe(60, 4, 24, 60), false);
        pose::Weights weights{{{1, 0, false}, mesh::BlockArray<std::uint8_t>(pipe.body.size())},
                              {{2, 0, false}, mesh::BlockArray<std::uint8_t>(pipe.body.size())}};
        for (std::size_t v = 0; v < pipe.body.size(); ++v) {
            auto &w = pipe.body[v].x < 30 ? weights[0] : weights[1];
            w.values.edit(v / mesh::kBlockSize)[v % mesh::kBlockSize] = 255;
        }
        pose::Posture posture;
        const float whole = 120 * kRadiansPerDegree;
        posture.set(s.bones[1].key, rotationAbout({1, 0, 0}, whole));
        const pose::Blend blend(s, posture, weights, &pipe.body);
        const mesh::Surface turned = posed(pipe.shown, blend);
        for (std::size_t v = 0; v < pipe.body.size(); ++v) {
            const Vec3f was = pipe.body[v], is = turned.positions[v];
            const float r = std::hypot(was.y, was.z);
            QVERIFY(std::abs(is.x - was.x) < 1e-3f);
            QVERIFY2(
                std::abs(std::hypot(is.y, is.z) - r) < 1e-3f,
                qPrintable(QStringLiteral("%1 %2 at %3").arg(double(r)).arg(double(std::hypot(is.y, is.z))).arg(double(was.x))));
            if (r < 1)
                continue;
            const float t = std::clamp((was.x - 30) / 30, 0.0f, 1.0f);
            const Vec3f wanted = rotate(rotationAbout({1, 0, 0}, whole * t), was);
            QVERIFY2(length(is - wanted) < 0.09f * r,
                     qPrintable(QStringLiteral("%1: %2").arg(double(t)).arg(double(length(is - wanted)))));
            const pose::Rigid one = blend.at(v);
            QVERIFY(length(one.apply(was) - is) < 1e-3f);
        }
    }
    void weightsArePainted()
    {
        Creature c = need(beast(12000), {{"do", "pose.bind"}});
        const auto s = skeletonOf(c);
        const auto of = [&](const Creature &creature, const char *bone, std::size_t v) {
            for (const auto &w : pose::weightsOf(skinOf(creature)))
                if (w.bone == s.bones[s.find(bone)].key)
                    return int(w.values[v]);
            return 0;
        };
        const auto isWhole = [&](const Creature &creature) {
            for (std::size_t v = 0; v < skinOf(creature).body.size(); ++v) {
                int sum = 0;
                for (const auto &m : skinOf(creature).boneWeights)
                    sum += m.values[v];
                if (sum != 255)
                    return false;
            }
            return true;
        };
        const auto stroke = [&](const char *bone, bool takes, bool evens) {
            json j{{"do", "sculpt.stroke"},
                   {"tool", "mask"},
                   {"size", 6},
                   {"strength", 1},
                   {"reverse", takes},
                   {"mirror", true},
                   {"samples", {{38, 80, 22, 0, -1, 0, 1, 0}, {38.5, 80, 22, 0, -1, 0, 1, 30}}}};
            if (bone)
                j["bone"] = bone;
            if (evens)
                j["evenWeights"] = true;
            return j;
        };
        std::size_t at = 0, across = 0;
        for (std::size_t v = 0; v < skinOf(c).body.size(); ++v) {
            const Vec3f p = skinOf(c).body[v];
            if (length(p - Vec3f{38, 46, 22}) < length(skinOf(c).body[at] - Vec3f{38, 46, 22}))
                at = v;
            if (length(p - Vec3f{-38, 46, 22}) < length(skinOf(c).body[across] - Vec3f{-38, 46, 22}))
                across = v;
        }
        const Creature more = need(c, stroke("arm left", false, false));
        QVERIFY2(of(more, "arm left", at) > of(c, "arm left", at) + 20, qPrintable(QString::number(of(more, "arm left", at))));
        QVERIFY(of(more, "arm right", across) > of(c, "arm right", across) + 20); // the bone of the other side there
        QVERIFY(isWhole(more) && !skinOf(more).hasMask());
        const Creature less = need(more, stroke("arm left", true, false));
        QVERIFY(of(less, "arm left", at) < of(more, "arm left", at) - 20);
        QVERIFY(isWhole(less));
        QVERIFY(isWhole(need(less, stroke(nullptr, false, true))));
        // All of it taken where nobody else is goes to the bone above.
        skin::Skin alone = skinOf(c);
        setWeights(alone, pose::rigidWeights(alone.body.size(), s.bones[s.find("shank left")].key));
        paintWeights(alone, s, s.find("shank left"), pose::WeightStroke::Take,
                     mesh::BlockArray<std::uint8_t>(std::vector<std::uint8_t>(alone.body.size(), 255)));
        const pose::Weights taken = pose::weightsOf(alone);
        QCOMPARE(taken.size(), std::size_t(1));
        QVERIFY(taken[0].bone == s.bones[s.find("arm left")].key && taken[0].values[7] == 255);
        json raise = stroke("arm left", false, false);
        raise["tool"] = "raise";
        QVERIFY(!test::run(c, raise));
        QVERIFY(!test::run(beast(2000), stroke("arm left", false, false))); // not bound
        QVERIFY(!test::run(c, stroke("wing", false, false)));
    }
    void scalesKeepTheirShape()
    {
        // A pipe with round studs, bent in the middle: each stud keeps the distances between its places, the skin between does not.
        const pose::Skeleton s = test::chainOf(2, 30);
        skin::Skin pipe = skin::makeSkin(test::pipe(60, 6, 96, 240), false);
        skin::Layer studs(pipe.body.size());
        studs.id = 1, studs.rigid = 1;
        const auto studOf = [](Vec3f p) { // every 5 mm along, every 30 degrees around
            const float around = std::atan2(p.z, p.y) * 6, along = p.x;
            const float u = along / 5 - std::round(along / 5), v = around / kPi - std::round(around / kPi);
            return std::max(0.0f, 1 - 2.4f * std::hypot(u, v));
        };
        for (std::size_t v = 0; v < pipe.body.size(); ++v)
            studs.offsets.edit(v / mesh::kBlockSize)[v % mesh::kBlockSize] =
                pipe.shown.normals[v].unpack() * std::min(0.6f, 0.9f * studOf(pipe.body[v]));
        pipe.layers.push_back(studs);
        mixBlocks(pipe, skin::blocksWith(pipe.layers[0]));
        const pose::Cells cells = pose::cellsOf(pipe, pipe.layers[0]);
        std::map<std::uint32_t, std::vector<std::uint32_t>> ofPeak;
        for (std::uint32_t v = 0; v < pipe.body.size(); ++v)
            if (cells.share[v] == 255)
                ofPeak[cells.peak[v]].push_back(v);
        QVERIFY2(ofPeak.size() > 100 && ofPeak.size() < 200, qPrintable(QString::number(ofPeak.size()))); // 12 around, 13 rows
        pose::Weights weights;
        for (std::uint32_t b = 0; b < 2; ++b)
            weights.push_back({{b + 1, 0, false}, mesh::BlockArray<std::uint8_t>(pipe.body.size())});
        for (std::size_t v = 0; v < pipe.body.size(); ++v) {
            const auto second = std::uint8_t(std::clamp((pipe.body[v].x - 15) / 30, 0.0f, 1.0f) * 255);
            weights[0].values.edit(v / mesh::kBlockSize)[v % mesh::kBlockSize] = std::uint8_t(255 - second);
            weights[1].values.edit(v / mesh::kBlockSize)[v % mesh::kBlockSize] = second;
        }
        setWeights(pipe, weights);
        pose::Posture posture;
        posture.set(s.bones[1].key, rotationAbout({0, 0, 1}, 1.3f));
        const auto worst = [&](float rigid) {
            skin::Skin of = pipe;
            of.layers[0].rigid = rigid;
            const pose::PosedSkin posed(of, s, posture);
            float most = 0;
            for (const auto &[peak, list] : ofPeak)
                for (const std::uint32_t v : list) {
                    const float was = length(of.shown.positions[v] - of.shown.positions[peak - 1]),
                                is = length(posed.standing().shown.positions[v] - posed.standing().shown.positions[peak - 1]);
                    most = std::max(most, std::abs(is - was));
                }
            return most;
        };
        QVERIFY2(worst(1) < 0.02f && worst(0) > 0.1f,
                 qPrintable(QStringLiteral("%1 %2").arg(double(worst(1))).arg(double(worst(0)))));
        // Work in the pose still goes to the rest and back.
        const pose::PosedSkin posed(pipe, s, posture);
        skin::Skin worked = posed.standing();
        worked.body.edit(0)[7] += Vec3f{0, 0.5f, 0};
        mixBlocks(worked, {0});
        const skin::Skin back = posed.atRest(worked);
        for (std::size_t v = 0; v < back.body.size(); ++v)
            QVERIFY(v == 7 || length(back.body[v] - pipe.body[v]) < 5e-4f);
        QVERIFY(!test::run(beast(2000), {{"do", "layer.set"}, {"layer", 0}, {"rigid", 1}}));
    }
    void membranesFold()
    {
        Creature c;
        for (const json &command : std::vector<json>{
                 {{"do", "form.add"}, {"kind", "ellipsoid"}, {"name", "body"}, {"at", {0, 40, 0}}, {"radii", {12, 12, 20}}},
                 {{"do", "form.add"},
                  {"kind", "limb"},
                  {"name", "front rib"},
                  {"path", {{8, 42, 8, 4}, {70, 60, 30, 3}}},
                  {"parent", "body"}},
                 {{"do", "form.add"},
                  {"kind", "limb"},
                  {"name", "back rib"},
                  {"path", {{8, 42, -6, 4}, {70, 60, -30, 3}}},
                  {"parent", "body"}},
                 {{"do", "knit.forms"}, {"faces", 8000}, {"name", "Wing"}}})
            c = need(c, command);
        json points = json::array();
        for (const double z : {1.0, -1.0})
            for (int k = 0; k < 8; ++k)
                points.push_back({20 + 6.5 * k, 46 + 1.9 * k, z * (11 + 2.4 * k)});
        c = need(c, {{"do", "outgrow.membrane"}, {"points", points}, {"starts", {8}}, {"mirror", false}});
        const auto area = [](const Creature &of) { return mesh::measure(*of.outgrowths[0]->made->shapes[0]).areaMm2; };
        const Creature closed = need(c, {{"do", "pose.turn"}, {"bone", "front rib"}, {"angles", {0, 30, 0}}});
        const Creature standing = posed(closed);
        const auto gap = [](const Creature &of) { return of.outgrowths[0]->made->box.hi.z - of.outgrowths[0]->made->box.lo.z; };
        QVERIFY2(gap(standing) < 0.75f * gap(posed(c)), "the ribs come nearer");
        QVERIFY2(area(standing) > 0.8 * area(c), qPrintable(QStringLiteral("%1 %2").arg(area(standing)).arg(area(c))));
        for (const Vec3f p : standing.outgrowths[0]->made->shapes[0]->positions)
            QVERIFY(isFinite(p));
    }
    void theSameOnAnyThreadsAndRefined()
    {
        Creature c = withLayer(need(beast(20000), {{"do", "pose.turn"}, {"bone", "shank left"}, {"angles", {30, -60, 0}}}), 0.4f);
        c = need(c, {{"do", "layer.drive"}, {"layer", "folds"}, {"by", "shrink"}});
        c = need(c, {{"do", "layer.set"}, {"layer", "folds"}, {"rigid", 0.5}});
        std::vector<Creature> made;
        for (const int threads : {1, 2}) {
            const ThreadLimit limit(threads);
            made.push_back(posed(c));
        }
        compareAll(skinOf(made[0]), skinOf(made[1]));
        const Creature finer = need(c, {{"do", "piece.refine"}});
        const auto was = skinOf(made[0]).shown.box(), is = skinOf(posed(finer)).shown.box();
        QVERIFY(length(was.lo - is.lo) < 1 && length(was.hi - is.hi) < 1);
        QVERIFY(document::checkPose(finer).unmoved == 0 && document::checkPose(finer).weightError < 0.03);
    }
    void outgrowthsTakeRootInThePose()
    {
        const Creature c = need(beast(12000), {{"do", "pose.turn"}, {"bone", "arm left"}, {"angles", {0, 20, 60}}});
        const auto s = skeletonOf(c);
        const pose::Rigid place = placesOf(s, c.posing.now)[s.find("shank left")];
        const Vec3f rest{55, 41.5f, 24}, there = place.apply(rest);
        const Creature grown = need(c, {{"do", "outgrow.claw"}, {"at", {there.x, there.y, there.z}}, {"posed", true}});
        QVERIFY(length(grown.outgrowths[0]->roots[0].at - rest) < 2);
        QVERIFY(length(posed(grown).outgrowths[0]->roots[0].at - there) < 2);
    }
};

BONEMOSS_TEST(TestDrives)
#include "tst_drives.moc"
