#pragma once

#include "app/benches/bench.h"
#include "app/session/rescue_keeper.h"
#include "base/note.h"
#include "command/history.h"
#include "command/stroke_command.h"

#include <QObject>
#include <QSet>
#include <QString>
#include <nlohmann/json_fwd.hpp>

#include <functional>
#include <memory>

namespace bonemoss::document {
class Standing;
}
namespace bonemoss::app {

/// The only place that holds the current creature and its history. Widgets read values from here and
/// send commands; they keep no state of the creature of their own.
class Session : public QObject
{
    Q_OBJECT
public:
    /// rescueFolder is where the session keeps itself safe; empty for none (tests of widgets alone).
    explicit Session(const QString &rescueFolder, QObject *parent = nullptr);
    ~Session() override;

    const document::Creature &creature() const { return m_history->now(); }
    std::shared_ptr<const document::Creature> share() const { return m_history->share(); }
    /// The creature as it stands: in its pose on benches that show it, else at rest.
    std::shared_ptr<const document::Creature> standing() const;
    /// The same with what work in the pose needs; null at rest.
    std::shared_ptr<const document::Standing> stood() const;
    bool isPosed() const { return standing() != share(); }
    const command::History &history() const { return *m_history; }

    /// Applies a command on the window's thread. On failure nothing changed and failed() was sent.
    /// folder: where relative paths in it start; empty for where the program was started.
    bool run(const nlohmann::json &command, const QString &folder = {});
    /// Applies a command on a worker, with progress and cancel in a dialog when it takes long.
    bool runLong(const nlohmann::json &command, QWidget *window);
    /// Works a command out while the person goes on; its result counts only if nothing else has changed meanwhile, else it
    /// is dropped. It waits until the hand is free. One at a time.
    void runInBackground(const nlohmann::json &command);
    bool isWorkingBehind() const { return m_behind != nullptr; }
    /// What the last command said, with places where it named any.
    const std::vector<Note> &notes() const { return m_notes; }
    /// What a command would make of the creature, worked out as runLong does; nothing is changed. Null when it failed, and said.
    std::shared_ptr<const document::Creature> tryOut(const nlohmann::json &command, QWidget *window);
    /// Takes over a finished stroke; its result was already worked out while it was drawn.
    bool commitStroke(document::LiveStroke &stroke, std::uint32_t piece, const nlohmann::json &command);

    /// What the view tells of the hand: whether a stroke or a drag is under way, and how to end it as if the pen were lifted.
    /// Before anything else changes the creature the gesture ends; results from behind wait until it has.
    struct Hand {
        std::function<bool()> isBusy;
        std::function<void()> finish;
    };
    void watchHand(Hand hand) { m_hand = std::move(hand); }
    void handIsFree(); ///< to be called when a gesture has ended

    /// Puts a state in place of the present one that differs from it in caches alone: no step, nothing to save. False while the hand is
    /// busy or the state is being saved; nothing happens where another state is shown by now.
    bool refresh(const std::shared_ptr<const document::Creature> &of, std::shared_ptr<const document::Creature> made);

    bool canUndo() const { return m_history->canUndo(); }
    bool canRedo() const { return m_history->canRedo(); }
    void undo();
    void redo();
    void goTo(std::size_t step);

    // Files
    QString path() const { return m_path; }
    QString title() const; ///< file name, or "untitled"
    bool isChanged() const;
    void startNew();
    /// Who has the file open elsewhere, in words; empty when nobody has.
    QString holderOf(const QString &path) const;
    enum class OpenAs { Own, Copy }; ///< a copy has no file: it can be looked at, and saved under another name
    bool open(const QString &path, QWidget *window, OpenAs as = OpenAs::Own); ///< .bonemoss
    bool openRecipe(const QString &path, QWidget *window);                    ///< replays into a new creature
    /// Writes on a thread of its own while one works on, and waits a moment for it: false when it failed within that. Later
    /// failures come as failed(). replaces: also when the file was saved by somebody else since; else saveConflict() comes.
    bool save(const QString &path, bool replaces = false);
    bool finishSaving(); ///< waits; whether the last save worked
    bool isSaving() const { return m_saving != nullptr; }
    bool recordRecipe(const QString &path);
    bool exportMesh(const QString &path, QStringList &warnings, QWidget *window = nullptr);
    /// What could be rescued becomes the document. The file goes when that is all of it, and kept safe again.
    bool recover(command::Rescue::Found found, QWidget *window);
    QString rescueFolder() const { return m_rescue.folder(); }
    bool isKeptSafe() const { return m_rescue.isKeptSafe(); }
    void endWell(); ///< closes the session: its rescue file goes
    void setHistoryBudget(std::size_t bytes);

