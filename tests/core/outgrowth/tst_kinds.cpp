// What single kinds promise: spacings, densities, sheets, parts and rims.
#include "command/fields.h"
#include "document/creature.h"
#include "outgrowth/outgrowth.h"
#include "support/pieces.h"
#include "support/run.h"
#include "support/shapes.h"

#include <QtTest>

using namespace bonemoss;
using outgrowth::Outgrowth;

namespace {

const mesh::Surface &ground()
{
    static const mesh::Surface plane = mesh::makeSurface(test::plane(200, 80));
    return plane;
}

Outgrowth ruleOf(const char *kind, std::initializer_list<std::pair<std::string_view, float>> settings)
{
    Outgrowth o = outgrowthOf(*outgrowth::kindNamed(kind));
    o.isMirrored = false;
    for (const auto &[name, value] : settings)
        for (std::size_t k = 0; k < o.values.size(); ++k)
            if (o.kind->settings[k].name == name)
                o.values[k] = value;
    return o;
}

/// On the plane; area: share of the mask (0 to 255) at a place.
std::shared_ptr<const outgrowth::Made> madeOn(const Outgrowth &o, const std::function<int(Vec3f)> &area = {})
{
    const growth::Surroundings about;
    outgrowth::Input input{o, ground(), about, {}};
    if (area) {
        input.area = mesh::BlockArray<std::uint8_t>(ground().positions.size());
        for (std::size_t b = 0; b < input.area.blockCount(); ++b)
            for (std::size_t i = 0; i < input.area.countIn(b); ++i)
                input.area.edit(b)[i] = std::uint8_t(area(ground().positions.data(b)[i]));
    }
    const auto made = outgrowth::make(input);
    if (!made)
        qFatal("%s", made.error().text().c_str());
    return *made;
}

} // namespace

