// What must hold for every row of the table of attributes, whatever it means. Oracles: what changes no face keeps every value;
// a weighted mean lies between its values (convexity); a constant stays constant; twins of a symmetric skin agree.
#include "support/run.h"
#include "base/random.h"
#include "field/knit.h"
#include "skin/attributes.h"
#include "skin/carry.h"
#include "skin/levels.h"
#include "skin/local_density.h"
#include "skin/symmetry.h"
#include "store/store.h"
#include "support/shapes.h"

#include <QTemporaryDir>

using namespace bonemoss;
using skin::AttributeKind;
using skin::Skin;

namespace {

/// A ball of two blocks with a value of its own in each attribute at each vertex: rule(number of the attribute, place).
template <typename Rule> Skin painted(const Rule &rule)
{
    Skin s = skin::makeSkin(test::sphere(20, 60, 90), false);
    for (const AttributeKind &kind : skin::attributeKinds())
        if (kind.named)
            kind.named(s).push_back({"brow", mesh::BlockArray<std::uint8_t>(s.body.size())});
    s.groups = {{1, "head"}, {2, "tail"}, {3, "feet"}};
    unsigned k = 0;
    eachAttribute(s, [&](const AttributeKind &, const std::string &, auto &values) {
        for (std::size_t b = 0; b < values.blockCount(); ++b) {
            auto *to = values.edit(b);
            for (std::size_t i = 0; i < values.countIn(b); ++i)
                to[i] = static_cast<std::remove_reference_t<decltype(*to)>>(rule(k, s.body.data(b)[i]));
        }
        ++k;
    });
    return s;
}

/// Different in each attribute, from 0 to 3, so that numbers of groups can be it too.
int stripes(unsigned k, Vec3f p)
{
    return int(std::floor((p.x + 2 * p.y + 3 * p.z + 200) / float(5 + k))) % 4;
}

template <typename Check> void eachPair(const Skin &a, const Skin &b, const Check &check)
{
    std::size_t count = 0;
    eachAttribute(a, [&]<typename T>(const AttributeKind &kind, const std::string &name, const mesh::BlockArray<T> &values) {
        const mesh::BlockArray<T> *others = valuesOf(b, kind, name, T{});
        QVERIFY2(others, kind.name.data());
        check(kind, values, *others);
        ++count;
    });
    QCOMPARE(count, skin::attributeKinds().size()); // one with a name of each kind that has such
}

const auto areSame = [](const AttributeKind &kind, const auto &a, const auto &b) {
    QCOMPARE(a.size(), b.size());
    for (std::size_t v = 0; v < a.size(); ++v)
        QVERIFY2(a[v] == b[v], kind.name.data());
};

} // namespace

