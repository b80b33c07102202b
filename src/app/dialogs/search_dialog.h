#pragma once

#include <QKeySequence>
#include <QString>

#include <functional>
#include <vector>

class QWidget;

namespace bonemoss::app {

/// Something that can be found by words: an action, a tool, a bench, a setting.
struct Findable {
    QString title, where; ///< where: its menu, bench or panel
    QString words;        ///< more that it is found by
    QKeySequence key;
    bool isEnabled = true;
    std::function<void()> run;
};

/// Those that match all words of a query, best first: title begins with it, title holds it, then the rest in their order. Upper case
/// and accents do not count.
std::vector<const Findable *> found(const std::vector<Findable> &all, const QString &query);

/// A field to type in and what was found below it; Enter does it.
void findByWords(QWidget *parent, const std::vector<Findable> &all);

} // namespace bonemoss::app