    // Words for the person, and a new drawing, asked for by those who work with it
    void complain(const QString &why) { emit failed(why); }
    void tell(const QString &what) { emit noted(what); }
    void showAgain() { emit lookChanged(); } ///< in other colours

    // What the person is busy with (not part of the creature)
    /// Whether something was chosen since the bench was: what deletes takes nothing that was only chosen by itself, or elsewhere.
    bool hasChosenHere() const { return m_hasChosenHere; }
    Bench bench() const { return m_bench; }
    void setBench(Bench bench);
    std::uint32_t form() const { return m_forms.empty() ? 0 : m_forms.back(); } ///< chosen last, 0 for none
    const std::vector<std::uint32_t> &forms() const { return m_forms; }         ///< all chosen, in that order
    std::uint32_t piece() const;       ///< chosen piece; the only visible one when none was chosen
    std::uint32_t layer() const;       ///< chosen layer of the piece, 0 for the body
    std::uint32_t colourLayer() const; ///< chosen colour layer of the piece: the topmost when none was chosen; 0 without any
    std::uint32_t picture() const { return m_picture; } ///< chosen reference, 0 for none
    void chooseForm(std::uint32_t id);
    void chooseForms(std::vector<std::uint32_t> ids);
    void toggleForm(std::uint32_t id); ///< adds it to those chosen, or takes it away
    void choosePiece(std::uint32_t id);
    void chooseLayer(std::uint32_t id);
    void chooseColourLayer(std::uint32_t id);
    void choosePicture(std::uint32_t id);
    /// The chosen item of a kind that is neither form nor piece, by the kind's name; 0 for none. One is chosen at a time.
    std::uint32_t chosen(std::string_view kind) const;
    std::uint32_t chosenItem() const { return m_item; }
    void chooseItem(std::uint32_t id);

signals:
    void creatureChanged(); ///< another state is shown
    void behindChanged();   ///< background work began or ended
    void choiceChanged();   ///< another form, piece or layer
    void benchChanged();
    void fileChanged(); ///< path or saved state
    void failed(const QString &message);
    void noted(const QString &message);
    void lookChanged(); ///< other colours: what shows the creature is to be drawn again
    void saved(const QString &path);
    void saveConflict(const QString &path); ///< not saved: the file holds what somebody else saved since

private:
    struct Behind;
    void takeFromBehind(const std::shared_ptr<Behind> &behind);
    void publish(document::Creature next, const nlohmann::json &command);
    /// Another document: its history, the file it came from and what is known of that.
    struct Document {
        std::unique_ptr<command::History> history;
        QString path;
        store::StateMark mark;
        std::optional<FileLock> lock;
        bool isSaved = false;
    };
    void replaceAll(Document document);
    void replaceAll(document::Creature creature, const QString &title, bool isSaved);
    void keepSafe(const nlohmann::json *command);
    void finishHand();
    std::size_t stepNumber() const { return m_history->dropped() + m_history->at(); }
    struct Saving;
    void takeSaved(const std::shared_ptr<Saving> &saving);
    void report(const Error &error);
    void tell(std::vector<Note> notes);

    std::shared_ptr<Behind> m_behind;  ///< background work on its way
    std::shared_ptr<Behind> m_waiting; ///< and done, but the hand is not free
    std::shared_ptr<Saving> m_saving;
    bool m_lastSaveWorked = true;
    int m_longCommands = 0; ///< being worked out
    bool m_hasChosenHere = false;
    Hand m_hand;
    std::size_t m_historyBudget = SIZE_MAX;
    std::unique_ptr<command::History> m_history;
    std::vector<Note> m_notes;
    std::shared_ptr<const document::Creature> m_saved;
    RescueKeeper m_rescue;
    QString m_path;
    store::StateMark m_mark;        ///< of the newest state in that file that is known here
    std::optional<FileLock> m_lock; ///< on that file
    mutable std::shared_ptr<const document::Standing> m_stood;
    Bench m_bench = Bench::Armature;
    std::vector<std::uint32_t> m_forms;
    void dropGone(); ///< forms that are no more are not chosen any more
    std::uint32_t m_piece = 0, m_layer = 0, m_colourLayer = 0, m_picture = 0, m_item = 0;
};

/// What happened, what was kept and what to do, for a person.
QString wordsFor(const Error &error);

} // namespace bonemoss::app
