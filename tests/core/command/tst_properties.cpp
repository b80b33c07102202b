// What must hold of every command whatever it is given (common practice, no source: properties over random input, after
// K. Claessen, J. Hughes, "QuickCheck", 2000): it is done or refused with words, nothing is thrown, the creature it began with
// keeps its bits, what comes out holds together, and a file gives back what was put in. BONEMOSS_PROPERTIES=100 in the environment
// gives each command that many tries.
#include "support/run.h"
#include "base/random.h"
#include "store/detail/manifest.h"
#include "support/pieces.h"
#include "support/shapes.h"

#include <QtTest>

#include <map>

using namespace bonemoss;
using document::Creature, command::ParamKind, command::ParamSpec;
using nlohmann::json;

namespace {

using Blobs = std::map<store::detail::Hash, std::vector<std::byte>>;

/// A creature as a file holds it, and the blocks it names. Hashes are worked out anew: those that blocks remember would hide
/// that a block had been changed in its place.
std::string written(const Creature &c, Blobs &blobs)
{
    const auto write = [&](store::detail::Hash &, const std::function<std::vector<std::byte>()> &bytes) {
        std::vector<std::byte> raw = bytes();
        const auto name = store::detail::hashOf(raw);
        blobs[name] = std::move(raw);
        return name;
    };
    return store::detail::toManifest(c, write).dump();
}

/// A creature with something of everything: forms, a joint, a cage, two pieces with layers, masks, groups, guides, a growth,
/// levels, a target and colours.
const Creature &rich()
{
    static const Creature made = [] {
        mesh::PolyMesh ball = test::sphere(12, 28, 40), beside = test::sphere(8, 20, 28);
        for (Vec3f &p : beside.positions)
            p.x += 16;
        Creature c = test::withPieces({ball, beside});
        const std::initializer_list<json> commands = {
            {{"do", "form.add"}, {"kind", "ball"}, {"name", "chest"}, {"radius", 9}},
            {{"do", "form.add"},
             {"kind", "limb"},
             {"name", "arm"},
             {"parent", "chest"},
             {"mirror", true},
             {"path", {{6, 0, 0, 4}, {16, -6, 0, 3}}}},
            {{"do", "form.add"}, {"kind", "tube"}, {"name", "tail"}, {"path", {{0, 0, -6, 3}, {0, 2, -12, 2}, {0, 6, -18, 1}}}},
            {{"do", "cage.add"}, {"kind", "box"}, {"name", "plate"}},
            {{"do", "proportion.unit"}, {"form", "chest"}},
            {{"do", "mask.shape"}, {"piece", "a"}, {"what", "slope"}, {"from", 0}, {"to", 70}},
            {{"do", "mask.keep"}, {"piece", "a"}, {"name", "top"}},
            {{"do", "group.make"}, {"piece", "a"}, {"name", "crown"}},
            {{"do", "mask.clear"}, {"piece", "a"}},
            {{"do", "guide.add"}, {"piece", "a"}, {"points", {{0, 6, 10}, {0, 0, 12}, {0, -6, 10}}}},
            {{"do", "grow.scales"}, {"piece", "a"}, {"name", "scales"}, {"mask", "top"}, {"size", 4}},
            {{"do", "layer.add"}, {"piece", "a"}, {"name", "paint"}},
            {{"do", "sculpt.stroke"},
             {"piece", "a"},
             {"tool", "raise"},
             {"size", 4},
             {"layer", "paint"},
             {"samples", {{0, 0, 12}, {3, 0, 12}}}},
            {{"do", "piece.paint"}, {"piece", "a"}, {"colour", {0.5, 0.3, 0.2}}},
            {{"do", "palette.add"}, {"name", "moss"}, {"colour", {0.2, 0.3, 0.1}}},
            {{"do", "colour.add"}, {"piece", "a"}, {"name", "paint"}},
            {{"do", "colour.fill"}, {"piece", "a"}, {"layer", "paint"}, {"entry", "moss"}, {"wet", 0.5}},
            {{"do", "rule.slope"}, {"piece", "a"}, {"name", "scales"}, {"entry", "moss"}},
            {{"do", "colour.add"}, {"piece", "a"}, {"name", "relief"}},
            {{"do", "scheme.add"}, {"name", "autumn"}},
            {{"do", "mask.shape"}, {"piece", "a"}, {"what", "slope"}, {"from", 60}, {"to", 120}},
            {{"do", "piece.refine"}, {"piece", "b"}}};
        for (const json &command : commands) {
            auto next = test::run(c, command);
            if (!next)
                qWarning("%s: %s", command.dump().c_str(), next.error().text().c_str());
            else
                c = std::move(*next);
        }
        return c;
    }();
    return made;
}

/// Random values for parameters, mostly such as make sense.
class Hand
{
public:
    explicit Hand(std::uint64_t seed) : m_seed(seed) {}

