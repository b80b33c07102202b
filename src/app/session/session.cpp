#include "app/session/session.h"

#include "skin/colour_layers.h"

#include "app/benches/bench.h"
#include "app/theme/table_words.h"
#include "app/session/worker.h"
#include "command/command.h"
#include "document/items.h"
#include "document/ops/outgrowths.h"
#include "document/ops/posing.h"
#include "document/ops/reknit.h"
#include "outgrowth/outgrowth.h"

#include <QCoreApplication>
#include <QFile>
#include <QPointer>
#include <QThreadPool>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

using document::Creature;
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
    case ErrorCode::Internal:
        return Session::tr("Something went wrong inside: %1. The creature is as it was. Save under another name to be safe.")
            .arg(what);
    case ErrorCode::Conflict:
        return Session::tr("Not saved: %1. Save under another name, or choose to replace what is there.").arg(what);
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

Session::Session(const QString &rescueFolder, QObject *parent) : QObject(parent), m_rescue(rescueFolder)
{
    connect(&m_rescue, &RescueKeeper::failed, this, &Session::failed);
    connect(this, &Session::creatureChanged, this, [this] {
        if (m_behind && share() != m_behind->before)
            m_behind->stop.request_stop(); // it is about a state that is no more
    });
    replaceAll(Creature{}, tr("New"), true);
}

Session::~Session()
{
    finishSaving();
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

/// A command goes to the rescue journal. What a command read from a file is written as a whole state, of which only new blocks
/// cost anything, as the file may go away.
void Session::keepSafe(const json *command)
{
    const command::CommandSpec *spec = command ? command::findCommand(command->value("do", std::string())) : nullptr;
    if (!command)
        m_rescue.goTo(stepNumber(), share());
    else if (!spec || spec->isKeptWhole)
        m_rescue.snapshot(share(), stepNumber());
    else
        m_rescue.note(*command);
}

void Session::finishHand()
{
    if (m_hand.isBusy && m_hand.isBusy())
        m_hand.finish();
}

void Session::handIsFree()
{
    if (m_waiting && !m_longCommands)
        takeFromBehind(std::exchange(m_waiting, nullptr));
}

bool Session::refresh(const std::shared_ptr<const Creature> &of, std::shared_ptr<const Creature> made)
{
    if (m_longCommands || m_saving || (m_hand.isBusy && m_hand.isBusy())) // what is being saved is known by its state
        return false;
    if (of != share())
        return true;
    if (m_saved == of)
        m_saved = made;
    if (m_behind && m_behind->before == of)
        m_behind->before = made;
    m_history->refresh(std::move(made));
    emit creatureChanged();
    return true;
}

bool Session::run(const json &command, const QString &folder)
{
    finishHand();
    command::CommandContext context;
    context.folder = QFile::encodeName(folder).toStdString();
    const auto stood = this->stood();
    context.standing = stood.get();
    auto next = command::apply(creature(), command, context);
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
    return runOnWorker<Result<Creature>>(window, stepWords(command::titleOf(command)), [&](const Progress &progress) {
        command::CommandContext context{{progress, {}}, {}};
        auto result = command::apply(before, command, context);
        notes = std::move(context.notes);
        return result;
    });
}

} // namespace

bool Session::runLong(const json &command, QWidget *window)
{
    finishHand();
    ++m_longCommands;
    std::vector<Note> notes;
    std::shared_ptr<const Creature> before;
    std::optional<Result<Creature>> next;
    do { // something else may have been done while it was worked out: then it is done again, after that
        before = share();
        next.emplace(applied(*before, command, notes, window));
    } while (*next && share() != before);
    --m_longCommands;
    if (!*next)
        report(next->error());
    else
        publish(std::move(**next), command);
    if (*next)
        tell(std::move(notes));
    handIsFree();
    return bool(*next);
}

