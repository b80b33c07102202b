// What lies over the clay of a skin: colour and finish, groups, and maps in tints.
#include "app/view/gpu_skin.h"

#include "skin/skin_maps.h"

#include <QOpenGLContext>
#include <QOpenGLFunctions>

#include <algorithm>
#include <cmath>

namespace bonemoss::app {

namespace {

/// Colours far apart for numbers that follow each other, all of one muted kind, and how much of the clay stays under
/// them: all of it for 0, as without this attribute.
std::array<std::uint8_t, 4> groupTint(std::uint16_t number)
{
    if (number == 0)
        return {0, 0, 0, 255};
    const float turn = std::fmod(float(number) * 0.618034f, 1.0f); // the golden section spreads them evenly
    const auto channel = [&](float shift) {
        const float wave = 0.5f + 0.5f * std::cos((turn + shift) * 6.2831853f);
        return std::uint8_t(255 * std::pow(0.22f + 0.5f * wave, 1 / 2.2f)); // tints are sRGB
    };
    return {channel(0), channel(0.333f), channel(0.667f), 105};
}

constexpr std::size_t kTintBytes = 8;
constexpr GLuint kFirstTint = 4, kTintAttributes = 2;

} // namespace

GpuSkin::Tints &GpuSkin::tintsOf(Look look, bool &isNew)
{
    Tints &t = m_allTints[look];
    const std::size_t bytes = m_vertexRoom * kTintBytes;
    isNew = !t.buffer.isCreated();
    if (isNew)
        t.buffer.create();
    t.buffer.bind();
    if (isNew)
        allocate(t.buffer, bytes);
    isNew = isNew || t.madeOf.size() != mesh::blockCountFor(m_vertexCount);
    if (isNew)
        t.madeOf.assign(mesh::blockCountFor(m_vertexCount), {});
    m_tints = &t;
    return t;
}

void GpuSkin::sendTints(Tints &to, std::size_t b, const std::vector<std::array<std::uint8_t, 8>> &tints)
{
    write(to.buffer, b * mesh::kBlockSize * kTintBytes, tints.data(), tints.size() * kTintBytes);
}

void GpuSkin::usePaint(const skin::Paint &paint)
{
    if (paint.size() != m_vertexCount || !paint.isSeen())
        return useNoTints();
    bool isNew = false;
    Tints &t = tintsOf(Look::Clay, isNew);
    t.paintOf.resize(t.madeOf.size());
    std::vector<std::array<std::uint8_t, kTintBytes>> tints;
    for (std::size_t b = 0; b < t.madeOf.size(); ++b) {
        bool isOther = isNew;
        for (std::size_t c = 0; c < skin::kSeenChannels; ++c) {
            const std::shared_ptr<const void> now = paint.channels[c].share(b);
            isOther = isOther || !isSame(now, t.paintOf[b][c]);
            t.paintOf[b][c] = now;
        }
        if (!isOther)
            continue;
        tints.assign(std::min(mesh::kBlockSize, m_vertexCount - b * mesh::kBlockSize), {0, 0, 0, 255, 0, 0, 0, 255});
        for (std::size_t i = 0; i < tints.size(); ++i) {
            const auto at = [&](std::size_t c) { return unsigned(paint.channels[c][b * mesh::kBlockSize + i]); };
            const unsigned cover = at(std::size_t(skin::Channel::Cover));
            for (std::size_t c = 0; c < 3 && cover > 0; ++c) // as covered by nothing else
                tints[i][c] = std::uint8_t(std::min(255u, at(c) * 255 / cover));
            tints[i][3] = std::uint8_t(255 - cover);
            for (std::size_t c = skin::kColourChannels; c < skin::kSeenChannels; ++c)
                tints[i][c] = std::uint8_t(c == std::size_t(skin::Channel::Translucency) ? 255 - at(c) : at(c));
        }
        sendTints(t, b, tints);
    }
}

void GpuSkin::useGroups(const mesh::BlockArray<std::uint16_t> &groupOf)
{
    if (groupOf.size() != m_vertexCount || groupOf.isBlank())
        return useNoTints();
    bool isNew = false;
    Tints &t = tintsOf(Look::Groups, isNew);
    std::vector<std::array<std::uint8_t, kTintBytes>> tints;
    for (std::size_t b = 0; b < t.madeOf.size(); ++b) {
        const std::shared_ptr<const void> now = groupOf.share(b);
        if (!isNew && isSame(now, t.madeOf[b]))
            continue;
        tints.assign(groupOf.countIn(b), {0, 0, 0, 255, 0, 0, 0, 255});
        for (std::size_t i = 0; i < tints.size(); ++i) {
            const auto tint = groupTint(groupOf[b * mesh::kBlockSize + i]);
            std::copy(tint.begin(), tint.end(), tints[i].begin());
        }
        sendTints(t, b, tints);
        t.madeOf[b] = now;
    }
}

void GpuSkin::useMap(const skin::Skin &skin, Look look, std::uint32_t layer)
{
    if (skin.body.size() != m_vertexCount) { // a stroke gives it faces; the map follows when it is done
        const auto known = m_allTints.find(look);
        m_tints = known == m_allTints.end() ? nullptr : &known->second;
        return;
    }
    const LookRow &row = rowOf(look);
    skin::MapSettings settings;
    settings.layer = layer;
    const skin::Layer *chosen = skin.layer(layer);
    // Half a percent of the skin's size counts as much for a layer.
    const float perMm = 200 / std::max(skin.shown.box().diagonal(), 1e-3f);
    const float scale = row.dependsOnLayer ? perMm * (chosen ? std::abs(chosen->shownStrength()) : 0) : 1;
    bool isNew = false;
    Tints &t = tintsOf(look, isNew);
    const bool isOther = isNew || t.layer != layer || t.scale != scale;
    std::vector<float> values(mesh::kBlockSize);
    std::vector<std::array<std::uint8_t, kTintBytes>> tints;
    for (std::size_t b = 0; b < t.madeOf.size(); ++b) {
        const std::shared_ptr<const void> source = row.source(skin, layer, b);
        if (!isOther && isSame(source, t.madeOf[b]))
            continue;
        const std::size_t n = skin.body.countIn(b);
        skin::mapBlock(skin, row.map, settings, b, {values.data(), n});
        tints.assign(n, {0, 0, 0, 255, 0, 0, 0, 255});
        for (std::size_t i = 0; i < n; ++i) {
            const auto tint = row.tint(row.dependsOnLayer ? values[i] * perMm : values[i]);
            std::copy(tint.begin(), tint.end(), tints[i].begin());
        }
        sendTints(t, b, tints);
        t.madeOf[b] = source;
    }
    t.layer = layer, t.scale = scale;
}

void GpuSkin::useValues(const MapValues &values, Look look, float scale)
{
    if (!values || values->size() != m_vertexCount)
        return useNoTints();
    bool isNew = false;
    Tints &t = tintsOf(look, isNew);
    if (!isNew && t.values == values && t.scale == scale)
        return;
    t.values = values, t.scale = scale;
    std::vector<std::array<std::uint8_t, kTintBytes>> tints;
    for (std::size_t b = 0; b < t.madeOf.size(); ++b) {
        tints.assign(std::min(mesh::kBlockSize, m_vertexCount - b * mesh::kBlockSize), {0, 0, 0, 255, 0, 0, 0, 255});
        for (std::size_t i = 0; i < tints.size(); ++i) {
            const auto tint = rowOf(look).tint((*values)[b * mesh::kBlockSize + i] * scale);
            std::copy(tint.begin(), tint.end(), tints[i].begin());
        }
        sendTints(t, b, tints);
    }
}

void GpuSkin::dropTints(std::span<const Look> but)
{
    std::erase_if(m_allTints, [&](auto &entry) {
        const bool goes = std::find(but.begin(), but.end(), entry.first) == but.end();
        if (goes && m_tints == &entry.second)
            m_tints = nullptr;
        return goes;
    });
}

/// Has a bound vertex array read the tints that are in use, or none.
void GpuSkin::bindTints(QOpenGLVertexArrayObject &array)
{
    array.bind();
    for (GLuint k = 0; k < kTintAttributes; ++k) {
        if (!m_tints) { // what was drawn before may have left others
            m_gl.glDisableVertexAttribArray(kFirstTint + k);
            QOpenGLContext::currentContext()->functions()->glVertexAttrib4f(kFirstTint + k, 0, 0, 0, 1);
            continue;
        }
        m_tints->buffer.bind();
        m_gl.glEnableVertexAttribArray(kFirstTint + k);
        m_gl.glVertexAttribPointer(kFirstTint + k, 4, GL_UNSIGNED_BYTE, GL_TRUE, kTintBytes,
                                   reinterpret_cast<const void *>(std::size_t(k) * 4));
    }
}

} // namespace bonemoss::app
