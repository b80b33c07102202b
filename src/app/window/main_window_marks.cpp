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
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
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

/// Masks drawn round in the view, and masks of a shape.
void MainWindow::addMaskMakers(QMenu *masks)
{
    QMenu *draw = masks->addMenu(tr("&Draw round what is masked"));
    const auto area = [this](TrimPlan plan) {
        return [this, plan] {
            if (!pieceInHand())
                return;
            if (rowOf(m_session.bench()).showsForms)
                m_session.setBench(benchThat(&BenchRow::holdsTools));
            m_view->beginTrim(plan);
        };
    };
    TrimPlan plan;
    plan.isMask = plan.isOutline = true;
    add(draw, tr("By an &outline, all the way through"), "maskOutline", {}, area(plan));
    plan.isFrontOnly = true;
    add(draw, tr("By an outline, only what is &seen"), "maskOutlineSeen", QKeySequence(Qt::Key_Y), area(plan));
    plan.isRectangle = true;
    add(draw, tr("By a &rectangle, only what is seen"), "maskRectangle", QKeySequence(tr("Shift+Y")), area(plan));
    QMenu *shape = masks->addMenu(tr("Mask by s&hape"));
    const std::tuple<const char *, QString, QStringList> sources[] = {
        {"hollows", tr("&Hollows…"), {QStringLiteral("width"), QStringLiteral("how")}},
        {"ridges", tr("&Ridges…"), {QStringLiteral("width"), QStringLiteral("how")}},
        {"slope", tr("&Slope from the crown side…"), {QStringLiteral("from"), QStringLiteral("to"), QStringLiteral("how")}},
        {"thin", tr("&Thin parts…"), {QStringLiteral("to"), QStringLiteral("how")}},
        {"colour", tr("Light &colour…"), {QStringLiteral("from"), QStringLiteral("how")}},
        {"stretched", tr("St&retched faces…"), {QStringLiteral("from"), QStringLiteral("how")}},
        {"neglected", tr("&Neglected places…"), {QStringLiteral("to"), QStringLiteral("how")}},
        {"uneven", tr("Where left and right &differ…"), {QStringLiteral("from"), QStringLiteral("how")}},
        {"covered", tr("What other skin co&vers…"), {QStringLiteral("from"), QStringLiteral("how")}},
        {"overlapping", tr("What lies &inside another body…"), {QStringLiteral("how")}},
    };
    for (const auto &[what, title, asked] : sources) {
        nlohmann::json given{{"what", what}};
        if (asked.contains(QStringLiteral("from")))
            given["from"] = std::string_view(what) == "slope" ? 0.0 : std::string_view(what) == "stretched" ? 4.0 : 0.5;
        if (asked.contains(QStringLiteral("to")))
            given["to"] = std::string_view(what) == "slope" ? 45.0 : std::string_view(what) == "thin" ? 4.0 : 0.5;
        add(shape, title, (std::string("mask_") + what).c_str(), {},
            [this, given, asked = asked] { askOnPiece("mask.shape", given, asked); });
    }
    add(shape, tr("What is s&een from here"), "mask_seen", {}, [this] {
        const portrait::Camera &c = m_view->camera();
        const Vec3f eye = c.eye(), up = c.up();
        onPiece({{"do", "mask.shape"},
                 {"what", "seen"},
                 {"eye", {eye.x, eye.y, eye.z}},
                 {"target", {c.target.x, c.target.y, c.target.z}},
                 {"up", {up.x, up.y, up.z}},
                 {"angle", double(c.heightAngle) * 57.29577951},
                 {"aspect", double(m_view->projection().aspect())},
                 {"parallel", c.isParallel}});
    });
}

