#include "app/hand/armature_hand.h"

namespace bonemoss::app {

void ArmatureHand::setFormTile(FormTile tile)
{
    m_formTile = tile;
    emit tileChanged();
}

QString formTileTitle(FormTile tile)
{
    static const char *const names[] = {QT_TR_NOOP("Choose"), QT_TR_NOOP("Ball"), QT_TR_NOOP("Ellipsoid"), QT_TR_NOOP("Limb"),
                                        QT_TR_NOOP("Block"),  QT_TR_NOOP("Cone"), QT_TR_NOOP("Tube"),      QT_TR_NOOP("Cylinder"),
                                        QT_TR_NOOP("Torus"),  QT_TR_NOOP("Disc"), QT_TR_NOOP("Wedge"),     QT_TR_NOOP("Turned"),
                                        QT_TR_NOOP("Body"),   QT_TR_NOOP("Blob"), QT_TR_NOOP("Cage"),      QT_TR_NOOP("Part"),
                                        QT_TR_NOOP("Tape")};
    return ArmatureHand::tr(names[std::size_t(tile)]);
}

QString formTileHint(FormTile tile)
{
    switch (tile) {
    case FormTile::Choose:
        return ArmatureHand::tr("Click a form to choose it; drag its handles to move, rotate and scale it; Shift adds");
    case FormTile::Cage: return ArmatureHand::tr("Drag out a hard-edged cage, or draw a strip over what is there");
    case FormTile::Part: return ArmatureHand::tr("Click where a ready part shall sit; drag sideways to size it");
    case FormTile::Tape: return ArmatureHand::tr("Measures a length, a girth or an angle");
    case FormTile::Limb: return ArmatureHand::tr("Drag from joint to end to draw a limb");
    case FormTile::Cone: return ArmatureHand::tr("Drag from base to tip to draw a cone");
    case FormTile::Tube: return ArmatureHand::tr("Draw a path to make a tube along it");
    case FormTile::Cylinder: return ArmatureHand::tr("Drag from end to end to draw a cylinder");
    case FormTile::Turned: return ArmatureHand::tr("Draw a profile beginning on its upright axis; it is turned about that axis");
    case FormTile::Body:
        return ArmatureHand::tr("Draw the crown line, then the belly line, from a flank; later the left line from the crown");
    default: return ArmatureHand::tr("Press at the middle and drag out to the size; a click on a form sets it down there");
    }
}

} // namespace bonemoss::app
