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
    /// Hides all other pieces (or forms on the Armature bench) than those chosen; called again, what it hid comes back, and nothing else.
    void toggleSolo();

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
    std::vector<std::uint32_t> m_hiddenBySolo; ///< empty when there is none
};

} // namespace bonemoss::app
