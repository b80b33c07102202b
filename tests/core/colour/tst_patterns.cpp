// Coats grown on the skin. Oracles: the wavelength that the filter is made for (Kondo 2009; a stripe's period is the wavelength, spots
// stand 2 / sqrt 3 of it apart), the packing of a hexagonal lattice, two densities of one shape.
#include "support/run.h"
#include "skin/colour_layers.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QtTest>

#include <map>

using namespace bonemoss;
using document::Creature;
using nlohmann::json;
using skin::LayerChannel;
using test::need;

namespace {

struct Pattern {
    Creature creature;
    std::vector<float> value;
    const skin::Skin &skin() const { return creature.pieces[0]->skin; }
};
Pattern grown(const mesh::PolyMesh &mesh, json command, double spacing = 0)
{
    command["mirror"] = false, command["limbs"] = 0, command["ragged"] = 0;
    Creature c = test::withPieces({mesh});
    if (spacing > 0)
        c = need(c, {{"do", "piece.reknit"}, {"spacing", spacing}});
    Pattern p{need(c, command), {}};
    const skin::Bytes &bytes = *layerValues(p.skin(), p.skin().colourLayers.back().id, LayerChannel::Rule);
    for (std::uint32_t v = 0; v < bytes.size(); ++v)
        p.value.push_back(float(std::max(0, int(bytes[v]) - 1)) / 254);
    return p;
}

/// Middles of the marks: parts that hang together.
std::vector<Vec3f> marksOf(const Pattern &p)
{
    const auto &topology = *p.skin().shown.topology;
    std::vector<std::vector<std::uint32_t>> beside(p.value.size());
    for (const mesh::Face &f : topology.faces())
        for (int c = 0; c < f.size(); ++c) {
            const std::uint32_t a = f.v[std::size_t(c)], b = f.v[std::size_t((c + 1) % f.size())];
            beside[a].push_back(b), beside[b].push_back(a);
        }
    std::vector<bool> isSeen(p.value.size(), false);
    std::vector<Vec3f> out;
    for (std::uint32_t v = 0; v < p.value.size(); ++v) {
        if (isSeen[v] || p.value[v] < 0.5f)
            continue;
        Vec3f sum;
        float n = 0;
        std::vector<std::uint32_t> next{v};
        isSeen[v] = true;
        while (!next.empty()) {
            const std::uint32_t a = next.back();
            next.pop_back();
            sum += p.skin().shown.positions[a], n += 1;
            for (const std::uint32_t b : beside[a])
                if (!isSeen[b] && p.value[b] >= 0.5f)
                    isSeen[b] = true, next.push_back(b);
        }
        out.push_back(sum * (1 / n));
    }
    return out;
}

} // namespace

