#pragma once

#include "app/hand/hand_model.h"
#include "app/hand/hand_part.h"

#include <QSet>
#include <QWidget>

class QLabel;
class QPushButton;
class QScrollArea;
class QVBoxLayout;

namespace bonemoss::app {

/// The right side: tiles of the bench, then the settings of the tool or of the chosen form.
class HandPanel : public QWidget
{
    Q_OBJECT
public:
    HandPanel(Session &session, HandModel &hand, QWidget *parent = nullptr);
    void setHeldWords(const QString &words); ///< which keys do what while held

signals:
    void knitAsked();
    void reknitAsked();
    void refineAsked();

private:
    void rebuildTiles();
    void rebuildSettings();
    void showSettings();
    void showTool();
    void addTiles(QVBoxLayout *column, const HandPart &part, int before);

    Session &m_session;
    HandModel &m_hand;
    QVBoxLayout *m_tilesLayout, *m_settingsLayout;
    QPushButton *m_knit;
    QScrollArea *m_scroll = nullptr;
    QWidget *m_tiles = nullptr;
    HandSettings *m_settings = nullptr;
    QLabel *m_keys;
    QString m_heldWords;
    std::vector<Tile *> m_all;
    QSet<QString> m_openSections;
    Bench m_builtFor = Bench::Armature;
    bool m_isBuilt = false;
};

} // namespace bonemoss::app
