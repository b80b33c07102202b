#pragma once

#include "app/hand/hand_model.h"

#include <QStringList>

namespace bonemoss::app {

/// Tools that the person set up and named: a file each, made of the words of the stroke command, so they can be shared.
QString ownToolsFolder(); ///< made when not there
QString ownToolPath(const QString &name);
QStringList ownTools(); ///< their names, in order
/// Empty, or what went wrong.
QString keepTool(const sculpt::StrokeSettings &settings, const QString &path);
/// Puts it in hand. Empty, or what went wrong; then the hand is as it was.
QString takeUpTool(HandModel &hand, const QString &path);

} // namespace bonemoss::app
