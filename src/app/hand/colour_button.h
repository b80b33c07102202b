#pragma once

#include "base/types.h"

#include <QColor>
#include <QDialog>

#include <functional>

class QPushButton;

namespace bonemoss::app {

class ColourChooser;

/// Asks for a colour: the disc, its numbers and the last ten.
class ColourDialog : public QDialog
{
    Q_OBJECT
public:
    ColourDialog(QColor now, const QString &title, QWidget *parent = nullptr);
    QColor colour() const;
    void setColour(QColor colour);

private:
    ColourChooser *m_chooser;
};

/// A small button in a colour; pressed, it asks for another one under that title. showColour: another one than at first.
QPushButton *colourButton(const QString &id, const QString &name, QColor now, const QString &title,
                          const std::function<void(QColor)> &picked);
void showColour(QPushButton *button, QColor colour);
/// Linear light as a colour on the screen, 0 to 1 of it, and back.
QColor ofLight(Vec3f light);
Vec3f lightOf(const QColor &colour);

} // namespace bonemoss::app
