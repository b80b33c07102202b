#include "portrait/digest.h"

#include "portrait/stage_values.h"

#include <cstring>

namespace bonemoss::portrait {

namespace {

class Digest
{
public:
    void add(const void *bytes, std::size_t count)
    {
        const auto *p = static_cast<const unsigned char *>(bytes);
        for (; count >= 8; p += 8, count -= 8) {
            std::uint64_t word;
            std::memcpy(&word, p, 8);
            mix(word);
        }
        std::uint64_t rest = count;
        std::memcpy(reinterpret_cast<unsigned char *>(&rest) + 1, p, std::min<std::size_t>(count, 7));
        mix(rest);
    }
    void add(const std::string &text) { add(text.data(), text.size()); }
    template <typename T>
    requires std::is_arithmetic_v<T> || std::is_enum_v<T>
    void add(T value)
    {
        add(&value, sizeof value);
    }
    void add(Vec3f v) { add(v.x), add(v.y), add(v.z); }
    void add(Quat q) { add(q.x), add(q.y), add(q.z), add(q.w); }
    template <typename T> void add(const std::optional<T> &value)
    {
        add(value.has_value());
        if (value)
            add(*value);
    }
    template <typename T> void add(const std::vector<T> &values)
    {
        add(values.size());
        if constexpr (std::is_arithmetic_v<T>)
            add(values.data(), values.size() * sizeof(T));
        else
            for (const T &v : values)
                add(v);
    }
    void add(const std::shared_ptr<const image::EncodedPicture> &picture)
    {
        add(picture != nullptr);
        if (picture)
            add(picture->bytes.data(), picture->bytes.size());
    }
    std::uint64_t value() const { return m_value; }

private:
    void mix(std::uint64_t word)
    {
        m_value = (m_value ^ word) * 0x100000001b3;
        m_value ^= m_value >> 29;
    }
    std::uint64_t m_value = 0xcbf29ce484222325;
};

template <typename T> void addValues(Digest &d, const T &of)
{
    eachValue(of, [&](const char *, const auto &value) { d.add(value); });
}

void addShape(Digest &d, const io::Shape &shape)
{
    shape.eachPoint([&](Vec3f p) { d.add(p); });
    d.add(shape.faceCount());
    shape.eachFace([&](const mesh::Face &f) { d.add(f.v.data(), sizeof f.v); });
    for (const io::Attribute &a : shape.attributes)
        d.add(a.name), d.add(a.values);
    if (shape.curves) {
        for (const Vec3f p : shape.curves->points)
            d.add(p);
        d.add(shape.curves->radii), d.add(shape.curves->starts);
    }
}

} // namespace

std::uint64_t digestOf(const io::Scene &scene, const Stage &stage, const Shot &shot)
{
    Digest d;
    for (const io::Shape &s : scene.shapes)
        addShape(d, s);
    for (const io::Material &m : scene.materials) {
        d.add(m.colour), d.add(m.isGlossy), d.add(m.opacity), d.add(m.tipColour);
        for (const auto &f : m.finish)
            d.add(f);
        d.add(m.inside.depth), d.add(m.inside.tint);
    }
    for (const io::Object &o : scene.objects) {
        d.add(o.name), d.add(o.shape), d.add(o.material), d.add(o.tints);
        for (const io::Placement &p : o.places)
            d.add(p.m, sizeof p.m);
    }
    eachPart(stage, [&](const char *, const auto &part) { addValues(d, part); });
    for (const Light &l : stage.lights)
        addValues(d, l);
    addValues(d, shot);
    return d.value();
}

} // namespace bonemoss::portrait
