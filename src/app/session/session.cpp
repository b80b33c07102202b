#include "app/session/session.h"

#include "app/session/worker.h"
#include "creature/command.h"
#include "creature/reknit.h"
#include "creature/recipe.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"

#include <QCoreApplication>
#include <QFileInfo>
#include <QPointer>
#include <QThreadPool>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

using creature::Creature;
using nlohmann::json;

QString wordsFor(const Error &error)
{
    const QString what = QString::fromStdString(error.text());
    switch (error.code) {
    case ErrorCode::Unwritable:
        return Session::tr("Nothing was written: %1. The creature is unchanged; choose another place or make room.").arg(what);
    case ErrorCode::Unreadable: return Session::tr("The file could not be read: %1. Check its name and permissions.").arg(what);
    case ErrorCode::Malformed: return Session::tr("The file is not whole: %1. Nothing was taken from it.").arg(what);
    case ErrorCode::Damaged: return Session::tr("The file is damaged: %1. Try an older copy.").arg(what);
    case ErrorCode::TooLarge: return Session::tr("That would be too large: %1. Choose a coarser spacing.").arg(what);
    case ErrorCode::Cancelled: return Session::tr("Stopped. The creature is as it was.");
    default: return Session::tr("Not done: %1. The creature is as it was.").arg(what);
    }
}

/// Shared by the session and the thread that works: whoever ends first leaves it to the other.
struct Session::Behind {
    std::stop_source stop;
    std::shared_ptr<const Creature> before;
    json command;
    std::optional<Result<Creature>> result;
    std::vector<Note> notes;
};

Session::Session(const QString &rescueFolder, QObject *parent) : QObject(parent), m_rescueFolder(rescueFolder)
{
    connect(this, &Session::creatureChanged, this, [this] {
        if (m_behind && share() != m_behind->before)
            m_behind->stop.request_stop(); // it is about a state that is no more
    });
    replaceAll(std::make_shared<Creature>(), {}, tr("New"), true);
}

Session::~Session()
{
    if (m_behind)
        m_behind->stop.request_stop();
}

void Session::report(const Error &error)
{
    emit failed(wordsFor(error));
}

void Session::publish(Creature next, const json &command)
{
    m_history->push(std::move(next), command);
    keepSafe(&command);
    dropGone();
    emit creatureChanged();
    emit fileChanged();
}

/// A command goes to the rescue journal; a jump in the history (or an import, whose file may go away)
/// is written as a whole state, of which only new blocks cost anything.
void Session::keepSafe(const json *command)
{
    if (!m_rescue)
        return;
    const creature::CommandSpec *spec = command ? creature::findCommand(command->value("do", std::string())) : nullptr;
    const bool asState = !spec || spec->readsFile;
    const Status done = asState ? m_rescue->snapshot(creature()) : m_rescue->note(*command);
    if (!done) {
        m_rescue.reset();
        emit failed(
            tr("The rescue file could not be written (%1). Save often: after a crash, work since the last save would be lost.")
                .arg(QString::fromStdString(done.error().text())));
    }
}

bool Session::run(const json &command)
{
    creature::CommandContext context;
    auto next = creature::apply(creature(), command, context);
    if (!next) {
        report(next.error());
        return false;
    }
    publish(std::move(*next), command);
    tell(std::move(context.notes));
    return true;
}

namespace {

/// A command on a worker, on a state that stays as it is.
Result<Creature> applied(const Creature &before, const json &command, std::vector<Note> &notes, QWidget *window)
{
    return runOnWorker<Result<Creature>>(window, QString::fromStdString(creature::titleOf(command)),
                                         [&](const Progress &progress) {
                                             creature::CommandContext context{{}, progress, {}};
                                             auto result = creature::apply(before, command, context);
                                             notes = std::move(context.notes);
                                             return result;
                                         });
}

} // namespace

bool Session::runLong(const json &command, QWidget *window)
{
    const auto before = share();
    std::vector<Note> notes;
    auto next = applied(*before, command, notes, window);
    if (!next) {
        report(next.error());
        return false;
    }
    publish(std::move(*next), command);
    tell(std::move(notes));
    return true;
}

void Session::runInBackground(const json &command)
{
    if (m_behind)
        return;
    m_behind = std::make_shared<Behind>();
    m_behind->before = share(), m_behind->command = command;
    emit behindChanged();
    QThreadPool::globalInstance()->start([behind = m_behind, guard = QPointer<Session>(this)] {
        creature::CommandContext context{{}, {behind->stop.get_token(), {}}, {}};
        behind->result.emplace(creature::apply(*behind->before, behind->command, context));
        behind->notes = std::move(context.notes);
        QMetaObject::invokeMethod(
            qApp,
            [behind, guard] { // on the window's thread, where the session lives and dies
                if (guard)
                    guard->takeFromBehind(behind);
            },
            Qt::QueuedConnection);
    });
}

void Session::takeFromBehind(const std::shared_ptr<Behind> &behind)
{
    m_behind.reset();
    if (*behind->result && share() == behind->before) {
        publish(std::move(**behind->result), behind->command);
        tell(std::move(behind->notes));
    }
    emit behindChanged();
}

