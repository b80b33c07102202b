#pragma once

#include <QColor>

#include <functional>

class QPushButton;

namespace bonemoss::app {

/// A small button in a colour; pressed, it asks for another one under that title. showColour: another one than at first.
QPushButton *colourButton(const QString &id, const QString &name, QColor now, const QString &title,
                          const std::function<void(QColor)> &picked);
void showColour(QPushButton *button, QColor colour);

} // namespace bonemoss::app
