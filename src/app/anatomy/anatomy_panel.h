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
    /// The forms that are chosen, or the pieces, as the bench has it.
    std::vector<std::uint32_t> chosen() const;

signals:
    void soloAsked();

protected:
    bool eventFilter(QObject *watched, QEvent *event) override;

private:
    struct Row;
    std::vector<Row> rowsOf() const;
    void follow();
    void dress(QTreeWidgetItem *item, const Row &row);
    void showChoice();
    void takeChoice();
    void menuAt(QPoint p);
    void itemRenamed(QTreeWidgetItem *item);

    Session &m_session;
    QTreeWidget *m_tree;
    bool m_isFilling = false;
    std::map<std::uint32_t, QTreeWidgetItem *> m_items; ///< by id
};

} // namespace bonemoss::app