std::shared_ptr<const Creature> Session::tryOut(const json &command, QWidget *window)
{
    const auto before = share();
    std::vector<Note> notes;
    auto next = applied(*before, command, notes, window);
    if (!next) {
        report(next.error());
        return nullptr;
    }
    tell(std::move(notes));
    return std::make_shared<const Creature>(std::move(*next));
}

void Session::tell(std::vector<Note> notes)
{
    m_notes = std::move(notes);
    for (const Note &note : m_notes)
        emit noted(QString::fromStdString(note.text));
}

bool Session::commitStroke(creature::LiveStroke &stroke, std::uint32_t pieceId, const json &command)
{
    const creature::Piece *old = creature().piece(pieceId);
    if (!old)
        return false;
    auto changed = std::make_shared<creature::Piece>(*old);
    if (const Status done = stroke.finish(changed->skin); !done) {
        report(done.error());
        return false;
    }
    json done = command;
    const auto tool = sculpt::toolNamed(command.value("tool", std::string()));
    if (old->liveSpacing > 0 && tool && *tool != sculpt::Tool::Mask && !changesFaces(*tool)) {
        creature::CommandContext context;
        auto again = creature::reknitted(changed->skin, {old->liveSpacing, 0}, context, false);
        if (again) { // without it the stroke stays all the same
            changed->skin = std::move(*again);
            done["reknit"] = old->liveSpacing;
            if (context.notes.back().text.find("holes were closed") != std::string::npos)
                emit noted(QString::fromStdString(context.notes.back().text));
        } else {
            emit noted(tr("The stroke was kept, but the skin could not be knitted again: %1")
                           .arg(QString::fromStdString(again.error().text())));
        }
    }
    Creature next = creature();
    next.put(std::move(changed));
    publish(std::move(next), done);
    return true;
}

void Session::undo()
{
    if (canUndo())
        goTo(m_history->at() - 1);
}

void Session::redo()
{
    if (canRedo())
        goTo(m_history->at() + 1);
}

void Session::goTo(std::size_t step)
{
    m_history->goTo(step);
    keepSafe(nullptr);
    dropGone();
    emit creatureChanged();
    emit choiceChanged();
    emit fileChanged();
}

QString Session::title() const
{
    return m_path.isEmpty() ? tr("untitled") : QFileInfo(m_path).fileName();
}

bool Session::isChanged() const
{
    return m_history->share() != m_saved;
}

void Session::replaceAll(std::shared_ptr<const Creature> creature, const QString &path, const QString &title, bool saved)
{
    m_history = std::make_unique<creature::History>(creature, title.toStdString());
    m_saved = saved ? creature : nullptr;
    m_path = path;
    m_forms.clear();
    m_piece = m_layer = m_picture = m_cage = 0;
    endWell();
    if (!m_rescueFolder.isEmpty()) {
        auto rescue = creature::Rescue::begin(m_rescueFolder.toStdString(), *creature, path.toStdString(), !saved);
        if (rescue)
            m_rescue = std::move(*rescue);
        else
            emit failed(tr("No rescue file could be made (%1). Save often.").arg(QString::fromStdString(rescue.error().text())));
    }
    emit creatureChanged();
    emit choiceChanged();
    emit fileChanged();
}

void Session::endWell()
{
    if (m_rescue)
        m_rescue->end();
    m_rescue.reset();
}

void Session::startNew()
{
    replaceAll(std::make_shared<Creature>(), {}, tr("New"), true);
    setBench(Bench::Armature);
}

bool Session::open(const QString &path, QWidget *window)
{
    auto loaded =
        runOnWorker<Result<creature::Loaded>>(window, tr("Opening %1").arg(QFileInfo(path).fileName()),
                                              [&](const Progress &p) { return creature::loadStore(path.toStdString(), p); });
    if (!loaded) {
        report(loaded.error());
        return false;
    }
    replaceAll(std::make_shared<Creature>(std::move(loaded->creature)), path, tr("Opened"), loaded->damage.empty());
    setBench(creature().pieces.empty() ? Bench::Armature : Bench::Sculpt);
    for (const std::string &d : loaded->damage)
        emit failed(tr("While opening: %1.").arg(QString::fromStdString(d)));
    return true;
}

bool Session::openRecipe(const QString &path, QWidget *window)
{
    const auto commands = creature::readRecipe(path.toStdString());
    if (!commands) {
        report(commands.error());
        return false;
    }
    // Every command becomes a step: one can go back through the making of a sample, and write it out again.
    using Steps = std::unique_ptr<creature::History>;
    auto made = runOnWorker<Result<Steps>>(
        window, tr("Replaying %1").arg(QFileInfo(path).fileName()), [&](const Progress &p) -> Result<Steps> {
            auto history = std::make_unique<creature::History>(std::make_shared<Creature>(), tr("New").toStdString());
            creature::CommandContext context{std::filesystem::path(path.toStdString()).parent_path(), p, {}};
            const auto each = [&](const Creature &state, const json &command) { history->push(state, command); };
            if (const auto last = creature::replay({}, *commands, context, each); !last)
                return last.error();
            return history;
        });
    if (!made) {
        report(made.error());
        return false;
    }
    replaceAll((*made)->share(), {}, {}, false);
    m_history = std::move(*made);
    emit creatureChanged();
    setBench(creature().pieces.empty() ? Bench::Armature : Bench::Sculpt);
    return true;
}

