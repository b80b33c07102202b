// The tree of boxes against going over every box.
#include "support/run.h"
#include "base/random.h"
#include "mesh/box_tree.h"

#include <QtTest>

#include <algorithm>
#include <cmath>

using namespace bonemoss;
using mesh::BoxTree;

namespace {

Vec3f drawn(std::uint64_t seed, std::uint64_t k)
{
    return {randomSigned(seed, 3 * k), randomSigned(seed, 3 * k + 1), randomSigned(seed, 3 * k + 2)};
}

std::vector<Box3f> boxesOf(std::size_t n, std::uint64_t seed, float size)
{
    std::vector<Box3f> boxes(n);
    for (std::size_t i = 0; i < n; ++i) {
        const Vec3f at = drawn(seed, i) * 50.0f;
        boxes[i].add(at);
        boxes[i].add(at + drawn(seed + 1, i) * size);
    }
    return boxes;
}

double distanceTo(const Box3f &b, Vec3f p)
{
    double sum = 0;
    for (int k = 0; k < 3; ++k) {
        const double off = std::max({double(at(b.lo, k)) - double(at(p, k)), double(at(p, k)) - double(at(b.hi, k)), 0.0});
        sum += off * off;
    }
    return sum;
}

/// Kay & Kajiya 1986, "Ray tracing complex scenes": where a ray comes into three slabs last, if it has not left one before.
double entryOf(const Box3f &b, Vec3f from, Vec3f way)
{
    double in = 0, out = std::numeric_limits<double>::infinity();
    for (int k = 0; k < 3; ++k) {
        const double a = (double(at(b.lo, k)) - double(at(from, k))) / double(at(way, k)),
                     c = (double(at(b.hi, k)) - double(at(from, k))) / double(at(way, k));
        in = std::max(in, std::min(a, c)), out = std::min(out, std::max(a, c));
    }
    return in <= out ? in : std::numeric_limits<double>::infinity();
}

} // namespace

