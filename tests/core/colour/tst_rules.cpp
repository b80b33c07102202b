// Rules of colour layers. Oracles: closed forms of the sphere, the slab and the plane; what is there before and after.
#include "support/run.h"
#include "base/parallel.h"
#include "colour/rule.h"
#include "command/command.h"
#include "document/ops/colours.h"
#include "document/ops/surroundings.h"
#include "skin/colour_layers.h"
#include "store/store.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QTemporaryDir>
#include <QtTest>

#include <map>
#include <mutex>
#include <set>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using skin::LayerChannel;
using test::need;
using test::skinOf;

namespace {

/// The value a rule gave a vertex, 0 to 1; below 0 where it lays nothing.
double valueAt(const Creature &c, std::uint32_t v)
{
    const auto &layer = skinOf(c).colourLayers.back();
    const skin::Bytes *values = layerValues(skinOf(c), layer.id, LayerChannel::Rule);
    const std::uint8_t byte = values ? (*values)[v] : std::uint8_t(0);
    return byte == 0 ? -1 : (byte - 1) / 254.0;
}

double smooth(double from, double to, double v)
{
    const double t = std::clamp((v - from) / (to - from), 0.0, 1.0);
    return t * t * (3 - 2 * t);
}

/// How far the values of a rule are from a formula of place and normal, at most, over all vertices.
template <typename Formula> double farthest(const Creature &c, const Formula &formula)
{
    double worst = 0;
    const mesh::Surface &s = skinOf(c).shown;
    for (std::uint32_t v = 0; v < s.positions.size(); ++v)
        worst = std::max(worst, std::abs(valueAt(c, v) - formula(s.positions[v], s.normals[v].unpack())));
    return worst;
}

} // namespace

