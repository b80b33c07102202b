#pragma once

#include <string_view>

struct _cairo_font_face;

namespace bonemoss::exporting {

/// Our own lettering: skeletons of letters followed by a broad pen that is held at 30 degrees. Latin letters with their accents,
/// figures and what is set between them; a box for what it has not. Made once, never freed.
_cairo_font_face *lettering();
/// Whether it has a letter.
bool hasLetter(char32_t letter);

} // namespace bonemoss::exporting
