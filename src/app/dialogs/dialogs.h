#pragma once

#include "app/session/session.h"
#include "app/theme/keys.h"
#include "field/knit.h"

#include <QDialog>

#include <functional>
#include <optional>

namespace bonemoss::app {

/// Asks how dense a knit shall be; shows the forecast of faces and memory as it is set.
/// forecast(spacing) tells the faces to expect, or 0 when it cannot.
std::optional<field::Density> askDensity(QWidget *parent, const QString &title, float startSpacing, float longestMm,
                                         const std::function<std::size_t(float)> &forecast);

/// A kind of file that can be written.
struct SaveKind {
    QString title, ending; ///< the ending without its first dot
};
/// Asks where to write. The ending is there before it is asked whether a file may be replaced; one that is none of these kinds
/// is told at once. Empty when it was left.
QString askSavePath(QWidget *parent, const QString &title, const QString &suggestion, const std::vector<SaveKind> &kinds);

/// All keys, changeable, with conflicts shown.
void editKeys(QWidget *parent, KeyMap &keys);

void showAbout(QWidget *parent);

/// Repairs, warnings and the like, one line each.
void showList(QWidget *parent, const QString &title, const QString &intro, const QStringList &lines);

/// The same of what a command said, beside the window: notes with a place have a button that flies there.
/// showMe(null) when it closes.
void showReport(QWidget *parent, const QString &title, const QString &intro, const std::vector<Note> &notes,
                const std::function<void(std::optional<Vec3f>)> &showMe);

/// The page one sees first: samples, a new creature, files of late.
class StartPage : public QDialog
{
    Q_OBJECT
public:
    explicit StartPage(const QStringList &recent, QWidget *parent = nullptr);
    QString chosenSample() const { return m_sample; } ///< recipe path, empty for none
    QString chosenFile() const { return m_file; }     ///< creature path, empty for none

private:
    QString m_sample, m_file;
};

/// Built-in manual, opened at a page of docs/manual.
void showManual(QWidget *parent, const QString &page);

struct Sample {
    QString file, title, words;
};
const std::vector<Sample> &samples();

} // namespace bonemoss::app
