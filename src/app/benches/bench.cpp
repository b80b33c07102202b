#include "app/benches/bench.h"

#include "app/hand/colour_pages.h"
#include "app/hand/form_settings.h"
#include "app/hand/growth_settings.h"
#include "app/hand/outgrowth_settings.h"
#include "app/hand/portrait_settings.h"
#include "app/hand/pose_settings.h"
#include "app/hand/proof_settings.h"
#include "app/hand/rule_settings.h"
#include "app/hand/tool_settings.h"
#include "app/session/session.h"
#include "app/view/bone_control.h"
#include "app/view/cage_control.h"
#include "app/view/colour_control.h"
#include "app/view/curve_control.h"
#include "app/view/deform_control.h"
#include "app/view/guide_control.h"
#include "app/view/harvest_control.h"
#include "app/view/light_control.h"
#include "app/view/outgrowth_control.h"
#include "app/view/outgrowth_gesture.h"
#include "app/view/photo_control.h"
#include "app/view/pose_control.h"
#include "app/view/proof_control.h"
#include "app/view/reference_control.h"
#include "app/view/stencil_control.h"
#include "app/view/tape_control.h"
#include "app/view/trim_control.h"
#include "armature/form.h"
#include "document/cage.h"
#include "mesh/poly_mesh.h"
#include "outgrowth/outgrowth.h"
#include "command/cages/cage_fields.h"
#include "command/colours/colour_fields.h"
#include "command/fields.h"
#include "command/forms/form_fields.h"
#include "command/outgrowths/outgrowth_fields.h"
#include "command/layers/layer_fields.h"
#include "command/skin/piece_fields.h"

#include <QCoreApplication>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cassert>
#include <vector>

