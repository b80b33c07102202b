#pragma once

#include "app/session/session.h"
#include "command/pictures/picture_fields.h"

#include <QWidget>

#include <functional>

class QBoxLayout;
class QListWidget;

namespace bonemoss::app {

class PictureShelf;

/// The pictures to work from: a list, and what the chosen one is like.
class PicturesPanel : public QWidget
{
    Q_OBJECT
public:
    PicturesPanel(Session &session, PictureShelf &shelf, QWidget *parent = nullptr);

signals:
    void addAsked();
    void lineUpAsked(std::uint32_t picture);

private:
    void rebuild();
    void rebuildSettings();
    std::function<void(command::PictureChanges)> sender(const document::Reference &r);
    void addPlace(QBoxLayout *column, const document::Reference &r);
    void addLook(QBoxLayout *column, const document::Reference &r);
    void addButtons(QBoxLayout *column, const document::Reference &r);

    Session &m_session;
    PictureShelf &m_shelf;
    QListWidget *m_list;
    QWidget *m_settings = nullptr;
    bool m_isFilling = false;
};

/// "left" as "Left flank"; the board by its own name.
QString pictureViewTitle(const std::string &view);

} // namespace bonemoss::app
