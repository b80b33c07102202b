#pragma once

#include <QString>

#include <string_view>

namespace bonemoss::app {

/// Words of a table of the core, translated. context: "Command", "Parameter", "Tool", "Growth", "Outgrowth", "View", "Part", "Form" or "Item".
QString tableWords(const char *context, std::string_view words);

/// The title of a step of the history: what the command is called, and what it was about.
QString stepWords(std::string_view title);

} // namespace bonemoss::app
