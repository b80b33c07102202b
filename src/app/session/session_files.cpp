// What a session does with files: opening, saving beside the window, exporting, rescuing.
#include "app/session/session.h"

#include "app/session/latest.h"
#include "app/session/worker.h"
#include "base/files.h"
#include "command/recipe.h"
#include "export/shown_scene.h"
#include "document/ops/outgrowths.h"
#include "document/ops/posing.h"
#include "store/store.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"

#include <QCoreApplication>
#include <QDateTime>
#include <QFile>
#include <QFileInfo>
#include <QPointer>
#include <QSysInfo>
#include <nlohmann/json.hpp>

#include <condition_variable>
#include <mutex>
#include <thread>

namespace bonemoss::app {

using document::Creature;
using nlohmann::json;

namespace {

std::filesystem::path pathOf(const QString &path)
{
    return QFile::encodeName(path).toStdString();
}

std::filesystem::path lockOf(const QString &path)
{
    const QFileInfo file(QFileInfo(path).canonicalFilePath().isEmpty() ? QFileInfo(path).absoluteFilePath()
                                                                       : QFileInfo(path).canonicalFilePath());
    return pathOf(file.absolutePath() + QStringLiteral("/.") + file.fileName() + QStringLiteral(".lock"));
}

/// Keeps others from taking the file for theirs; nothing when they have it, or where no lock can be made.
std::optional<FileLock> lockDocument(const QString &path)
{
    const QString words =
        QStringLiteral("%1, since %2")
            .arg(QSysInfo::machineHostName(), QDateTime::currentDateTime().toString(QStringLiteral("yyyy-MM-dd hh:mm")));
    auto lock = FileLock::take(lockOf(path), words.toStdString());
    if (auto *taken = std::get_if<FileLock>(&lock))
        return std::move(*taken);
    return std::nullopt;
}

} // namespace

/// A save on its way: the thread and the window's thread hold it together.
struct Session::Saving {
    std::shared_ptr<const Creature> state;
    QString path;
    bool isOwnFile = false;
    std::optional<store::StateMark> last;
    std::mutex mutex;
    std::condition_variable done;
    std::optional<Result<store::StateMark>> result; ///< guarded
    std::thread thread;

