#pragma once

#include <QObject>

namespace bonemoss::app {

/// What the hand holds on a bench besides brushes. HandModel makes each when it is asked for first, with the session.
class BenchHand : public QObject
{
    Q_OBJECT
public:
    virtual void leave() {}  ///< another bench is in use
    virtual void takeUp() {} ///< another item is chosen

signals:
    void kindChanged(); ///< something else is in hand
    void ruleChanged(); ///< its settings
};

} // namespace bonemoss::app
