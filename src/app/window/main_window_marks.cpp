// The Masks menu: masks, kept ones, groups, and what of a skin is hidden.
#include "app/view/creature_view.h"
#include "app/window/main_window.h"

#include <QMenuBar>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

/// A menu of names, made when it opens; a pick runs the command with the name.
void MainWindow::addNames(QMenu *menu, const QString &title, const char *objectName, const QString &none, NamesOf namesOf,
                          nlohmann::json command, const char *key)
{
    QMenu *names = menu->addMenu(title);
    names->setObjectName(QString::fromLatin1(objectName));
    connect(names, &QMenu::aboutToShow, this, [this, names, none, namesOf, command, key] {
        names->clear();
        const creature::Piece *piece = m_session.creature().piece(m_session.piece());
        for (const std::string &name : piece ? namesOf(piece->skin) : std::vector<std::string>{})
            connect(names->addAction(QString::fromStdString(name).replace(QLatin1Char('&'), QLatin1String("&&"))),
                    &QAction::triggered, this, [this, command, key, name] {
                        nlohmann::json given = command;
                        given[key] = name;
                        onPiece(std::move(given));
                    });
        if (names->isEmpty())
            names->addAction(none)->setEnabled(false);
    });
}

void MainWindow::buildMaskMenu()
{
    QMenu *masks = menuBar()->addMenu(tr("&Masks"));
    const auto simple = [this](nlohmann::json command) { return [this, command] { onPiece(command); }; };
    add(masks, tr("&Invert mask"), "maskInvert", QKeySequence(tr("Ctrl+I")), simple({{"do", "mask.invert"}}));
    add(masks, tr("&Clear mask"), "maskClear", QKeySequence(tr("Ctrl+Shift+I")), simple({{"do", "mask.clear"}}));
    add(masks, tr("&Blur mask"), "maskBlur", {}, simple({{"do", "mask.blur"}}));
    masks->addSeparator();
    const auto keptOf = [](const detail::Skin &skin) {
        std::vector<std::string> names;
        for (const detail::KeptMask &m : skin.masks)
            names.push_back(m.name);
        return names;
    };
    const auto groupsOf = [](const detail::Skin &skin) {
        std::vector<std::string> names;
        for (const detail::Group &g : skin.groups)
            names.push_back(g.name);
        return names;
    };
    const QString noMask = tr("No mask is kept"), noGroup = tr("There are no groups");
    add(masks, tr("&Keep mask…"), "maskKeep", {}, [this] {
        const creature::Piece *piece = m_session.creature().piece(m_session.piece());
        askOnPiece("mask.keep", {{"name", tr("Mask %1").arg(piece ? piece->skin.masks.size() + 1 : 1).toStdString()}},
                   {QStringLiteral("name")});
    });
    addNames(masks, tr("&Take kept mask"), "maskTake", noMask, keptOf, {{"do", "mask.recall"}}, "name");
    addNames(masks, tr("&Add kept mask"), "maskAdd", noMask, keptOf, {{"do", "mask.recall"}, {"how", "add"}}, "name");
    addNames(masks, tr("&Subtract kept mask"), "maskSubtract", noMask, keptOf, {{"do", "mask.recall"}, {"how", "subtract"}},
             "name");
    addNames(masks, tr("&Forget kept mask"), "maskForget", noMask, keptOf, {{"do", "mask.forget"}}, "name");
    masks->addSeparator();
    add(masks, tr("&Group of what is masked…"), "groupMake", {}, [this] {
        const creature::Piece *piece = m_session.creature().piece(m_session.piece());
        m_groupsShown->setChecked(true);
        askOnPiece("group.make", {{"name", tr("Group %1").arg(piece ? piece->skin.groups.size() + 1 : 1).toStdString()}},
                   {QStringLiteral("name")});
    });
    add(masks, tr("Groups of the &islands"), "groupIslands", {}, [this] {
        m_groupsShown->setChecked(true);
        onPiece({{"do", "group.make"}, {"of", "islands"}, {"name", tr("Island").toStdString()}});
    });
    addNames(masks, tr("Mask of a g&roup"), "groupMask", noGroup, groupsOf, {{"do", "mask.group"}}, "name");
    addNames(masks, tr("Remo&ve group"), "groupRemove", noGroup, groupsOf, {{"do", "group.remove"}}, "name");
    masks->addSeparator();
    add(masks, tr("&Hide what is masked"), "hideMasked", QKeySequence(Qt::Key_H),
        simple({{"do", "piece.hide"}, {"what", "masked"}}));
    add(masks, tr("Hide &the rest"), "hideFree", QKeySequence(tr("Shift+H")), simple({{"do", "piece.hide"}, {"what", "free"}}));
    addNames(masks, tr("Hide grou&p"), "hideGroup", noGroup, groupsOf, {{"do", "piece.hide"}, {"what", "group"}}, "group");
    add(masks, tr("S&wap hidden and shown"), "hideSwap", {}, simple({{"do", "piece.hide"}, {"what", "swap"}}));
    add(masks, tr("Show a&ll of it"), "hideNothing", QKeySequence(tr("Ctrl+Shift+H")),
        simple({{"do", "piece.hide"}, {"what", "nothing"}}));
}

} // namespace bonemoss::app
