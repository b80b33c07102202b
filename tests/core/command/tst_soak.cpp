// Random strokes of random tools with masks, symmetry, undo, re-knit and levels, one after the other: nothing breaks, nothing is
// left that is no number, and the skin stays closed. BONEMOSS_SOAK=5000 in the environment gives the long run, on a skin of a
// million faces; without it a short one on a small skin.
#include "support/run.h"
#include "base/random.h"
#include "mesh/measures.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QtTest>

#include <fstream>

using namespace bonemoss;
using nlohmann::json;

namespace {

/// Megabytes that the program holds in memory, as the system tells it.
double megabytesHeld()
{
    std::ifstream status("/proc/self/status");
    for (std::string line; std::getline(status, line);)
        if (line.rfind("VmRSS:", 0) == 0)
            return std::stod(line.substr(6)) / 1024;
    return 0;
}

/// A row of even random numbers.
class Dice
{
public:
    float one() { return 0.5f + 0.5f * randomSigned(77, m_at++); }
    std::size_t of(std::size_t n) { return std::min(std::size_t(one() * float(n)), n - 1); }
    Vec3f way()
    {
        Vec3f v;
        do
            v = {2 * one() - 1, 2 * one() - 1, 2 * one() - 1};
        while (squaredLength(v) > 1 || squaredLength(v) < 0.01f);
        return normalized(v);
    }

private:
    std::uint64_t m_at = 1;
};

json randomStroke(Dice &dice, float radius)
{
    const auto tool = sculpt::Tool(dice.of(sculpt::kToolCount));
    json c{{"do", "sculpt.stroke"},
           {"tool", nameOf(tool)},
           {"size", radius * (0.05f + 0.15f * dice.one())},
           {"strength", dice.one()},
           {"falloff", sculpt::kFalloffNames[dice.of(sculpt::kFalloffNames.size())]},
           {"mirror", dice.one() < 0.5f},
           {"reverse", dice.one() < 0.3f},
           {"connected", dice.one() < 0.8f},
           {"frontOnly", dice.one() < 0.3f},
           {"limit", dice.one() < 0.3f ? radius * 0.05f : 0.0f},
           {"knead", sculpt::kKneadKinds[dice.of(4)]},
           {"side", sculpt::kPlaneSides[dice.of(3)]},
           {"plane", sculpt::kPlaneFroms[dice.of(2)]},
           {"shrink", dice.one() < 0.3f},
           {"reach", dice.one() < 0.5f ? 0.0f : 0.2f},
           {"depth", radius * 0.02f},
           {"layer", tool == sculpt::Tool::Restore ? 2u : 0u}};
    c["rope"] = dice.one() < 0.2f ? dice.one() : 0.0f;
    c["tilt"] = dice.one() < 0.2f ? dice.one() : 0.0f;
    c["islandOnly"] = dice.one() < 0.3f;
    c["guardThin"] = dice.one() < 0.7f;
    if (changesFaces(tool))
        c["edge"] = 0.15f + 0.2f * dice.one();
    const Vec3f from = dice.way(), to = normalized(from + dice.way() * 0.2f);
    json samples = json::array();
    for (int k = 0; k < 4; ++k) {
        const Vec3f at = normalized(lerp(from, to, float(k) / 3)) * (radius * 3);
        const Vec3f in = -normalized(at);
        const Vec3f lean = normalized(dice.way() * 0.8f - in);
        samples.push_back({at.x, at.y, at.z, in.x, in.y, in.z, 0.3f + 0.7f * dice.one(), 8 * k, lean.x, lean.y, lean.z});
    }
    c["samples"] = samples;
    if (dice.one() < 0.2f) { // through a picture held square to the way in
        const Vec3f in = -from, right = normalized(cross(std::abs(in.y) < 0.9f ? Vec3f{0, 1, 0} : Vec3f{1, 0, 0}, in));
        const Vec3f at = from * (radius * 2), wide = right * (radius * 0.5f), high = cross(in, right) * (radius * 0.5f);
        c["stencil"] = "scales", c["stencilInvert"] = dice.one() < 0.5f;
        c["stencilAt"] = {at.x, at.y, at.z}, c["stencilRight"] = {wide.x, wide.y, wide.z},
        c["stencilUp"] = {high.x, high.y, high.z};
    }
    return c;
}

json randomOther(Dice &dice, double spacing)
{
    switch (dice.of(8)) {
    case 0: return {{"do", "mask.shape"}, {"what", "slope"}, {"to", 60 + 60 * dice.one()}};
    case 1: return {{"do", "mask.clear"}};
    case 2: return {{"do", "mask.invert"}};
    case 3: return {{"do", "piece.symmetry"}, {"plane", dice.one() < 0.7f}, {"around", 1 + dice.of(5)}, {"axis", {0, 1, 0}}};
    case 4: return {{"do", "piece.reknit"}, {"spacing", spacing * (0.9 + 0.2 * double(dice.one()))}};
    case 5: { // a soft turn of the half beyond the middle
        const Vec3f way = dice.way() * 40.0f;
        return {{"do", "piece.move"},
                {"turn", {0, 20 * (dice.one() - 0.5f), 0}},
                {"by", {0, 2 * (dice.one() - 0.5f), 0}},
                {"about", {0, 0, 0}},
                {"mirror", dice.one() < 0.3f},
                {"lineFrom", {0, 0, 0}},
                {"lineTo", {way.x, way.y, way.z}}};
    }
    case 6: return {{"do", "mask.shape"}, {"what", "thin"}, {"to", 10 * dice.one()}};
    default: return {{"do", "layer.set"}, {"layer", 2u}, {"strength", 0.5f + dice.one()}};
    }
}

} // namespace