    json command(const command::CommandSpec &spec)
    {
        json c{{"do", spec.name}};
        for (const ParamSpec &p : spec.params)
            if (p.isRequired || p.name == "piece" || one() < 0.35f)
                c[p.name] = one() < 0.04f ? nonsense() : value(p);
        return c;
    }

private:
    float one() { return randomUnit(m_seed, m_at++); }
    std::size_t of(std::size_t n) { return std::min(n - 1, std::size_t(one() * float(n))); }
    template <typename T> const T &any(const std::vector<T> &list) { return list[of(list.size())]; }

    json nonsense()
    {
        static const std::vector<json> all = {
            nullptr, "nobody", -1e30, json::array(), json::object(), true, json::array({1, "two"})};
        return any(all);
    }
    json number(const ParamSpec &p)
    {
        const bool isHeavy = p.name == "faces" || p.name == "count" || p.name == "spacing" || p.name == "edge";
        double low = std::max(p.min, -20.0), high = std::min(p.max, 20.0);
        if (p.name == "faces")
            low = 300, high = 6000;
        else if (p.name == "count")
            low = std::max(1.0, p.min), high = 6;
        else if (isHeavy)
            low = std::max(low, 0.8), high = std::max(low, 4.0);
        if (high < low)
            high = low;
        const float t = one();
        double v = !isHeavy && t < 0.08f ? low : !isHeavy && t < 0.16f ? high : low + (high - low) * double(one());
        if (!p.defaultJson.empty() && one() < 0.3f)
            if (const json given = json::parse(p.defaultJson, nullptr, false); given.is_number())
                v = given.get<double>();
        return p.kind == ParamKind::Integer ? json(std::lround(v)) : json(v);
    }
    json colour() { return {one(), one(), one()}; }
    json point() { return {30 * one() - 15, 30 * one() - 15, 30 * one() - 15}; }
    json reference(const std::string &name)
    {
        static const std::map<std::string, std::vector<json>> pools = {
            {"piece", {"a", "a", "a", "b"}},
            {"to", {"a", "b"}},
            {"onto", {"a", "b"}},
            {"layer", {"scales", "scales", "paint", "relief"}},
            {"form", {"chest", "arm", "tail"}},
            {"parent", {"chest", "arm"}},
            {"guide", {"tail", "arm"}},
            {"cage", {"plate"}},
            {"entry", {"moss"}},
            {"entries", {"moss"}},
            {"scheme", {"autumn"}},
        };
        const auto pool = pools.find(name);
        static const std::vector<json> others = {"a", "chest", "plate", "scales", 1, 2, 3};
        return any(pool == pools.end() ? others : pool->second);
    }
    json text(const std::string &name)
    {
        static const std::vector<json> names = {"top", "crown", "new one", "paint", "scales", ""};
        static const std::vector<json> masks = {"hand", "none", "top", "all"};
        static const std::vector<json> colours = {"#806040", "0.5,0.5,0.5", "moss"};
        static const std::vector<json> stamps = {"scales", "pebbles", "no such"};
        if (name == "sizes" || name == "source")
            return "top";
        return any(name == "mask" ? masks : name == "colour" ? colours : name == "stamp" || name == "stencil" ? stamps : names);
    }
    json value(const ParamSpec &p)
    {
        switch (p.kind) {
        case ParamKind::Number:
        case ParamKind::Integer: return number(p);
        case ParamKind::Switch: return one() < 0.5f;
        case ParamKind::Choice: return any(p.choices);
        case ParamKind::Path:
        case ParamKind::Text: return text(p.name);
        case ParamKind::Point: return p.name == "colour" ? colour() : point();
        case ParamKind::Reference: return reference(p.name);
        case ParamKind::References: {
            json list = json::array();
            for (std::size_t k = 0; k < 1 + of(3); ++k)
                list.push_back(reference(p.name == "pieces" ? "piece" : p.name == "entries" ? "entries" : "form"));
            return list;
        }
        case ParamKind::Numbers: {
            json list = json::array();
            for (std::size_t k = 0; k < 1 + of(5); ++k)
                list.push_back(std::lround(8 * one()));
            return list;
        }
        case ParamKind::Points: {
            json list = json::array();
            for (std::size_t k = 0; k < 2 + of(4); ++k) {
                list.push_back(p.name == "colours" ? colour() : point());
                if (p.name == "path")
                    list.back().push_back(0.5 + 3 * one());
            }
            return list;
        }
        case ParamKind::Samples: {
            json list = json::array();
            for (int k = 0; k < 3; ++k)
                list.push_back({6 * one() - 3, 6 * one() - 3, 30, 0, 0, -1, one(), 8 * k});
            return list;
        }
        }
        return nullptr;
    }

