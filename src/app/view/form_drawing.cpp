// New forms, drawn or set down in the view.
#include "app/view/form_control.h"
#include "app/view/form_params.h"
#include "armature/naming.h"
#include "command/command.h"
#include "command/fields.h"
#include "command/forms/form_fields.h"

#include <nlohmann/json.hpp>

#include <algorithm>

namespace bonemoss::app {

using nlohmann::json;

/// On or inside the form under the pointer, as the hand says; else on the middle plane when it is seen from a flank;
/// else at the depth of the chosen form or of what the camera looks at.
Vec3f FormControl::placeFor(const Projection &view, QPointF at, FormShapes::Hit &hit)
{
    const armature::Armature &a = m_session.creature().armature;
    const armature::Form *f = a.find(m_session.form());
    hit = m_shapes.pick(a, view.rayAt(at));
    if (m_hand.armature().drawDepth() == DrawDepth::Chosen && f)
        return view.onPlane(at, a.worldPlace(*f).translation);
    if (hit.form)
        return m_hand.armature().drawDepth() == DrawDepth::Middle ? hit.middle : hit.point;
    const mesh::Ray ray = view.rayAt(at);
    if (std::abs(view.camera.forward().x) > 0.85f)
        return ray.origin + ray.direction * (-ray.origin.x / ray.direction.x);
    return view.onPlane(at, f ? a.worldPlace(*f).translation : view.camera.target);
}

void FormControl::startNew(const Projection &view, QPointF at)
{
    m_drag = Drag::NewForm;
    m_start = snapped(view, placeFor(view, at, m_startHit), 0);
    m_drawn = {m_start};
}

/// A new form hangs from what it was begun on, else from what is chosen.
command::AddForm FormControl::newForm() const
{
    command::AddForm form{.kind = kindOf(m_hand.armature().formTile())};
    if (const std::uint32_t parent = m_startHit.form ? m_startHit.form : m_session.form())
        form.changes.parent = parent;
    return form;
}

void FormControl::addDrawn(Vec3f point, float mm)
{
    if (length(point - m_drawn.back()) > 14 * mm)
        m_drawn.push_back(point);
}

/// A body's side curves: from a flank the crown line, then the belly line, which makes the body; from crown
/// or belly, with a body chosen, the line of the flank it is drawn on.
void FormControl::drawSide(const Projection &view, Vec3f end)
{
    addDrawn(end, view.mmPerPoint(m_start));
    if (m_drawn.size() < 2)
        return;
    const armature::Form *f = m_session.creature().armature.find(m_session.form());
    const bool fromAbove = std::abs(view.camera.forward().y) > 0.7f;
    if (fromAbove && f && f->kind == armature::FormKind::Body) {
        const Vec3f middle = m_drawn[m_drawn.size() / 2];
        command::SetForm set{.form = f->id};
        (middle.x >= 0 ? set.changes.left : set.changes.right) = m_drawn;
        tryCommand(toCommand(set));
    } else if (m_crownLine.empty()) {
        m_pendingLine = m_drawn; // becomes the crown line when the pen is lifted
    } else {
        command::AddForm form = newForm();
        form.changes.crown = m_crownLine, form.changes.belly = m_drawn;
        tryCommand(toCommand(form));
    }
}

void FormControl::dragNew(const Projection &view, QPointF at)
{
    Vec3f end = view.onPlane(at, m_start);
    const FormTile tile = m_hand.armature().formTile();
    if (tile == FormTile::Limb || tile == FormTile::Cone || tile == FormTile::Cylinder)
        end = snapped(view, end, 0);
    const float size = length(end - m_start), mm = view.mmPerPoint(m_start);
    if (size < 3 * mm)
        return;
    command::AddForm form = newForm();
    command::FormChanges &c = form.changes;
    // Away from the middle plane a form gets its twin at once.
    c.isMirrored = m_hand.isMirrored() && std::abs(m_start.x) > std::max(2.0f, size * 0.3f);
    const auto stick = [&](float from, float to, float least) {
        c.path = {{m_start, std::max(size * from, 0.5f)}, {end, std::max(size * to, least)}};
    };
    switch (tile) {
    case FormTile::Ball:
    case FormTile::Blob: c.at = m_start, c.radius = size; break;
    case FormTile::Ellipsoid: c.at = m_start, c.radii = Vec3f{size * 0.7f, size * 0.7f, size}; break;
    case FormTile::Block: c.at = m_start, c.radii = Vec3f{1, 1, 1} * (size * 0.7f), c.rounding = size * 0.1f; break;
    case FormTile::Torus: c.at = m_start, c.radii = Vec3f{size, size * 0.25f, size}; break;
    case FormTile::Disc: c.at = m_start, c.radii = Vec3f{size, size * 0.15f, size}, c.rounding = size * 0.08f; break;
    case FormTile::Wedge: c.at = m_start, c.radii = Vec3f{size * 0.5f, size * 0.5f, size}, c.rounding = size * 0.06f; break;
    case FormTile::Limb: stick(0.22f, 0.14f, 0.4f); break;
    case FormTile::Cylinder: stick(0.25f, 0.25f, 0.5f), c.rounding = size * 0.03f; break;
    case FormTile::Cone: stick(0.25f, 0, 0); break;
    case FormTile::Turned: {
        addDrawn(end, mm);
        std::vector<armature::PathPoint> path; // radius is the distance from the upright line through the start, in this view
        float widest = 0;
        for (const Vec3f q : m_drawn) {
            const float r = std::abs(dot(q - m_start, view.camera.right()));
            widest = std::max(widest, r);
            path.push_back({{m_start.x, q.y, m_start.z}, r});
        }
        if (path.size() < 3 || widest < 2 * mm)
            return;
        c.at = m_start, c.path = path;
        break;
    }
    case FormTile::Body: return drawSide(view, end);
    case FormTile::Tube: {
        addDrawn(end, mm);
        std::vector<armature::PathPoint> path;
        const std::size_t step = std::max<std::size_t>(1, m_drawn.size() / 10);
        float whole = 0;
        for (std::size_t i = 1; i < m_drawn.size(); ++i)
            whole += length(m_drawn[i] - m_drawn[i - 1]);
        for (std::size_t i = 0; i < m_drawn.size(); i += step)
            path.push_back({m_drawn[i], whole * 0.09f * (1 - 0.6f * float(i) / float(m_drawn.size()))});
        if (path.size() < 2)
            return;
        c.path = path;
        break;
    }
    default: return;
    }
    tryCommand(toCommand(form));
}

/// A press without a drag sets a form down where it met another, standing along the normal and half sunk, with its
/// twin; its size follows what it stands on.
void FormControl::insertAt(const Projection &)
{
    const armature::Armature &a = m_session.creature().armature;
    const armature::Form *under = a.find(m_startHit.form);
    const FormTile tile = m_hand.armature().formTile();
    if (!under || tile == FormTile::Body)
        return;
    const Vec3f half = m_shapes.boxOf(a, *under).size() * 0.5f;
    const float size = std::max(0.3f, 0.3f * std::min({half.x, half.y, half.z}));
    const Vec3f n = m_startHit.normal, at = m_startHit.point;
    command::AddForm form = newForm();
    command::FormChanges &c = form.changes;
    c.isMirrored = m_hand.isMirrored() && std::abs(at.x) > std::max(0.5f, size * 0.3f);
    const auto stand = [&](Vec3f own) { c.at = at, c.turn = toEulerDeg(rotationFromTo(own, n)); };
    switch (tile) {
    case FormTile::Ball:
    case FormTile::Blob: c.at = at, c.radius = size; break;
    case FormTile::Ellipsoid:
    case FormTile::Block:
    case FormTile::Wedge: stand({0, 0, 1}), c.radii = Vec3f{size * 0.7f, size * 0.7f, size}; break;
    case FormTile::Torus: stand({0, 1, 0}), c.radii = Vec3f{size, size * 0.3f, size}; break;
    case FormTile::Disc: stand({0, 1, 0}), c.radii = Vec3f{size, size * 0.2f, size}; break;
    case FormTile::Turned: stand({0, 1, 0}), c.scale = Vec3f{1, 1, 1} * (size / 12); break;
    default: { // along the normal, from as far inside as out
        const float thick = size * 0.5f, tip = tile == FormTile::Cone ? 0 : thick * 0.6f;
        std::vector<armature::PathPoint> path{{at - n * size, thick}, {at + n * size, tip}};
        if (tile == FormTile::Tube)
            path.insert(path.begin() + 1, {at, thick * 0.85f});
        c.path = path;
    }
    }
    finishNew(withName(toCommand(form)));
}

/// A ready part goes on what is under the pointer: feet and hands on the end of a limb, others half sunk along the
/// normal; as thick as what it sits on.
bool FormControl::startPart(const Projection &view, QPointF at)
{
    const armature::Armature &a = m_session.creature().armature;
    const FormShapes::Hit hit = m_shapes.pick(a, view.rayAt(at));
    command::InsertPart c;
    if (m_hand.armature().part().endsWith(QStringLiteral(".json")))
        c.path = m_hand.armature().part().toStdString();
    else
        c.part = m_hand.armature().part().toStdString();
    const armature::Form *under = a.find(hit.form);
    if (under) {
        const Transform world = a.worldPlace(*under);
        const Vec3f half = m_shapes.boxOf(a, *under).size() * 0.5f;
        float radius = std::min({half.x, half.y, half.z});
        Vec3f place = hit.isTwin ? mirrored(hit.point) : hit.point;
        if (hasPath(under->kind) && under->kind != armature::FormKind::Turned) {
            const armature::PathPoint &end = under->path.back();
            const float even = std::min({world.scale.x, world.scale.y, world.scale.z});
            radius = end.radius > 0 ? end.radius * even : radius;
            if (length(world.apply(end.at) - place) < 2.5f * radius)
                place = world.apply(end.at); // the end of a limb: joint on joint
        }
        c.parent = under->id, c.radius = radius, c.at = place;
        c.normal = hit.isTwin ? mirrored(hit.normal) : hit.normal;
        c.isMirrored = under->isMirrored || (m_hand.isMirrored() && std::abs(place.x) > 0.3f * radius);
    } else {
        c.at = view.onPlane(at, view.camera.target);
        c.radius = 0.06f * view.camera.heightAtTarget();
    }
    m_newPart = c;
    if (tryCommand(toCommand(c)))
        m_drag = Drag::NewPart;
    else
        m_session.run(toCommand(c)); // which says why not
    return true;
}

/// Tells a new form's name from where it stands, once it is known where that is.
json FormControl::withName(json command) const
{
    command::CommandContext context;
    if (command.value("do", std::string()) != "form.add")
        return command;
    if (const auto made = command::apply(m_session.creature(), command, context)) {
        const armature::Form *newest = nullptr;
        for (const armature::Form &f : made->armature.forms)
            if (!newest || f.id > newest->id)
                newest = &f;
        command["name"] = proposeName(m_session.creature().armature, *newest, made->armature.worldPlace(*newest));
    }
    return command;
}

void FormControl::finishNew(const json &command)
{
    const std::uint32_t next = m_session.creature().nextId; // of the first form that it makes, a part's root
    if (!m_session.run(command))
        return;
    if (m_session.creature().armature.find(next))
        m_session.chooseForm(next);
    m_hand.armature().setFormTile(FormTile::Choose);
}

} // namespace bonemoss::app
