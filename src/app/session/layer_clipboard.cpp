#include "app/session/layer_clipboard.h"

#include "store/layer_file.h"
#include "growth/growth.h"
#include "command/fields.h"
#include "command/layers/layer_fields.h"

#include <QClipboard>
#include <QCoreApplication>
#include <QCryptographicHash>
#include <QDir>
#include <QGuiApplication>
#include <QMimeData>
#include <QStandardPaths>

namespace bonemoss::app {

namespace {

using nlohmann::json;

const QString kType = QStringLiteral("application/x-bonemoss-layer");

/// A name that says what is in it.
QString fileFor(const document::Piece &piece, const skin::Layer &layer)
{
    QCryptographicHash hash(QCryptographicHash::Md5);
    const auto add = [&](const auto &blocks) {
        for (std::size_t b = 0; b < blocks.blockCount(); ++b)
            if (const auto *values = blocks.data(b)) {
                hash.addData(QByteArray::number(qulonglong(b)));
                hash.addData(
                    QByteArrayView(reinterpret_cast<const char *>(values), qsizetype(blocks.countIn(b) * sizeof(*values))));
            }
    };
    add(piece.skin.body), add(layer.offsets), add(layer.mask);
    hash.addData(QByteArrayView(piece.name)), hash.addData(QByteArrayView(layer.name));
    hash.addData(QByteArray::number(double(layer.strength)) + (layer.isOn ? " on" : " off"));
    if (const growth::Growth *g = layer.growth.get()) {
        hash.addData(QByteArray::number(g->seed));
        for (const float value : g->values)
            hash.addData(QByteArray::number(double(value)));
    }
    return QString::fromLatin1(hash.result().toHex().left(16)) + QStringLiteral(".bonemoss");
}

/// What a command needs to take the layer, as another program may have put it there; nothing when it is no such thing.
std::optional<command::TakeFromFile> onClipboard()
{
    const QMimeData *data = QGuiApplication::clipboard()->mimeData();
    if (!data || !data->hasFormat(kType))
        return std::nullopt;
    const json j = json::parse(data->data(kType).toStdString(), nullptr, false);
    for (const char *part : {"path", "from", "layer"})
        if (!j.is_object() || !j.contains(part) || !j[part].is_string())
            return std::nullopt;
    return command::TakeFromFile{.path = j["path"].get<std::string>(), .layer = j["layer"], .from = j["from"]};
}

} // namespace

Status copyLayer(const document::Piece &piece, const skin::Layer &layer)
{
    QDir folder(QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + QStringLiteral("/layers"));
    if (!folder.mkpath(QStringLiteral(".")))
        return Error{ErrorCode::Unwritable, folder.path().toStdString(), "the folder for copied layers cannot be made"};
    const QString path = folder.filePath(fileFor(piece, layer));
    if (!QFile::exists(path))
        if (const Status saved = store::saveLayer(path.toStdString(), piece, layer); !saved)
            return saved.error();
    auto *data = new QMimeData;
    const json j{{"path", path.toStdString()}, {"from", piece.name}, {"layer", layer.name}};
    data->setData(kType, QByteArray::fromStdString(j.dump()));
    data->setText(QCoreApplication::translate("layers", "Layer %1 of %2")
                      .arg(QString::fromStdString(layer.name), QString::fromStdString(piece.name)));
    QGuiApplication::clipboard()->setMimeData(data);
    return Done{};
}

std::optional<command::TakeFromFile> pasteLayer()
{
    return onClipboard();
}

QString layerOnClipboard()
{
    const auto command = onClipboard();
    return command ? QString::fromStdString(command->layer) : QString();
}

} // namespace bonemoss::app
