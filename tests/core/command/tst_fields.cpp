// What must hold for every described parameter. Oracles: reading is the inverse of writing; the schema's limits hold for what is
// written; a struct that differs in nothing from a fresh one says nothing but what it must.
#include "support/run.h"
#include "base/random.h"
#include "command/sculpt/stroke_fields.h"
#include "command/stroke_command.h"

using namespace bonemoss;
using command::Field;
using nlohmann::json;
using sculpt::StrokeSettings;

namespace {

struct Wing {
    static constexpr const char *kName = "wing.add", *kTitle = "Add wing", *kText = "For this test.";
    command::ItemName root;
    float span = 40;
    std::optional<std::uint32_t> feathers;
    std::vector<command::ItemName> beside;
    Vec3f at{1, 2, 3};
    bool isFolded = false;
    std::string call = "kee";
    enum class Kind { Feather, Skin } kind = Kind::Skin;
    static command::Fields<Wing> fields()
    {
        static constexpr std::string_view kinds[] = {"feather", "skin"};
        return {command::fieldOf<Wing>(&Wing::root, "root", "", "where it hangs").required(),
                command::fieldOf<Wing>(&Wing::span, "span", "mm", "from root to tip", 1, 1000),
                command::fieldOf<Wing>(&Wing::feathers, "feathers", "", "how many", 0, 100),
                command::fieldOf<Wing>(&Wing::beside, "beside", "", "its neighbours"),
                command::fieldOf<Wing>(&Wing::at, "at", "mm", "its place"),
                command::fieldOf<Wing>(&Wing::isFolded, "folded", "", "at rest"),
                command::fieldOf<Wing>(&Wing::call, "call", "", "what it says"),
                command::choiceOf(&Wing::kind, "kind", "of what", kinds)};
    }
};

Wing g_read;
Result<document::Creature> apply(const document::Creature &c, const Wing &wing, command::CommandContext &)
{
    g_read = wing;
    return c;
}

/// A value that a description allows, different for each k.
json anyValue(const command::ParamSpec &spec, std::uint64_t k)
{
    using command::ParamKind;
    const double share = 0.5 + 0.5 * double(randomSigned(7, k));
    const double least = std::isfinite(spec.min) ? spec.min : -50, most = std::isfinite(spec.max) ? spec.max : 50;
    switch (spec.kind) {
    case ParamKind::Switch: return share > 0.5;
    case ParamKind::Number: return float(least + share * (most - least));
    case ParamKind::Integer: return std::uint64_t(least + share * (most - least));
    case ParamKind::Choice:
        return spec.choices[std::min(spec.choices.size() - 1, std::size_t(share * double(spec.choices.size())))];
    case ParamKind::Text: return "stamp " + std::to_string(k);
    case ParamKind::Point: return {float(share), float(share * 2 + 1), 0.5f};
    case ParamKind::Numbers: return json(std::vector<float>(sculpt::kFirstDrawn.size(), float(share)));
    default: return nullptr;
    }
}

} // namespace

class TestFields : public QObject
{
    Q_OBJECT
private slots:
    void aStructSaysWhatDiffersAndIsReadAgain()
    {
        const command::CommandSpec spec = command::commandOf<Wing>(apply);
        Wing wing;
        wing.root = std::string("shoulder");
        QCOMPARE(command::toCommand(wing), json({{"do", "wing.add"}, {"root", "shoulder"}}));
        wing.span = 55.5f, wing.feathers = 12, wing.beside = {3u, std::string("tail")}, wing.at = {0, -1, 2};
        wing.isFolded = true, wing.call = "", wing.kind = Wing::Kind::Feather;
        const json whole = command::toCommand(wing);
        QCOMPARE(whole.size(), std::size_t(9));
        const auto params = command::checkParams(spec.params, whole);
        QVERIFY2(bool(params), params ? "" : params.error().text().c_str());
        command::CommandContext context;
        QVERIFY(bool(spec.apply({}, *params, context)));
        QCOMPARE(command::toCommand(g_read), whole);
    }
    void whatIsMissingHasTheDefaultOfAFreshStruct()
    {
        const command::CommandSpec spec = command::commandOf<Wing>(apply);
        const auto params = command::checkParams(spec.params, {{"do", "wing.add"}, {"root", 7u}});
        QVERIFY(bool(params));
        command::CommandContext context;
        QVERIFY(bool(spec.apply({}, *params, context)));
        QCOMPARE(g_read.span, 40.0f);
        QVERIFY(!g_read.feathers && g_read.kind == Wing::Kind::Skin && g_read.at == (Vec3f{1, 2, 3}));
        QVERIFY(!command::checkParams(spec.params, {{"do", "wing.add"}}));                                 // needs its root
        QVERIFY(!command::checkParams(spec.params, {{"do", "wing.add"}, {"root", 7u}, {"span", 2000}}));   // outside
        QVERIFY(!command::checkParams(spec.params, {{"do", "wing.add"}, {"root", 7u}, {"kind", "wood"}})); // no such
    }
    void everySettingOfAStrokeComesBack()
    {
        for (const sculpt::ToolRow &row : sculpt::tools())
            for (std::uint64_t k = 0; k < 40; ++k) {
                StrokeSettings s;
                s.tool = row.tool;
                std::uint64_t n = 1000 * k;
                for (const Field<StrokeSettings> &f : command::strokeFields())
                    if (f.spec.name != "tool")
                        if (const json v = anyValue(f.spec, ++n); !v.is_null()) {
                            QVERIFY2(command::complaint(f.spec, v).empty(), f.spec.name.c_str());
                            f.read(v, s);
                        }
                json written = command::strokeCommand({}, s, {});
                const auto again = command::strokeSettings(written);
                QVERIFY2(bool(again), again ? "" : again.error().text().c_str());
                const json twice = command::strokeCommand({}, *again, {});
                for (const auto &[name, value] : written.items()) { // turns go through degrees and back
                    const json &other = twice.at(name);
                    if (value.is_number_float())
                        QVERIFY2(std::abs(value.get<float>() - other.get<float>()) <= 1e-4f * (1 + std::abs(value.get<float>())),
                                 name.c_str());
                    else if (name != "planeNormal")
                        QVERIFY2(value == other, name.c_str());
                }
            }
    }
    void whatAToolDoesNotUseIsNotSaid()
    {
        for (const sculpt::ToolRow &row : sculpt::tools()) {
            StrokeSettings s;
            s.tool = row.tool;
            const json c = command::strokeCommand({}, s, {});
            for (const Field<StrokeSettings> &f : command::strokeFields())
                QVERIFY2(!c.contains(f.spec.name) || command::uses(row.tool, f),
                         (std::string(row.name) + " " + f.spec.name).c_str());
            QVERIFY(c.contains("size") && c.contains("tool"));
        }
    }
    void everySettingHasATitle()
    {
        for (const Field<StrokeSettings> &f : command::strokeFields())
            QVERIFY2(!titleOf(f.spec).empty() && !f.spec.description.empty(), f.spec.name.c_str());
        command::ParamSpec spec;
        spec.name = "lineFrom";
        QCOMPARE(QString::fromStdString(titleOf(spec)), QStringLiteral("Line from"));
    }
};

BONEMOSS_TEST(TestFields)
#include "tst_fields.moc"