    Result<store::StateMark> write() const
    {
        if (!isOwnFile) // a new file, put in place when it is whole
            return store::saveAs(pathOf(path), *state);
        auto store = store::Store::open(pathOf(path));
        if (!store)
            return store.error();
        const auto saved = (*store)->save(*state, last);
        if (!saved)
            return Error{saved.error().code, path.toStdString(), saved.error().detail};
        return saved->mark;
    }
};

QString Session::title() const
{
    return m_path.isEmpty() ? tr("untitled") : QFileInfo(m_path).fileName();
}

bool Session::isChanged() const
{
    return m_history->share() != m_saved;
}

void Session::setHistoryBudget(std::size_t bytes)
{
    m_historyBudget = bytes;
    m_history->setBudget(bytes);
}

void Session::replaceAll(Document document)
{
    finishHand();
    finishSaving();
    m_history = std::move(document.history);
    m_history->setBudget(m_historyBudget);
    m_saved = document.isSaved ? share() : nullptr;
    m_path = document.path;
    m_mark = document.mark;
    m_lock = std::move(document.lock);
    m_forms.clear();
    m_piece = m_layer = m_picture = m_item = 0;
    m_rescue.end();
    m_rescue.begin(share(), stepNumber(), {m_path.toStdString(), m_mark}, !document.isSaved);
    emit creatureChanged();
    emit choiceChanged();
    emit fileChanged();
}

void Session::replaceAll(Creature creature, const QString &title, bool isSaved)
{
    Document document;
    document.history =
        std::make_unique<command::History>(std::make_shared<const Creature>(std::move(creature)), title.toStdString());
    document.isSaved = isSaved;
    replaceAll(std::move(document));
}

void Session::endWell()
{
    m_rescue.end();
}

void Session::startNew()
{
    replaceAll(Creature{}, tr("New"), true);
    setBench(benches().front().bench);
}

QString Session::holderOf(const QString &path) const
{
    const std::filesystem::path lock = lockOf(path);
    if ((m_lock && lockOf(m_path) == lock) || !FileLock::isHeld(lock))
        return {};
    const auto words = readFile(lock);
    return words && !words->empty() ? QString::fromUtf8(reinterpret_cast<const char *>(words->data()), qsizetype(words->size()))
                                    : tr("another window");
}

bool Session::open(const QString &path, QWidget *window, OpenAs as)
{
    auto loaded = runOnWorker<Result<store::Loaded>>(window, tr("Opening %1").arg(QFileInfo(path).fileName()),
                                                     [&](const Progress &p) { return store::loadStore(pathOf(path), p); });
    if (!loaded) {
        report(loaded.error());
        return false;
    }
    Document document;
    document.history = std::make_unique<command::History>(std::make_shared<const Creature>(std::move(loaded->creature)),
                                                          tr("Opened").toStdString());
    document.isSaved = loaded->damage.empty();
    if (as == OpenAs::Own) {
        finishSaving();
        m_lock.reset(); // it may be the same file again
        document.path = path;
        document.mark = loaded->mark;
        document.lock = lockDocument(path);
    }
    replaceAll(std::move(document));
    setBench(benchFor(*this));
    for (const std::string &d : loaded->damage)
        emit failed(tr("While opening: %1.").arg(QString::fromStdString(d)));
    return true;
}

bool Session::openRecipe(const QString &path, QWidget *window)
{
    const auto commands = command::readRecipe(pathOf(path));
    if (!commands) {
        report(commands.error());
        return false;
    }
    // Every command becomes a step: one can go back through the making of a sample, and write it out again.
    using Steps = std::unique_ptr<command::History>;
    auto made = runOnWorker<Result<Steps>>(
        window, tr("Replaying %1").arg(QFileInfo(path).fileName()), [&](const Progress &p) -> Result<Steps> {
            auto history = std::make_unique<command::History>(std::make_shared<Creature>(), tr("New").toStdString());
            history->setBudget(m_historyBudget);
            command::CommandContext context{{p, {}}, pathOf(path).parent_path()};
            const auto each = [&](const Creature &state, const json &command) { history->push(state, command); };
            if (const auto last = command::replay({}, *commands, context, each); !last)
                return last.error();
            return history;
        });
    if (!made) {
        report(made.error());
        return false;
    }
    Document document;
    document.history = std::move(*made);
    replaceAll(std::move(document));
    setBench(benchFor(*this));
    return true;
}

bool Session::save(const QString &path, bool replaces)
{
    finishHand();
    finishSaving();
    auto saving = std::make_shared<Saving>();
    saving->state = share();
    saving->path = path;
    saving->isOwnFile = path == m_path && QFileInfo::exists(path); // it takes only what is new
    if (saving->isOwnFile && !replaces && m_mark.id > 0)
        saving->last = m_mark;
    m_saving = saving;
    saving->thread = std::thread([saving, guard = QPointer<Session>(this)] {
        std::optional<Result<store::StateMark>> result;
        try {
            result.emplace(saving->write());
        } catch (...) {
            result.emplace(errorInFlight(saving->path.toStdString()));
        }
        {
            const std::lock_guard lock(saving->mutex);
            saving->result = std::move(result);
        }
        saving->done.notify_all();
        QMetaObject::invokeMethod(
            qApp,
            [saving, guard] { // on the window's thread, where the session lives and dies
                if (guard)
                    guard->takeSaved(saving);
            },
            Qt::QueuedConnection);
    });
    emit fileChanged();
    {
        std::unique_lock lock(saving->mutex);
        if (!saving->done.wait_for(lock, kWindowPatience, [&] { return saving->result.has_value(); }))
            return true; // it goes on beside the window
    }
    takeSaved(saving);
    return m_lastSaveWorked;
}

bool Session::finishSaving()
{
    if (const auto saving = m_saving) {
        {
            std::unique_lock lock(saving->mutex);
            saving->done.wait(lock, [&] { return saving->result.has_value(); });
        }
        takeSaved(saving);
    }
    return m_lastSaveWorked;
}

void Session::takeSaved(const std::shared_ptr<Saving> &saving)
{
    if (m_saving != saving)
        return; // taken already
    m_saving.reset();
    saving->thread.join();
    m_lastSaveWorked = bool(*saving->result);
    if (!*saving->result) {
        const Error &error = saving->result->error();
        emit fileChanged();
        if (error.code == ErrorCode::Conflict)
            emit saveConflict(saving->path);
        else
            report(error);
        return;
    }
    if (saving->path != m_path) {
        m_lock.reset();
        m_lock = lockDocument(saving->path);
    }
    m_path = saving->path;
    m_mark = saving->result->value();
    m_saved = saving->state;
    m_rescue.setDocument({m_path.toStdString(), m_mark});
    emit fileChanged();
    emit saved(m_path);
}

bool Session::recordRecipe(const QString &path)
{
    if (m_history->steps().front().command || !m_history->steps().front().state->pieces.empty()
        || !m_history->steps().front().state->armature.forms.empty())
        emit noted(tr("The recipe begins with the creature as it was opened, so replay it on that file."));
    const Status done = command::writeRecipe(pathOf(path), m_history->commands());
    if (!done)
        report(done.error());
    return bool(done);
}

bool Session::exportMesh(const QString &path, QStringList &warnings, QWidget *window)
{
    finishHand();
    const auto state = share();
    const Status done =
        runOnWorker<Status>(window, tr("Writing %1").arg(QFileInfo(path).fileName()), [&](const Progress &progress) -> Status {
            progress.say(0, "gathering what is shown");
            Operation fresh;
            const io::Scene scene =
                exporting::sceneForFile(document::withFreshOutgrowths(*state, fresh), path.endsWith(QLatin1String(".glb")));
            for (const io::Object &part : scene.objects) {
                const mesh::Measures m = mesh::measure(io::meshOf(scene, part));
                if (!m.closed)
                    warnings << tr("%1 is not closed: %2 open edges, %3 edges of more than two faces")
                                    .arg(QString::fromStdString(part.name))
                                    .arg(m.boundaryEdges)
                                    .arg(m.nonManifoldEdges);
            }
            if (scene.isEmpty())
                return Error{ErrorCode::Empty, "export", "there is no skin to write; knit the forms first"};
            if (progress.isCancelled())
                return Error{ErrorCode::Cancelled, "export", "stopped on request"};
            return io::writeScene(pathOf(path), scene, progress);
        });
    if (!done)
        report(done.error());
    return bool(done);
}

bool Session::recover(command::Rescue::Found found, QWidget *window)
{
    auto loaded = runOnWorker<Result<store::Loaded>>(window, tr("Rescuing"),
                                                     [&](const Progress &p) { return command::Rescue::recover(found.file, p); });
    if (!loaded) {
        report(loaded.error());
        return false;
    }
    Document document;
    document.history = std::make_unique<command::History>(std::make_shared<const Creature>(std::move(loaded->creature)),
                                                          tr("Rescued").toStdString());
    document.path = QString::fromStdString(found.document.path);
    document.mark = found.document.mark;
    if (!document.path.isEmpty())
        document.lock = lockDocument(document.path);
    replaceAll(std::move(document));
    setBench(benchFor(*this));
    for (const std::string &d : loaded->damage)
        emit failed(tr("While rescuing: %1. The rescue file is kept: %2")
                        .arg(QString::fromStdString(d), QString::fromStdString(shownPath(found.file))));
    m_rescue.finish();
    if (loaded->damage.empty() && isKeptSafe()) // it has a rescue file of its own now
        found.remove();
    return true;
}

} // namespace bonemoss::app