    std::uint64_t m_seed, m_at = 0;
};

/// What is wrong with a creature, if anything.
QString wrongWith(const Creature &c)
{
    for (const auto &p : c.pieces) {
        const skin::Skin &s = p->skin;
        const std::size_t n = s.body.size();
        if (!s.shown.topology || s.shown.topology->vertexCount() != n || s.shown.positions.size() != n || s.mask.size() != n)
            return QStringLiteral("sizes of %1").arg(QString::fromStdString(p->name));
        for (const skin::Layer &l : s.layers)
            if (l.offsets.size() != n || l.mask.size() != n)
                return QStringLiteral("sizes of layer %1").arg(QString::fromStdString(l.name));
        for (const skin::KeptMask &m : s.masks)
            if (m.values.size() != n)
                return QStringLiteral("sizes of mask %1").arg(QString::fromStdString(m.name));
        for (const auto *places : {&s.body, &s.shown.positions})
            for (const Vec3f v : places->flatten())
                if (!isFinite(v))
                    return QStringLiteral("a place of %1 is no number").arg(QString::fromStdString(p->name));
    }
    return {};
}

} // namespace

class TestProperties : public QObject
{
    Q_OBJECT
private slots:
    void everyCommand_data()
    {
        QTest::addColumn<QByteArray>("name");
        for (const command::CommandSpec &spec : command::commands())
            QTest::newRow(spec.name.c_str()) << QByteArray::fromStdString(spec.name);
    }
    void everyCommand()
    {
        QFETCH(QByteArray, name);
        const command::CommandSpec &spec = *command::findCommand(name.toStdString());
        const Creature &before = rich();
        Blobs blobs;
        static const std::string bits = written(before, blobs);
        static int done = 0, refused = 0;
        const int tries = std::max(10, qEnvironmentVariableIntValue("BONEMOSS_PROPERTIES"));
        for (std::uint64_t k = 0; k < std::uint64_t(tries); ++k) {
            const json command = Hand(std::uint64_t(&spec - command::commands().data()) * 100'000 + k).command(spec);
            const std::string words = command.dump();
            Result<Creature> after = Error{ErrorCode::Unknown, "", ""};
            try {
                after = test::run(before, command);
            } catch (const std::exception &e) {
                QFAIL(qPrintable(QString::fromStdString(words + " threw " + e.what())));
            }
            Blobs again;
            QVERIFY2(written(before, again) == bits, words.c_str()); // it keeps its bits
            if (!after) {
                ++refused;
                QVERIFY2(after.error().text().size() > 8, words.c_str());
                continue;
            }
            ++done;
            const QString wrong = wrongWith(*after);
            QVERIFY2(wrong.isEmpty(), qPrintable(wrong + QStringLiteral(": ") + QString::fromStdString(words)));
            Blobs kept;
            const std::string file = written(*after, kept);
            std::vector<std::string> damage;
            const auto back = store::detail::fromManifest(
                json::parse(file),
                [&](store::detail::Hash blob) -> Result<std::vector<std::byte>> {
                    const auto at = kept.find(blob);
                    return at == kept.end() ? Result<std::vector<std::byte>>(
                               Error{ErrorCode::Damaged, store::detail::toHex(blob), "is missing"})
                                            : Result<std::vector<std::byte>>(at->second);
                },
                damage);
            QVERIFY2(back && damage.empty(), words.c_str());
            Blobs more;
            QVERIFY2(written(*back, more) == file, words.c_str());
        }
        if (&spec == &command::commands().back()) {
            qInfo("%d done, %d refused", done, refused);
            QVERIFY(2 * done > refused); // or the values above say little
        }
    }
};

BONEMOSS_TEST(TestProperties)
#include "tst_properties.moc"
