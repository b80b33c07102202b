#include "app/hand/form_settings.h"

#include "app/hand/colour_button.h"
#include "app/theme/table_words.h"
#include "app/hand/deform_settings.h"
#include "app/hand/form_settings_rows.h"
#include "app/hand/value_slider.h"
#include "app/theme/theme.h"
#include "store/part.h"
#include "command/cages/cage_fields.h"
#include "command/fields.h"
#include "command/forms/form_fields.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QGridLayout>
#include <QDir>
#include <QFileInfo>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QSpinBox>
#include <QVBoxLayout>
#include <QWheelEvent>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <numbers>

namespace bonemoss::app {

using armature::FormKind;
using armature::RepeatMode;
using nlohmann::json;

FormSettings::FormSettings(Session &session, HandModel &hand, QSet<QString> &open)
    : m_session(session), m_hand(hand), m_open(open), m_column(new QVBoxLayout(this))
{
    m_column->setContentsMargins(0, 8, 0, 0);
    m_column->setSpacing(5);
    const armature::Armature &a = session.creature().armature;
    const armature::Form *f = a.find(session.form());
    const document::Cage *cage = session.creature().cage(session.chosen(document::Cage::kKind));
    if (hand.armature().formTile() == FormTile::Cage)
        showNewCage();
    else if (cage && hand.armature().formTile() == FormTile::Choose)
        showCage(*cage);
    else if (hand.armature().formTile() == FormTile::Part)
        showShelf();
    else if (hand.armature().formTile() == FormTile::Tape)
        showTape();
    else if (isForm(hand.armature().formTile()))
        showDrawing();
    else if (session.forms().size() > 1)
        showSeveral();
    else if (f)
        showForm(*f);
}

void FormSettings::showForm(const armature::Form &form)
{
    m_form = form;
    m_world = m_session.creature().armature.worldPlace(form);
    m_column->addWidget(heading(QString::fromStdString(form.name)));
    showNumbers();
    if (hasPath(m_form.kind))
        showCurve();
    showSwitches();
    m_column->addWidget(new DeformSettings(m_session, m_hand));
    showCopies();
    showJoint();
}

void FormSettings::run(json command)
{
    // The panel is rebuilt by it: only after the control that asked for it is done.
    QMetaObject::invokeMethod(
        &m_session, [session = &m_session, command = std::move(command)] { session->run(command); }, Qt::QueuedConnection);
}

void FormSettings::send(command::FormChanges changes)
{
    run(toCommand(command::SetForm{.form = m_form.id, .changes = std::move(changes)}));
}

QGridLayout *FormSettings::addGrid(QBoxLayout *to)
{
    auto *grid = new QGridLayout;
    grid->setHorizontalSpacing(4);
    grid->setVerticalSpacing(4);
    grid->setColumnStretch(4, 1);
    to->addLayout(grid);
    return grid;
}

QVBoxLayout *FormSettings::section(const QString &name, const QString &id)
{
    const bool isOpen = m_open.contains(id);
    auto *word = new QPushButton((isOpen ? QStringLiteral("▾ ") : QStringLiteral("▸ ")) + name);
    word->setObjectName(id);
    word->setProperty("word", true);
    connect(word, &QPushButton::clicked, this, [this, id, isOpen] {
        isOpen ? (void)m_open.remove(id) : (void)m_open.insert(id);
        emit rebuildAsked();
    });
    m_column->addWidget(word, 0, Qt::AlignLeft);
    if (!isOpen)
        return nullptr;
    auto *inside = new QVBoxLayout;
    inside->setSpacing(4);
    m_column->addLayout(inside);
    return inside;
}

QComboBox *FormSettings::choice(QBoxLayout *to, const QString &id, const QString &tip, const QStringList &words, int now)
{
    auto *box = new QComboBox;
    box->setObjectName(id);
    box->setAccessibleName(tip);
    box->setToolTip(tip);
    box->addItems(words);
    box->setCurrentIndex(now);
    box->setEnabled(!m_form.isLocked);
    to->addWidget(box);
    return box;
}

void FormSettings::button(QBoxLayout *to, const QString &id, const QString &word, const QString &tip,
                          const std::function<void()> &act)
{
    auto *b = new QPushButton(word);
    b->setObjectName(id);
    b->setToolTip(tip);
    b->setEnabled(!m_form.isLocked);
    connect(b, &QPushButton::clicked, this, act);
    to->addWidget(b);
}

/// While a form is about to be drawn: where it begins.
void FormSettings::showDrawing()
{
    m_column->addWidget(heading(formTileTitle(m_hand.armature().formTile())));
    auto *words = new QLabel(formTileHint(m_hand.armature().formTile()));
    words->setWordWrap(true);
    words->setProperty("soft", true);
    m_column->addWidget(words);
    QComboBox *depth =
        choice(m_column, QStringLiteral("drawDepth"), tr("How deep it begins over another form"),
               {tr("Begins on the surface"), tr("Begins in the middle of the volume"), tr("Begins at the depth of the chosen")},
               int(m_hand.armature().drawDepth()));
    connect(depth, &QComboBox::activated, this, [this](int i) { m_hand.armature().setDrawDepth(DrawDepth(i)); });
    auto *snaps = new QCheckBox(tr("Snap to planes and joints"));
    snaps->setObjectName(QStringLiteral("snaps"));
    snaps->setToolTip(tr("Middle plane, floor and other joints draw what is dragged; hold Ctrl to be free of them"));
    snaps->setChecked(m_hand.armature().snaps());
    connect(snaps, &QCheckBox::toggled, this, [this](bool on) { m_hand.armature().setSnaps(on); });
    m_column->addWidget(snaps);
}

void FormSettings::showNewCage()
{
    m_column->addWidget(heading(tr("Cage")));
    auto *words = new QLabel(formTileHint(FormTile::Cage));
    words->setWordWrap(true);
    words->setProperty("soft", true);
    m_column->addWidget(words);
    QComboBox *kind = choice(m_column, QStringLiteral("cageKind"), tr("What it begins as"),
                             {tr("Box"), tr("Sheet"), tr("Strip, drawn")}, m_hand.armature().cageKind());
    connect(kind, &QComboBox::activated, this, [this](int i) { m_hand.armature().setCageKind(i); });
}

/// The chosen cage: what is done with its chosen faces, and how smooth it is shown.
void FormSettings::showCage(const document::Cage &cage)
{
    m_column->addWidget(heading(QString::fromStdString(cage.name)));
    auto *told = new QLabel(tr("%1 faces. Click a face, an edge or a point to choose it, Shift adds; drag its handle to move it.")
                                .arg(cage.mesh.faces.size()));
    told->setWordWrap(true);
    told->setProperty("soft", true);
    m_column->addWidget(told);
    const std::uint32_t id = cage.id;
    const auto edit = [this, id](command::FacesEdit what) {
        const auto &faces = m_hand.armature().cageChoice().faces;
        run(toCommand(command::EditFaces{
            .cage = id, .edit = what, .faces = {faces.begin(), faces.end()}, .width = m_hand.armature().cageWidth()}));
    };
    auto *grid = addGrid(m_column);
    int line = 0;
    single(grid, line, tr("Width mm"), QStringLiteral("cageWidth"), double(m_hand.armature().cageWidth()), -1000, 1000,
           [this](double v) { m_hand.armature().setCageWidth(float(v)); });
    single(grid, line, tr("Reach mm"), QStringLiteral("cageReach"), double(m_hand.armature().cageReach()), 0, 1000,
           [this](double v) { m_hand.armature().setCageReach(float(v)); });
    auto *first = new QHBoxLayout;
    button(first, QStringLiteral("cageExtrude"), tr("Extrude"), tr("Draw the chosen faces out by the width"),
           [edit] { edit(command::FacesEdit::Extrude); });
    button(first, QStringLiteral("cageInset"), tr("Inset"), tr("A rim of that width inside them"),
           [edit] { edit(command::FacesEdit::Inset); });
    m_column->addLayout(first);
    auto *second = new QHBoxLayout;
    button(second, QStringLiteral("cageBevel"), tr("Bevel"), tr("Cut the edges around them off"),
           [edit] { edit(command::FacesEdit::Bevel); });
    button(second, QStringLiteral("cageDelete"), tr("Delete"), tr("Delete faces"), [this, edit] {
        edit(command::FacesEdit::Delete);
        m_hand.armature().setCageChoice({}); // those numbers mean other faces afterwards
    });
    m_column->addLayout(second);
    const auto edges = [this, id](command::EdgesEdit what) {
        command::EditEdges c{.cage = id, .edit = what};
        for (const auto &[a, b] : m_hand.armature().cageChoice().edges)
            c.edges.push_back(float(a)), c.edges.push_back(float(b));
        if (what == command::EdgesEdit::Extend)
            c.width = m_hand.armature().cageWidth();
        run(toCommand(c));
    };
    auto *third = new QHBoxLayout;
    button(third, QStringLiteral("cageExtend"), tr("Extend"), tr("Lay new faces on to the chosen open edges"),
           [edges] { edges(command::EdgesEdit::Extend); });
    button(third, QStringLiteral("cageRing"), tr("Ring"), tr("Split the band of faces across the chosen edge"),
           [edges] { edges(command::EdgesEdit::Ring); });
    m_column->addLayout(third);
    const auto showWhatServes = [this] {
        for (const char *name : {"cageExtrude", "cageInset", "cageBevel", "cageDelete"})
            findChild<QPushButton *>(QLatin1String(name))->setEnabled(!m_hand.armature().cageChoice().faces.empty());
        for (const char *name : {"cageExtend", "cageRing"})
            findChild<QPushButton *>(QLatin1String(name))->setEnabled(!m_hand.armature().cageChoice().edges.empty());
    };
    showWhatServes();
    connect(&m_hand, &HandModel::settingsChanged, this, showWhatServes);
    showCageShape(cage);
}

/// How a cage is shown, and what becomes of it.
void FormSettings::showCageShape(const document::Cage &cage)
{
    const std::uint32_t id = cage.id;
    const auto set = [this, id](command::SetCage changes) {
        changes.cage = id;
        run(toCommand(changes));
    };
    auto *row = new QHBoxLayout;
    row->addWidget(soft(tr("Smooth")));
    auto *smooth = new QSpinBox;
    smooth->setObjectName(QStringLiteral("cageSmooth"));
    smooth->setAccessibleName(tr("Catmull-Clark steps it is shown with"));
    smooth->setToolTip(smooth->accessibleName());
    smooth->setRange(0, 4);
    smooth->setValue(cage.smooth);
    connect(smooth, &QSpinBox::valueChanged, this, [set](int n) { set({.smooth = std::uint32_t(n)}); });
    row->addWidget(smooth);
    auto *mirror = new QCheckBox(tr("twin"));
    mirror->setObjectName(QStringLiteral("cageMirror"));
    mirror->setToolTip(tr("A twin across the middle plane; what lies on the plane is shared"));
    mirror->setChecked(cage.isMirrored);
    connect(mirror, &QCheckBox::toggled, this, [set](bool on) { set({.isMirrored = on}); });
    row->addWidget(mirror);
    row->addStretch();
    m_column->addLayout(row);
    auto *last = new QHBoxLayout;
    button(last, QStringLiteral("cagePiece"), tr("Make it a piece"), tr("Its smooth shape becomes a piece to sculpt on"),
           [this, id] { run(toCommand(command::MakePiece{.cage = id})); });
    button(last, QStringLiteral("cageRemove"), tr("Delete"), tr("Delete cage"),
           [this, id] { run(toCommand(command::RemoveCage{.cage = id})); });
    m_column->addLayout(last);
}

/// Ready parts with their pictures: those that came with the program, and those the person saved.
void FormSettings::showShelf()
{
    m_column->addWidget(heading(tr("Ready parts")));
    auto *words = new QLabel(formTileHint(FormTile::Part));
    words->setWordWrap(true);
    words->setProperty("soft", true);
    m_column->addWidget(words);
    auto *list = new QListWidget;
    list->setObjectName(QStringLiteral("partShelf"));
    list->setAccessibleName(tr("Ready parts"));
    list->setViewMode(QListView::IconMode);
    list->setMovement(QListView::Static);
    list->setResizeMode(QListView::Adjust);
    list->setIconSize(QSize(92, 70));
    list->setGridSize(QSize(100, 92));
    list->setWordWrap(true);
    const auto put = [&](const QString &title, const QString &key, const QString &picture) {
        auto *item = new QListWidgetItem(
            QIcon(QFileInfo::exists(picture) ? picture : dataFolder() + QStringLiteral("/icons/part.svg")), title, list);
        item->setData(Qt::UserRole, key);
        item->setTextAlignment(Qt::AlignHCenter);
        if (key == m_hand.armature().part())
            list->setCurrentItem(item);
    };
    for (const store::ShelfEntry &e : store::shippedParts()) {
        const QString name = QString::fromStdString(e.name);
        put(tableWords("Part", e.title), name, dataFolder() + QStringLiteral("/parts/%1.png").arg(name));
    }
    const QDir own(ownPartsFolder());
    for (const QString &file : own.entryList({QStringLiteral("*.part.json")}, QDir::Files, QDir::Name))
        put(file.section(QLatin1Char('.'), 0, 0), own.absoluteFilePath(file), {});
    list->setFixedHeight(92 * int((list->count() + 1) / 2) + 6);
    connect(list, &QListWidget::currentItemChanged, this, [this](QListWidgetItem *item) {
        if (item)
            m_hand.armature().setPart(item->data(Qt::UserRole).toString());
    });
    m_column->addWidget(list);
}

void FormSettings::showTape()
{
    m_column->addWidget(heading(tr("Tape")));
    const QStringList words{tr("Length"), tr("Girth"), tr("Angle")};
    QComboBox *kind = choice(m_column, QStringLiteral("tapeKind"), tr("What is measured"), words, m_hand.armature().tapeKind());
    connect(kind, &QComboBox::activated, this, [this](int i) { m_hand.armature().setTapeKind(i); });
}

void FormSettings::showSeveral()
{
    const std::vector<std::uint32_t> ids = m_session.forms();
    m_column->addWidget(heading(tr("%1 forms").arg(ids.size())));
    const auto set = [this, ids](command::SetForms changes) {
        changes.forms = command::namesOf(ids);
        run(toCommand(changes));
    };
    auto *grid = addGrid(m_column);
    int line = 0;
    triple(grid, line, tr("Move by"), QStringLiteral("moveBy"), {}, -1e5, 1e5,
           [this, ids](Vec3f v) { run(toCommand(command::MoveForms{.forms = command::namesOf(ids), .move = v})); });
    triple(grid, line, tr("Rotation °"), QStringLiteral("turnBy"), {}, -360, 360,
           [this, ids](Vec3f v) { run(toCommand(command::MoveForms{.forms = command::namesOf(ids), .turn = v})); });
    single(grid, line, tr("Scale by"), QStringLiteral("scaleBy"), 1, 0.01, 100,
           [this, ids](double v) { run(toCommand(command::MoveForms{.forms = command::namesOf(ids), .scale = float(v)})); });
    const armature::Form *last = m_session.creature().armature.find(m_session.form());
    single(grid, line, tr("Melt mm"), QStringLiteral("melt"), double(last->melt), 0, 1000,
           [set](double v) { set({.melt = float(v)}); });
    auto *row = new QHBoxLayout;
    button(row, QStringLiteral("groupChosen"), tr("Group"), tr("Group them (Ctrl+G)"),
           [this, ids] { run(toCommand(command::GroupForms{.forms = command::namesOf(ids)})); });
    button(row, QStringLiteral("mirrorChosen"), tr("Mirror"), tr("Each gets a twin across the middle plane"),
           [set] { set({.isMirrored = true}); });
    button(row, QStringLiteral("hideChosen"), tr("Hide"), tr("Neither shown nor knitted"), [set] { set({.isHidden = true}); });
    m_column->addLayout(row);
    m_column->addWidget(new DeformSettings(m_session, m_hand));
}

void FormSettings::showNumbers()
{
    auto *grid = addGrid(m_column);
    int line = 0;
    triple(grid, line, tr("Position"), QStringLiteral("at"), m_world.translation, -1e5, 1e5,
           [this](Vec3f v) { send({.at = v}); });
    triple(grid, line, tr("Rotation °"), QStringLiteral("turn"), toEulerDeg(m_world.rotation), -360, 360,
           [this](Vec3f v) { send({.turn = v}); });
    triple(grid, line, tr("Scale"), QStringLiteral("scale"), m_world.scale, 0.01, 100, [this](Vec3f v) { send({.scale = v}); });
    const auto is = [&](std::initializer_list<FormKind> kinds) {
        return std::find(kinds.begin(), kinds.end(), m_form.kind) != kinds.end();
    };
    using Changes = command::FormChanges;
    const auto one = [&](const QString &name, const char *id, std::optional<float> Changes::*member, float v, double most) {
        single(grid, line, name, QLatin1String(id), double(v), 0, most, [this, member](double x) {
            Changes changes;
            changes.*member = float(x);
            send(std::move(changes));
        });
    };
    const auto radius = [&](const QString &name, const char *id, float value, int which) {
        single(grid, line, name, QLatin1String(id), double(value), 0.01, 10000,
               [this, which](double x) { send({.radii = withPart(m_form.radii, which, x)}); });
    };
    if (is({FormKind::Ball, FormKind::Blob}))
        single(grid, line, tr("Radius"), QStringLiteral("radius"), double(m_form.radii.x), 0.01, 10000,
               [this](double x) { send({.radius = float(x)}); });
    if (is({FormKind::Ellipsoid, FormKind::Block, FormKind::Wedge}))
        triple(grid, line, m_form.kind == FormKind::Ellipsoid ? tr("Radii") : tr("Half size"), QStringLiteral("radii"),
               m_form.radii, 0.01, 10000, [this](Vec3f v) { send({.radii = v}); });
    if (is({FormKind::Torus, FormKind::Disc})) {
        radius(m_form.kind == FormKind::Torus ? tr("Ring") : tr("Rim"), "ring", m_form.radii.x, 0);
        radius(m_form.kind == FormKind::Torus ? tr("Tube") : tr("Half thick"), "tube", m_form.radii.y, 1);
    }
    if (m_form.kind == FormKind::Cylinder)
        one(tr("Bore 0–0.95"), "bore", &Changes::bore, m_form.bore, 0.95);
    if (m_form.kind == FormKind::Body)
        one(tr("Square 0–1"), "square", &Changes::square, m_form.square, 1);
    if (hasPath(m_form.kind))
        showPath(grid, line);
    if (is({FormKind::Block, FormKind::Wedge, FormKind::Disc, FormKind::Cylinder}))
        one(tr("Rounding"), "rounding", &Changes::rounding, m_form.rounding, 10000);
    if (hasShape(m_form.kind))
        one(tr("Melt mm"), "melt", &Changes::melt, m_form.melt, 1000);
}

/// Sections along a path: radius, and for a tube squash and squareness, a row for each point.
void FormSettings::showPath(QGridLayout *grid, int &line)
{
    const bool isTube = m_form.kind == FormKind::Tube;
    grid->addWidget(soft(tr("At point")), line, 0);
    const QString words[] = {tr("radius"), tr("squash"), tr("square")};
    for (int k = 0; k < (isTube ? 3 : 1); ++k)
        grid->addWidget(soft(words[k]), line, 1 + k);
    ++line;
    std::vector<armature::PathPoint> path = m_form.path;
    for (auto &p : path)
        p.at = m_world.apply(p.at);
    for (std::size_t i = 0; i < path.size(); ++i, ++line) {
        grid->addWidget(soft(QString::number(i + 1)), line, 0);
        for (int k = 0; k < (isTube ? 3 : 1); ++k) {
            static const char *const what[] = {"radius", "squash", "square"};
            using Point = armature::PathPoint;
            const auto member = std::array{&Point::radius, &Point::squash, &Point::square}[std::size_t(k)];
            grid->addWidget(number(double(path[i].*member), k == 1 ? 0.05 : 0, k == 2 ? 1 : 10000,
                                   QStringLiteral("%1_%2").arg(QLatin1String(what[k])).arg(i),
                                   tr("%1 at point %2").arg(words[k]).arg(i + 1),
                                   [this, path, i, member](double x) {
                                       auto now = path;
                                       now[i].*member = float(x);
                                       send({.path = std::move(now)});
                                   }),
                            line, 1 + k);
        }
    }
}

void FormSettings::showCurve()
{
    if (m_form.kind != FormKind::Tube && m_form.kind != FormKind::Turned)
        return;
    QVBoxLayout *column = section(tr("Curve"), QStringLiteral("sectionCurve"));
    if (!column)
        return;
    auto *reach = new ValueSlider(tr("Reach of a drag"), {0, 1, false, QStringLiteral("%"), 0, 100});
    reach->setObjectName(QStringLiteral("curveReach"));
    reach->setToolTip(tr("How much of the curve follows a point that is dragged"));
    reach->setValue(double(m_hand.armature().curveReach()));
    connect(reach, &ValueSlider::edited, this, [this](double v) { m_hand.armature().setCurveReach(float(v)); });
    column->addWidget(reach);
    auto *stretch = new QHBoxLayout;
    const int n = int(m_form.path.size());
    const auto end = [&](const char *id, const QString &word, int value) {
        stretch->addWidget(soft(word));
        auto *spin = new QSpinBox;
        spin->setObjectName(QLatin1String(id));
        spin->setAccessibleName(word);
        spin->setRange(1, n);
        spin->setValue(value);
        stretch->addWidget(spin);
        return spin;
    };
    QSpinBox *first = end("curveFirst", tr("points"), 1), *last = end("curveLast", tr("to"), n);
    stretch->addStretch();
    column->addLayout(stretch);
    const auto edit = [this, first, last](command::CurveEdit what) {
        const auto [a, b] = std::minmax({first->value(), last->value()});
        run(toCommand(
            command::EditCurve{.form = m_form.id, .edit = what, .first = std::uint32_t(a - 1), .last = std::uint32_t(b - 1)}));
    };
    auto *shape = new QHBoxLayout;
    button(shape, QStringLiteral("curveRound"), tr("Round"), tr("Take the corners out of the stretch"),
           [edit] { edit(command::CurveEdit::Round); });
    button(shape, QStringLiteral("curveArc"), tr("Arc"), tr("Lay the stretch on a circle"),
           [edit] { edit(command::CurveEdit::Arc); });
    button(shape, QStringLiteral("curveStraight"), tr("Straight"), tr("Lay the stretch on a straight line"),
           [edit] { edit(command::CurveEdit::Straighten); });
    column->addLayout(shape);
    auto *points = new QHBoxLayout;
    const auto atPoint = [this, n](command::CurveEdit what) {
        const auto point = std::uint32_t(std::min(m_hand.armature().curvePoint(), std::size_t(n - 1)));
        run(toCommand(command::EditCurve{.form = m_form.id, .edit = what, .point = point}));
    };
    button(points, QStringLiteral("curveInsert"), tr("Insert"), tr("A new point after the one touched last"),
           [atPoint] { atPoint(command::CurveEdit::Insert); });
    button(points, QStringLiteral("curveRemove"), tr("Delete"), tr("Delete the last point"),
           [atPoint] { atPoint(command::CurveEdit::Remove); });
    column->addLayout(points);
}

void FormSettings::showSwitches()
{
    if (!hasShape(m_form.kind))
        return; // a group only carries
    auto *mirror = new QCheckBox(tr("Twin across the middle plane"));
    mirror->setObjectName(QStringLiteral("mirror"));
    mirror->setChecked(m_form.isMirrored);
    connect(mirror, &QCheckBox::toggled, this, [this](bool on) { send({.isMirrored = on}); });
    m_column->addWidget(mirror);
    auto *row = new QHBoxLayout;
    QComboBox *role =
        choice(row, QStringLiteral("role"), tr("What it does when knitted"),
               {tr("Adds to the skin"), tr("Cuts from the skin"), tr("Stays apart (eyes, teeth)")}, int(m_form.role));
    connect(role, &QComboBox::activated, this, [this](int i) { send({.role = armature::FormRole(i)}); });
    row->addWidget(colourButton(QStringLiteral("formColour"), tr("Colour to tell it apart"),
                                m_form.colour ? QColor(QRgb(m_form.colour)) : QColor("#A99C86"),
                                tr("Colour of %1").arg(QString::fromStdString(m_form.name)),
                                [this](QColor c) { send({.colour = c.name().toStdString()}); }));
    if (m_form.colour)
        button(row, QStringLiteral("formClay"), tr("Clay"), tr("Back to the colour of clay"), [this] { send({.colour = ""}); });
    m_column->addLayout(row);
    if (m_form.link)
        button(m_column, QStringLiteral("partLink"), tr("Part from its linked forms"),
               tr("It shares its shape with others; from then on it goes its own way"), [this] { send({.isLinked = false}); });
}

} // namespace bonemoss::app
