// 3MF Core Specification 1.2.3 and Materials and Properties Extension 1.1: objects with their copies, in mm, +Z up, colours at points.
#include "base/colour.h"
#include "io/mesh_file.h"
#include "io/zip_stream.h"

#include <algorithm>
#include <charconv>
#include <fmt/format.h>
#include <map>
#include <unordered_map>

namespace bonemoss::io {

namespace {

constexpr std::size_t kPerPart = 1 << 15; ///< points or faces
constexpr std::size_t kMostColours = 30000;

std::string escaped(const std::string &text)
{
    std::string out;
    for (const char c : text)
        switch (c) {
        case '&': out += "&amp;"; break;
        case '<': out += "&lt;"; break;
        case '>': out += "&gt;"; break;
        case '"': out += "&quot;"; break;
        default:
            if (std::uint8_t(c) >= 0x20)
                out += c;
        }
    return out;
}

template <typename T> void put(std::string &to, const char *before, T value)
{
    char digits[32];
    to += before;
    to.append(digits, std::to_chars(digits, digits + sizeof digits, value).ptr);
}

std::uint32_t byteColour(const float *c)
{
    return std::uint32_t(srgbByte(c[0])) << 16 | std::uint32_t(srgbByte(c[1])) << 8 | srgbByte(c[2]);
}

/// One object of the file: a shape, or the mirror image of one, with the places it stands at.
struct Item {
    const Object *object;
    bool isMirrored;
    std::vector<Placement> places;
    mesh::PolyMesh mesh;
    std::vector<std::array<std::uint32_t, 3>> triangles;
    std::vector<std::uint32_t> colours; ///< of each point, in the file's list; empty where it has one colour
    std::uint32_t only = 0;
};

/// Colours of the file in the order in which they come up. Where there are too many for readers, steps of colour are taken together.
class Palette
{
public:
    explicit Palette(std::uint32_t mask) : m_mask(mask) {}
    std::uint32_t numberOf(std::uint32_t rgb)
    {
        const auto [it, isNew] = m_numbers.try_emplace(rgb & m_mask, std::uint32_t(m_all.size()));
        if (isNew)
            m_all.push_back(rgb & m_mask);
        return it->second;
    }
    const std::vector<std::uint32_t> &all() const { return m_all; }

private:
    std::uint32_t m_mask;
    std::unordered_map<std::uint32_t, std::uint32_t> m_numbers;
    std::vector<std::uint32_t> m_all;
};

std::vector<Item> itemsOf(const Scene &scene)
{
    std::vector<Item> items;
    for (const Object &o : scene.objects)
        for (const bool isMirrored : {false, true}) { // the format allows no mirroring placements
            Item item{&o, isMirrored, {}, {}, {}, {}, 0};
            for (const Placement &p : o.places)
                if (p.isMirroring() == isMirrored)
                    item.places.push_back(isMirrored ? p * Placement::mirroring() : p);
            if (item.places.empty() || scene.shapeOf(o).faceCount() == 0)
                continue;
            item.mesh = scene.shapeOf(o).toPolyMesh();
            if (isMirrored)
                item.mesh = mesh::mirrored(std::move(item.mesh));
            item.triangles = mesh::triangulate(item.mesh);
            items.push_back(std::move(item));
        }
    return items;
}

Palette paletteOf(const Scene &scene, std::vector<Item> &items)
{
    for (std::uint32_t mask = 0xffffff;; mask = mask << 1 & (0xfefefe & mask)) {
        Palette palette(mask);
        for (Item &item : items) {
            const Attribute *a = scene.shapeOf(*item.object).attribute(kColour);
            const Material &m = scene.materialOf(*item.object);
            const Vec3f clay{0.5f, 0.48f, 0.45f}, c = m.colour.value_or(clay);
            const float own[3] = {c.x, c.y, c.z};
            item.only = palette.numberOf(byteColour(own));
            item.colours.clear();
            if (!a || a->domain != mesh::Domain::Vertex || a->width < 3)
                continue;
            for (std::size_t v = 0; v < item.mesh.positions.size(); ++v)
                item.colours.push_back(palette.numberOf(byteColour(&a->values[v * a->width])));
        }
        if (palette.all().size() <= kMostColours || mask == 0)
            return palette;
    }
}

/// From +Y up to +Z up, the whole moved so that nothing lies below 0.
std::string placeWords(const Placement &p, Vec3f by)
{
    const auto turned = [](float x, float y, float z) { return std::array{x, -z, y}; };
    std::string out;
    for (int column = 0; column < 4; ++column) {
        auto v = turned(p.m[3 * column], p.m[3 * column + 1], p.m[3 * column + 2]);
        if (column == 3)
            v = {v[0] + by.x, v[1] + by.y, v[2] + by.z};
        for (const float x : v)
            put(out, out.empty() ? "" : " ", x == 0 ? 0.0f : x);
    }
    return out;
}

} // namespace

void write3mf(const Scene &scene, ByteStream &out)
{
    std::vector<Item> items = itemsOf(scene);
    const Palette palette = paletteOf(scene, items);
    std::vector<std::function<std::string()>> parts;
    std::string head = R"(<?xml version="1.0" encoding="UTF-8"?>
<model unit="millimeter" xml:lang="en-US" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02" xmlns:m="http://schemas.microsoft.com/3dmanufacturing/material/2015/02">
<metadata name="Application">Bone Moss</metadata>
<resources>
<m:colorgroup id="1">
)";
    for (const std::uint32_t c : palette.all())
        head += fmt::format("<m:color color=\"#{:06X}\"/>\n", c);
    head += "</m:colorgroup>\n";
    parts.push_back([head] { return head; });
    for (std::size_t k = 0; k < items.size(); ++k) {
        const Item &item = items[k];
        parts.push_back([&item, k] {
            return fmt::format("<object id=\"{}\" type=\"model\" name=\"{}\" pid=\"1\" pindex=\"{}\">\n<mesh>\n<vertices>\n",
                               k + 2, escaped(item.object->name), item.only);
        });
        for (std::size_t first = 0; first < item.mesh.positions.size(); first += kPerPart)
            parts.push_back([&item, first] {
                std::string text;
                text.reserve(kPerPart * 56);
                for (std::size_t v = first; v < std::min(first + kPerPart, item.mesh.positions.size()); ++v) {
                    const Vec3f p = item.mesh.positions[v];
                    put(text, "<vertex x=\"", p.x), put(text, "\" y=\"", p.y), put(text, "\" z=\"", p.z);
                    text += "\"/>\n";
                }
                return text;
            });
        parts.push_back([] { return std::string("</vertices>\n<triangles>\n"); });
        for (std::size_t first = 0; first < item.triangles.size(); first += kPerPart)
            parts.push_back([&item, first] {
                std::string text;
                text.reserve(kPerPart * 80);
                for (std::size_t t = first; t < std::min(first + kPerPart, item.triangles.size()); ++t) {
                    const auto &v = item.triangles[t];
                    if (v[0] == v[1] || v[1] == v[2] || v[2] == v[0])
                        continue;
                    put(text, "<triangle v1=\"", v[0]), put(text, "\" v2=\"", v[1]), put(text, "\" v3=\"", v[2]);
                    if (!item.colours.empty()) {
                        put(text, "\" pid=\"1\" p1=\"", item.colours[v[0]]);
                        put(text, "\" p2=\"", item.colours[v[1]]), put(text, "\" p3=\"", item.colours[v[2]]);
                    }
                    text += "\"/>\n";
                }
                return text;
            });
        parts.push_back([] { return std::string("</triangles>\n</mesh>\n</object>\n"); });
    }
    const Box3f box = scene.box();
    const Vec3f by{-box.lo.x, box.hi.z, -box.lo.y};
    parts.push_back([&] {
        std::string text = "</resources>\n<build>\n";
        for (std::size_t k = 0; k < items.size(); ++k)
            for (const Placement &p : items[k].places)
                text += fmt::format("<item objectid=\"{}\" transform=\"{}\"/>\n", k + 2, placeWords(p, by));
        return text + "</build>\n</model>\n";
    });
    ZipStream zip(out);
    zip.add("[Content_Types].xml", R"(<?xml version="1.0" encoding="UTF-8"?>
<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>
)");
    zip.add("_rels/.rels", R"(<?xml version="1.0" encoding="UTF-8"?>
<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rel0" Target="/3D/3dmodel.model" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>
)");
    zip.add("3D/3dmodel.model", parts.size(), [&](std::size_t k) { return parts[k](); });
    zip.finish();
}

} // namespace bonemoss::io
