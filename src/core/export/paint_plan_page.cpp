// A paint plan as a page to print.
#include "base/files.h"
#include "colour/palette.h"
#include "export/paint_plan.h"
#include "portrait/camera.h"

#include <hpdf.h>

#include <fmt/format.h>

namespace bonemoss::exporting {

namespace {

constexpr float kLeft = 42, kTop = 800, kWidth = 511; // points of an A4 page

/// The document with its fonts; freed when it goes.
class Page
{
public:
    Page() : m_doc(HPDF_New(nullptr, nullptr))
    {
        HPDF_SetCompressionMode(m_doc, HPDF_COMP_ALL);
        HPDF_SetInfoAttr(m_doc, HPDF_INFO_CREATOR, "Bone Moss");
        m_words = HPDF_GetFont(m_doc, "Helvetica", "WinAnsiEncoding");
        m_bold = HPDF_GetFont(m_doc, "Helvetica-Bold", "WinAnsiEncoding");
        next();
    }
    ~Page() { HPDF_Free(m_doc); }
    Page(const Page &) = delete;
    Page &operator=(const Page &) = delete;

    void next()
    {
        m_page = HPDF_AddPage(m_doc);
        HPDF_Page_SetSize(m_page, HPDF_PAGE_SIZE_A4, HPDF_PAGE_PORTRAIT);
    }
    void write(float x, float y, float size, const std::string &text, bool isBold = false)
    {
        std::string plain; // the page's fonts have no more than this
        for (const char c : text)
            plain += static_cast<unsigned char>(c) < 128 ? c : '?';
        HPDF_Page_BeginText(m_page);
        HPDF_Page_SetRGBFill(m_page, 0.17f, 0.15f, 0.13f);
        HPDF_Page_SetFontAndSize(m_page, isBold ? m_bold : m_words, size);
        HPDF_Page_TextOut(m_page, x, y, plain.c_str());
        HPDF_Page_EndText(m_page);
    }
    void box(float x, float y, float w, float h, Vec3f colour)
    {
        HPDF_Page_SetRGBFill(m_page, colour.x, colour.y, colour.z);
        HPDF_Page_SetRGBStroke(m_page, 0.6f, 0.57f, 0.5f);
        HPDF_Page_SetLineWidth(m_page, 0.5f);
        HPDF_Page_Rectangle(m_page, x, y, w, h);
        HPDF_Page_FillStroke(m_page);
    }
    void image(float x, float y, float w, const image::ColourPicture &picture)
    {
        std::vector<HPDF_BYTE> rgb;
        rgb.reserve(picture.rgba.size() / 4 * 3);
        for (std::size_t i = 0; i + 3 < picture.rgba.size(); i += 4)
            rgb.insert(rgb.end(), {picture.rgba[i], picture.rgba[i + 1], picture.rgba[i + 2]});
        const HPDF_Image held = HPDF_LoadRawImageFromMem(m_doc, rgb.data(), HPDF_UINT(picture.width), HPDF_UINT(picture.height),
                                                         HPDF_CS_DEVICE_RGB, 8);
        if (held)
            HPDF_Page_DrawImage(m_page, held, x, y, w, w * float(picture.height) / float(picture.width));
    }
    /// The bytes of the file; empty when the library failed at anything.
    std::string bytes()
    {
        if (HPDF_GetError(m_doc) != HPDF_OK || HPDF_SaveToStream(m_doc) != HPDF_OK)
            return {};
        std::string out(HPDF_GetStreamSize(m_doc), '\0');
        auto size = HPDF_UINT32(out.size());
        HPDF_ResetStream(m_doc);
        if (HPDF_ReadFromStream(m_doc, reinterpret_cast<HPDF_BYTE *>(out.data()), &size) > HPDF_STREAM_EOF)
            return {};
        out.resize(size);
        return out;
    }

private:
    HPDF_Doc m_doc;
    HPDF_Page m_page = nullptr;
    HPDF_Font m_words = nullptr, m_bold = nullptr;
};

std::string mixWords(const colour::Mix &mix, const std::vector<skin::PaletteColour> &paints)
{
    std::string out;
    for (const colour::Mix::Part &p : mix.parts)
        out += fmt::format("{}{} {}", out.empty() ? "" : " + ", p.parts, paints[p.paint].name);
    return out;
}

} // namespace

Status writePaintPlan(const std::filesystem::path &path, const PaintPlan &plan)
{
    Page page;
    page.write(kLeft, kTop, 17, "Paint plan: " + plan.name, true);
    page.write(kLeft, kTop - 17, 9,
               fmt::format("{} colours, {:g} mm high. From the base to the accents; parts by volume.", plan.colours.size(),
                           plan.heightMm));
    float y = kTop - 30;
    const auto &views = portrait::anatomicalViews();
    const float w = kWidth / 3;
    for (std::size_t v = 0; v < plan.views.size(); ++v) {
        const float h = w * float(plan.views[v].height) / float(plan.views[v].width), x = kLeft + w * float(v % 3);
        if (v % 3 == 0)
            y -= h + (v ? 12 : 0);
        page.image(x, y, w - 6, plan.views[v]);
        page.write(x, y - 8, 7, std::string(views[v].title));
    }
    y -= 24;
    for (std::size_t k = 0; k < plan.colours.size(); ++k) {
        const PlannedColour &c = plan.colours[k];
        const float strip = kWidth - 70, high = strip * float(plan.places[k].height) / float(plan.places[k].width),
                    row = high + 27;
        if (y - row < 36) {
            page.next();
            y = kTop;
        }
        y -= row;
        page.box(kLeft, y + 6, 56, row - 12, c.colour);
        page.write(kLeft + 66, y + row - 13, 9,
                   fmt::format("{}   {}   {:.1f} % of the surface", k + 1, colour::hexOf(c.colour), 100 * c.share), true);
        page.box(kLeft + 66, y + row - 25, 9, 8, c.mix.colour);
        page.write(kLeft + 79, y + row - 24, 8.5f,
                   mixWords(c.mix, plan.paints) + (c.mix.difference > 0.03f ? "   (the nearest mix; it differs visibly)" : ""));
        page.image(kLeft + 66, y, strip, plan.places[k]);
    }
    const std::string bytes = page.bytes();
    if (bytes.empty())
        return Error{ErrorCode::Unwritable, shownPath(path), "the page could not be made"};
    return writeFile(path, bytes);
}

} // namespace bonemoss::exporting
