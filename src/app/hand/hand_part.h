#pragma once

#include <QSet>
#include <QString>
#include <QWidget>

#include <cstddef>

namespace bonemoss::app {

class HandModel;
class Session;
class Tile;
struct BenchRow;

/// Settings in the hand panel.
class HandSettings : public QWidget
{
    Q_OBJECT
public:
    virtual void refresh() {} ///< shows what is so now
    /// Whether it is about one state of the creature, and is made anew for another.
    virtual bool isOfOneState() const { return false; }

signals:
    void rebuildAsked(); ///< a section was folded, or something else is in hand
    void reknitAsked();
    void refineAsked();
};

/// What stands on a tile.
struct TileWords {
    QString id; ///< object name
    QString title, hint;
    QString group; ///< heading that it stands under
};

/// One sort of what a hand can hold: its tiles and their settings. A bench has one or several; their tiles follow each other,
/// and the first ten have number keys.
struct HandPart {
    std::size_t (*count)(const BenchRow &bench);
    TileWords (*words)(const BenchRow &bench, std::size_t k);
    Tile *(*tile)(const BenchRow &bench, std::size_t k, int key); ///< new, with its picture; key: 0 for none
    void (*pick)(HandModel &hand, const BenchRow &bench, std::size_t k);
    int (*held)(const HandModel &hand, const BenchRow &bench); ///< which of them is in hand, -1: none
    /// New; openSections: which are unfolded, outlives it.
    HandSettings *(*settings)(Session &session, HandModel &hand, QSet<QString> &openSections);
};

} // namespace bonemoss::app
