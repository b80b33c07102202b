// Takes the pictures of docs/screenshots from the samples. Usage: bonemoss-shots FOLDER [NAME]
#include "app/theme/theme.h"
#include "app/view/creature_view.h"
#include "app/window/main_window.h"

#include <QAbstractButton>
#include <QAction>
#include <QApplication>
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
    out.turn = portrait::turnLooking(direction, {0, 1, 0});
    out.target = target;
    out.distance = distance;
    return out;
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
    if (wanted("empty"))
        shoot(window, folder, QStringLiteral("empty"));
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
        window.hand().setFormTile(FormTile::Part);
        shoot(window, folder, QStringLiteral("shelf"));
        window.hand().setFormTile(FormTile::Choose);
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
    if (wanted("neglected")) {
        leave();
        s.setBench(Bench::Sculpt);
        window.hand().setTool(sculpt::Tool::Plane);
        window.findChild<QAbstractButton *>(QStringLiteral("sectionFalloff"))->click();
        QTest::qWait(100);
        trigger("lookNeglected");
        view.setCamera(from(view.camera(), {0.85f, 0.22f, 0.6f}, {0, 104, 30}, 430));
        QTest::qWait(300);
        shoot(window, folder, QStringLiteral("neglected"));
        trigger("lookClay");
        window.hand().setTool(sculpt::Tool::Raise);
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
        s.setBench(Bench::Detail);
        if (!s.creature().pieces.empty() && !s.creature().pieces[0]->skin.layers.empty())
            s.chooseLayer(s.creature().pieces[0]->skin.layers.front().id);
        view.setCamera(from(view.camera(), {0.8f, 0.15f, 0.65f}, {4, 140, 92}, 190));
        QTest::qWait(300);
        QTest::mouseMove(&view, atScreen({9, 128, 96}));
        shoot(window, folder, QStringLiteral("detail"));
    }
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
