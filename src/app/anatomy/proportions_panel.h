#pragma once

#include "app/session/session.h"

#include <QWidget>

class QTreeWidget;
class QTreeWidgetItem;
class QComboBox;

namespace bonemoss::app {

/// The lengths of all forms in mm and in units of one of them, with wanted ratios to type in.
class ProportionsPanel : public QWidget
{
    Q_OBJECT
public:
    explicit ProportionsPanel(Session &session, QWidget *parent = nullptr);

private:
    void rebuild();
    void edited(QTreeWidgetItem *item, int column);

    Session &m_session;
    QComboBox *m_unit;
    QTreeWidget *m_list;
    bool m_isFilling = false;
};

} // namespace bonemoss::app