class TestPatterns : public QObject
{
    Q_OBJECT
private slots:
    void stripesHaveTheirWavelength()
    {
        const Pattern p = grown(test::plane(120, 200), {{"do", "rule.stripes"}, {"size", 10}, {"cover", 0.5}});
        // The flow of a plane without limbs runs along z: stripes lie across it, so values change along z. Borders in rows well inside.
        const auto &at = p.skin().shown.positions;
        std::map<int, std::vector<std::pair<float, float>>> rows;
        for (std::uint32_t v = 0; v < at.size(); ++v)
            if (std::abs(at[v].x) < 45 && std::abs(at[v].z) < 45)
                rows[int(std::lround(at[v].x / 0.6f))].push_back({at[v].z, p.value[v]});
        double changes = 0, across = 0;
        for (auto &[x, row] : rows) {
            std::sort(row.begin(), row.end());
            for (std::size_t k = 1; k < row.size(); ++k)
                changes += (row[k].second >= 0.5f) != (row[k - 1].second >= 0.5f);
            across += 90;
        }
        const double period = 2 * across / changes;
        QVERIFY2(std::abs(period - 10) < 1.2, qPrintable(QString::number(period))); // a few stripes fork
    }
    void spotsStandApartAndAreNotMissing()
    {
        const Pattern p = grown(test::plane(150, 240), {{"do", "rule.spots"}, {"size", 10}, {"cover", 0.2}});
        const std::vector<Vec3f> marks = marksOf(p);
        // A perfect hexagonal lattice of that spacing has area / (0.866 spacing^2) of them; grown ones some fewer (0.84 to 1 measured).
        const double perfect = 150 * 150 / (0.8660254 * 100);
        QVERIFY2(double(marks.size()) > 0.78 * perfect && double(marks.size()) < 1.1 * perfect,
                 qPrintable(QString::number(marks.size())));
        int close = 0;
        for (std::size_t a = 0; a < marks.size(); ++a)
            for (std::size_t b = a + 1; b < marks.size(); ++b)
                close += length(marks[a] - marks[b]) < 5; // half the spacing, as darts would keep it
        QVERIFY2(close <= int(marks.size()) / 50, qPrintable(QString::number(close)));
        double share = 0;
        for (const float v : p.value)
            share += double(v) / double(p.value.size());
        QVERIFY2(std::abs(share - 0.2) < 0.03, qPrintable(QString::number(share))); // the coverage asked for
    }
    void marksKeepTheirSizeAtTwoDensitiesAndOnASphere()
    {
        const double coarse = double(marksOf(grown(test::sphere(40, 110, 170), {{"do", "rule.spots"}, {"size", 9}}, 0.8)).size()),
                     fine = double(marksOf(grown(test::sphere(40, 110, 170), {{"do", "rule.spots"}, {"size", 9}}, 0.4)).size());
        QVERIFY2(std::abs(coarse - fine) < 0.08 * fine, qPrintable(QStringLiteral("%1 %2").arg(coarse).arg(fine)));
        const double perfect = 4 * M_PI * 40 * 40 / (0.8660254 * 81);
        QVERIFY2(fine > 0.75 * perfect && fine < 1.1 * perfect, qPrintable(QString::number(fine)));
        const double larger =
            double(marksOf(grown(test::sphere(40, 110, 170), {{"do", "rule.spots"}, {"size", 18}}, 0.8)).size());
        QVERIFY2(larger > 0.17 * fine && larger < 0.35 * fine, qPrintable(QString::number(larger))); // a quarter as many
    }
    void anotherSeedIsAnotherPatternAndTheSameIsTheSame()
    {
        const mesh::PolyMesh ball = test::sphere(30, 70, 110);
        const auto one = grown(ball, {{"do", "rule.labyrinth"}, {"size", 9}, {"seed", 4}}).value,
                   again = grown(ball, {{"do", "rule.labyrinth"}, {"size", 9}, {"seed", 4}}).value,
                   other = grown(ball, {{"do", "rule.labyrinth"}, {"size", 9}, {"seed", 5}}).value;
        QVERIFY(one == again && one != other);
    }
    void twinsAreAlikeAsFarAsAsked()
    {
        const double same = alikeAt(0), some = alikeAt(0.4), none = alikeAt(1);
        const QString told = QStringLiteral("%1 %2 %3").arg(same).arg(some).arg(none);
        QVERIFY2(same > 0.9 && none < 0.8, qPrintable(told));
        QVERIFY2(some < same && some > none, qPrintable(told)); // a share in between, not a switch
    }

private:
    /// Share of the vertices that are marked as their twins are.
    double alikeAt(double difference)
    {
        Creature c = need(test::withPieces({test::sphere(30, 70, 112)}),
                          {{"do", "rule.spots"}, {"size", 9}, {"difference", difference}, {"limbs", 0}});
        const skin::Skin &s = c.pieces[0]->skin;
        const skin::Bytes &bytes = *layerValues(s, s.colourLayers.back().id, LayerChannel::Rule);
        int alike = 0, all = 0;
        for (std::uint32_t v = 0; v < s.body.size(); v += 7) {
            std::uint32_t twin = v;
            for (std::uint32_t o = 0; o < s.body.size(); ++o)
                if (length(s.body[o] - mirrored(s.body[v])) < length(s.body[twin] - mirrored(s.body[v])))
                    twin = o;
            alike += (bytes[v] > 127) == (bytes[twin] > 127), ++all;
        }
        return double(alike) / all;
    }
};

BONEMOSS_TEST(TestPatterns)
#include "tst_patterns.moc"