bool Session::save(const QString &path)
{
    // Our own file takes only what is new; any other path gets a new file put in place when whole.
    Status done = Done{};
    if (path == m_path && QFileInfo::exists(path)) {
        auto store = creature::Store::open(path.toStdString());
        if (store) {
            if (const auto saved = (*store)->save(creature()); !saved)
                done = saved.error();
        } else {
            done = store.error();
        }
    } else {
        done = creature::saveAs(path.toStdString(), creature());
    }
    if (!done) {
        report(done.error());
        return false;
    }
    m_path = path;
    m_saved = share();
    if (m_rescue)
        if (const Status told = m_rescue->setDocument(path.toStdString()); !told)
            report(told.error());
    emit fileChanged();
    return true;
}

bool Session::recordRecipe(const QString &path)
{
    if (m_history->steps().front().command || !m_history->steps().front().state->pieces.empty()
        || !m_history->steps().front().state->armature.forms.empty())
        emit noted(tr("The recipe begins with the creature as it was opened, so replay it on that file."));
    const Status done = creature::writeRecipe(path.toStdString(), m_history->commands());
    if (!done)
        report(done.error());
    return bool(done);
}

bool Session::exportMesh(const QString &path, QStringList &warnings)
{
    mesh::PolyMesh all;
    for (const auto &p : creature().pieces) {
        if (p->isHidden)
            continue;
        const mesh::PolyMesh part = creature::meshOf(*p);
        const mesh::Measures m = mesh::measure(part);
        if (!m.closed)
            warnings << tr("%1 is not closed: %2 open edges, %3 edges of more than two faces")
                            .arg(QString::fromStdString(p->name))
                            .arg(m.boundaryEdges)
                            .arg(m.nonManifoldEdges);
        mesh::append(all, part);
    }
    if (all.isEmpty()) {
        report({ErrorCode::Empty, "export", "there is no skin to write; knit the forms first"});
        return false;
    }
    const Status done = io::writeMesh(path.toStdString(), all);
    if (!done)
        report(done.error());
    return bool(done);
}

bool Session::recover(const QString &file, const QString &documentPath, QWidget *window)
{
    auto loaded = runOnWorker<Result<creature::Loaded>>(
        window, tr("Rescuing"), [&](const Progress &p) { return creature::Rescue::recover(file.toStdString(), p); });
    if (!loaded) {
        report(loaded.error());
        return false;
    }
    replaceAll(std::make_shared<Creature>(std::move(loaded->creature)), documentPath, tr("Rescued"), false);
    setBench(creature().pieces.empty() ? Bench::Armature : Bench::Sculpt);
    for (const std::string &d : loaded->damage)
        emit failed(tr("While rescuing: %1.").arg(QString::fromStdString(d)));
    return true;
}

void Session::setBench(Bench bench)
{
    m_bench = bench;
    emit benchChanged();
}

std::uint32_t Session::piece() const
{
    const creature::Piece *chosen = creature().piece(m_piece);
    if (chosen)
        return chosen->id;
    for (const auto &p : creature().pieces)
        if (!p->isHidden)
            return p->id;
    return 0;
}

std::uint32_t Session::layer() const
{
    const creature::Piece *p = creature().piece(piece());
    return p && p->skin.layer(m_layer) ? m_layer : 0;
}

void Session::chooseForm(std::uint32_t id)
{
    chooseForms(id ? std::vector<std::uint32_t>{id} : std::vector<std::uint32_t>{});
}

void Session::chooseForms(std::vector<std::uint32_t> ids)
{
    m_forms = std::move(ids);
    m_cage = 0;
    dropGone();
    emit choiceChanged();
}

void Session::toggleForm(std::uint32_t id)
{
    std::vector<std::uint32_t> ids = m_forms;
    if (std::erase(ids, id) == 0)
        ids.push_back(id);
    chooseForms(std::move(ids));
}

void Session::dropGone()
{
    std::erase_if(m_forms, [&](std::uint32_t id) { return !creature().armature.find(id); });
}

std::uint32_t Session::cage() const
{
    return creature().cage(m_cage) ? m_cage : 0;
}

void Session::chooseCage(std::uint32_t id)
{
    m_cage = id;
    if (id)
        m_forms.clear();
    emit choiceChanged();
}

void Session::choosePicture(std::uint32_t id)
{
    m_picture = id;
    emit choiceChanged();
}

void Session::choosePiece(std::uint32_t id)
{
    m_piece = id;
    emit choiceChanged();
}

void Session::chooseLayer(std::uint32_t id)
{
    m_layer = id;
    emit choiceChanged();
}

} // namespace bonemoss::app
