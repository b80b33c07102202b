// Items that are neither forms nor pieces: what they show, on the card, and their copies.
#include "app/view/renderer.h"

#include "app/view/shaders.h"
#include "base/colour.h"
#include "document/items.h"
#include "skin/marks.h"

#include <QVector3D>
#include <QVector4D>

#include <algorithm>
#include <cmath>
#include <utility>

namespace bonemoss::app {

namespace {

/// The piece by whose colour an outgrowth is coloured; null for none.
std::shared_ptr<const void> skinThatColours(const document::Creature &c, std::uint32_t item)
{
    for (const auto &o : c.outgrowths)
        if (o->id == item && o->skinColour > 0)
            for (const auto &p : c.pieces)
                if (p->id == o->parent)
                    return p;
    return {};
}

const io::Material &materialFor(const io::Scene &scene, std::size_t shape)
{
    static const io::Material none;
    const auto at =
        std::find_if(scene.objects.begin(), scene.objects.end(), [&](const io::Object &o) { return o.shape == shape; });
    return at == scene.objects.end() ? none : scene.materialOf(*at);
}

/// What the points of a shape are coloured, and the finish of all of it, as the paint of a skin.
skin::Paint paintOf(const io::Shape &shape, const io::Material &material)
{
    const io::Attribute *colours = shape.attribute(io::kColour);
    const bool hasFinish = material.finish != Finish();
    if ((!colours && !hasFinish) || !shape.plainMesh())
        return {};
    const std::size_t n = shape.plainMesh()->positions.size();
    return skin::Paint::of([&](std::size_t c) {
        skin::Bytes out(n);
        const auto each = [&](auto value) { return skin::valuesBy<std::uint8_t>(n, value); };
        if (colours && c < 3)
            return each([&](std::size_t i) { return std::uint8_t(srgbByte(colours->values[i * colours->width + c])); });
        if (colours && c == std::size_t(skin::Channel::Cover))
            return each([](std::size_t) { return std::uint8_t(255); });
        if (hasFinish && c >= skin::kColourChannels && c < skin::kSeenChannels)
            return each(
                [v = std::uint8_t(material.finish[c - skin::kColourChannels].value_or(0) * 255)](std::size_t) { return v; });
        return out;
    });
}

} // namespace

void Renderer::updateItems(const document::Creature &creature)
{
    std::erase_if(m_items, [&](const auto &entry) { return !document::findItem(creature, entry.first); });
    document::eachItem(creature, [&](const document::ItemKind &kind, std::size_t k, const Item &item) {
        auto share = kind.share(creature, k);
        if (!share || creature.piece(item.id))
            return; // nothing to be seen, a form, or a piece
        ItemMesh &m = m_items[item.id];
        m.isSeen = kind.isSeen(creature, k, document::Shown::All);
        const std::shared_ptr<const void> coloursBy = skinThatColours(creature, item.id);
        if ((m.of == share && m.coloursBy == coloursBy) || !m.isSeen)
            return;
        ItemMesh old = std::exchange(m, {std::move(share), coloursBy});
        m.riders = std::move(old.riders);
        kind.show(creature, k, m.scene);
        m.box = kind.bounds(creature, k);
        for (io::Shape &shape : m.scene.shapes) {
            ItemMesh::OnCard sent;
            if (shape.curves)
                sent.of = shape.curves;
            else
                sent.of = shape.plainMesh();
            const auto known = std::find_if(old.gpu.begin(), old.gpu.end(), [&](const auto &o) { return o.of == sent.of; });
            if (sent.of && known != old.gpu.end()) { // only placed otherwise
                m.gpu.push_back(*known);
                if (m.gpu.back().faces)
                    m.gpu.back().faces->usePaint(paintOf(shape, materialFor(m.scene, m.gpu.size() - 1)));
                continue;
            }
            if (shape.curves) {
                sent.hair = std::make_shared<GpuStrands>(m_gl, *shape.curves);
            } else {
                const skin::Paint painted = paintOf(shape, materialFor(m.scene, m.gpu.size()));
                const mesh::Surface surface =
                    shape.surface() ? *shape.surface() : mesh::makeSurface(std::move(shape).toPolyMesh());
                sent.faces = std::make_shared<GpuSkin>(m_gl);
                sent.faces->update(surface, mesh::BlockArray<std::uint8_t>(surface.positions.size()));
                sent.faces->usePaint(painted);
            }
            m.gpu.push_back(std::move(sent));
        }
        m.scene.shapes.clear();
        for (const io::Object &o : m.scene.objects)
            m.copies.push_back(sendCopies(o));
    });
}

/// Outgrowths go along with the skin that is being stroked. After the stroke they stay there until they are made anew.
void Renderer::moveWithStroke(const Scene &scene)
{
    const document::Piece *piece = scene.strokeSurface && !scene.strokeSkin ? scene.creature->piece(scene.chosenPiece) : nullptr;
    const bool isStroked = piece && scene.strokeSurface->topology == piece->skin.shown.topology;
    for (const auto &o : scene.creature->outgrowths) {
        const auto found = m_items.find(o->id);
        // What is one sheet along a line, or a part of a mass, does not go as a whole.
        const bool isWhole =
            o->kind->is(outgrowth::IsCut) || (o->made->members.size() <= 2 && o->kind->rooting != outgrowth::Rooting::Point);
        if (found == m_items.end() || !found->second.isSeen || isWhole)
            continue;
        ItemMesh &m = found->second;
        const bool isGoing = isStroked && o->parent == piece->id;
        if (isGoing && (!m.riders || &m.riders->made() != o->made.get()))
            m.riders = std::make_unique<outgrowth::Riders>(o->made);
        const bool isNew = isGoing && m.riders->follow(piece->skin.shown, *scene.strokeSurface, scene.strokeTouched);
        if (!isGoing && (!o->isStale || (m.riders && &m.riders->made() != o->made.get())))
            m.riders.reset();
        const bool isMoved = m.riders && m.riders->isMoved();
        if (isNew || isMoved != m.isCarried)
            placeCopies(m, *o->made);
    }
}

/// Sends where the members stand, carried along by a stroke or not.
void Renderer::placeCopies(ItemMesh &m, const outgrowth::Made &made)
{
    std::vector<std::vector<io::Placement>> places(made.shapes.size());
    for (std::size_t k = 0; k < made.members.size(); ++k) {
        io::Placement place = made.members[k].place;
        const Vec3f by = m.riders ? m.riders->offset(k) : Vec3f{};
        place.m[9] += by.x, place.m[10] += by.y, place.m[11] += by.z;
        places[made.members[k].shape].push_back(place);
    }
    for (std::size_t k = 0; k < m.scene.objects.size(); ++k) {
        m.scene.objects[k].places = std::move(places[m.scene.objects[k].shape]);
        m.copies[k] = sendCopies(m.scene.objects[k]);
    }
    m.isCarried = m.riders && m.riders->isMoved();
}

std::unique_ptr<Renderer::ItemMesh::Copies> Renderer::sendCopies(const io::Object &object)
{
    auto copies = std::make_unique<ItemMesh::Copies>();
    std::vector<float> rows;
    rows.reserve(object.places.size() * kPlaceBytes / sizeof(float));
    for (const bool isMirrored : {false, true})
        for (std::size_t k = 0; k < object.places.size(); ++k) {
            const float *m = object.places[k].m;
            const float determinant =
                m[0] * (m[4] * m[8] - m[5] * m[7]) - m[3] * (m[1] * m[8] - m[2] * m[7]) + m[6] * (m[1] * m[5] - m[2] * m[4]);
            if ((determinant < 0) != isMirrored)
                continue;
            for (int row = 0; row < 3; ++row)
                rows.insert(rows.end(), {m[row], m[3 + row], m[6 + row], m[9 + row]});
            const Vec3f tint = k < object.tints.size() ? object.tints[k] : Vec3f{1, 1, 1};
            rows.insert(rows.end(), {tint.x, tint.y, tint.z});
            ++copies->all, copies->plain += !isMirrored;
        }
    copies->places.create();
    copies->places.bind();
    copies->places.allocate(rows.data(), int(rows.size() * sizeof(float)));
    copies->places.release();
    return copies;
}

void Renderer::drawItems(int look)
{
    for (auto &[id, m] : m_items)
        for (std::size_t k = 0; m.isSeen && k < m.scene.objects.size(); ++k)
            if (m.scene.materialOf(m.scene.objects[k]).opacity >= 0.5f) // what is clear shows what lies in it
                drawCopies(m, k, look);
}

void Renderer::drawCopies(ItemMesh &m, std::size_t object, int look)
{
    constexpr QVector3D kPlain(0.60f, 0.545f, 0.43f); // bone, a little yellower than skin
    const io::Object &o = m.scene.objects[object];
    const io::Material &material = m.scene.materialOf(o);
    const auto vec = [](const std::optional<Vec3f> &c, QVector3D other) { return c ? QVector3D(c->x, c->y, c->z) : other; };
    const QVector3D colour = vec(material.colour, kPlain);
    ItemMesh::OnCard &gpu = m.gpu[o.shape];
    ItemMesh::Copies &copies = *m.copies[object];
    if (gpu.hair) {
        GLint area[4];
        m_gl.glGetIntegerv(GL_VIEWPORT, area);
        const float pixel = 0.55f * 2 / (float(area[3]) * m_projection(1, 1));
        const Vec3f middle = m.box.centre();
        const float deep = (m_projection * m_view * QVector4D(middle.x, middle.y, middle.z, 1)).w();
        // Where hairs are thinner than a line of the screen, fewer of them cover as much.
        const float share = std::clamp(std::sqrt(gpu.hair->meanRadius() / std::max(pixel * deep, 1e-9f)), 0.5f, 1.0f);
        const QByteArray head = QByteArrayLiteral("#version 330 core\n#define LOOK ") + QByteArray::number(look) + '\n';
        QOpenGLShaderProgram &p = use(m_hair[look], head + kHairVertex, head + kHairFragment);
        p.setUniformValue("view", m_view);
        p.setUniformValue("projection", m_projection);
        p.setUniformValue("pixel", pixel);
        p.setUniformValue("root", colour);
        p.setUniformValue("tip", vec(material.tipColour, colour));
        gpu.hair->drawCopies(copies.places, 0, copies.all, share);
        m_triangles += gpu.hair->triangles(share) * o.places.size();
        return;
    }
    GpuSkin &faces = *gpu.faces;
    useClay({colour, 0, 1, look}, faces.isTinted(), {}, true);
    if (faces.isClosed()) // its back is never seen
        m_gl.glEnable(GL_CULL_FACE);
    faces.drawCopies(copies.places, 0, copies.plain);
    m_gl.glFrontFace(GL_CW);
    faces.drawCopies(copies.places, copies.plain, copies.all - copies.plain);
    m_gl.glFrontFace(GL_CCW);
    m_gl.glDisable(GL_CULL_FACE);
    m_triangles += faces.triangles(Fineness::Full) * o.places.size();
}

} // namespace bonemoss::app
