#pragma once

#include "solid/combine.h"
#include "app/session/growth_keeper.h"
#include "app/session/outgrowth_keeper.h"
#include "app/session/solo.h"
#include "app/actions/actions.h"
#include "app/dialogs/command_dialog.h"
#include "app/hand/hand_model.h"
#include "app/theme/keys.h"
#include "app/view/picture_shelf.h"

#include <QMainWindow>

#include <optional>

class QActionGroup;
class QLabel;
class QListWidget;
class QPushButton;
class QSplitter;
class QTimer;

namespace bonemoss::app {

class AnatomyPanel;
class AnglesStrip;
class CreatureView;
class HandPanel;
class LayersPanel;
class ColourPanel;
class PortraitPanel;
class PosePanel;
class PenSimulator;
class PictureBoard;
class PicturesPanel;
class PlanPanel;
class RecipePlayer;

/// The window: menus, benches, the panels around the view, and the status line.
class MainWindow : public QMainWindow
{
    Q_OBJECT
public:
    explicit MainWindow(const QString &rescueFolder);
    ~MainWindow() override;

    Session &session() { return m_session; }
    HandModel &hand() { return m_hand; }
    CreatureView &view() { return *m_view; }
    RecipePlayer &player() { return *m_player; }
    bool openPath(const QString &path); ///< creature, recipe or mesh
    void showStartPage();
    /// What a session starts with: rescued work if there is some and it is wanted, else the file (empty: none), else the
    /// start page. A file never takes the place of rescued work.
    void begin(const QString &file);
    bool offerRescue(); ///< whether it was opened
    void setAsksBeforeClosing(bool asks) { m_asks = asks; }

protected:
    void closeEvent(QCloseEvent *e) override;
    void dragEnterEvent(QDragEnterEvent *e) override;
    void dropEvent(QDropEvent *e) override;
    bool eventFilter(QObject *watched, QEvent *e) override;

private:
    void buildMenus();
    void buildFileMenu();
    void buildEditMenu();
    void buildViewMenu();
    void buildPanesMenu(QMenu *view);
    void keepOtherCreature();
    void buildCreatureMenu();
    void buildSurfaceMenu();
    void addCombining(QMenu *surface);
    void addTrimming(QMenu *surface);
    void addSplitting(QMenu *surface);
    void addCovering(QMenu *surface);
    void addFaces(QMenu *surface);
    void addLevels(QMenu *surface);
    void addSymmetry(QMenu *surface);
    void addPaint(QMenu *surface);
    void addRepair(QMenu *surface);
    void buildPrintMenu();
    void savePrintSheet();
    void buildMaskMenu();
    void addMaskMakers(QMenu *masks);
    using NamesOf = std::function<std::vector<std::string>(const skin::Skin &)>;
    /// A menu of names, made when it opens; each runs `use`.
    void addNames(QMenu *menu, const QString &title, const char *objectName, const QString &none, NamesOf namesOf,
                  std::function<void(const std::string &name)> use);
    template <typename P, typename Name>
    void addNames(QMenu *menu, const QString &title, const char *objectName, const QString &none, NamesOf namesOf, P params,
                  Name P::*member)
    {
        addNames(menu, title, objectName, none, namesOf, [this, params, member](const std::string &name) {
            P named = params;
            named.*member = name;
            onPiece(named);
        });
    }
    NamesOf keptCameras(); ///< of the creature's portraits
    const document::Piece *pieceInHand();
    /// At which a knit of the chosen piece keeps its number of faces, mm.
    float spacingHere() const;
    /// A command on the chosen piece without further questions.
    template <typename P> void onPiece(P params)
    {
        if (const document::Piece *piece = pieceInHand()) {
            params.piece = piece->id;
            m_session.runLong(toCommand(params), this);
        }
    }
    /// The same, after asking for some of its parameters.
    template <typename P> void askOnPiece(P params, const QStringList &asked, const Forecast &forecast = {})
    {
        if (const document::Piece *piece = pieceInHand()) {
            params.piece = piece->id;
            askAndRun(toCommand(params), asked, forecast);
        }
    }
    void askAndRun(const nlohmann::json &command, const QStringList &asked, const Forecast &forecast = {});
    /// Forecast of the faces of an offset copy of the chosen piece.
    Forecast offsetForecast() const;
    void tryOut(const nlohmann::json *command);
    void reportNotes(const QString &title, const QString &intro);
    void lookForRepeats();
    void takeLayer(bool ofColour);
    void combine(solid::Boolean how, const QString &title, const QString &words);
    void showLiveKnit();
    void buildPenMenu(QMenu *pen);
    void buildHelpMenu();
    void find(); ///< by words
    void buildBenches(QWidget *line);
    void buildCentre();
    void buildStatus();
    void showBench();
    void showStatus();
    void showMessage(const QString &text, bool isTrouble);
    bool maySwitch(); ///< asks about unsaved changes; true when it is fine to go on
    bool save();
    bool saveAs();
    void askAboutConflict(const QString &path);
    std::optional<Session::OpenAs> askAboutHolder(const QString &path);
    void writeRecipe();
    void open();
    void importMesh();
    void exportMesh();
    static bool isPicture(const QString &path);
    void addPictures();
    void addPicture(const QString &path);
    void lineUp(std::uint32_t picture);
    void showBoardOver(bool on);
    void placeBoardOver();
    void savePart();
    void knit();
    void reknit();
    void refine();
    void fuse();
    void showHistory();
    void showHeldKeys();
    void rememberRecent(const QString &path);
    void setDark(bool dark);
    QAction *add(QMenu *menu, const QString &text, const char *id, const QKeySequence &key, std::function<void()> run,
                 When when = When::Always)
    {
        return m_actions.add(menu, {text, id, key, std::move(run), when});
    }

    Session m_session;
    GrowthKeeper m_growths;
    OutgrowthKeeper m_outgrowths{m_session};
    Solo m_solo;
    HandModel m_hand;
    KeyMap m_keys;
    Actions m_actions{m_session, m_keys};
    PictureShelf m_shelf;
    CreatureView *m_view = nullptr;
    AnatomyPanel *m_anatomy = nullptr;
    LayersPanel *m_layers = nullptr;
    ColourPanel *m_colours = nullptr;
    QString leftKey() const; ///< of the heights on the left: with other panels they are others
    PosePanel *m_posePanel = nullptr;
    PortraitPanel *m_portraitPanel = nullptr;
    PlanPanel *m_plan = nullptr;
    PicturesPanel *m_pictures = nullptr;
    PictureBoard *m_boardOver = nullptr;
    QAction *m_liveKnit = nullptr, *m_groupsShown = nullptr;
    HandPanel *m_handPanel = nullptr;
    AnglesStrip *m_angles = nullptr;
    PenSimulator *m_pen = nullptr;
    RecipePlayer *m_player = nullptr;
    QSplitter *m_across = nullptr, *m_left = nullptr, *m_down = nullptr;
    std::vector<QPushButton *> m_benches;
    QAction *m_undo = nullptr, *m_redo = nullptr;
    QLabel *m_title = nullptr, *m_saved = nullptr, *m_hint = nullptr, *m_message = nullptr, *m_counts = nullptr;
    QTimer *m_fade = nullptr;
    bool m_asks = true, m_panelsHidden = false;
    int m_rescueLooks = 0; ///< after the start
};

} // namespace bonemoss::app
