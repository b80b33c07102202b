// The Masks menu: masks, kept ones, groups, and what of a skin is hidden.
#include "app/view/creature_view.h"
#include "app/window/main_window.h"
#include "command/fields.h"
#include "command/marks/mark_fields.h"
#include "command/pictures/picture_fields.h"

#include <QMenuBar>
#include <nlohmann/json.hpp>

namespace bonemoss::app {

void MainWindow::addNames(QMenu *menu, const QString &title, const char *objectName, const QString &none, NamesOf namesOf,
                          std::function<void(const std::string &name)> use)
{
    QMenu *names = menu->addMenu(title);
    names->setObjectName(QString::fromLatin1(objectName));
    connect(names, &QMenu::aboutToShow, this, [this, names, none, namesOf, use] {
        names->clear();
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
        for (const std::string &name : piece ? namesOf(piece->skin) : std::vector<std::string>{})
            connect(names->addAction(QString::fromStdString(name).replace(QLatin1Char('&'), QLatin1String("&&"))),
                    &QAction::triggered, this, [use, name] { use(name); });
        if (names->isEmpty())
            names->addAction(none)->setEnabled(false);
    });
}

MainWindow::NamesOf MainWindow::keptCameras()
{
    return [this](const skin::Skin &) {
        std::vector<std::string> names;
        for (const portrait::Shot &s : m_session.creature().stage.shots)
            names.push_back(s.name);
        return names;
    };
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
    using command::MaskedShape;
    const QString width = QStringLiteral("width"), from = QStringLiteral("from"), to = QStringLiteral("to"),
                  how = QStringLiteral("how");
    const std::tuple<MaskedShape, QString, QStringList, std::optional<float>, std::optional<float>> sources[] = {
        {MaskedShape::Hollows, tr("&Hollows…"), {width, how}, {}, {}},
        {MaskedShape::Ridges, tr("&Ridges…"), {width, how}, {}, {}},
        {MaskedShape::Slope, tr("&Slope from the crown side…"), {from, to, how}, 0.0f, 45.0f},
        {MaskedShape::Thin, tr("&Thin parts…"), {to, how}, {}, 4.0f},
        {MaskedShape::Colour, tr("Light &colour…"), {from, how}, 0.5f, {}},
        {MaskedShape::Stretched, tr("St&retched faces…"), {from, how}, 4.0f, {}},
        {MaskedShape::Neglected, tr("&Neglected places…"), {to, how}, {}, 0.5f},
        {MaskedShape::Uneven, tr("Where left and right &differ…"), {from, how}, 0.5f, {}},
        {MaskedShape::Covered, tr("What other skin co&vers…"), {from, how}, 0.5f, {}},
        {MaskedShape::Overlapping, tr("What lies &inside another body…"), {how}, {}, {}},
    };
    for (const auto &[what, title, asked, least, most] : sources)
        add(shape, title, ("mask_" + std::string(command::kMaskedShapeNames[std::size_t(what)])).c_str(), {},
            [this, params = command::MaskShape{.what = what, .from = least, .to = most}, asked = asked] {
                askOnPiece(params, asked);
            });
    add(shape, tr("What is s&een from here"), "mask_seen", {}, [this] {
        const portrait::Camera &c = m_view->camera();
        onPiece(command::MaskShape{.what = command::MaskedShape::Seen,
                                   .eye = c.eye(),
                                   .target = c.target,
                                   .up = c.up(),
                                   .angle = c.fieldOfView / kRadiansPerDegree,
                                   .aspect = m_view->projection().aspect(),
                                   .isParallel = c.isParallel});
    });
    addNames(shape, tr("What a kept &camera sees"), "mask_seenByCamera", tr("No camera is kept"), keptCameras(),
             command::MaskShape{.what = command::MaskedShape::Seen}, &command::MaskShape::camera);
}

void MainWindow::buildMaskMenu()
{
    QMenu *masks = menuBar()->addMenu(tr("&Masks"));
    const auto simple = [this](auto params) { return [this, params] { onPiece(params); }; };
    add(masks, tr("&Invert mask"), "maskInvert", QKeySequence(tr("Ctrl+I")), simple(command::InvertMask{}));
    add(masks, tr("&Clear mask"), "maskClear", QKeySequence(tr("Ctrl+Shift+I")), simple(command::ClearMask{}));
    add(masks, tr("&Blur mask"), "maskBlur", {}, simple(command::BlurMask{}), When::HasPiece);
    add(masks, tr("Sharpe&n mask"), "maskSharpen", {}, simple(command::SharpenMask{}), When::HasPiece);
    add(masks, tr("Gro&w mask"), "maskGrow", {}, simple(command::GrowMask{}), When::HasPiece);
    add(masks, tr("Shrin&k mask"), "maskShrink", {}, simple(command::GrowMask{.rings = -3}), When::HasPiece);
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
        askOnPiece(command::KeepMask{.name = tr("Mask %1").arg(piece ? piece->skin.masks.size() + 1 : 1).toStdString()},
                   {QStringLiteral("name")});
    });
    addNames(masks, tr("&Take kept mask"), "maskTake", noMask, keptOf, command::RecallMask{}, &command::RecallMask::name);
    addNames(masks, tr("&Add kept mask"), "maskAdd", noMask, keptOf, command::RecallMask{.how = command::MaskCombine::Add},
             &command::RecallMask::name);
    addNames(masks, tr("&Subtract kept mask"), "maskSubtract", noMask, keptOf,
             command::RecallMask{.how = command::MaskCombine::Subtract}, &command::RecallMask::name);
    addNames(masks, tr("&Delete kept mask"), "maskForget", noMask, keptOf, command::ForgetMask{}, &command::ForgetMask::name);
    masks->addSeparator();
    add(masks, tr("&Group of what is masked…"), "groupMake", {}, [this] {
        const document::Piece *piece = m_session.creature().piece(m_session.piece());
        m_groupsShown->trigger();
        askOnPiece(command::MakeGroup{.name = tr("Group %1").arg(piece ? piece->skin.groups.size() + 1 : 1).toStdString()},
                   {QStringLiteral("name")});
    });
    add(masks, tr("Groups of the &islands"), "groupIslands", {}, [this] {
        m_groupsShown->trigger();
        onPiece(command::MakeGroup{.of = command::GroupOf::Islands, .name = tr("Island").toStdString()});
    });
    addNames(masks, tr("Mask of a g&roup"), "groupMask", noGroup, groupsOf, command::MaskGroup{}, &command::MaskGroup::name);
    addNames(masks, tr("Stamp &of a group"), "groupStamp", noGroup, groupsOf, command::HarvestStamp{},
             &command::HarvestStamp::group);
    addNames(masks, tr("&Delete group"), "groupRemove", noGroup, groupsOf, command::RemoveGroup{}, &command::RemoveGroup::name);
    masks->addSeparator();
    add(masks, tr("&Hide what is masked"), "hideMasked", QKeySequence(Qt::Key_U),
        simple(command::HideParts{.what = command::HideWhat::Masked}));
    add(masks, tr("Hide &the rest"), "hideFree", QKeySequence(tr("Shift+U")),
        simple(command::HideParts{.what = command::HideWhat::Free}));
    addNames(masks, tr("Hide grou&p"), "hideGroup", noGroup, groupsOf, command::HideParts{.what = command::HideWhat::Group},
             &command::HideParts::group);
    add(masks, tr("S&wap hidden and shown"), "hideSwap", {}, simple(command::HideParts{.what = command::HideWhat::Swap}),
        When::HasPiece);
    add(masks, tr("Show a&ll of it"), "hideNothing", QKeySequence(tr("Ctrl+Shift+U")),
        simple(command::HideParts{.what = command::HideWhat::Nothing}));
}

} // namespace bonemoss::app
