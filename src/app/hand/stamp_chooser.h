#pragma once

#include "app/session/session.h"

#include <QWidget>

class QComboBox;
class QLineEdit;
class QListWidget;

namespace bonemoss::app {

/// The stamps that there are, as pictures: those that come with the program by their folders, and the creature's own; with
/// a search, and ways to add more.
class StampChooser : public QWidget
{
    Q_OBJECT
public:
    StampChooser(Session &session, QWidget *parent = nullptr);
    void setChosen(const QString &name); ///< shows it; sends nothing

signals:
    void chosen(const QString &name);
    void harvestAsked(); ///< the next press in the view takes one from the skin

private:
    void fill();
    void addPicture();
    void showMenu(QPoint at);

    Session &m_session;
    QLineEdit *m_search;
    QComboBox *m_folder;
    QListWidget *m_list;
    QString m_chosen, m_filledWith;
};

/// A height picture lit from the upper left.
QImage stampPicture(const image::HeightPicture &picture, int side);

} // namespace bonemoss::app
