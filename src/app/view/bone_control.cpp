#include "app/view/bone_control.h"

#include "app/benches/bench.h"
#include "app/theme/theme.h"
#include "command/fields.h"
#include "command/outgrowths/outgrowth_fields.h"
#include "command/pose/bone_fields.h"
#include "document/ops/outgrowths.h"

#include <QKeyEvent>
#include <QPainter>
#include <QWidget>
#include <nlohmann/json.hpp>

#include <algorithm>

namespace bonemoss::app {

using nlohmann::json;

namespace {

constexpr double kGrip = 10; ///< points: how near a press is to a joint it takes

} // namespace

bool BoneControl::isOn(PoseTool tool) const
{
    return rowOf(m_session.bench()).poses && !held().holdsBrush() && held().tool() == tool;
}

std::optional<std::size_t> BoneControl::landmarkAt(const Projection &view, QPointF at) const
{
    std::optional<std::size_t> best;
    double least = kGrip * kGrip;
    const auto &marks = held().landmarks();
    for (std::size_t k = 0; k < marks.size(); ++k) {
        const QPointF d = view.toScreen(marks[k].at) - at;
        if (const double far = QPointF::dotProduct(d, d); far < least)
            least = far, best = k;
    }
    return best;
}

ViewControl::Press BoneControl::press(const Pointer &pointer)
{
    if (!pointer.held.isNone() || (!isOn(PoseTool::Bones) && !isOn(PoseTool::Place)))
        return Press::NotMine;
    const auto hit = pointer.skin();
    if (isOn(PoseTool::Place)) {
        if (!hit || !held().placed())
            return Press::Camera;
        m_line = {hit->point};
        return Press::Mine;
    }
    if (!held().landmarks().empty()) {
        m_dragged = landmarkAt(pointer.view, pointer.at);
        return m_dragged ? Press::Mine : Press::Camera;
    }
    if (!hit)
        return Press::Camera;
    const auto middle = middleOf(m_session.creature(), hit->point);
    held().addJoint(middle ? middle->at : hit->point);
    return Press::Mine;
}

void BoneControl::drag(const Pointer &pointer)
{
    if (m_dragged && *m_dragged < held().landmarks().size()) {
        const document::Landmark &mark = held().landmarks()[*m_dragged];
        Vec3f at = pointer.view.onPlane(pointer.at, mark.at);
        if (!mark.isMirrored)
            at.x = mark.at.x; // the middle line stays one
        held().moveLandmark(*m_dragged, at);
    }
    const auto hit = m_line.empty() ? std::nullopt : pointer.skin();
    if (hit && length(hit->point - m_line.back()) > 0.5f)
        m_line.push_back(hit->point);
}

void BoneControl::release(const Pointer &)
{
    m_dragged.reset();
    if (!m_line.empty())
        placeOutgrowth();
    m_line.clear();
}

void BoneControl::placeOutgrowth()
{
    const outgrowth::Kind &kind = *held().placed();
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    if (!piece)
        return;
    json command = command::outgrowCommand(piece->id, 0, outgrowthOf(kind, document::usualSizeOn(*piece)));
    const auto row = [](Vec3f p) { return json{p.x, p.y, p.z}; };
    if (kind.rooting == outgrowth::Rooting::Line) {
        if (m_line.size() < 2)
            return m_session.complain(tr("%1 stands along a line: drag over the skin.")
                                          .arg(QString::fromUtf8(kind.title.data(), qsizetype(kind.title.size()))));
        json points = json::array();
        constexpr std::size_t kMost = 60;
        const std::size_t n = std::min(kMost, m_line.size());
        for (std::size_t k = 0; k < n; ++k)
            points.push_back(row(m_line[k * (m_line.size() - 1) / (n - 1)]));
        command["points"] = std::move(points);
    } else {
        command["at"] = row(m_line.front());
    }
    command["posed"] = true;
    m_session.runLong(command, m_view);
}

void BoneControl::cancel()
{
    m_line.clear(), m_dragged.reset();
    if (isOn(PoseTool::Bones))
        held().dropJoints();
}

bool BoneControl::key(int key)
{
    if (!isOn(PoseTool::Bones))
        return false;
    if ((key == Qt::Key_Return || key == Qt::Key_Enter) && held().canMakeBones()) {
        m_session.runLong(held().bonesCommand(), m_view);
        held().dropJoints();
        return true;
    }
    if (key == Qt::Key_Backspace && !held().joints().empty()) {
        held().dropLastJoint();
        return true;
    }
    return false;
}

void BoneControl::paintOn(QPainter &p, const Projection &view, const QString &)
{
    p.setRenderHint(QPainter::Antialiasing);
    const auto knot = [&](QPointF at, const QColor &ink, double r) {
        p.setPen(QPen(theme().field, 1.5));
        p.setBrush(ink);
        p.drawEllipse(at, r, r);
    };
    if (isOn(PoseTool::Bones)) {
        const auto &joints = held().joints();
        for (std::size_t k = 1; k < joints.size(); ++k) {
            p.setPen(QPen(theme().moss, 2));
            p.drawLine(view.toScreen(joints[k - 1]), view.toScreen(joints[k]));
        }
        for (const Vec3f j : joints)
            knot(view.toScreen(j), theme().moss, 5);
        const auto &marks = held().landmarks();
        for (const document::Landmark &m : marks)
            if (m.parent < marks.size()) {
                p.setPen(QPen(theme().moss, m.bone.empty() ? 1 : 2, m.bone.empty() ? Qt::DotLine : Qt::SolidLine));
                p.drawLine(view.toScreen(marks[m.parent].at), view.toScreen(m.at));
                if (!m.isMirrored)
                    continue;
                QColor soft = theme().moss;
                soft.setAlpha(90);
                p.setPen(QPen(soft, 1.4, m.bone.empty() ? Qt::DotLine : Qt::SolidLine));
                const Vec3f from = marks[m.parent].isMirrored ? mirrored(marks[m.parent].at) : marks[m.parent].at;
                p.drawLine(view.toScreen(from), view.toScreen(mirrored(m.at)));
            }
        for (std::size_t k = 0; k < marks.size(); ++k) {
            const QPointF at = view.toScreen(marks[k].at);
            knot(at, m_dragged == k ? theme().rust : theme().moss, 5);
            p.setPen(theme().ink);
            p.drawText(at + QPointF(8, -5), QString::fromStdString(marks[k].name));
        }
    }
    if (isOn(PoseTool::Place) && m_line.size() > 1) {
        p.setPen(QPen(theme().moss, 2));
        for (std::size_t k = 1; k < m_line.size(); ++k)
            p.drawLine(view.toScreen(m_line[k - 1]), view.toScreen(m_line[k]));
    }
}

QString BoneControl::hintFor(const HeldKeys &) const
{
    if (isOn(PoseTool::Place))
        return tr("Place · press on the creature as it stands; along a line: drag");
    if (!isOn(PoseTool::Bones))
        return {};
    if (!held().landmarks().empty())
        return tr("Bones · drag the joints to their places, then make the skeleton");
    return held().joints().empty()
               ? tr("Bones · press on the skin from joint to joint: each goes to the middle of the flesh")
               : tr("Bones · press for the next joint; Enter makes the bones, Backspace takes the last joint away");
}

const ControlRow kBoneControl{[](const ControlHost &host) -> std::unique_ptr<ViewControl> {
    return std::make_unique<BoneControl>(host.session, host.hand, host.view);
}};

} // namespace bonemoss::app
