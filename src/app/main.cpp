#include "app/session/guarded.h"
#include "app/theme/theme.h"
#include "app/view/creature_view.h"
#include "app/window/main_window.h"
#include "app/window/recipe_player.h"
#include "base/parallel.h"

#include <QCommandLineParser>
#include <QSettings>
#include <QStandardPaths>
#include <QTimer>
#include <fmt/core.h>

#include <cstdio>

int main(int argc, char **argv)
{
    using namespace bonemoss;
    keepFreedMemory();
    app::Guarded app(argc, argv);
    QApplication::setOrganizationName(QStringLiteral("bonemoss"));
    QApplication::setApplicationName(QStringLiteral("bonemoss"));
    QApplication::setApplicationVersion(QStringLiteral(BONEMOSS_VERSION));
    QApplication::setDesktopFileName(QStringLiteral("org.bonemoss.BoneMoss"));
    QCommandLineParser parser;
    parser.setApplicationDescription(QStringLiteral("Sculpts creatures."));
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument(QStringLiteral("FILE"),
                                 QStringLiteral("a creature (.bonemoss), a recipe (.recipe.json) or a mesh"));
    const QCommandLineOption quick(QStringLiteral("quit-when-painted"),
                                   QStringLiteral("leave after the first painted frame (for measuring)"));
    parser.addOption(quick);
    const QCommandLineOption play(QStringLiteral("play"),
                                  QStringLiteral("show a recipe being made, step by step; tells each step"),
                                  QStringLiteral("RECIPE"));
    parser.addOption(play);
    parser.process(app);
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
