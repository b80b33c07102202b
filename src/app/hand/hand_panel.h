#pragma once

#include "app/hand/hand_model.h"

#include <QSet>
#include <QWidget>

class QLabel;
class QPushButton;
class QVBoxLayout;

namespace bonemoss::app {

class Tile;
class GrowthSettings;
class OutgrowthSettings;
class ToolSettings;

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
    void showTool();
    void addKinds(QVBoxLayout *column);
    QWidget *addTiles(const QString &group, const std::vector<std::pair<int, Tile *>> &tiles);

    Session &m_session;
    HandModel &m_hand;
    QVBoxLayout *m_tilesLayout, *m_settingsLayout;
    QPushButton *m_knit;
    QWidget *m_tiles = nullptr, *m_settings = nullptr;
    QLabel *m_keys;
    QString m_heldWords;
    std::vector<Tile *> m_all;
    ToolSettings *m_toolSettings = nullptr; ///< while they are what m_settings is
    GrowthSettings *m_growthSettings = nullptr;
    OutgrowthSettings *m_outgrowthSettings = nullptr;
    QSet<QString> m_openSections;
    Bench m_builtFor = Bench::Armature;
    bool m_isBuilt = false;
};

} // namespace bonemoss::app
