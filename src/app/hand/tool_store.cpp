#include "app/hand/tool_store.h"

#include "creature/stroke_command.h"

#include <QDir>
#include <QFile>
#include <QSaveFile>
#include <QStandardPaths>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

using nlohmann::json;

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
    json tool = creature::strokeCommand(0, 0, settings, {});
    for (const char *ofTheStroke : {"do", "piece", "layer", "samples", "mirror"})
        tool.erase(ofTheStroke);
    const json whole{{"format", "bonemoss-tool"}, {"version", 1}, {"settings", tool}};
    QSaveFile file(path);
    const std::string text = whole.dump(2) + "\n";
    if (!file.open(QIODevice::WriteOnly) || file.write(text.data(), qint64(text.size())) != qint64(text.size()) || !file.commit())
        return HandModel::tr("The tool was not saved to %1: %2").arg(path, file.errorString());
    return {};
}

QString takeUpTool(HandModel &hand, const QString &path)
{
    QFile file(path);
    if (!file.open(QIODevice::ReadOnly))
        return HandModel::tr("%1 cannot be read: %2. The hand keeps its tool.").arg(path, file.errorString());
    const QByteArray bytes = file.readAll();
    const json whole = json::parse(bytes.begin(), bytes.end(), nullptr, false);
    if (!whole.is_object() || whole.value("format", std::string()) != "bonemoss-tool" || !whole.contains("settings"))
        return HandModel::tr("%1 is no tool of this program. The hand keeps its tool.").arg(path);
    const auto settings = creature::strokeSettings(whole["settings"]);
    if (!settings)
        return HandModel::tr("%1 does not fit: %2. The hand keeps its tool.")
            .arg(path, QString::fromStdString(settings.error().text()));
    hand.setTool(settings->tool);
    hand.change([&](sculpt::StrokeSettings &s) { s = *settings; });
    return {};
}

} // namespace bonemoss::app
