#pragma once

#include <QColor>
#include <QFont>
#include <QString>

#include <string_view>

class QApplication;
class QLabel;

namespace bonemoss::app {

/// Colours by role; see docs/manual for what each means to a person.
struct Theme {
    QColor window, panel, field, line, ink, softInk, moss, mossWash, lichen, rust, slate, backdropTop, backdropBottom;
    bool isDark = false;
};

const Theme &boneTheme();
const Theme &peatTheme();
/// The theme in use; set by applyTheme.
const Theme &theme();
void applyTheme(QApplication &app, bool dark);
/// Loads the shipped fonts once; false when a file is missing.
bool loadFonts();
QFont headingFont(int points);
QLabel *heading(const QString &text, int points = 12);
QString textOf(std::string_view utf8);
QString grouped(qulonglong n); ///< digits in threes
/// Folder of shipped data: beside the sources while building, the installed one otherwise.
QString dataFolder();

} // namespace bonemoss::app
