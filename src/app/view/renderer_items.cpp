// Items that are neither forms nor pieces: what they show, on the card, and their copies.
#include "app/view/renderer.h"

#include "document/items.h"

#include <QVector3D>

#include <algorithm>
#include <utility>

namespace bonemoss::app {

void Renderer::updateItems(const document::Creature &creature)
{
    std::erase_if(m_items, [&](const auto &entry) { return !document::findItem(creature, entry.first); });
    document::eachItem(creature, [&](const document::ItemKind &kind, std::size_t k, const Item &item) {
        auto share = kind.share(creature, k);
        if (!share || creature.piece(item.id))
            return; // nothing to be seen, a form, or a piece
        ItemMesh &m = m_items[item.id];
        m.isSeen = kind.isSeen(creature, k, document::Shown::All);
        if (m.of == share || !m.isSeen)
            return;
        const ItemMesh old = std::exchange(m, {std::move(share)});
        kind.show(creature, k, m.scene);
        for (io::Shape &shape : m.scene.shapes) {
            m.meshes.push_back(shape.plainMesh());
            const auto known = std::find(old.meshes.begin(), old.meshes.end(), shape.plainMesh());
            if (shape.plainMesh() && known != old.meshes.end()) { // only placed otherwise
                m.gpu.push_back(old.gpu[std::size_t(known - old.meshes.begin())]);
                continue;
            }
            const mesh::Surface surface = shape.surface() ? *shape.surface() : mesh::makeSurface(std::move(shape).toPolyMesh());
            m.gpu.push_back(std::make_shared<GpuSkin>(m_gl));
            m.gpu.back()->update(surface, mesh::BlockArray<std::uint8_t>(surface.positions.size()));
        }
        m.scene.shapes.clear();
        for (const io::Object &o : m.scene.objects)
            m.copies.push_back(sendCopies(o));
    });
}

std::unique_ptr<Renderer::ItemMesh::Copies> Renderer::sendCopies(const io::Object &object)
{
    auto copies = std::make_unique<ItemMesh::Copies>();
    std::vector<float> rows;
    rows.reserve(object.places.size() * 12);
    for (const bool isMirrored : {false, true})
        for (const io::Placement &place : object.places) {
            const float *m = place.m;
            const float determinant =
                m[0] * (m[4] * m[8] - m[5] * m[7]) - m[3] * (m[1] * m[8] - m[2] * m[7]) + m[6] * (m[1] * m[5] - m[2] * m[4]);
            if ((determinant < 0) != isMirrored)
                continue;
            for (int row = 0; row < 3; ++row)
                rows.insert(rows.end(), {m[row], m[3 + row], m[6 + row], m[9 + row]});
            ++copies->all, copies->plain += !isMirrored;
        }
    copies->places.create();
    copies->places.bind();
    copies->places.allocate(rows.data(), int(rows.size() * sizeof(float)));
    copies->places.release();
    return copies;
}

void Renderer::drawItems()
{
    constexpr QVector3D kPlain(0.60f, 0.545f, 0.43f); // bone, a little yellower than skin
    for (auto &[id, m] : m_items) {
        if (!m.isSeen)
            continue;
        for (std::size_t k = 0; k < m.scene.objects.size(); ++k) {
            const io::Object &o = m.scene.objects[k];
            const io::Material &material = m.scene.materialOf(o);
            if (material.opacity < 0.5f)
                continue; // what is clear shows what lies in it
            const auto &colour = material.colour;
            GpuSkin &gpu = *m.gpu[o.shape];
            ItemMesh::Copies &copies = *m.copies[k];
            useClay({colour ? QVector3D(colour->x, colour->y, colour->z) : kPlain}, gpu.isTinted(), {}, true);
            if (gpu.isClosed()) // its back is never seen
                m_gl.glEnable(GL_CULL_FACE);
            gpu.drawCopies(copies.places, 0, copies.plain);
            m_gl.glFrontFace(GL_CW);
            gpu.drawCopies(copies.places, copies.plain, copies.all - copies.plain);
            m_gl.glFrontFace(GL_CCW);
            m_gl.glDisable(GL_CULL_FACE);
            m_triangles += m.gpu[o.shape]->triangles(Fineness::Full) * o.places.size();
        }
    }
}

} // namespace bonemoss::app