namespace bonemoss::app {

namespace {

using nlohmann::json;

json deletedForms(const Session &s)
{
    if (s.chosen(document::Cage::kKind))
        return toCommand(command::RemoveCage{.cage = s.chosen(document::Cage::kKind)});
    return s.form() ? toCommand(command::RemoveForms{.forms = command::namesOf(s.forms())}) : json();
}

json deletedPiece(const Session &s)
{
    return s.piece() ? toCommand(command::RemovePiece{.piece = s.piece()}) : json();
}

json deletedLayer(const Session &s)
{
    return s.layer() ? toCommand(command::RemoveLayer{.piece = s.piece(), .layer = s.layer()}) : deletedPiece(s);
}

json deletedOutgrowth(const Session &s)
{
    return s.chosen(outgrowth::Outgrowth::kKind)
               ? toCommand(command::RemoveOutgrowth{.outgrowth = s.chosen(outgrowth::Outgrowth::kKind)})
               : json();
}

json duplicatedForm(const Session &s, bool isLinked)
{
    if (!s.form())
        return nullptr;
    return toCommand(command::DuplicateForm{.form = s.form(), .move = Vec3f{10, 0, 0}, .isLinked = isLinked});
}

json duplicatedLayer(const Session &s, bool isLinked)
{
    return s.layer() && !isLinked ? toCommand(command::DuplicateLayer{.piece = s.piece(), .layer = s.layer()}) : json();
}

Box3f framedForms(const Session &s)
{
    const document::Creature &c = s.creature();
    Box3f box;
    std::vector<std::uint32_t> ids;
    for (const std::uint32_t id : s.forms())
        for (const std::uint32_t b : c.armature.branch(id))
            if (hasShape(c.armature.find(b)->kind))
                ids.push_back(b);
    if (!ids.empty())
        box = armature::makeDistance(c.armature, ids)->bounds();
    if (const document::Cage *cage = c.cage(s.chosen(document::Cage::kKind)))
        box.add(mesh::boundsOf(document::shownCage(*cage).positions));
    return box;
}

json deletedColourLayer(const Session &s)
{
    if (!s.hasChosenHere() || !s.colourLayer())
        return {};
    return toCommand(command::RemoveColourLayer{.piece = s.piece(), .layer = s.colourLayer()});
}

json duplicatedColourLayer(const Session &s, bool isLinked)
{
    if (isLinked || !s.colourLayer())
        return {};
    return toCommand(command::DuplicateColourLayer{.piece = s.piece(), .layer = s.colourLayer()});
}

Box3f framedPiece(const Session &s)
{
    const document::Piece *piece = s.creature().piece(s.piece());
    return piece ? piece->skin.shown.box() : Box3f{};
}

Box3f framedOutgrowth(const Session &s)
{
    const outgrowth::Outgrowth *o = s.creature().outgrowth(s.chosen(outgrowth::Outgrowth::kKind));
    return o ? o->bounds() : Box3f{};
}

using sculpt::Tool;

/// All that shape the skin; prints are of the Detail bench.
const std::vector<Tool> &shapingTools()
{
    static const std::vector<Tool> all = [] {
        std::vector<Tool> out;
        for (const sculpt::ToolRow &row : sculpt::tools())
            if (row.group != sculpt::ToolGroup::Print && !row.paints)
                out.push_back(row.tool);
        return out;
    }();
    return all;
}
constexpr Tool kDetailTools[] = {Tool::Stamp, Tool::Crease,  Tool::Raise,  Tool::Swell,
                                 Tool::Slab,  Tool::Restore, Tool::Smooth, Tool::Mask};

constexpr Tool kColourTools[] = {Tool::Paint, Tool::Spray, Tool::Smear, Tool::Soften, Tool::Wipe, Tool::Mask};

const ControlRow *const kFormControls[] = {&kTrimControl, &kDeformControl, &kReferenceControl,
                                           &kCageControl, &kTapeControl,   &kFormControl};
const ControlRow *const kSkinControls[] = {&kTrimControl,    &kDeformControl, &kReferenceControl, &kHarvestControl,
                                           &kStencilControl, &kGuideControl,  &kCurveControl,     &kStrokeControl};
const ControlRow *const kColourControls[] = {&kReferenceControl, &kPhotoControl, &kColourControl,
                                             &kStencilControl,   &kCurveControl, &kStrokeControl};
const ControlRow *const kOutgrowthControls[] = {&kReferenceControl, &kGuideControl, &kOutgrowthGesture, &kOutgrowthControl};

const HandPart *const kFormHand[] = {&kFormPart};
const HandPart *const kToolHand[] = {&kToolPart};
const HandPart *const kDetailHand[] = {&kToolPart, &kGrowthPart};
const HandPart *const kColourHand[] = {&kToolPart, &kColourPagePart, &kRulePart};
const ControlRow *const kPoseControls[] = {&kReferenceControl, &kBoneControl, &kPoseControl, &kStrokeControl};
constexpr Tool kPoseTools[] = {Tool::Raise, Tool::Smooth, Tool::Swell, Tool::Knead, Tool::Paint, Tool::Mask};

const HandPart *const kPoseHand[] = {&kPosePart, &kToolPart};
const HandPart *const kOutgrowthHand[] = {&kOutgrowthPart};
const HandPart *const kPortraitHand[] = {&kPortraitPart};
const ControlRow *const kPortraitControls[] = {&kLightControl};
const HandPart *const kProofHand[] = {&kProofPart};
const ControlRow *const kProofControls[] = {&kProofControl};

const std::vector<BenchRow> &rows()
{
    static const std::vector<BenchRow> all{
        {.bench = Bench::Armature,
         .id = "armature",
         .title = QT_TRANSLATE_NOOP("Bench", "Armature"),
         .manual = "armature",
         .showsForms = true,
         .hasPlan = true,
         .tileColumns = 3,
         .hand = kFormHand,
         .controls = kFormControls,
         .deletion = deletedForms,
         .duplication = duplicatedForm,
         .framed = framedForms},
        {.bench = Bench::Sculpt,
         .id = "sculpt",
         .title = QT_TRANSLATE_NOOP("Bench", "Sculpt"),
         .manual = "sculpt",
         .hasLayers = true,
         .holdsTools = true,
         .deforms = true,
         .hand = kToolHand,
         .tools = shapingTools(),
         .controls = kSkinControls,
         .deletion = deletedPiece,
         .duplication = duplicatedLayer,
         .framed = framedPiece},
        {.bench = Bench::Detail,
         .id = "detail",
         .title = QT_TRANSLATE_NOOP("Bench", "Detail"),
         .manual = "detail",
         .hasLayers = true,
         .holdsTools = true,
         .grows = true,
         .solosLayers = true,
         .hand = kDetailHand,
         .tools = kDetailTools,
         .oneGroup = QT_TRANSLATE_NOOP("Bench", "By hand"),
         .controls = kSkinControls,
         .first = Tool::Stamp,
         .deletion = deletedLayer,
         .duplication = duplicatedLayer,
         .framed = framedPiece},
        {.bench = Bench::Outgrowths,
         .id = "outgrowths",
         .title = QT_TRANSLATE_NOOP("Bench", "Outgrowths"),
         .manual = "outgrowths",
         .hand = kOutgrowthHand,
         .controls = kOutgrowthControls,
         .deletion = deletedOutgrowth,
         .duplication = [](const Session &, bool) { return json(); },
         .framed = framedOutgrowth},
        {.bench = Bench::Colour,
         .id = "colour",
         .title = QT_TRANSLATE_NOOP("Bench", "Colour"),
         .manual = "colour",
         .hasColours = true,
         .holdsTools = true,
         .foldsGroups = true,
         .hand = kColourHand,
         .tools = kColourTools,
         .oneGroup = QT_TRANSLATE_NOOP("Bench", "By hand"),
         .controls = kColourControls,
         .first = Tool::Paint,
         .deletion = deletedColourLayer,
         .duplication = duplicatedColourLayer,
         .framed = framedPiece},
        {.bench = Bench::Pose,
         .id = "pose",
         .title = QT_TRANSLATE_NOOP("Bench", "Pose"),
         .manual = "pose",
         .poses = true,
         .isPosed = true,
         .holdsTools = true,
         .strokes = [](const HandModel &hand) { return hand.of<PoseHand>().strokes(); },
         .hand = kPoseHand,
         .tools = kPoseTools,
         .oneGroup = QT_TRANSLATE_NOOP("Bench", "Work in the pose"),
         .controls = kPoseControls,
         .deletion = [](const Session &) { return json(); },
         .duplication = [](const Session &, bool) { return json(); }},
        {.bench = Bench::Portrait,
         .id = "portrait",
         .title = QT_TRANSLATE_NOOP("Bench", "Portrait"),
         .manual = "portrait",
         .isPosed = true,
         .portrays = true,
         .tileColumns = 3,
         .hand = kPortraitHand,
         .controls = kPortraitControls,
         .deletion = [](const Session &) { return json(); },
         .duplication = [](const Session &, bool) { return json(); }},
        {.bench = Bench::Proof,
         .id = "proof",
         .title = QT_TRANSLATE_NOOP("Bench", "Proof"),
         .manual = "proof",
         .isPosed = true,
         .tileColumns = 3,
         .hand = kProofHand,
         .controls = kProofControls,
         .deletion = [](const Session &) { return json(); },
         .duplication = [](const Session &, bool) { return json(); }},
    };
    return all;
}

} // namespace

std::span<const BenchRow> benches()
{
    return rows();
}

const BenchRow &rowOf(Bench bench)
{
    assert(rows()[std::size_t(bench)].bench == bench);
    return rows()[std::size_t(bench)];
}

Bench benchThat(bool BenchRow::*is)
{
    return std::find_if(rows().begin(), rows().end(), [is](const BenchRow &row) { return row.*is; })->bench;
}

Bench benchFor(const Session &session)
{
    return session.creature().pieces.empty() ? rows().front().bench : benchThat(&BenchRow::holdsTools);
}

QString benchTitle(const BenchRow &row)
{
    return QCoreApplication::translate("Bench", row.title);
}

} // namespace bonemoss::app
