// Takes the pictures of docs/screenshots from the samples. Usage: bonemoss-shots FOLDER [NAME]
#include "app/hand/colour_hand.h"
#include "app/theme/theme.h"
#include "app/view/creature_view.h"
#include "app/window/main_window.h"
#include "command/command.h"
#include "growth/growth.h"
#include "app/hand/portrait_hand.h"
#include "app/hand/proof_hand.h"
#include "portrait/studio.h"

#include <QAbstractButton>
#include <QAction>
#include <QPainter>
#include <QPushButton>
#include <QApplication>
#include <QFile>
#include <QScreen>
#include <QSettings>
#include <QTemporaryDir>
#include <QTest>
#include <nlohmann/json.hpp>

using namespace bonemoss;
using namespace bonemoss::app;

namespace {

void shoot(MainWindow &window, const QString &folder, const QString &name)
{
    QTest::qWait(700); // settle: full skin, silhouettes
    window.view().update();
    QTest::qWait(500);
    const QString path = folder + QLatin1Char('/') + name + QStringLiteral(".png");
    if (!window.screen()->grabWindow(window.winId()).save(path)) // as the screen shows it, overlay and all
        qFatal("could not write %s", qPrintable(path));
}

portrait::Camera from(const portrait::Camera &c, Vec3f direction, Vec3f target, float distance)
{
    portrait::Camera out = c;
    out.rotation = portrait::rotationLooking(direction, {0, 1, 0});
    out.target = target;
    out.distance = distance;
    return out;
}

/// Every growth at its usual values on the same bent limb, traced as clay.
void sheetOfGrowths(const QString &path)
{
    constexpr int kWide = 340, kHigh = 280, kColumns = 4;
    const auto kinds = growth::growthKinds();
    const int rows = (int(kinds.size()) + kColumns - 1) / kColumns;
    QImage sheet(kColumns * kWide, rows * kHigh, QImage::Format_RGB32);
    sheet.fill(QColor("#C2BFB1"));
    QPainter p(&sheet);
    p.setFont(QFont(QStringLiteral("Cabin"), 11));
    command::CommandContext context;
    document::Creature bare;
    for (const nlohmann::json &c : std::vector<nlohmann::json>{
             {{"do", "form.add"}, {"kind", "limb"}, {"name", "upper"}, {"path", {{0, 46, -14, 13}, {0, 30, 14, 11}}}},
             {{"do", "form.add"},
              {"kind", "limb"},
              {"name", "lower"},
              {"path", {{0, 30, 14, 11}, {0, 8, -4, 8}}},
              {"parent", "upper"}},
             {{"do", "knit.forms"}, {"faces", 500000}, {"name", "Limb"}}})
        bare = *command::apply(bare, c, context);
    for (int k = 0; k < int(kinds.size()); ++k) {
        const auto &kind = kinds[std::size_t(k)];
        const auto grown = command::apply(bare, {{"do", "grow." + std::string(kind.name)}}, context);
        const mesh::PolyMesh mesh = toPolyMesh(grown->pieces[0]->skin.shown);
        portrait::Camera camera;
        camera.rotation = portrait::rotationLooking({1, 0.12f, 0.25f}, {0, 1, 0});
        camera = portrait::framing(camera, mesh.positions, float(kWide) / kHigh);
        io::Scene scene;
        scene.add({"skin", grown->pieces[0]->skin.shown});
        const auto picture = portrait::studioPicture(scene, camera, kWide, kHigh, 16);
        QImage image(kWide, kHigh, QImage::Format_RGB32);
        for (int y = 0; y < kHigh; ++y)
            for (int x = 0; x < kWide; ++x) {
                const std::uint8_t *at = picture->rgba.data() + (std::size_t(y) * kWide + std::size_t(x)) * 4;
                image.setPixelColor(x, y, QColor(at[0], at[1], at[2]));
            }
        const QPoint corner(k % kColumns * kWide, k / kColumns * kHigh);
        p.drawImage(corner, image);
        p.setPen(QColor("#2B2722"));
        p.drawText(QRect(corner, QSize(kWide, kHigh)).adjusted(10, 8, 0, 0),
                   QString::fromUtf8(kind.title.data(), qsizetype(kind.title.size())));
    }
    p.end();
    if (!sheet.save(path))
        qFatal("could not write %s", qPrintable(path));
}

} // namespace

