#include "export/canvas.h"

#include "base/files.h"
#include "base/types.h"
#include "export/lettering.h"

#include <cairo-pdf.h>
#include <cairo.h>

#include <algorithm>
#include <cmath>
#include <memory>

namespace bonemoss::exporting {

namespace {

struct Free {
    void operator()(cairo_surface_t *s) const { cairo_surface_destroy(s); }
    void operator()(cairo_t *c) const { cairo_destroy(c); }
};
using SurfacePtr = std::unique_ptr<cairo_surface_t, Free>;
using CairoPtr = std::unique_ptr<cairo_t, Free>;

constexpr int kMostSide = 20000;

/// A picture as the library has it: four bytes in one number, colours times alpha.
SurfacePtr surfaceOf(const image::ColourPicture &p)
{
    SurfacePtr out(cairo_image_surface_create(CAIRO_FORMAT_ARGB32, p.width, p.height));
    unsigned char *to = cairo_image_surface_get_data(out.get());
    if (!to)
        return out;
    const int stride = cairo_image_surface_get_stride(out.get());
    for (int y = 0; y < p.height; ++y)
        for (int x = 0; x < p.width; ++x) {
            const std::uint8_t *c = &p.rgba[(std::size_t(y) * std::size_t(p.width) + std::size_t(x)) * 4];
            const unsigned a = c[3];
            const auto times = [a](unsigned v) { return (v * a + 127) / 255; };
            const std::uint32_t pixel = (a << 24) | (times(c[0]) << 16) | (times(c[1]) << 8) | times(c[2]);
            std::copy_n(reinterpret_cast<const unsigned char *>(&pixel), 4,
                        to + std::ptrdiff_t(y) * stride + std::ptrdiff_t(x) * 4);
        }
    cairo_surface_mark_dirty(out.get());
    return out;
}

cairo_status_t append(void *bytes, const unsigned char *data, unsigned length)
{
    static_cast<std::string *>(bytes)->append(reinterpret_cast<const char *>(data), length);
    return CAIRO_STATUS_SUCCESS;
}

} // namespace

void Canvas::setColour(Vec3f c)
{
    cairo_set_source_rgb(m_cairo, double(c.x), double(c.y), double(c.z));
}

void Canvas::box(PagePoint p, float width, float height, Vec3f colour)
{
    setColour(colour);
    cairo_rectangle(m_cairo, double(p.x), double(p.y), double(width), double(height));
    cairo_fill(m_cairo);
}

void Canvas::line(const Outline &points, float width, Vec3f colour, bool isClosed)
{
    setColour(colour);
    cairo_set_line_width(m_cairo, double(width));
    cairo_set_line_join(m_cairo, CAIRO_LINE_JOIN_MITER);
    for (const PagePoint p : points)
        cairo_line_to(m_cairo, double(p.x), double(p.y));
    if (isClosed)
        cairo_close_path(m_cairo);
    cairo_stroke(m_cairo);
}

void Canvas::circle(PagePoint p, float radius, float width, Vec3f colour)
{
    setColour(colour);
    cairo_set_line_width(m_cairo, double(width));
    cairo_new_sub_path(m_cairo);
    cairo_arc(m_cairo, double(p.x), double(p.y), double(radius), 0, 2 * double(kPi));
    cairo_stroke(m_cairo);
}

void Canvas::dot(PagePoint p, float radius, Vec3f colour)
{
    setColour(colour);
    cairo_arc(m_cairo, double(p.x), double(p.y), double(radius), 0, 2 * double(kPi));
    cairo_fill(m_cairo);
}

void Canvas::fill(std::span<const Outline> outlines, Vec3f colour)
{
    setColour(colour);
    cairo_set_fill_rule(m_cairo, CAIRO_FILL_RULE_EVEN_ODD);
    for (const Outline &o : outlines) {
        cairo_new_sub_path(m_cairo);
        for (const PagePoint p : o)
            cairo_line_to(m_cairo, double(p.x), double(p.y));
        cairo_close_path(m_cairo);
    }
    cairo_fill(m_cairo);
}

void Canvas::picture(PagePoint p, float width, const image::ColourPicture &picture, bool isRound)
{
    if (picture.width < 1 || picture.height < 1)
        return;
    const SurfacePtr surface = surfaceOf(picture);
    const double scale = double(width) / picture.width;
    cairo_save(m_cairo);
    cairo_translate(m_cairo, double(p.x), double(p.y));
    if (isRound) {
        const double r = scale * std::min(picture.width, picture.height) / 2;
        cairo_arc(m_cairo, scale * picture.width / 2, scale * picture.height / 2, r, 0, 2 * double(kPi));
        cairo_clip(m_cairo);
    }
    cairo_scale(m_cairo, scale, scale);
    cairo_set_source_surface(m_cairo, surface.get(), 0, 0);
    cairo_pattern_set_filter(cairo_get_source(m_cairo), CAIRO_FILTER_GOOD);
    cairo_paint(m_cairo);
    cairo_restore(m_cairo);
}

void Canvas::setFont(const Words &how)
{
    cairo_set_font_face(m_cairo, lettering());
    const double size = double(how.size), slant = how.isItalic ? -0.21 * size : 0;
    const cairo_matrix_t m{size, 0, slant, size, 0, 0}; // y goes down, so that letters lean to the right
    cairo_set_font_matrix(m_cairo, &m);
}

void Canvas::words(PagePoint at, const std::string &text, const Words &how)
{
    setFont(how);
    setColour(how.colour);
    cairo_move_to(m_cairo, double(at.x - how.anchor * widthOf(text, how)), double(at.y));
    cairo_show_text(m_cairo, text.c_str());
    cairo_new_path(m_cairo);
}

float Canvas::widthOf(const std::string &text, const Words &how)
{
    setFont(how);
    cairo_text_extents_t e;
    cairo_text_extents(m_cairo, text.c_str(), &e);
    return float(e.x_advance);
}

std::vector<std::string> Canvas::wrapped(const std::string &text, const Words &how, float width)
{
    std::vector<std::string> out;
    std::string line;
    for (std::size_t at = 0; at <= text.size();) {
        const std::size_t end = std::min(text.find_first_of(" \n", at), text.size());
        const std::string word = text.substr(at, end - at), longer = line.empty() ? word : line + " " + word;
        if (!line.empty() && widthOf(longer, how) > width)
            out.push_back(std::move(line)), line = word;
        else
            line = longer;
        if (end < text.size() && text[end] == '\n')
            out.push_back(std::move(line)), line.clear();
        at = end + 1;
    }
    if (!line.empty())
        out.push_back(std::move(line));
    return out;
}

Result<image::ColourPicture> rasterized(const Page &page, float dpi)
{
    const float perMm = dpi / 25.4f;
    const int width = int(std::lround(page.width * perMm)), height = int(std::lround(page.height * perMm));
    if (width < 1 || height < 1 || width > kMostSide || height > kMostSide)
        return Error{ErrorCode::TooLarge, "page", "would be more than 20,000 pixels wide or high, or none"};
    const SurfacePtr surface(cairo_image_surface_create(CAIRO_FORMAT_RGB24, width, height));
    {
        const CairoPtr cairo(cairo_create(surface.get()));
        cairo_scale(cairo.get(), double(perMm), double(perMm));
        Canvas canvas(cairo.get());
        canvas.box({0, 0}, page.width, page.height, {1, 1, 1});
        page.draw(canvas);
    }
    cairo_surface_flush(surface.get());
    const unsigned char *from = cairo_image_surface_get_data(surface.get());
    if (!from || cairo_surface_status(surface.get()) != CAIRO_STATUS_SUCCESS)
        return Error{ErrorCode::Unsupported, "page", cairo_status_to_string(cairo_surface_status(surface.get()))};
    image::ColourPicture out{width, height, std::vector<std::uint8_t>(std::size_t(width) * std::size_t(height) * 4, 255)};
    const int stride = cairo_image_surface_get_stride(surface.get());
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            std::uint32_t pixel = 0;
            std::copy_n(from + std::ptrdiff_t(y) * stride + std::ptrdiff_t(x) * 4, 4, reinterpret_cast<unsigned char *>(&pixel));
            std::uint8_t *to = &out.rgba[(std::size_t(y) * std::size_t(width) + std::size_t(x)) * 4];
            to[0] = std::uint8_t(pixel >> 16), to[1] = std::uint8_t(pixel >> 8), to[2] = std::uint8_t(pixel);
        }
    return out;
}