void MainWindow::buildMaskMenu()
{
    QMenu *masks = menuBar()->addMenu(tr("&Masks"));
    const auto simple = [this](nlohmann::json command) { return [this, command] { onPiece(command); }; };
    add(masks, tr("&Invert mask"), "maskInvert", QKeySequence(tr("Ctrl+I")), simple({{"do", "mask.invert"}}));
    add(masks, tr("&Clear mask"), "maskClear", QKeySequence(tr("Ctrl+Shift+I")), simple({{"do", "mask.clear"}}));
    add(masks, tr("&Blur mask"), "maskBlur", {}, simple({{"do", "mask.blur"}}), When::HasPiece);
    add(masks, tr("Sharpe&n mask"), "maskSharpen", {}, simple({{"do", "mask.sharpen"}}), When::HasPiece);
    add(masks, tr("Gro&w mask"), "maskGrow", {}, simple({{"do", "mask.grow"}}), When::HasPiece);
    add(masks, tr("Shrin&k mask"), "maskShrink", {}, simple({{"do", "mask.grow"}, {"rings", -3}}), When::HasPiece);
    addMaskMakers(masks);
    masks->addSeparator();
    const auto keptOf = [](const skin::Skin &skin) {
        std::vector<std::string> names;
        for (const skin::KeptMask &m : skin.masks)
            names.push_back(m.name);
        return names;
    };
    const auto groupsOf = [](const skin::Skin &skin) {
        std::vector<std::string> names;
        for (const skin::Group &g : skin.groups)
            names.push_back(g.name);
        return names;
    };
    const QString noMask = tr("No mask is kept"), noGroup = tr("There are no groups");
    add(masks, tr("&Keep mask…"), "maskKeep", {}, [this] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
        askOnPiece("mask.keep", {{"name", tr("Mask %1").arg(piece ? piece->skin.masks.size() + 1 : 1).toStdString()}},
                   {QStringLiteral("name")});
    });
    addNames(masks, tr("&Take kept mask"), "maskTake", noMask, keptOf, {{"do", "mask.recall"}}, "name");
    addNames(masks, tr("&Add kept mask"), "maskAdd", noMask, keptOf, {{"do", "mask.recall"}, {"how", "add"}}, "name");
    addNames(masks, tr("&Subtract kept mask"), "maskSubtract", noMask, keptOf, {{"do", "mask.recall"}, {"how", "subtract"}},
             "name");
    addNames(masks, tr("&Delete kept mask"), "maskForget", noMask, keptOf, {{"do", "mask.forget"}}, "name");
    masks->addSeparator();
    add(masks, tr("&Group of what is masked…"), "groupMake", {}, [this] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
        m_groupsShown->trigger();
        askOnPiece("group.make", {{"name", tr("Group %1").arg(piece ? piece->skin.groups.size() + 1 : 1).toStdString()}},
                   {QStringLiteral("name")});
    });
    add(masks, tr("Groups of the &islands"), "groupIslands", {}, [this] {
        m_groupsShown->trigger();
        onPiece({{"do", "group.make"}, {"of", "islands"}, {"name", tr("Island").toStdString()}});
    });
    addNames(masks, tr("Mask of a g&roup"), "groupMask", noGroup, groupsOf, {{"do", "mask.group"}}, "name");
    addNames(masks, tr("Stamp &of a group"), "groupStamp", noGroup, groupsOf, {{"do", "stamp.harvest"}}, "group");
    addNames(masks, tr("&Delete group"), "groupRemove", noGroup, groupsOf, {{"do", "group.remove"}}, "name");
    masks->addSeparator();
    add(masks, tr("&Hide what is masked"), "hideMasked", QKeySequence(Qt::Key_U),
        simple({{"do", "piece.hide"}, {"what", "masked"}}));
    add(masks, tr("Hide &the rest"), "hideFree", QKeySequence(tr("Shift+U")), simple({{"do", "piece.hide"}, {"what", "free"}}));
    addNames(masks, tr("Hide grou&p"), "hideGroup", noGroup, groupsOf, {{"do", "piece.hide"}, {"what", "group"}}, "group");
    add(masks, tr("S&wap hidden and shown"), "hideSwap", {}, simple({{"do", "piece.hide"}, {"what", "swap"}}), When::HasPiece);
    add(masks, tr("Show a&ll of it"), "hideNothing", QKeySequence(tr("Ctrl+Shift+U")),
        simple({{"do", "piece.hide"}, {"what", "nothing"}}));
}

} // namespace bonemoss::app
