#pragma once

#include "base/progress.h"
#include "document/creature.h"
#include "export/canvas.h"
#include "proof/proof.h"

namespace bonemoss::exporting {

/// How pictures of a print sheet are made.
struct PrintSheetOptions {
    int samples = 16;
    std::uint64_t seed = 1;
};

/// One page for whoever prints it: three views with sizes, parts, material, printer, how it stands, and the findings that are left. A4,
/// upright. Errors: those of plateOf.
Result<Page> printSheet(const document::Creature &creature, const proof::PrinterProfile &profile, const proof::Report &report,
                        const PrintSheetOptions &options = {}, const Progress &progress = {});

} // namespace bonemoss::exporting