int main(int argc, char **argv)
{
    QApplication app(argc, argv);
    QTemporaryDir dir;
    QCoreApplication::setOrganizationName(QStringLiteral("bonemoss-shots"));
    QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, dir.path());
    if (argc < 2)
        qFatal("usage: bonemoss-shots FOLDER [NAME]");
    const QString folder = QString::fromLocal8Bit(argv[1]), only = argc > 2 ? QString::fromLocal8Bit(argv[2]) : QString();
    const auto wanted = [&](const char *name) { return only.isEmpty() || only == QLatin1String(name); };
    loadFonts();
    applyTheme(app, false);
    MainWindow window(dir.filePath(QStringLiteral("rescue")));
    window.setAsksBeforeClosing(false);
    window.resize(1280, 800);
    window.show();
    Session &s = window.session();
    const QString sample = QStringLiteral(BONEMOSS_SOURCE_DIR "/data/samples/hollowback.recipe.json");
    if (!window.openPath(sample))
        qFatal("the sample does not replay");
    CreatureView &view = window.view();
    if (wanted("references")) { // a file that is empty but for its drawings
        s.startNew();
        const std::string folder2 = BONEMOSS_SOURCE_DIR "/data/samples/";
        for (const nlohmann::json &c :
             std::vector<nlohmann::json>{{{"do", "picture.add"},
                                          {"path", folder2 + "hollowback-left.png"},
                                          {"view", "left"},
                                          {"opacity", 0.75},
                                          {"height", 253.93},
                                          {"middle", {21.83, 90}}},
                                         {{"do", "picture.lineup"},
                                          {"picture", "hollowback-left"},
                                          {"crown", {0.17, 187.9 / 1200}},
                                          {"ground", {0.27, 1038.5 / 1200}}},
                                         {{"do", "picture.add"}, {"path", folder2 + "hollowback-nose.png"}, {"view", "nose"}},
                                         {{"do", "picture.lineup"},
                                          {"picture", "hollowback-nose"},
                                          {"crown", {0.5, 231.7 / 1200}},
                                          {"ground", {0.5, 991.8 / 1200}}},
                                         {{"do", "picture.add"}, {"path", folder2 + "hollowback.png"}, {"view", "board"}}})
            s.run(c);
        view.lookFrom(QStringLiteral("left"));
        s.choosePicture(s.creature().references.front().id);
        window.findChild<QAbstractButton *>(QStringLiteral("planPictures"))->click();
        shoot(window, folder, QStringLiteral("references"));
        window.findChild<QAbstractButton *>(QStringLiteral("planProportions"))->click();
        window.openPath(sample);
    }
    if (wanted("shelf")) {
        s.setBench(Bench::Armature);
        view.setCamera(from(view.camera(), {0.85f, 0.22f, 0.6f}, {0, 84, 0}, 620));
        window.hand().armature().setFormTile(FormTile::Part);
        shoot(window, folder, QStringLiteral("shelf"));
        window.hand().armature().setFormTile(FormTile::Choose);
    }
    const auto leave = [&] { QTest::mouseMove(&window, {600, 10}); };
    if (wanted("armature")) {
        s.setBench(Bench::Armature);
        for (const auto &f : s.creature().armature.forms)
            if (f.name == "fore upper limb")
                s.chooseForm(f.id);
        view.lookFrom(QStringLiteral("left"));
        shoot(window, folder, QStringLiteral("armature"));
    }
    s.chooseLayer(0);
    const auto atScreen = [&](Vec3f p) { return view.projection().toScreen(p).toPoint(); };
    if (wanted("sculpt")) {
        s.setBench(Bench::Sculpt);
        view.setCamera(from(view.camera(), {0.85f, 0.22f, 0.6f}, {0, 84, 0}, 560));
        QTest::qWait(300);
        QTest::mouseMove(&view, atScreen({26, 92, 40}));
        shoot(window, folder, QStringLiteral("sculpt"));
    }
    const auto trigger = [&](const char *action) { window.findChild<QAction *>(QLatin1String(action))->trigger(); };
    if (wanted("views")) {
        leave();
        s.setBench(Bench::Sculpt);
        view.setCamera(from(view.camera(), {0.85f, 0.22f, 0.6f}, {0, 100, 20}, 500));
        trigger("fourPanes");
        const char *const looks[] = {"lookClay", "lookSilhouette", "lookCovered", "lookThin"};
        for (int k = 3; k >= 0; --k) {
            view.activatePane(k);
            trigger(looks[k]);
        }
        view.grabFramebuffer();
        while (view.worksOnLook()) { // one after the other
            QTest::qWait(500);
            view.grabFramebuffer();
        }
        shoot(window, folder, QStringLiteral("views"));
        trigger("lookClay");
        trigger("onePane");
    }
    if (wanted("groups")) {
        leave();
        s.setBench(Bench::Sculpt);
        const std::size_t before = s.history().at();
        for (const char *name : {"flanks", "ridge", "belly", "legs", "face", "horns"}) {
            s.run({{"do", "mask.recall"}, {"piece", s.piece()}, {"name", name}});
            s.run({{"do", "group.make"}, {"piece", s.piece()}, {"name", name}});
        }
        s.run({{"do", "mask.shape"}, {"piece", s.piece()}, {"what", "covered"}, {"from", 0.45}});
        trigger("showGroups");
        view.setCamera(from(view.camera(), {0.85f, 0.22f, 0.6f}, {0, 84, 0}, 560));
        QTest::qWait(300);
        shoot(window, folder, QStringLiteral("groups"));
        trigger("lookClay");
        s.goTo(before);
    }
    if (wanted("masks")) {
        leave();
        s.setBench(Bench::Sculpt);
        s.run({{"do", "mask.shape"}, {"piece", s.piece()}, {"what", "hollows"}, {"width", 2.5}});
        view.setCamera(from(view.camera(), {0.95f, 0.12f, 0.35f}, {0, 96, 10}, 420));
        QTest::qWait(300);
        shoot(window, folder, QStringLiteral("masks"));
        s.undo();
    }
    if (wanted("detail")) {
        leave();
        s.setBench(Bench::Detail);
        for (const auto &l : s.creature().pieces[0]->skin.layers)
            if (l.name == "Flank scales")
                s.chooseLayer(l.id);
        window.hand().detail().setShowsFlow(true);
        view.setCamera(from(view.camera(), {0.95f, 0.1f, 0.25f}, {10, 88, 30}, 250));
        QTest::qWait(300);
        shoot(window, folder, QStringLiteral("detail"));
        window.hand().detail().setShowsFlow(false);
        window.hand().setTool(sculpt::Tool::Raise);
        view.setCamera(from(view.camera(), {0.93f, 0.25f, 0.3f}, {20, 88, 44}, 110));
        QTest::mouseMove(&view, atScreen({26, 90, 47}));
        shoot(window, folder, QStringLiteral("close"));
    }
    if (wanted("outgrowths")) {
        leave();
        s.setBench(Bench::Outgrowths);
        for (const auto &o : s.creature().outgrowths)
            if (o->name == "Back plates")
                s.chooseItem(o->id);
        view.setCamera(from(view.camera(), {0.9f, 0.32f, 0.45f}, {0, 122, 42}, 330));
        shoot(window, folder, QStringLiteral("outgrowths"));
        s.chooseItem(0);
    }
    const auto replay = [&](const char *name) {
        QFile recipe(QStringLiteral(BONEMOSS_SOURCE_DIR "/data/samples/%1.recipe.json").arg(QLatin1String(name)));
        if (recipe.open(QIODevice::ReadOnly)) {
            const nlohmann::json whole = nlohmann::json::parse(recipe.readAll().toStdString());
            for (const nlohmann::json &c : whole["commands"])
                s.run(c);
        }
    };
    if (wanted("colour")) {
        leave();
        const std::size_t before = s.history().at();
        replay("colours/hollowback-schemes");
        s.setBench(Bench::Colour);
        window.hand().setTool(sculpt::Tool::Paint);
        view.setCamera(from(view.camera(), {0.93f, 0.22f, 0.42f}, {0, 100, 36}, 400));
        shoot(window, folder, QStringLiteral("colour"));
        window.hand().of<ColourHand>().hold(ColourHand::Holding::Schemes);
        view.setLook(Look::ColourOnly);
        QTest::qWait(30000); // the pictures of the schemes are drawn beside the window
        shoot(window, folder, QStringLiteral("schemes"));
        view.setLook(Look::Clay);
        for (const skin::ColourLayer &l : s.creature().piece(s.piece())->skin.colourLayers)
            if (l.name == "Darker above")
                s.chooseColourLayer(l.id);
        shoot(window, folder, QStringLiteral("rule"));
        s.goTo(before);
    }
    if (wanted("pose")) {
        leave();
        const std::size_t before = s.history().at();
        replay("poses/hollowback-poses");
        s.setBench(Bench::Pose);
        for (const char *foot : {"fore foot left", "fore foot right", "mid foot left", "mid foot right", "hind foot right"})
            s.run({{"do", "pose.pin"}, {"bone", foot}});
        s.run({{"do", "pose.use"}, {"pose", "on one hip"}});
        for (const char *foot : {"fore foot left", "fore foot right", "hind foot left", "hind foot right"})
            s.run({{"do", "pose.pin"}, {"bone", foot}});
        view.setCamera(from(view.camera(), {0.85f, 0.18f, 0.6f}, {0, 84, 0}, 560));
        QTest::qWait(8000); // the pictures of the poses are drawn beside the window
        QTest::mouseMove(&view, atScreen({24, 40, 44}));
        shoot(window, folder, QStringLiteral("pose"));
        s.goTo(before);
    }
    if (wanted("portrait")) {
        leave();
        const std::size_t before = s.history().at();
        replay("colours/hollowback-schemes"), replay("portraits/hollowback-cover");
        s.run({{"do", "portrait.lights"}, {"set", "museum"}});
        s.setBench(Bench::Portrait);
        window.hand().of<PortraitHand>().setPage(PortraitPage::Lights);
        view.setCamera(from(view.camera(), {0.8f, 0.14f, 0.62f}, {0, 88, 6}, 560));
        for (int k = 0; k < 600 && view.picture().samples() < 64; ++k)
            QTest::qWait(500);
        shoot(window, folder, QStringLiteral("portrait"));
        s.goTo(before);
    }
    if (wanted("proof")) {
        leave();
        window.hand().of<ProofHand>().setHeight(120);
        s.setBench(Bench::Proof);
        view.setCamera(from(view.camera(), {0.8f, 0.2f, 0.62f}, {0, 84, 0}, 560));
        window.findChild<QPushButton *>(QStringLiteral("proofCheck"))->click();
        const auto &found = window.hand().of<ProofHand>().report()->findings;
        for (std::size_t k = 0; k < found.size(); ++k)
            if (found[k].kind->id == "tip") { // the camera stays where it shows all of it
                const QSignalBlocker quiet(&window.hand().of<ProofHand>());
                window.hand().of<ProofHand>().choose(int(k));
                break;
            }
        shoot(window, folder, QStringLiteral("proof"));
    }
    if (wanted("growths"))
        sheetOfGrowths(folder + QStringLiteral("/growths.png"));
    if (wanted("peat")) {
        leave();
        applyTheme(app, true);
        emit s.creatureChanged();
        emit s.choiceChanged();
        s.setBench(Bench::Sculpt);
        view.setCamera(from(view.camera(), {-0.75f, 0.3f, 0.55f}, {0, 84, 0}, 560));
        shoot(window, folder, QStringLiteral("peat"));
    }
    window.close();
    return 0;
}