Status isPageFile(const std::filesystem::path &path)
{
    if (path.extension() == ".png" || path.extension() == ".pdf")
        return Done{};
    return Error{ErrorCode::Unsupported, shownPath(path), "pages are written as .pdf or .png"};
}

Status writePages(const std::filesystem::path &path, std::span<const Page> pages, const std::string &title, float dpi)
{
    if (path.extension() == ".png") {
        const auto picture = rasterized(pages.front(), dpi);
        return picture ? image::writePng(path, *picture) : Status(picture.error());
    }
    if (const Status is = isPageFile(path); !is)
        return is;
    constexpr double kPerMm = 72 / 25.4;
    std::string bytes;
    cairo_status_t status;
    {
        const SurfacePtr surface(cairo_pdf_surface_create_for_stream(append, &bytes, 10, 10));
        cairo_pdf_surface_set_metadata(surface.get(), CAIRO_PDF_METADATA_TITLE, title.c_str());
        cairo_pdf_surface_set_metadata(surface.get(), CAIRO_PDF_METADATA_CREATOR, "Bone Moss");
        for (const Page &page : pages) {
            cairo_pdf_surface_set_size(surface.get(), double(page.width) * kPerMm, double(page.height) * kPerMm);
            const CairoPtr cairo(cairo_create(surface.get()));
            cairo_scale(cairo.get(), kPerMm, kPerMm);
            Canvas canvas(cairo.get());
            page.draw(canvas);
            cairo_show_page(cairo.get());
        }
        cairo_surface_finish(surface.get());
        status = cairo_surface_status(surface.get());
    }
    if (status != CAIRO_STATUS_SUCCESS)
        return Error{ErrorCode::Unwritable, shownPath(path), cairo_status_to_string(status)};
    return writeFile(path, bytes);
}

} // namespace bonemoss::exporting
