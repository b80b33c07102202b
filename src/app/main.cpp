#include "app/session/guarded.h"
#include "app/theme/theme.h"
#include "app/view/creature_view.h"
#include "app/window/main_window.h"
#include "app/window/recipe_player.h"
#include "base/parallel.h"

#include <QCommandLineParser>
#include <QIcon>
#include <QSettings>
#include <QStandardPaths>
#include <QTimer>
#include <fmt/core.h>

#include <cstdio>
#include <string_view>

namespace {

constexpr const char *kQuick = "quit-when-painted", *kPlay = "play";

void describe(QCommandLineParser &parser)
{
    parser.setApplicationDescription(QStringLiteral("Sculpts creatures."));
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument(QStringLiteral("FILE"),
                                 QStringLiteral("a creature (.bonemoss), a recipe (.recipe.json) or a mesh"));
    parser.addOption({QLatin1String(kQuick), QStringLiteral("leave after the first painted frame (for measuring)")});
    parser.addOption({QLatin1String(kPlay), QStringLiteral("show a recipe being made, step by step; tells each step"),
                      QStringLiteral("RECIPE")});
}

} // namespace

int main(int argc, char **argv)
{
    using namespace bonemoss;
    keepFreedMemory();
    for (int k = 1; k < argc; ++k) // what only prints needs no display
        if (const std::string_view word = argv[k];
            word == "--help" || word == "-h" || word == "--help-all" || word == "--version" || word == "-v") {
            QCoreApplication plain(argc, argv);
            QCoreApplication::setApplicationName(QStringLiteral("bonemoss"));
            QCoreApplication::setApplicationVersion(QStringLiteral(BONEMOSS_VERSION));
            QCommandLineParser parser;
            describe(parser);
            parser.process(plain);
        }
    app::Guarded app(argc, argv);
    QApplication::setWindowIcon(QIcon::fromTheme(QStringLiteral("org.bonemoss.BoneMoss"),
                                                 QIcon(app::dataFolder() + QStringLiteral("/icons/org.bonemoss.BoneMoss.svg"))));
    QApplication::setOrganizationName(QStringLiteral("bonemoss"));
    QApplication::setApplicationName(QStringLiteral("bonemoss"));
    QApplication::setApplicationVersion(QStringLiteral(BONEMOSS_VERSION));
    QApplication::setDesktopFileName(QStringLiteral("org.bonemoss.BoneMoss"));
    QCommandLineParser parser;
    describe(parser);
    parser.process(app);
    const QString quick = QLatin1String(kQuick), play = QLatin1String(kPlay);
    app::loadFonts();
    app::applyTheme(app, QSettings().value(QStringLiteral("window/dark"), false).toBool());
    const QString rescue = QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + QStringLiteral("/rescue");
    app::MainWindow window(rescue);
    app.tell = [&window](const QString &words) { emit window.session().failed(words); };
    if (parser.isSet(quick))
        QObject::connect(
            &window.view(), &QOpenGLWidget::frameSwapped, &app, [] { QApplication::exit(); }, Qt::QueuedConnection);
    window.show();
    if (parser.isSet(quick))
        return QApplication::exec();
    if (parser.isSet(play)) {
        window.setAsksBeforeClosing(false);
        QObject::connect(&window.player(), &app::RecipePlayer::stepped,
                         [](int done, int all) { fmt::print("{} of {}\n", done, all), std::fflush(stdout); });
        if (!window.player().start(parser.value(play)))
            return 3;
        return QApplication::exec();
    }
    const QStringList files = parser.positionalArguments();
    QTimer::singleShot(0, &window, [&] { window.begin(files.value(0)); });
    return QApplication::exec();
}
