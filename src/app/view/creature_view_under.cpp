// What lies under the pointer: cages, skins, forms, and what a tape goes round.
#include "command/fields.h"
#include "command/marks/mark_fields.h"
#include "command/sculpt/sculpt_fields.h"
#include "app/view/creature_view.h"

#include "command/region.h"

#include <nlohmann/json.hpp>

namespace bonemoss::app {

/// What lies under the pointer on the live skin of the forms, or on the pieces that are shown.
std::optional<mesh::Hit> CreatureView::surfaceUnder(QPointF at)
{
    std::optional<mesh::Hit> best;
    for (const mesh::Surface *s : measured())
        if (const auto hit = mesh::castRay(*s, projection().rayAt(at)); hit && (!best || hit->distance < best->distance))
            best = hit;
    return best;
}

std::optional<Vec3f> CreatureView::placeUnder(QPointF at)
{
    if (showsForms() && !m_showSkin)
        return m_forms.pointUnder(projection(), at);
    const auto hit = surfaceUnder(at);
    return hit ? std::optional(hit->point) : std::nullopt;
}

/// What a tape goes round: the live skin of the forms, or the pieces that are shown.
std::vector<const mesh::Surface *> CreatureView::measured() const
{
    std::vector<const mesh::Surface *> out;
    if (showsForms() && !m_showSkin && m_live.surface())
        out.push_back(m_live.surface());
    else
        for (const auto &p : m_session.standing()->pieces)
            if (!p->isHidden)
                out.push_back(&p->skin.shown);
    return out;
}

std::optional<Vec3f> CreatureView::restUnder(QPointF at) const
{
    const auto standing = m_session.standing();
    const document::Piece *piece = standing->piece(m_session.piece());
    if (!piece || piece->isHidden)
        return {};
    const auto hit = mesh::castRay(piece->skin.shown, projection().rayAt(at));
    return hit ? std::optional(hit->point) : std::nullopt;
}

/// Masks what the stencil covers, or presses it into the layer in hand.
void CreatureView::useStencil(bool isPress)
{
    const auto stencil = m_stencil.held(projection());
    if (!stencil || !m_session.piece())
        return;
    const auto params = command::stencilParams(*stencil);
    m_session.runLong(isPress ? toCommand(command::PressStencil{.piece = m_session.piece(),
                                                                .layer = m_session.layer(),
                                                                .depth = m_hand.settings(sculpt::Tool::Stamp).depth,
                                                                .stencil = params})
                              : toCommand(command::MaskPicture{
                                  .piece = m_session.piece(), .how = command::MaskCombine::Add, .stencil = params}),
                      this);
}

} // namespace bonemoss::app
