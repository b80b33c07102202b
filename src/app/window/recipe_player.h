#pragma once

#include "app/session/session.h"

#include <QString>
#include <QTimer>

namespace bonemoss::app {

/// Plays a recipe before one's eyes: one command after another, each a step of the session as if it had
/// been done by hand, with the window alive in between.
class RecipePlayer : public QObject
{
    Q_OBJECT
public:
    explicit RecipePlayer(Session &session, QObject *parent = nullptr);
    ~RecipePlayer() override;

    /// Begins after what is there. False, with words sent through the session, when the file cannot be read.
    bool start(const QString &path);
    void stop();
    bool isPlaying() const { return m_timer.isActive(); }

signals:
    void stepped(int done, int all);
    void ended(bool isWhole); ///< false when a step failed or it was stopped

private:
    void step();

    Session &m_session;
    std::vector<nlohmann::json> m_commands;
    std::size_t m_next = 0;
    QString m_folder; ///< of the recipe: files it names lie there
    QTimer m_timer;
};

} // namespace bonemoss::app