class TestKinds : public QObject
{
    Q_OBJECT
private slots:
    // Members of a row stand at equal arc lengths: those of a circle, a helix and circles of a torus have closed forms.
    void rowsKeepArcLength_data()
    {
        QTest::addColumn<double>("radius");
        QTest::addColumn<double>("rise"); // mm in a turn
        QTest::addColumn<double>("turns");
        QTest::newRow("circle") << 20.0 << 0.0 << 0.9;
        QTest::newRow("helix") << 12.0 << 25.0 << 2.5;
        QTest::newRow("outer equator of a torus of 30 and 8") << 38.0 << 0.0 << 0.7;
        QTest::newRow("inner equator of a torus of 30 and 8") << 22.0 << 0.0 << 0.7;
    }
    void rowsKeepArcLength()
    {
        QFETCH(double, radius);
        QFETCH(double, rise);
        QFETCH(double, turns);
        const auto at = [&](double angle) {
            return Vec3f{float(radius * std::cos(angle)), float(rise * angle / (2 * M_PI)), float(radius * std::sin(angle))};
        };
        constexpr int kMembers = 23;
        Outgrowth o = ruleOf("copies", {{"count", kMembers}, {"jitter", 0}, {"sink", 0}});
        for (int k = 0; k <= 1500; ++k) {
            const double angle = 2 * M_PI * turns * k / 1500;
            o.roots.push_back({at(angle), {float(std::cos(angle)), 0, float(std::sin(angle))}});
        }
        const auto made = madeOn(o);
        QCOMPARE(made->members.size(), std::size_t(kMembers));
        for (int k = 0; k < kMembers; ++k) // the arc length is in proportion to the angle
            QVERIFY(length(made->members[std::size_t(k)].root - at(2 * M_PI * turns * k / (kMembers - 1))) < 5e-3f);
    }
    // Tufts keep 0.9 of their spacing apart. Discs thrown at random until none has room cover 0.603 of what the densest lattice does (J.
    // Feder, "Random sequential adsorption", 1980): 0.603 / 0.81 of one of the whole spacing.
    void fibresFillTheirArea()
    {
        const Outgrowth o = ruleOf("fibres", {{"spacing", 2}, {"strands", 1}, {"variation", 0}, {"border", 0}});
        constexpr float kRadius = 45;
        const auto made = madeOn(o, [](Vec3f p) { return length(p) < kRadius ? 255 : 0; });
        const double densest = M_PI * kRadius * kRadius / (std::sqrt(3.0) / 2 * 2 * 2);
        const double share = double(made->members.size()) / densest;
        QVERIFY2(share > 0.6 && share < 0.603 / 0.81, qPrintable(QString::number(share)));
    }
    void halfAMaskGrowsHalfTheHair()
    {
        const Outgrowth o = ruleOf("fibres", {{"spacing", 1.5f}, {"strands", 1}, {"border", 0}});
        std::array<double, 3> count{};
        for (const int k : {0, 1, 2})
            count[std::size_t(k)] = double(madeOn(o, [k](Vec3f p) {
                                               return length(p) < 45 ? std::array{255, 128, 64}[std::size_t(k)] : 0;
                                           })->members.size());
        QVERIFY(count[0] > 1500);
        // Each place is kept by chance: within four standard deviations of the binomial distribution.
        for (const auto &[k, p] : {std::pair{1, 128.0 / 255}, {2, 64.0 / 255}})
            QVERIFY2(std::abs(count[std::size_t(k)] - p * count[0]) < 4 * std::sqrt(p * (1 - p) * count[0]),
                     qPrintable(QStringLiteral("%1 of %2").arg(count[std::size_t(k)]).arg(count[0])));
    }
    // Curl and clump against their own formula, for a single hair of a tuft: at its end a hair stands (1 - clump) of the way out.
    void clumpDrawsHairsTogether()
    {
        std::array<float, 2> wide{};
        for (const int k : {0, 1}) {
            const Outgrowth o = ruleOf("fibres", {{"spacing", 4},
                                                  {"strands", 40},
                                                  {"clump", k == 0 ? 0.0f : 0.75f},
                                                  {"curl", 0},
                                                  {"kink", 0},
                                                  {"frizz", 0},
                                                  {"stray", 0},
                                                  {"curve", 0},
                                                  {"hair", 0.02f},
                                                  {"variants", 1}});
            const auto made = madeOn(o, [](Vec3f p) { return length(p) < 12 ? 255 : 0; });
            const auto &points = made->shapes.at(0)->positions; // 28 to a hair, the last four about its end
            for (std::size_t i = 24; i < points.size(); i += 28)
                wide[std::size_t(k)] = std::max(wide[std::size_t(k)], std::hypot(points[i].x, points[i].z));
        }
        QVERIFY2(std::abs(wide[1] / wide[0] - 0.25f) < 0.02f, qPrintable(QString::number(wide[1] / wide[0])));
    }
    void membranesAreRuledWithoutSagAndHangAsChains()
    {
        for (const float sag : {0.0f, 0.3f, 0.6f}) {
            Outgrowth o = ruleOf("membrane", {{"sag", sag},
                                              {"scallop", 0},
                                              {"torn", 0},
                                              {"folds", 0},
                                              {"sink", 0},
                                              {"ribs", 0},
                                              {"thickness", 0.1f},
                                              {"rim", 1}});
            for (const float x : {-10.0f, 10.0f})
                for (int k = 0; k <= 20; ++k)
                    o.roots.push_back({{x, 0, float(k)}, {0, 1, 0}});
            o.starts = {21};
            const auto made = madeOn(o);
            QCOMPARE(made->members.size(), std::size_t(1));
            const auto &points = made->shapes.at(0)->positions;
            const std::size_t sheet = points.size() / 2;
            double least = 0;
            for (std::size_t i = 0; i < sheet; ++i) {
                const Vec3f p = made->members[0].place.apply((points[i] + points[i + sheet]) * 0.5f);
                // A chain between ends 2 apart with that sag: y = a (cosh(x / a) - 1), a by bisection.
                double lo = 0.05, hi = 1e5;
                for (int step = 0; step < 200; ++step) {
                    const double a = std::sqrt(lo * hi);
                    (a * (std::cosh(1 / a) - 1) > double(sag) ? lo : hi) = a;
                }
                const double a = hi, x = double(p.x) / 10, y = sag > 0 ? 10 * (a * (std::cosh(x / a) - 1) - double(sag)) : 0;
                QVERIFY2(std::abs(double(p.y) - y) < 0.02, qPrintable(QStringLiteral("%1 %2 %3").arg(x).arg(double(p.y)).arg(y)));
                least = std::min(least, double(p.y));
            }
            QVERIFY(std::abs(least + 10 * double(sag)) < 0.03);
        }
    }
    // The clear ball is concentric with the eye's, and lids lie on it within 0.05 mm from open to shut, wherever the eye looks.
    void lidsLieOnTheBall_data()
    {
        QTest::addColumn<double>("shut");
        QTest::addColumn<double>("up");
        for (const double shut : {0.0, 0.25, 0.5, 0.75, 1.0})
            for (const double up : {-25.0, 0.0, 20.0})
                QTest::addRow("shut %g, up %g", shut, up) << shut << up;
    }
    void lidsLieOnTheBall()
    {
        QFETCH(double, shut);
        QFETCH(double, up);
        Outgrowth o = ruleOf("eye", {{"radius", 4},
                                     {"upperLid", float(shut)},
                                     {"lowerLid", float(shut)},
                                     {"gazeUp", float(up)},
                                     {"gazeOut", 12},
                                     {"tilt", 15},
                                     {"bulge", 0.6f}});
        o.roots = {{{0, 0, 0}, {0, 1, 0}}};
        const auto made = madeOn(o);
        std::map<std::string, const outgrowth::Member *> parts;
        std::vector<const outgrowth::Member *> lids;
        for (const auto &m : made->members) {
            parts[made->materials[m.shape].name] = &m;
            if (made->materials[m.shape].name == "lid")
                lids.push_back(&m);
        }
        QCOMPARE(lids.size(), std::size_t(2));
        const auto placed = [&](const outgrowth::Member &m) {
            mesh::PolyMesh mesh = *made->shapes[m.shape];
            for (Vec3f &p : mesh.positions)
                p = m.place.apply(p);
            return mesh;
        };
        const mesh::PolyMesh clear = placed(*parts.at("clear")), ball = placed(*parts.at("eyeball"));
        const Vec3f middle = parts.at("eyeball")->place.apply({0, 0, 0});
        const auto behind = [&](Vec3f p) { return p.y < middle.y - 1; }; // away from the bulge and the iris
        for (const auto &[mesh, least, most] : {std::tuple{&clear, 4.0f, 4.4f}, {&ball, 3.9f, 4.01f}})
            for (const Vec3f p : mesh->positions)
                if (behind(p))
                    QVERIFY(length(p - middle) > least && length(p - middle) < most);
        const mesh::Surface surface = mesh::makeSurface(clear);
        for (const auto *lid : lids) {
            const mesh::PolyMesh shell = placed(*lid);
            for (std::size_t i = 0; i < shell.positions.size() / 2; ++i) { // its inner side
                const auto hit = mesh::nearestPoint(surface, shell.positions[i]);
                QVERIFY(hit.has_value());
                QVERIFY2(length(hit->point - shell.positions[i]) < 0.05f,
                         qPrintable(QString::number(length(hit->point - shell.positions[i]))));
            }
        }
    }
    void antlersAreOneMemberOfBeamAndTines()
    {
        Outgrowth o = ruleOf("antler", {{"tines", 4}});
        o.roots = {{{0, 0, 0}, {0, 1, 0}}};
        const auto made = madeOn(o);
        QCOMPARE(made->members.size(), std::size_t(5));
        for (const auto &m : made->members)
            QCOMPARE(m.number, 0u);
        o.corrections = {{.member = 0, .broken = 0.5f}}; // what stood above goes with the beam
        QVERIFY(madeOn(o)->members.size() < 5);
    }
    void quillsLieAlongTheFlow()
    {
        const Outgrowth o = ruleOf("quills", {{"lift", 30}, {"variation", 0}, {"curve", 0}, {"border", 0}, {"turn", 0}});
        const auto made = madeOn(o, [](Vec3f p) { return length(p) < 30 ? 255 : 0; });
        for (const auto &m : made->members) { // 30 degrees over the skin
            const Vec3f up{m.place.m[3], m.place.m[4], m.place.m[5]};
            QVERIFY(std::abs(normalized(up).y - 0.5f) < 1e-3f);
        }
    }
    void aRimRisesRoundAHornAndGoesWithIt()
    {
        const auto ball = test::run({}, {{"do", "form.add"}, {"kind", "ball"}, {"radius", 30}});
        QVERIFY(bool(ball));
        const auto skin = test::run(*ball, {{"do", "knit.forms"}, {"spacing", 0.7}});
        QVERIFY(bool(skin));
        const auto horned = test::run(*skin, {{"do", "outgrow.horn"}, {"at", {0, 30, 0}}, {"radius", 6}, {"mirror", false}});
        QVERIFY(bool(horned));
        const auto rimmed = test::run(*horned, {{"do", "outgrowth.rim"}, {"outgrowth", "Horn"}, {"height", 1.5}, {"width", 4}});
        QVERIFY(bool(rimmed));
        const auto heightOf = [](const document::Creature &c, float from,
                                 float to) { // of the ball, between two distances from its pole
            float high = 0;
            const auto &positions = c.pieces[0]->skin.shown.positions;
            for (std::size_t v = 0; v < positions.size(); ++v) {
                const Vec3f p = positions[std::uint32_t(v)];
                if (const float away = std::hypot(p.x, p.z); p.y > 0 && away >= from && away < to)
                    high = std::max(high, length(p) - 30);
            }
            return high;
        };
        const float before = heightOf(*skin, 0, 40);
        QVERIFY(std::abs(heightOf(*rimmed, 4.5f, 8.5f) - 1.5f) < 0.25f + before);
        QVERIFY(heightOf(*rimmed, 12.5f, 40) < before + 1e-3f);
        QVERIFY(length(rimmed->outgrowths[0]->roots[0].at - horned->outgrowths[0]->roots[0].at)
                < 0.05f); // the root keeps its place
        QCOMPARE(rimmed->pieces[0]->skin.layers.size(), std::size_t(1));
        const auto thicker = test::run(*rimmed, {{"do", "outgrow.horn"}, {"outgrowth", "Horn"}, {"radius", 10}});
        QVERIFY(bool(thicker));
        QVERIFY(heightOf(*thicker, 8.5f, 12.5f) > 1.1f); // it follows
        const auto gone = test::run(*thicker, {{"do", "outgrowth.remove"}, {"outgrowth", "Horn"}});
        QVERIFY(bool(gone) && gone->pieces[0]->skin.layers.empty());
        QVERIFY(std::abs(heightOf(*gone, 0, 40) - before) < 1e-4f);
    }
    void tinesRaiseNoRim()
    {
        const auto ball = test::run({}, {{"do", "form.add"}, {"kind", "ball"}, {"radius", 30}});
        const auto skin = test::run(*ball, {{"do", "knit.forms"}, {"spacing", 0.7}});
        QVERIFY(bool(skin));
        const auto grown = test::run(*skin, {{"do", "outgrow.antler"}, {"at", {0, 30, 0}}, {"mirror", false}});
        QVERIFY(bool(grown));
        const auto rimmed = test::run(*grown, {{"do", "outgrowth.rim"}, {"outgrowth", "Antler"}, {"height", 1}, {"width", 2}});
        QVERIFY(bool(rimmed));
        const auto &was = skin->pieces[0]->skin.shown.positions, &is = rimmed->pieces[0]->skin.shown.positions;
        float near = 0;
        for (std::uint32_t v = 0; v < is.size(); ++v) {
            const float rise = length(is[v] - was[v]), away = std::hypot(was[v].x, was[v].z);
            if (away < 10) // its radius with the burr, how far it leans there, and the width
                near = std::max(near, rise);
            else
                QVERIFY2(rise < 1e-5f, qPrintable(QStringLiteral("%1 mm at %2").arg(rise).arg(away)));
        }
        QVERIFY(near > 0.8f);
    }
    void whatIsLeftOutIsTold()
    {
        const Outgrowth o = ruleOf("fibres", {{"spacing", 0.4f}, {"strands", 1}, {"border", 0}});
        const auto made = madeOn(o, [](Vec3f p) { return length(p) < 60 ? 255 : 0; });
        QCOMPARE(made->members.size(), std::size_t(20000));
        QCOMPARE(made->notes.size(), std::size_t(1));
    }
    void linesThatAreNoneAreRefused()
    {
        const auto ball = test::run({}, {{"do", "form.add"}, {"kind", "ball"}, {"radius", 30}});
        const auto skin = test::run(*ball, {{"do", "knit.forms"}, {"spacing", 2}});
        QVERIFY(bool(skin));
        const nlohmann::json points = {{10, 28, 0}, {20, 22, 0}, {0, 28, 10}, {0, 22, 20}};
        for (const nlohmann::json &starts : {nlohmann::json::array(), {1}, {3}, {2, 3}, {2.5}, {-1}, {1e9}}) {
            const auto c = test::run(*skin, {{"do", "outgrow.membrane"}, {"points", points}, {"starts", starts}});
            QVERIFY2(!c, starts.dump().c_str());
        }
        QVERIFY(bool(test::run(*skin, {{"do", "outgrow.membrane"}, {"points", points}, {"starts", {2}}})));
    }
};

BONEMOSS_TEST(TestKinds)
#include "tst_kinds.moc"
