#pragma once

#include "base/result.h"
#include "image/picture.h"

#include <array>
#include <filesystem>
#include <functional>
#include <span>
#include <string>
#include <vector>

struct _cairo;

namespace bonemoss::exporting {

/// A place on a page, mm to the right of and below its upper left corner.
struct PagePoint {
    float x = 0, y = 0;
};
using Outline = std::vector<PagePoint>;

/// How words are set.
struct Words {
    float size = 4; ///< mm: of the em, in which capitals are 0.68 high
    Vec3f colour;   ///< sRGB, 0 to 1
    bool isItalic = false;
    float anchor = 0; ///< share of their width that lies left of the point: 0 begins there, 0.5 is centred
};

/// Draws on a page, in millimetres, with our own lettering.
class Canvas
{
public:
    explicit Canvas(_cairo *cairo) : m_cairo(cairo) {}

    void box(PagePoint corner, float width, float height, Vec3f colour);
    void line(const Outline &points, float width, Vec3f colour, bool isClosed = false);
    void circle(PagePoint centre, float radius, float width, Vec3f colour);
    void dot(PagePoint centre, float radius, Vec3f colour);
    /// What lies within an odd number of outlines.
    void fill(std::span<const Outline> outlines, Vec3f colour);
    /// A picture with its upper left corner there, in the shape it has; isRound: the circle in its middle.
    void picture(PagePoint corner, float width, const image::ColourPicture &picture, bool isRound = false);
    /// y: the line that letters stand on. UTF-8.
    void words(PagePoint at, const std::string &text, const Words &how);
    float widthOf(const std::string &text, const Words &how);
    /// Lines that are no wider, broken between words.
    std::vector<std::string> wrapped(const std::string &text, const Words &how, float width);

private:
    void setFont(const Words &how);
    void setColour(Vec3f colour);
    _cairo *m_cairo;
};

/// A page and what draws it.
struct Page {
    float width = 210, height = 297; ///< mm
    std::function<void(Canvas &)> draw;
};

/// The page as pixels.
Result<image::ColourPicture> rasterized(const Page &page, float dpi);
/// Whether pages can be written to such a file. Error: Unsupported.
Status isPageFile(const std::filesystem::path &path);
/// PDF with all pages, its words as text; or PNG, of the first one. title: of the document. Errors: Unsupported, Unwritable, TooLarge.
Status writePages(const std::filesystem::path &path, std::span<const Page> pages, const std::string &title, float dpi);

} // namespace bonemoss::exporting