class TestAttributes : public QObject
{
    Q_OBJECT
private slots:
    void carryingToTheSameFacesKeepsAll()
    {
        const Skin s = painted(stripes);
        const skin::Carried carried = skin::carryOver(s, toPolyMesh(s.shown), 1);
        eachPair(s, carried.skin, areSame);
        for (const skin::CarryLoss &loss : carried.losses)
            QVERIFY2(loss.largest < 1e-4, loss.what.c_str());
    }
    void lossesAreToldOfEachRowThatHasAWordForThem()
    {
        const skin::Carried carried = skin::carryOver(painted(stripes), test::sphere(20, 20, 30), 2);
        for (const AttributeKind &kind : skin::attributeKinds()) {
            const std::string what =
                kind.named && !kind.isToldTogether ? std::string(kind.loss) + " brow" : std::string(kind.loss);
            const bool isTold = std::any_of(carried.losses.begin(), carried.losses.end(),
                                            [&](const auto &l) { return l.what == what && l.isShare && l.largest > 0; });
            QCOMPARE(isTold, !kind.loss.empty());
        }
    }
    /// Each row's own promise, on waves of a quarter of the ball for what blends and on halves for what does not.
    void aReknitLosesNoMoreThanTheRowSays()
    {
        const Skin s = painted([](unsigned k, Vec3f p) {
            const AttributeKind &kind = skin::attributeKinds()[k];
            return kind.blend == skin::Blend::Mix ? int(127 + 120 * std::sin((p.y + p.x) * 0.16f)) : int(p.z > 0);
        });
        const auto knitted = field::knitAgain(toPolyMesh(s.shown), field::spacingOf(s.shown)); // what is hidden is knitted too
        QVERIFY(knitted);
        const skin::Carried carried = skin::carryOver(s, knitted->mesh, 2);
        for (const AttributeKind &kind : skin::attributeKinds())
            for (const skin::CarryLoss &loss : carried.losses)
                if (loss.what == (kind.named && !kind.isToldTogether ? std::string(kind.loss) + " brow" : std::string(kind.loss)))
                    QVERIFY2(loss.mean > 0 && loss.mean <= double(kind.bound),
                             qPrintable(QString("%1 %2").arg(kind.name.data()).arg(loss.mean)));
    }
    void oneSkinTogetherIsItself()
    {
        const Skin s = painted(stripes);
        const Skin *one = &s;
        eachPair(s, skin::together({&one, 1}), areSame);
    }
    void ofTwoSkinsEachKeepsItsOwn()
    {
        const Skin a = painted(stripes), b = painted([](unsigned k, Vec3f p) { return 3 - stripes(k, p); });
        const std::array both{&a, &b};
        const Skin all = skin::together(both);
        const std::size_t n = a.body.size();
        eachPair(a, all, [&](const AttributeKind &, const auto &own, const auto &whole) {
            for (std::size_t v = 0; v < n; ++v)
                QCOMPARE(whole[v], own[v]);
        });
        eachPair(b, all, [&](const AttributeKind &, const auto &own, const auto &whole) {
            for (std::size_t v = 0; v < n; ++v)
                QCOMPARE(whole[n + v], own[v]);
        });
    }
    void levelsKeepThemAndStayWithinTheirRange()
    {
        const Skin s = painted(stripes);
        const Skin fine = *skin::refine(s);
        eachPair(s, fine, [&](const AttributeKind &kind, const auto &coarse, const auto &finer) {
            QVERIFY(finer.size() > 3 * coarse.size());
            for (std::size_t v = 0; v < finer.size(); ++v)
                QVERIFY2(finer[v] <= 3, kind.name.data());
        });
        eachPair(s, *skin::atLevel(fine, 0), areSame); // nobody changed anything
        const Skin flat = *skin::refine(painted([](unsigned k, Vec3f) { return int(1 + k % 3); }));
        unsigned k = 0;
        eachAttribute(flat, [&](const AttributeKind &kind, const std::string &, const auto &values) {
            for (std::size_t v = 0; v < values.size(); ++v)
                QVERIFY2(values[v] == 1 + k % 3, kind.name.data());
            ++k;
        });
    }
    void changesOfTheFineLevelComeDown()
    {
        Skin fine = *skin::refine(painted([](unsigned, Vec3f) { return 0; }));
        eachAttribute(fine, [&](const AttributeKind &, const std::string &, auto &values) {
            for (std::size_t b = 0; b < values.blockCount(); ++b)
                std::fill_n(values.edit(b), values.countIn(b),
                            static_cast<std::remove_reference_t<decltype(*values.edit(b))>>(2));
        });
        const Skin coarse = *skin::atLevel(fine, 0);
        eachAttribute(coarse, [&](const AttributeKind &kind, const std::string &, const auto &values) {
            for (std::size_t v = 0; v < values.size(); ++v)
                QVERIFY2(values[v] == 2, kind.name.data());
        });
    }
    void localDensityKeepsThemWhereNothingMoved()
    {
        const Skin s =
            painted([](unsigned k, Vec3f p) { return k == 0 || k + 1 == skin::attributeKinds().size() ? 0 : stripes(k, p); });
        Skin evened = s;
        const skin::Spot spot{{20, 0, 0}, {1, 0, 0}, 6};
        QVERIFY(!skin::evenOut(evened, {&spot, 1}, 0.4f, skin::Evening::Finer).empty());
        eachPair(s, evened, [&](const AttributeKind &kind, const auto &before, const auto &after) {
            for (std::size_t v = 0; v < before.size(); ++v)
                if (length(s.body[v] - spot.centre) > 7 && s.body[v] == evened.body[v])
                    QVERIFY2(before[v] == after[v], kind.name.data());
        });
        compact(evened);
        eachAttribute(evened, [&](const AttributeKind &, const std::string &, const auto &values) {
            QCOMPARE(values.size(), evened.body.size());
        });
    }
    void symmetryMakesTwinsAlike()
    {
        Skin s = painted([](unsigned k, Vec3f p) { return k == 0 ? 0 : stripes(k, p); }); // masked vertices would stay
        skin::symmetrise(s, skin::Symmetry::FromLeft, 9);
        bool byTopology = false;
        const auto partner = skin::mirrorPartners(s, byTopology);
        QVERIFY(byTopology);
        eachAttribute(s, [&](const AttributeKind &kind, const std::string &, const auto &values) {
            if (kind.fileKey == "hiddenSkin") // a matter of seeing, not of shape
                return;
            for (std::size_t v = 0; v < values.size(); ++v)
                if (std::abs(s.body[v].x) > 0.1f)
                    QVERIFY2(values[v] == values[partner[v].corners[0]], kind.name.data());
        });
    }
    void aFileKeepsAll()
    {
        document::Creature c;
        auto piece = std::make_shared<document::Piece>();
        piece->id = 1, piece->name = "body", piece->skin = painted(stripes);
        c.pieces = {piece}, c.nextId = 2;
        QTemporaryDir folder;
        const auto path = std::filesystem::path(folder.path().toStdString()) / "a.bonemoss";
        QVERIFY(bool(store::saveAs(path, c)));
        const auto again = store::loadStore(path);
        QVERIFY(again && again->damage.empty());
        eachPair(piece->skin, again->creature.pieces[0]->skin, areSame);
    }
    void aBlankSkinIsBareAndAnyAttributeMakesItNot()
    {
        const Skin bare = skin::makeSkin(test::sphere(20, 60, 90), false);
        QVERIFY(bare.isBare());
        const std::size_t bytes = bare.memoryBytes();
        for (std::size_t k = 0; k < skin::attributeKinds().size(); ++k) {
            Skin s = bare;
            if (const auto named = skin::attributeKinds()[k].named)
                named(s).push_back({"brow", mesh::BlockArray<std::uint8_t>(s.body.size())});
            std::size_t at = 0;
            eachAttribute(s, [&](const AttributeKind &kind, const std::string &, auto &values) {
                if (&kind == &skin::attributeKinds()[k])
                    values.edit(0)[3] = 1;
                ++at;
            });
            QVERIFY2(!s.isBare(), skin::attributeKinds()[k].name.data());
            QVERIFY(s.memoryBytes() >= bytes + 4096);
        }
    }
};

BONEMOSS_TEST(TestAttributes)
#include "tst_attributes.moc"