class TestBoxTree : public QObject
{
    Q_OBJECT
    static BoxTree treeOver(const std::vector<Box3f> &boxes, bool isInOrder)
    {
        if (!isInOrder)
            return BoxTree::build(boxes);
        BoxTree tree = BoxTree::inOrder(boxes.size());
        std::vector<std::uint32_t> ids(boxes.size());
        for (std::size_t i = 0; i < ids.size(); ++i)
            ids[i] = std::uint32_t(i);
        tree.set(ids, boxes);
        return tree;
    }
    /// Whether a search that lowers its limit comes to the distance of the nearest box; counts the boxes it looks at.
    static bool isNearestFound(const BoxTree &tree, const std::vector<Box3f> &boxes, Vec3f p, std::size_t &looked)
    {
        double want = std::numeric_limits<double>::infinity();
        for (const Box3f &b : boxes)
            want = std::min(want, distanceTo(b, p));
        float limit = std::numeric_limits<float>::max();
        tree.visit(mesh::FromPoint(p), limit, [&](std::span<const std::uint32_t> leaf) {
            looked += leaf.size();
            for (const std::uint32_t i : leaf)
                limit = std::min(limit, float(distanceTo(boxes[i], p)));
        });
        return std::abs(double(limit) - want) <= 1e-5 * (1 + want);
    }
    static void trees_data()
    {
        QTest::addColumn<int>("count");
        QTest::addColumn<bool>("isInOrder");
        for (const int n : {1, 2, 4, 5, 17, 300, 4000})
            for (const bool inOrder : {false, true})
                QTest::addRow("%d boxes, %s", n, inOrder ? "in order" : "built") << n << inOrder;
    }
private slots:
    void eachThingIsInOneLeaf_data() { trees_data(); }
    void eachThingIsInOneLeaf()
    {
        QFETCH(int, count);
        QFETCH(bool, isInOrder);
        const BoxTree tree = treeOver(boxesOf(std::size_t(count), 1, 3), isInOrder);
        QCOMPARE(tree.size(), std::size_t(count));
        std::vector<int> met(std::size_t(count), 0);
        const float all = std::numeric_limits<float>::max();
        tree.visit(mesh::FromPoint({}), all, [&](std::span<const std::uint32_t> leaf) {
            QVERIFY(leaf.size() <= BoxTree::kLeaf);
            for (std::size_t i = 0; i < leaf.size(); ++i) {
                ++met[leaf[i]];
                QCOMPARE(tree.order()[tree.placeOf(leaf) + i], leaf[i]);
            }
        });
        QVERIFY(std::all_of(met.begin(), met.end(), [](int n) { return n == 1; }));
    }
    void nearestByLoweringTheLimit_data() { trees_data(); }
    void nearestByLoweringTheLimit()
    {
        QFETCH(int, count);
        QFETCH(bool, isInOrder);
        const auto boxes = boxesOf(std::size_t(count), 2, 4);
        const BoxTree tree = treeOver(boxes, isInOrder);
        std::size_t looked = 0;
        for (std::uint64_t k = 0; k < 200; ++k) {
            const Vec3f p = drawn(3, k) * 60.0f;
            QVERIFY(isNearestFound(tree, boxes, p, looked));
        }
        if (count == 4000 && !isInOrder) // nearest first: most are never looked at
            QVERIFY2(looked < 200 * 60, qPrintable(QString::number(looked)));
    }
    void whatABoxMeets_data() { trees_data(); }
    void whatABoxMeets()
    {
        QFETCH(int, count);
        QFETCH(bool, isInOrder);
        const auto boxes = boxesOf(std::size_t(count), 4, 5);
        const BoxTree tree = treeOver(boxes, isInOrder);
        for (std::uint64_t k = 0; k < 100; ++k) {
            Box3f asked;
            asked.add(drawn(5, k) * 50.0f);
            asked.add(asked.lo + drawn(6, k) * 15.0f);
            std::vector<bool> met(boxes.size());
            const float limit = 1;
            tree.visit(mesh::Meets(asked), limit, [&](std::span<const std::uint32_t> leaf) {
                for (const std::uint32_t i : leaf)
                    met[i] = true;
            });
            for (std::size_t i = 0; i < boxes.size(); ++i) {
                bool meets = true;
                for (int axis = 0; axis < 3; ++axis)
                    meets = meets && at(boxes[i].lo, axis) <= at(asked.hi, axis) && at(asked.lo, axis) <= at(boxes[i].hi, axis);
                QVERIFY(!meets || met[i]);
            }
        }
    }
    void firstBoxOnARay_data() { trees_data(); }
    void firstBoxOnARay()
    {
        QFETCH(int, count);
        QFETCH(bool, isInOrder);
        const auto boxes = boxesOf(std::size_t(count), 7, 6);
        const BoxTree tree = treeOver(boxes, isInOrder);
        for (std::uint64_t k = 0; k < 200; ++k) {
            const Vec3f from = drawn(8, k) * 120.0f, way = normalized(drawn(9, k) * 30.0f - from);
            double want = std::numeric_limits<double>::infinity();
            for (const Box3f &b : boxes)
                want = std::min(want, entryOf(b, from, way));
            float limit = std::numeric_limits<float>::max();
            tree.visit(mesh::RaySlabs(from, way), limit, [&](std::span<const std::uint32_t> leaf) {
                for (const std::uint32_t i : leaf)
                    limit = float(std::min(double(limit), entryOf(boxes[i], from, way)));
            });
            if (std::isinf(want))
                QCOMPARE(limit, std::numeric_limits<float>::max());
            else
                QVERIFY(std::abs(double(limit) - want) <= 1e-4 * (1 + want));
        }
    }
    // Boxes that change, as those of blocks do under a stroke: found where they are now, no more where they were.
    void changedBoxesAreFoundAnew()
    {
        auto boxes = boxesOf(500, 10, 2);
        BoxTree tree = treeOver(boxes, true);
        std::size_t looked = 0;
        for (std::uint64_t round = 0; round < 30; ++round) {
            std::vector<std::uint32_t> ids;
            std::vector<Box3f> now;
            for (std::uint64_t k = 0; k < 1 + round; ++k) {
                const auto id = std::uint32_t(randomBits(11, round * 100 + k) % boxes.size());
                if (std::find(ids.begin(), ids.end(), id) != ids.end())
                    continue;
                Box3f b;
                b.add(drawn(12, round * 100 + k) * 80.0f);
                ids.push_back(id), now.push_back(b);
                boxes[id] = b;
            }
            tree.set(ids, now);
            for (std::uint64_t k = 0; k < 20; ++k) {
                const Vec3f p = drawn(13, round * 20 + k) * 80.0f;
                QVERIFY(isNearestFound(tree, boxes, p, looked));
            }
        }
    }
};

BONEMOSS_TEST(TestBoxTree)
#include "tst_box_tree.moc"
