#pragma once

#include "app/session/session.h"

#include <QWidget>

class QTreeWidget;
class QTreeWidgetItem;

namespace bonemoss::app {

/// The left side, above: forms, skins and pieces as a tree. Rename in place, drag to nest, hide, lock.
class AnatomyPanel : public QWidget
{
    Q_OBJECT
public:
    explicit AnatomyPanel(Session &session, QWidget *parent = nullptr);
    void toggleSolo(); ///< hides all other pieces (or forms on the Armature bench), or shows all again

protected:
    bool eventFilter(QObject *watched, QEvent *event) override;

private:
    void rebuild();
    void showChoice();
    void takeChoice();
    void menuAt(QPoint p);
    void itemRenamed(QTreeWidgetItem *item);

    Session &m_session;
    QTreeWidget *m_tree;
    bool m_isFilling = false;
};

} // namespace bonemoss::app
