#include "app/hand/tool_store.h"

#include "command/tool_file.h"

#include <QDir>
#include <QFile>
#include <QStandardPaths>

namespace bonemoss::app {

namespace {
const char kEnding[] = ".bonemoss-tool.json";
} // namespace

QString ownToolsFolder()
{
    const QString path =
        QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) + QStringLiteral("/bonemoss/tools");
    QDir().mkpath(path);
    return path;
}

QString ownToolPath(const QString &name)
{
    QString file = name;
    for (QChar &c : file)
        if (!c.isLetterOrNumber() && c != QLatin1Char(' ') && c != QLatin1Char('-') && c != QLatin1Char('_'))
            c = QLatin1Char('_');
    return ownToolsFolder() + QLatin1Char('/') + file + QLatin1String(kEnding);
}

QStringList ownTools()
{
    QStringList names;
    for (const QString &file :
         QDir(ownToolsFolder()).entryList({QLatin1Char('*') + QLatin1String(kEnding)}, QDir::Files, QDir::Name))
        names << file.chopped(qsizetype(sizeof kEnding) - 1);
    return names;
}

QString keepTool(const sculpt::StrokeSettings &settings, const QString &path)
{
    if (const Status written = command::writeTool(QFile::encodeName(path).toStdString(), settings); !written)
        return HandModel::tr("The tool was not saved: %1").arg(QString::fromStdString(written.error().text()));
    return {};
}

QString takeUpTool(HandModel &hand, const QString &path)
{
    const auto settings = command::readTool(QFile::encodeName(path).toStdString());
    if (!settings)
        return HandModel::tr("%1. The hand keeps its tool.").arg(QString::fromStdString(settings.error().text()));
    hand.setTool(settings->tool);
    hand.change([&](sculpt::StrokeSettings &s) { s = *settings; });
    return {};
}

} // namespace bonemoss::app