class TestSoak : public QObject
{
    Q_OBJECT
private slots:
    void nothingBreaks()
    {
        const int wanted = qEnvironmentVariableIntValue("BONEMOSS_SOAK");
        const bool isLong = wanted > 0;
        const int steps = isLong ? wanted : 160;
        const float radius = 40;
        document::Creature c;
        auto piece = std::make_shared<document::Piece>();
        piece->id = 1, piece->name = "skin";
        piece->skin = skin::makeSkin(test::sphere(radius, isLong ? 700 : 90, isLong ? 720 : 140), true);
        c.pieces.push_back(piece);
        c.nextId = 2;
        c = *test::run(c, {{"do", "layer.add"}, {"name", "Soak"}}); // becomes layer 2
        const double spacing = double(mesh::meanEdgeLength(c.pieces[0]->skin.shown));
        std::vector<document::Creature> undo{c};
        Dice dice;
        std::size_t done = 0, refused = 0;
        double early = 0;
        for (int k = 0; k < steps; ++k) {
            if (k == steps / 5)
                early = megabytesHeld();
            if (undo.size() > 1 && dice.one() < 0.1f) {
                undo.pop_back();
                continue;
            }
            const json command = dice.one() < (isLong ? 0.03f : 0.12f) ? randomOther(dice, spacing) : randomStroke(dice, radius);
            const auto next = test::run(undo.back(), command);
            if (!next) {
                if (refused < 5)
                    qInfo("%s: %s", command.value("tool", command.value("do", "")).c_str(), next.error().text().c_str());
                ++refused; // a message, and the creature as it was
                QVERIFY(!next.error().text().empty());
                continue;
            }
            ++done;
            const bool isRebuilt = next->pieces[0]->skin.shown.topology != undo.back().pieces[0]->skin.shown.topology;
            undo.push_back(*next);
            if (undo.size() > 20)
                undo.erase(undo.begin());
            if (isRebuilt) { // whether it is closed hangs on the faces alone
                const mesh::Measures m = mesh::measure(meshOf(*undo.back().pieces[0]));
                QVERIFY2(m.closed, qPrintable(QString("step %1, open %2, of more than two %3, flipped %4: %5")
                                                  .arg(k)
                                                  .arg(m.boundaryEdges)
                                                  .arg(m.nonManifoldEdges)
                                                  .arg(m.flippedEdges)
                                                  .arg(QString::fromStdString(command.dump()))));
            }
            if (k % (isLong ? 100 : 20) == 0)
                for (const Vec3f p : undo.back().pieces[0]->skin.shown.positions.flatten())
                    QVERIFY2(isFinite(p) && length(p) < 100 * radius, command.dump().c_str());
        }
        qInfo("%zu done, %zu refused, %.0f MB early, %.0f MB at the end", done, refused, early, megabytesHeld());
        QVERIFY(done > std::size_t(steps) * 2 / 3);
        if (isLong)
            QVERIFY(megabytesHeld() < early * 1.3 + 100);
    }
};

BONEMOSS_TEST(TestSoak)
#include "tst_soak.moc"