class TestRules : public QObject
{
    Q_OBJECT
private slots:
    void slopeOfASphere()
    {
        const Creature c =
            need(test::withPieces({test::sphere(20, 50, 80)}), {{"do", "rule.slope"}, {"angle", 0}, {"spread", 90}});
        const double off = farthest(c, [](Vec3f, Vec3f n) {
            return smooth(0, 1, 1 - std::acos(std::clamp(double(n.y), -1.0, 1.0)) / (M_PI / 2)); // 90 degrees wide
        });
        QVERIFY2(off < 0.01, qPrintable(QString::number(off)));
    }
    void ridgesOfASphereAreEverywhereAlike()
    {
        // Mean curvature of a sphere is 1 / R everywhere: times a width of 5 mm on 20 mm it is 0.25.
        const Creature c = need(test::withPieces({test::sphere(20, 90, 140)}),
                                {{"do", "rule.ridges"}, {"width", 5}, {"from", 0}, {"soft", 0.5}});
        const double wanted = smooth(0, 0.5, 0.25);
        double worst = 0;
        for (std::uint32_t v = 0; v < skinOf(c).body.size(); ++v)
            if (std::abs(skinOf(c).body[v].y) < 15) // the poles of this sphere have slivers
                worst = std::max(worst, std::abs(valueAt(c, v) - wanted));
        QVERIFY2(worst < 0.06, qPrintable(QString::number(worst)));
        const Creature hollow = need(c, {{"do", "rule.hollows"}, {"width", 5}, {"from", 0}, {"soft", 0.5}});
        QVERIFY(farthest(hollow, [](Vec3f, Vec3f) { return 0.0; }) < 0.01);
    }
    void thicknessOfASlab()
    {
        const Creature c =
            need(need(test::withPieces({test::box({-10, -2, -10}, {10, 2, 10})}), {{"do", "piece.reknit"}, {"spacing", 0.5}}),
                 {{"do", "rule.thickness"}, {"thin", 8}});
        double worst = 0;
        std::size_t seen = 0;
        const mesh::Surface &s = skinOf(c).shown;
        for (std::uint32_t v = 0; v < s.positions.size(); ++v)
            if (const Vec3f p = s.positions[v]; std::abs(p.x) < 5 && std::abs(p.z) < 5) { // well inside its two sides
                worst = std::max(worst, std::abs(valueAt(c, v) - smooth(0, 1, 1 - 4.0 / 8)));
                ++seen;
            }
        QVERIFY(seen > 20);
        QVERIFY2(worst < 0.05, qPrintable(QString::number(worst)));
    }
    void heightAndGradientAreLinear()
    {
        Creature c = need(test::withPieces({test::sphere(20, 50, 80)}), {{"do", "rule.height"}, {"from", 0.25}, {"to", 0.75}});
        QVERIFY(farthest(c, [](Vec3f p, Vec3f) { return std::clamp((double(p.y) / 40 + 0.5 - 0.25) / 0.5, 0.0, 1.0); }) < 0.01);
        c = need(test::withPieces({test::plane(40, 60)}),
                 {{"do", "rule.gradient"}, {"points", {{-10, 0, 0}, {10, 0, 0}}}, {"mirror", false}});
        QVERIFY(farthest(c, [](Vec3f p, Vec3f) { return std::clamp((double(p.x) + 10) / 20, 0.0, 1.0); }) < 0.01);
        const auto bad = test::run(c, {{"do", "rule.gradient"}, {"points", {{1, 0, 0}}}});
        QVERIFY(!bad && bad.error().text().find("two points") != std::string::npos);
    }
    void nearAMaskIsItsDistance()
    {
        Creature c = test::masked(test::withPieces({test::plane(40, 80)}), [](Vec3f p) { return p.x < -10; });
        c = need(c, {{"do", "mask.keep"}, {"name", "edge"}});
        c = need(need(c, {{"do", "mask.clear"}}), {{"do", "rule.near"}, {"source", "edge"}, {"reach", 10}, {"soft", 1}});
        // The last masked row lies within half a step of x = -10.
        const double off = farthest(c, [](Vec3f p, Vec3f) { return smooth(0, 1, 1 - std::max(0.0, double(p.x) + 10.25) / 10); });
        QVERIFY2(off < 0.08, qPrintable(QString::number(off)));
        const auto none = test::run(c, {{"do", "rule.near"}, {"source", "nowhere"}});
        QVERIFY(!none && none.error().text().find("nowhere") != std::string::npos);
        QVERIFY(!test::run(c, {{"do", "rule.near"}})); // nothing is masked
    }
    void alongAStripGoesByTheWay()
    {
        const Creature c = need(test::withPieces({test::plane(40, 50)}), {{"do", "rule.along"}});
        // From the point with the greatest z the way on square faces is at most 12 % longer than straight; it grows all along.
        const mesh::Surface &s = skinOf(c).shown;
        double before = -1;
        for (int k = 0; k <= 10; ++k) {
            const float z = 20 - 4 * float(k);
            double mean = 0, n = 0;
            for (std::uint32_t v = 0; v < s.positions.size(); ++v)
                if (std::abs(s.positions[v].z - z) < 0.41f)
                    mean += valueAt(c, v), ++n;
            QVERIFY(n > 0 && mean / n > before);
            before = mean / n;
        }
    }
    void scalesHaveOneShadeEach()
    {
        Creature c = need(test::withPieces({test::plane(40, 160)}),
                          {{"do", "grow.scales"}, {"size", 6}, {"mirror", false}, {"mask", "none"}});
        c = need(c, {{"do", "rule.cells"}, {"middle", 0}, {"colours", {{0.1, 0.1, 0.1}, {0.9, 0.9, 0.9}}}, {"mirror", false}});
        const growth::Surroundings about = document::surroundingsOf(c, *c.pieces[0]);
        std::map<std::uint64_t, std::set<int>> shades;
        std::mutex lock;
        const Status done = growth::eachCellOf(
            skinOf(c), skinOf(c).layers.back(), about, {}, 5, [&](std::size_t v, float share, const growth::Cell &cell) {
                const std::scoped_lock held(lock);
                if (share > 0.06f && valueAt(c, std::uint32_t(v)) >= 0)
                    shades[cell.number].insert(int(std::lround(255 * valueAt(c, std::uint32_t(v)))));
            });
        QVERIFY(done);
        QVERIFY(shades.size() > 20);
        std::set<int> all;
        for (const auto &[number, its] : shades) {
            QCOMPARE(its.size(), std::size_t(1)); // constant within a cell
            all.insert(*its.begin());
        }
        QVERIFY(all.size() > 12); // and unlike from cell to cell
    }
    void workByHandStaysWhenTheRuleRunsAgain()
    {
        Creature c =
            need(test::withPieces({test::sphere(20, 50, 80)}), {{"do", "rule.slope"}, {"colour", {0, 0, 1}}, {"spread", 180}});
        const auto stroke = [&](const char *tool, Vec3f at) {
            return json{{"do", "sculpt.stroke"},
                        {"tool", tool},
                        {"layer", "Slope"},
                        {"size", 6},
                        {"strength", 1},
                        {"falloff", "plateau"},
                        {"colour", {1, 0, 0}},
                        {"mirror", false},
                        {"samples", {{at.x, at.y, at.z, 0, 0, 0, 1, 0}}}};
        };
        c = need(c, stroke("paint", {20.1f, 0, 0}));
        c = need(c, stroke("wipe", {0.1f, 20, 0}));
        const auto at = [&](Vec3f p) {
            std::uint32_t best = 0;
            for (std::uint32_t v = 0; v < skinOf(c).body.size(); ++v)
                if (length(skinOf(c).shown.positions[v] - p) < length(skinOf(c).shown.positions[best] - p))
                    best = v;
            return best;
        };
        const std::uint32_t painted = at({20.1f, 0, 0}), wiped = at({0.1f, 20, 0}), free = at({0.1f, 12, 16});
        const auto shown = [&](std::uint32_t v) {
            return std::array<int, 4>{skinOf(c).paint.channels[0][v], skinOf(c).paint.channels[1][v],
                                      skinOf(c).paint.channels[2][v], skinOf(c).paint.channels[3][v]};
        };
        QVERIFY(shown(painted)[0] > 240 && shown(wiped)[3] < 12 && shown(free)[2] > 100 && shown(free)[0] == 0);
        const auto redBefore = shown(painted), bareBefore = shown(wiped);
        c = need(c, {{"do", "rule.slope"}, {"layer", "Slope"}, {"angle", 180}, {"spread", 180}});
        QCOMPARE(shown(painted), redBefore);
        QVERIFY(shown(wiped)[3] <= bareBefore[3] + 1);
        c = need(c, {{"do", "colour.run"}});
        QVERIFY(test::isSaid("fit"));
        QCOMPARE(shown(painted), redBefore);
        // Settled, it shows the same and is no rule any more.
        const auto freeBefore = shown(free);
        c = need(c, {{"do", "colour.settle"}, {"layer", "Slope"}});
        QVERIFY(!skinOf(c).colourLayers[0].rule && !skinOf(c).colourLayers[0].ramp);
        for (std::size_t k = 0; k < 4; ++k)
            QVERIFY(std::abs(shown(free)[k] - freeBefore[k]) <= 1 && std::abs(shown(painted)[k] - redBefore[k]) <= 1);
    }
    void aChangeOfShapeMakesARuleStale()
    {
        Creature c = need(test::withPieces({test::sphere(20, 50, 80)}), {{"do", "rule.ridges"}});
        QVERIFY(document::staleColours(c, *c.pieces[0]).empty());
        c = need(
            c,
            {{"do", "sculpt.stroke"}, {"tool", "raise"}, {"size", 6}, {"strength", 1}, {"samples", {{20, 0, 0, 0, 0, 0, 1, 0}}}});
        QCOMPARE(document::staleColours(c, *c.pieces[0]).size(), std::size_t(1));
        c = need(c, {{"do", "colour.run"}});
        QVERIFY(document::staleColours(c, *c.pieces[0]).empty());
        c = need(c, {{"do", "colour.set"}, {"layer", "Ridges"}, {"locked", true}});
        const auto locked = test::run(c, {{"do", "colour.run"}, {"layer", "Ridges"}});
        QVERIFY(!locked && locked.error().text().find("locked") != std::string::npos);
    }
    void aRuleWhoseGrowthIsGoneStaysAsItIs()
    {
        Creature c = need(test::withPieces({test::plane(40, 100)}),
                          {{"do", "grow.scales"}, {"size", 6}, {"mirror", false}, {"mask", "none"}, {"name", "scales"}});
        c = need(c, {{"do", "rule.cells"}, {"source", "scales"}, {"mirror", false}});
        const auto before = skinOf(c).paint.channels[3].flatten();
        c = need(c, {{"do", "layer.remove"}, {"layer", "scales"}});
        QVERIFY(document::staleColours(c, *c.pieces[0]).empty()); // nothing tries in vain to run it again and again
        c = need(c, {{"do", "colour.run"}});
        QVERIFY(skinOf(c).paint.channels[3].flatten() == before);
        const auto asked = test::run(c, {{"do", "colour.run"}, {"layer", skinOf(c).colourLayers[0].name}});
        QVERIFY(!asked && asked.error().text().find("scales") != std::string::npos);
    }
    void rulesAreKeptInFiles()
    {
        QTemporaryDir folder;
        const std::filesystem::path file = (folder.path() + "/c.bonemoss").toStdString();
        Creature c = need(test::withPieces({test::sphere(20, 50, 80)}),
                          {{"do", "palette.add"}, {"name", "rust"}, {"colour", {0.6, 0.2, 0.1}}});
        c = need(c, {{"do", "rule.noise"},
                     {"entry", "rust"},
                     {"size", 7},
                     {"contrast", 0.4},
                     {"blur", 3},
                     {"reverse", true},
                     {"curve", {0, 0.1, 0.2, 0.5, 0.8, 0.9, 1}},
                     {"wet", 0.5},
                     {"seed", 9}});
        c = need(c, {{"do", "scheme.add"}, {"name", "autumn"}});
        QVERIFY(store::saveAs(file, c));
        const auto back = store::loadStore(file);
        QVERIFY(back && back->damage.empty());
        const skin::ColourLayer &was = skinOf(c).colourLayers[0], &is = skinOf(back->creature).colourLayers[0];
        QVERIFY(is.rule && is.ramp);
        QCOMPARE(is.rule->kind, was.rule->kind);
        QVERIFY(is.rule->settings == was.rule->settings && is.rule->curve == was.rule->curve && *is.ramp == *was.ramp);
        QVERIFY(is.rule->blur == 3 && is.rule->isReversed && is.rule->seed == 9 && is.rule->ground == was.rule->ground);
        QVERIFY(back->creature.palette == c.palette && back->creature.schemes == c.schemes && back->creature.scheme == c.scheme);
        QVERIFY(document::staleColours(back->creature, *back->creature.pieces[0]).empty());
        for (std::size_t k = 0; k < skin::kSeenChannels; ++k)
            QVERIFY(skinOf(c).paint.channels[k].flatten() == skinOf(back->creature).paint.channels[k].flatten());
    }
    void everyKindRunsOnASkinOfOneFaceAndOnAnyNumberOfThreads()
    {
        mesh::PolyMesh one;
        one.positions = {{0, 0, 0}, {5, 0, 0}, {0, 0, 5}};
        one.faces = {{{0, 2, 1, kNone}}};
        for (const colour::RuleKind &kind : colour::ruleKinds()) {
            json command{{"do", "rule." + std::string(kind.name)}};
            if (kind.source == colour::Source::Line)
                command["points"] = {{0, 0, 0}, {5, 0, 0}};
            if (kind.source == colour::Source::Layer)
                command["source"] = "relief";
            const auto c = test::run(test::withPieces({one}), command);
            if (!c) // what it goes by is not there: words
                QVERIFY2(kind.source != colour::Source::None && !c.error().text().empty(), c.error().text().c_str());
            if (kind.source != colour::Source::None)
                continue;
            const Creature ball = test::withPieces({test::sphere(20, 40, 60)});
            std::vector<std::uint8_t> first;
            for (const int threads : {1, 3}) {
                const ThreadLimit limit(threads);
                const Creature made = need(ball, command);
                const auto values = layerValues(skinOf(made), skinOf(made).colourLayers.back().id, LayerChannel::Rule)->flatten();
                QVERIFY2(first.empty() || first == values, kind.name.data());
                first = values;
            }
        }
    }
};

BONEMOSS_TEST(TestRules)
#include "tst_rules.moc"