void Session::runInBackground(const json &command)
{
    if (m_behind)
        return;
    m_behind = std::make_shared<Behind>();
    m_behind->before = share(), m_behind->command = command;
    emit behindChanged();
    QThreadPool::globalInstance()->start([behind = m_behind, guard = QPointer<Session>(this)] {
        command::CommandContext context{{{behind->stop.get_token(), {}}, {}}, {}};
        behind->result.emplace(command::apply(*behind->before, behind->command, context));
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
    if (m_longCommands || (m_hand.isBusy && m_hand.isBusy())) {
        m_waiting = behind;
        return;
    }
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

bool Session::commitStroke(document::LiveStroke &stroke, std::uint32_t pieceId, const json &command)
{
    const auto before = share();
    const document::Piece *old = before->piece(pieceId);
    const auto drop = [this] {
        emit failed(tr("The stroke was dropped: the skin under it is another one now."));
        handIsFree();
        return false;
    };
    if (!old || old->skin.shown.topology.get() != stroke.begunOn())
        return drop();
    auto changed = std::make_shared<document::Piece>(*old);
    if (const Status done = stroke.finish(changed->skin); !done) {
        report(done.error());
        return false;
    }
    json done = command;
    const auto tool = sculpt::toolNamed(command.value("tool", std::string()));
    if (old->liveSpacing > 0 && tool && !marks(*tool) && !changesFaces(*tool)) {
        command::CommandContext context;
        const auto knit = [&](const Progress &progress) {
            context.progress = progress;
            return document::reknitted(changed->skin, {old->liveSpacing, 0}, context, false);
        };
        ++m_longCommands; // what else is done has to wait: it would be about another skin
        auto again = runOnWorker<Result<skin::Skin>>(nullptr, tr("Knitting again"), knit);
        --m_longCommands;
        context.progress = {};
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
    if (creature().piece(pieceId) != old) // something else was published while it was knitted: that is not to be lost
        return drop();
    Creature next = creature();
    next.put(std::move(changed));
    command::CommandContext riding;
    publish(withOutgrowthsRiding(*before, std::move(next), riding, document::Slow::Later), done);
    handIsFree(); // results may have come while it was knitted
    return true;
}

void Session::undo()
{
    finishHand();
    if (canUndo())
        goTo(m_history->at() - 1);
}

void Session::redo()
{
    finishHand();
    if (canRedo())
        goTo(m_history->at() + 1);
}

void Session::goTo(std::size_t step)
{
    finishHand();
    step = std::min(step, m_history->steps().size() - 1); // ending a gesture may have taken away what could be redone
    m_history->goTo(step);
    keepSafe(nullptr);
    dropGone();
    emit creatureChanged();
    emit choiceChanged();
    emit fileChanged();
}

std::shared_ptr<const document::Creature> Session::standing() const
{
    const auto stood = this->stood();
    return stood ? stood->creature() : share();
}

std::shared_ptr<const document::Standing> Session::stood() const
{
    const auto now = share();
    if (!rowOf(m_bench).isPosed || now->posing.now.isRest())
        return nullptr;
    if (!m_stood || m_stood->rest() != now)
        m_stood =
            std::make_shared<const document::Standing>(now, now->posing.now, document::Standing::Part::Whole, m_stood.get());
    return m_stood;
}

void Session::setBench(Bench bench)
{
    m_bench = bench;
    m_hasChosenHere = false;
    emit benchChanged();
}

std::uint32_t Session::piece() const
{
    const document::Piece *chosen = creature().piece(m_piece);
    if (chosen)
        return chosen->id;
    for (const auto &p : creature().pieces)
        if (!p->isHidden)
            return p->id;
    return 0;
}

std::uint32_t Session::layer() const
{
    const document::Piece *p = creature().piece(piece());
    return p && p->skin.layer(m_layer) ? m_layer : 0;
}

std::uint32_t Session::colourLayer() const
{
    const document::Piece *p = creature().piece(piece());
    if (!p || p->skin.colourLayers.empty())
        return 0;
    return skin::colourLayer(p->skin, m_colourLayer) ? m_colourLayer : p->skin.colourLayers.back().id;
}

void Session::chooseColourLayer(std::uint32_t id)
{
    m_colourLayer = id;
    m_hasChosenHere = true;
    emit choiceChanged();
}

void Session::chooseForm(std::uint32_t id)
{
    chooseForms(id ? std::vector<std::uint32_t>{id} : std::vector<std::uint32_t>{});
}

void Session::chooseForms(std::vector<std::uint32_t> ids)
{
    m_forms = std::move(ids);
    m_item = 0;
    m_hasChosenHere = true;
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

std::uint32_t Session::chosen(std::string_view kind) const
{
    const auto place = m_item ? document::findItem(creature(), m_item) : std::nullopt;
    return place && place->kind->name == kind ? m_item : 0;
}

void Session::chooseItem(std::uint32_t id)
{
    m_item = id;
    m_hasChosenHere = true;
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
    m_hasChosenHere = true;
    emit choiceChanged();
}

void Session::chooseLayer(std::uint32_t id)
{
    m_layer = id;
    m_hasChosenHere = true;
    emit choiceChanged();
}

} // namespace bonemoss::app
