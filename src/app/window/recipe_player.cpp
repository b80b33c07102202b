#include "app/window/recipe_player.h"

#include "command/recipe.h"

#include <QFileInfo>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

RecipePlayer::RecipePlayer(Session &session, QObject *parent) : QObject(parent), m_session(session)
{
    connect(&m_timer, &QTimer::timeout, this, &RecipePlayer::step);
}

RecipePlayer::~RecipePlayer() = default;

bool RecipePlayer::start(const QString &path)
{
    auto commands = command::readRecipe(path.toStdString());
    if (!commands) {
        m_session.complain(wordsFor(commands.error()));
        return false;
    }
    m_commands = std::move(*commands);
    m_folder = QFileInfo(path).absolutePath();
    m_next = 0;
    m_timer.start(0); // as quick as the window can show them
    return true;
}

void RecipePlayer::stop()
{
    if (!isPlaying())
        return;
    m_timer.stop();
    emit ended(m_next == m_commands.size());
}

void RecipePlayer::step()
{
    if (m_next < m_commands.size() && m_session.run(m_commands[m_next], m_folder)) {
        ++m_next;
        emit stepped(int(m_next), int(m_commands.size()));
        return;
    }
    stop();
}

} // namespace bonemoss::app
