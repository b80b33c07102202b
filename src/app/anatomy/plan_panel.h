#pragma once

#include <QWidget>

class QPushButton;
class QStackedWidget;

namespace bonemoss::app {

/// Pages under words of which one is chosen: proportions, pictures, board.
class PlanPanel : public QWidget
{
    Q_OBJECT
public:
    explicit PlanPanel(QWidget *parent = nullptr);
    void addPage(const QString &word, const QString &id, QWidget *page);
    void showPage(const QWidget *page);
    QWidget *current() const;

private:
    std::vector<QPushButton *> m_words;
    QStackedWidget *m_pages;
};

} // namespace bonemoss::app
