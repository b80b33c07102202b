// Knitting: what is asked before forms, a piece or several become one skin, or a skin gets finer.
#include "app/benches/bench.h"
#include "app/dialogs/dialogs.h"
#include "app/window/main_window.h"
#include "command/fields.h"
#include "command/skin/piece_fields.h"
#include "field/knit.h"
#include "field/mesh_distance.h"
#include "mesh/measures.h"

#include <nlohmann/json.hpp>

namespace bonemoss::app {

namespace {

command::KnitDensity asGiven(const field::Density &density)
{
    if (density.faces)
        return {.faces = std::uint32_t(density.faces)};
    return {.spacing = density.spacing};
}

} // namespace

void MainWindow::knit()
{
    const auto source = armature::makeDistance(m_session.creature().armature);
    const Box3f box = source->bounds();
    if (box.isEmpty())
        return showMessage(tr("There are no forms to knit yet."), true);
    const Vec3f size = box.size();
    const float longest = std::max({size.x, size.y, size.z});
    const auto density = askDensity(this, tr("Knit forms into a skin"), longest / 200, longest, [&](float h) {
        const auto n = field::forecastFaces(*source, h);
        return n ? *n : std::size_t(0);
    });
    if (!density)
        return;
    if (!m_session.runLong(toCommand(command::KnitForms{.density = asGiven(*density)}), this))
        return;
    m_session.choosePiece(m_session.creature().pieces.back()->id);
    m_session.setBench(benchThat(&BenchRow::holdsTools));
}

void MainWindow::reknit()
{
    const document::Piece *piece = m_session.creature().piece(m_session.piece());
    if (!piece)
        return showMessage(tr("There is no skin to re-knit."), true);
    const mesh::PolyMesh shown = toPolyMesh(piece->skin.shown);
    const Vec3f size = mesh::boundsOf(shown.positions).size();
    const auto density = askDensity(this, tr("Re-knit %1").arg(QString::fromStdString(piece->name)),
                                    field::spacingOf(piece->skin.shown), std::max({size.x, size.y, size.z}), [&](float h) {
                                        const auto n = field::forecastFaces(shown, h);
                                        return n ? *n : std::size_t(0);
                                    });
    if (!density)
        return;
    m_session.runLong(toCommand(command::Reknit{.piece = piece->id, .density = asGiven(*density)}), this);
}

void MainWindow::fuse()
{
    mesh::PolyMesh all;
    for (const auto &p : m_session.creature().pieces)
        if (!p->isHidden)
            mesh::append(all, toPolyMesh(p->skin.shown));
    if (all.isEmpty())
        return showMessage(tr("There are no pieces to fuse."), true);
    const Vec3f size = mesh::boundsOf(all.positions).size();
    const float longest = std::max({size.x, size.y, size.z});
    const auto density = askDensity(this, tr("Fuse pieces"), longest / 220, longest, [&](float h) {
        const auto n = field::forecastFaces(all, h);
        return n ? *n : std::size_t(0);
    });
    if (density)
        m_session.runLong(toCommand(command::KnitPieces{.density = asGiven(*density)}), this);
}

void MainWindow::refine()
{
    if (!m_session.piece())
        return showMessage(tr("There is no skin to refine."), true);
    m_session.runLong(toCommand(command::RefinePiece{.piece = m_session.piece()}), this);
}

} // namespace bonemoss::app
