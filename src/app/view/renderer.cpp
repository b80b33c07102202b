#include "app/view/renderer.h"

#include "app/theme/theme.h"
#include "app/view/shaders.h"

#include <QOpenGLPixelTransferOptions>
#include <QVector2D>
#include <QVector3D>

#include <algorithm>

namespace bonemoss::app {

namespace {

QVector3D vec(Vec3f v)
{
    return {v.x, v.y, v.z};
}
QVector3D vec(const QColor &c)
{
    return {c.redF(), c.greenF(), c.blueF()};
}

constexpr QVector3D kSkin(0.60f, 0.555f, 0.475f);

QMatrix4x4 matrixOf(const io::Placement &p)
{
    const float *m = p.m;
    return {m[0], m[3], m[6], m[9], m[1], m[4], m[7], m[10], m[2], m[5], m[8], m[11], 0, 0, 0, 1};
}

/// Clay of forms: a little apart from each other by kind, so that the block-out reads.
Vec3f formColour(const armature::Form &f)
{
    if (f.role == armature::FormRole::Cut)
        return {0.42f, 0.20f, 0.14f};
    if (f.role == armature::FormRole::Apart && !f.colour)
        return {0.16f, 0.14f, 0.12f};
    if (f.role == armature::FormRole::Bone)
        return {0.68f, 0.66f, 0.58f};
    if (f.colour) { // as a wash over the clay, so that form still reads
        const auto part = [&](int shift) { return float(f.colour >> shift & 255) / 255; };
        return Vec3f{0.56f, 0.52f, 0.45f} * 0.45f + Vec3f{part(16), part(8), part(0)} * 0.4f;
    }
    return {0.56f, 0.52f, 0.45f};
}

} // namespace

QMatrix4x4 viewMatrix(const portrait::Camera &c)
{
    QMatrix4x4 m;
    m.lookAt(vec(c.eye()), vec(c.target), vec(c.up()));
    return m;
}

QMatrix4x4 projectionMatrix(const portrait::Camera &c, float aspect, float sceneSize)
{
    QMatrix4x4 m;
    const float reach = std::max(sceneSize, 1.0f) * 4;
    const float far = c.distance + reach;
    if (c.isParallel) {
        const float h = c.heightAtTarget() / 2;
        m.ortho(-h * aspect, h * aspect, -h, h, -reach, far);
    } else {
        m.perspective(c.fieldOfView * 57.29578f, aspect, std::max(c.distance * 0.02f, 0.05f), far);
    }
    return m;
}

Renderer::Renderer(QOpenGLFunctions_3_3_Core &gl) : m_gl(gl)
{
    m_touchArray.create();
    m_touchCorners.create();
    m_touchArray.bind();
    m_touchCorners.bind();
    m_gl.glEnableVertexAttribArray(0);
    m_gl.glVertexAttribPointer(0, 4, GL_FLOAT, GL_FALSE, 16, nullptr);
    m_touchArray.release();
    m_empty.create();
    setContactShadow({0}, 1, {});
}

Renderer::~Renderer() = default;

void Renderer::update(const Scene &scene)
{
    const document::Creature &c = *scene.creature;
    std::erase_if(m_pieces, [&](const auto &entry) { return !c.piece(entry.first); });
    if (scene.showPieces)
        for (const auto &p : c.pieces) {
            if (p->isHidden)
                continue;
            auto &gpu = m_pieces[p->id];
            if (!gpu)
                gpu = std::make_unique<GpuSkin>(m_gl);
            const bool isStroked = scene.strokeSurface && p->id == scene.chosenPiece;
            std::vector<std::uint32_t> dirty;
            if (const auto late = scene.late.find(p->id); late != scene.late.end())
                for (const std::uint32_t b : late->second)
                    if (b < p->skin.shown.topology->blockCount()) // the stroke may have been undone, onto a skin of fewer blocks
                        dirty.push_back(b);
            if (isStroked) {
                dirty.insert(dirty.end(), scene.strokeDirty.begin(), scene.strokeDirty.end());
                gpu->update(*scene.strokeSurface, *scene.strokeMask, dirty);
            } else {
                gpu->update(p->skin.shown, p->skin.mask, dirty);
            }
            useTints(*gpu, isStroked && scene.strokeSkin ? *scene.strokeSkin : p->skin, p->id, scene);
        }
    updateForms(scene);
    updateItems(c);
    moveWithStroke(scene);
    if (!scene.liveSkin || scene.liveSkin->isEmpty()) {
        m_live.reset();
        return;
    }
    if (!m_live || m_live->topology() != scene.liveSkin->topology.get())
        m_live = std::make_unique<GpuSkin>(m_gl);
    m_live->update(*scene.liveSkin, mesh::BlockArray<std::uint8_t>(scene.liveSkin->positions.size()));
}

/// The place of a bone among the weights of a skin; past the end for none.
static std::uint32_t boneIn(const skin::Skin &skin, pose::BoneKey bone)
{
    const std::string name = textOf(bone);
    const auto at = std::find_if(skin.boneWeights.begin(), skin.boneWeights.end(), [&](const auto &m) { return m.name == name; });
    return std::uint32_t(at - skin.boneWeights.begin());
}

/// What lies over the clay in the scene's look.
void Renderer::useTints(GpuSkin &gpu, const skin::Skin &skin, std::uint32_t piece, const Scene &scene)
{
    const Look look = scene.look;
    const LookRow &row = rowOf(look);
    if (row.numbers == LookRow::Numbers::BlockByBlock)
        gpu.useMap(skin, look,
                   row.dependsOnBone          ? boneIn(skin, scene.bone)
                   : row.dependsOnColourLayer ? scene.colourLayer
                                              : scene.layer);
    else if (row.numbers == LookRow::Numbers::BesideTheWindow)
        gpu.useValues(scene.mapValues ? scene.mapValues(piece) : nullptr, look, row.told ? 1 / row.told(*scene.creature) : 1);
    else if (look == Look::Groups)
        gpu.useGroups(skin.groupOf);
    else if (row.showsPaint)
        gpu.usePaint(skin.paint);
    else
        gpu.useNoTints();
}

void Renderer::dropTints(std::span<const Look> but)
{
    for (auto &[id, gpu] : m_pieces)
        gpu->dropTints(but);
}

void Renderer::updateForms(const Scene &scene)
{
    const armature::Armature &a = scene.creature->armature;
    std::erase_if(m_forms, [&](const auto &entry) { return !a.find(entry.first); });
    for (const armature::Form &f : a.forms) {
        FormMesh &m = m_forms[f.id];
        std::vector<Transform> places = placesOf(a, f);
        if (m.gpu && m.form == f && m.places == places)
            continue;
        m.form = f;
        m.places = std::move(places);
        mesh::PolyMesh shape = tessellateAll(a, f);
        const mesh::BlockArray<std::uint8_t> noMask(shape.positions.size());
        m.gpu = std::make_unique<GpuSkin>(m_gl);
        m.gpu->update(mesh::makeSurface(shape), noMask);
        m.twin.reset();
        if (f.isMirrored) {
            m.twin = std::make_unique<GpuSkin>(m_gl);
            m.twin->update(mesh::makeSurface(mesh::mirrored(std::move(shape))), noMask);
        }
    }
}

/// Programs are made when they are first used: starting waits for no shader that is not seen.
QOpenGLShaderProgram &Renderer::use(Program kind)
{
    static const struct {
        const char *vertex, *fragment;
    } kSources[] = {{kOutlineVertex, kFlatFragment},
                    {kFloorVertex, kFloorFragment},
                    {kBackdropVertex, kBackdropFragment},
                    {kPictureVertex, kPictureFragment},
                    {kTouchVertex, kTouchFragment}};
    return use(m_programs[int(kind)], kSources[int(kind)].vertex, kSources[int(kind)].fragment);
}

QOpenGLShaderProgram &Renderer::use(std::unique_ptr<QOpenGLShaderProgram> &p, const QByteArray &vertex,
                                    const QByteArray &fragment)
{
    if (!p) {
        p = std::make_unique<QOpenGLShaderProgram>();
        p->addShaderFromSourceCode(QOpenGLShader::Vertex, vertex);
        p->addShaderFromSourceCode(QOpenGLShader::Fragment, fragment);
        if (!p->link())
            qWarning("shader: %s", qPrintable(p->log()));
    }
    p->bind();
    return *p;
}

void Renderer::lookThrough(const portrait::Camera &camera, float aspect)
{
    m_view = viewMatrix(camera);
    m_projection = projectionMatrix(camera, aspect, m_shadowArea.isEmpty() ? camera.distance : m_shadowArea.diagonal());
}

QOpenGLShaderProgram &Renderer::useInSpace(Program kind)
{
    QOpenGLShaderProgram &p = use(kind);
    p.setUniformValue("view", m_view);
    p.setUniformValue("projection", m_projection);
    return p;
}

/// Draws a skin with the shader that its look and tints need.
void Renderer::drawClay(GpuSkin &gpu, const Clay &clay, Fineness fineness, const std::vector<std::uint32_t> &full,
                        const io::Placement &place)
{
    useClay(clay, gpu.isTinted(), place);
    gpu.draw(fineness, full);
}

void Renderer::useClay(const Clay &clay, bool isTinted, const io::Placement &place, bool ofCopies)
{
    const QByteArray head = QByteArrayLiteral("#version 330 core\n#define LOOK ") + QByteArray::number(clay.look)
                            + QByteArrayLiteral("\n#define TINTED ") + QByteArray::number(int(isTinted))
                            + QByteArrayLiteral("\n#define COPIES ") + QByteArray::number(int(ofCopies))
                            + QByteArrayLiteral("\n");
    QOpenGLShaderProgram &p = use(m_clay[{clay.look, isTinted, ofCopies}], head + kClayVertex, head + kClayFragment);
    p.setUniformValue("view", m_view);
    const QMatrix4x4 toView = m_view * matrixOf(place);
    p.setUniformValue("toView", toView);
    p.setUniformValue("normalToView", toView.normalMatrix());
    p.setUniformValue("projection", m_projection);
    p.setUniformValue("colour", clay.colour);
    p.setUniformValue("tint", QVector3D(0.36f, 0.50f, 0.22f));
    p.setUniformValue("tintShare", clay.tintShare);
    p.setUniformValue("alpha", clay.alpha);
}

void Renderer::drawBackdrop()
{
    m_gl.glDisable(GL_DEPTH_TEST);
    QOpenGLShaderProgram &p = use(Program::Backdrop);
    p.setUniformValue("top", vec(theme().backdropTop));
    p.setUniformValue("bottom", vec(theme().backdropBottom));
    m_empty.bind();
    m_gl.glDrawArrays(GL_TRIANGLE_STRIP, 0, 4);
    m_empty.release();
    m_gl.glEnable(GL_DEPTH_TEST);
}

void Renderer::drawFloor()
{
    if (m_shadowArea.isEmpty())
        return;
    QOpenGLShaderProgram &p = useInSpace(Program::Floor);
    const Vec3f middle = m_shadowArea.centre(), size = m_shadowArea.size();
    const float longest = std::max(size.x, size.z);
    p.setUniformValue("middle", QVector2D(middle.x, middle.z));
    p.setUniformValue("radius", longest * 1.3f);
    p.setUniformValue("height", m_shadowArea.lo.y);
    p.setUniformValue("shadowLow", QVector2D(m_shadowArea.lo.x, m_shadowArea.lo.z));
    p.setUniformValue("shadowSize", QVector2D(size.x, size.z));
    p.setUniformValue("step", std::pow(10.0f, std::floor(std::log10(longest / 4))) * 2);
    p.setUniformValue("line", vec(theme().isDark ? theme().line : QColor("#6E6A5C")));
    m_gl.glActiveTexture(GL_TEXTURE0);
    m_shadow->bind();
    p.setUniformValue("shadow", 0);
    m_gl.glEnable(GL_BLEND);
    m_gl.glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ZERO, GL_ONE); // the picture stays opaque
    m_gl.glDepthMask(GL_FALSE);
    m_empty.bind();
    m_gl.glDrawArrays(GL_TRIANGLE_STRIP, 0, 4);
    m_empty.release();
    m_gl.glDepthMask(GL_TRUE);
    m_gl.glDisable(GL_BLEND);
}

void Renderer::drawForms(const Scene &scene)
{
    eachForm(scene, [&](std::uint32_t id, FormMesh &m) {
        const Clay clay{vec(formColour(m.form)), scene.showForms && id == scene.litForm ? 0.35f : 0.0f};
        drawClay(*m.gpu, clay);
        if (m.twin)
            drawClay(*m.twin, clay);
        m_triangles += m.gpu->triangles(Fineness::Full) * (m.twin ? 2 : 1);
    });
}

/// A line round the forms that are chosen or lit: their far sides, drawn a little larger.
void Renderer::drawOutlines(const Scene &scene)
{
    const auto isChosen = [&](std::uint32_t id) {
        return std::find(scene.chosenForms.begin(), scene.chosenForms.end(), id) != scene.chosenForms.end();
    };
    if (!scene.showForms || (scene.chosenForms.empty() && scene.litForm == 0))
        return;
    m_gl.glEnable(GL_CULL_FACE);
    m_gl.glCullFace(GL_FRONT);
    QOpenGLShaderProgram &p = useInSpace(Program::Outline);
    p.setUniformValue("width", 0.006f);
    eachForm(scene, [&](std::uint32_t id, FormMesh &m) {
        if (!isChosen(id) && id != scene.litForm)
            return;
        p.setUniformValue("colour", vec(isChosen(id) ? theme().slate : theme().moss));
        m.gpu->draw(Fineness::Full);
        if (m.twin)
            m.twin->draw(Fineness::Full);
    });
    m_gl.glDisable(GL_CULL_FACE);
}

void Renderer::drawPictures(const Scene &scene, bool over)
{
    std::erase_if(m_pictures, [&](const auto &known) {
        const auto &all = scene.creature->references;
        return std::none_of(all.begin(), all.end(), [&](const auto &r) { return r.file.get() == known.first; });
    });
    for (const ScenePicture &p : scene.pictures) {
        if (p.isOver != over)
            continue;
        auto &texture = m_pictures[p.key];
        if (!texture) {
            texture = std::make_unique<QOpenGLTexture>(*p.image, QOpenGLTexture::GenerateMipMaps);
            texture->setMinMagFilters(QOpenGLTexture::LinearMipMapLinear, QOpenGLTexture::Linear);
            texture->setWrapMode(QOpenGLTexture::ClampToEdge);
        }
        QOpenGLShaderProgram &program = useInSpace(Program::Picture);
        QVector3D corners[4];
        for (std::size_t i = 0; i < 4; ++i)
            corners[i] = vec(p.corners[i]);
        program.setUniformValueArray("corners", corners, 4);
        program.setUniformValue("opacity", p.opacity);
        program.setUniformValue("picture", 0);
        texture->bind(0);
        m_gl.glEnable(GL_BLEND);
        m_gl.glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ZERO, GL_ONE);
        m_empty.bind();
        m_gl.glDrawArrays(GL_TRIANGLE_STRIP, 0, 4);
        m_empty.release();
        m_gl.glDisable(GL_BLEND);
    }
}

/// One layer of clear skin over the forms: its depth first, then its nearest surface alone.
void Renderer::drawLiveSkin()
{
    if (!m_live)
        return;
    m_gl.glColorMask(GL_FALSE, GL_FALSE, GL_FALSE, GL_FALSE);
    drawClay(*m_live, {kSkin, 0, 0.62f});
    m_gl.glColorMask(GL_TRUE, GL_TRUE, GL_TRUE, GL_TRUE);
    m_gl.glDepthFunc(GL_LEQUAL);
    m_gl.glEnable(GL_BLEND);
    m_gl.glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ZERO, GL_ONE);
    drawClay(*m_live, {kSkin, 0, 0.62f});
    m_gl.glDisable(GL_BLEND);
    m_gl.glDepthFunc(GL_LESS);
    m_triangles += m_live->triangles(Fineness::Full);
}

void Renderer::draw(const Scene &scene, const portrait::Camera &camera, float aspect)
{
    m_triangles = 0;
    m_leftOut = false;
    lookThrough(camera, aspect);
    m_gl.glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
    drawBackdrop();
    drawPictures(scene, false);
    m_gl.glEnable(GL_DEPTH_TEST);
    if (scene.showPieces)
        drawPieces(scene, camera);
    // Looks of skins alone show what stands on them as clay.
    const bool isOfAll = scene.look == Look::Silhouette || scene.look == Look::Facets || scene.look == Look::ColourOnly
                         || scene.look == Look::Values;
    drawItems(isOfAll ? rowOf(scene.look).shade : 0);
    drawForms(scene);
    drawLiveSkin();
    drawOutlines(scene);
    drawFloor();
    if (scene.showPieces && scene.look == Look::Through)
        drawClear(scene);
    m_gl.glDisable(GL_DEPTH_TEST);
    drawPictures(scene, true);
}

void Renderer::drawPieces(const Scene &scene, const portrait::Camera &camera)
{
    if (scene.look == Look::Through)
        return; // after all that is behind it
    const int look = rowOf(scene.look).shade;
    const bool isWire = scene.look == Look::Wire;
    if (isWire) { // so that the edges lie before their faces
        m_gl.glEnable(GL_POLYGON_OFFSET_FILL);
        m_gl.glPolygonOffset(1, 1);
    }
    eachPiece(scene, [&](std::uint32_t id, GpuSkin &gpu) {
        const bool stroked = scene.strokeSurface && id == scene.chosenPiece;
        Fineness fineness = isWire ? Fineness::Full : scene.fineness;
        if (gpu.triangles(fineness) > scene.mostTriangles && gpu.hasLight(Fineness::Moving))
            fineness = Fineness::Moving; // the one for a still view is not there
        if (gpu.triangles(fineness) > scene.mostTriangles) {
            gpu.useNoTints();
            useClay({kSkin, 0, 1, look}, false);
            gpu.drawPoints(400'000);
            m_leftOut = true;
            return;
        }
        drawClay(gpu, {kSkin, 0, 1, look}, fineness, stroked ? scene.strokeTouched : std::vector<std::uint32_t>{});
        m_triangles += gpu.triangles(fineness);
    });
    if (isWire) {
        m_gl.glDisable(GL_POLYGON_OFFSET_FILL);
        QOpenGLShaderProgram &p = useInSpace(Program::Outline);
        p.setUniformValue("width", 0.0f);
        p.setUniformValue("colour", QVector3D(0.27f, 0.25f, 0.21f));
        // Where edges lie close on the screen they would hide the clay, so they fade there.
        const auto fade = [&](std::uint32_t id) {
            const float edge = meanEdgeLength(scene.creature->piece(id)->skin.shown);
            const float points = edge / camera.heightAtTarget() * 800;
            return std::clamp(points / 9, 0.06f, 0.75f);
        };
        m_gl.glEnable(GL_BLEND);
        m_gl.glBlendFuncSeparate(GL_CONSTANT_ALPHA, GL_ONE_MINUS_CONSTANT_ALPHA, GL_ZERO, GL_ONE);
        eachPiece(scene, [&](std::uint32_t id, GpuSkin &gpu) {
            m_gl.glBlendColor(0, 0, 0, fade(id));
            gpu.drawEdges();
        });
        m_gl.glDisable(GL_BLEND);
    }
    if (scene.touch)
        drawTouch(scene);
}

/// Clear skins over all else: their far sides first, then their near ones.
void Renderer::drawClear(const Scene &scene)
{
    m_gl.glEnable(GL_BLEND);
    m_gl.glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ZERO, GL_ONE);
    m_gl.glDepthMask(GL_FALSE);
    m_gl.glEnable(GL_CULL_FACE);
    for (const GLenum hidden : {GL_FRONT, GL_BACK}) {
        m_gl.glCullFace(hidden);
        eachPiece(scene, [&](std::uint32_t, GpuSkin &gpu) { drawClay(gpu, {kSkin, 0, 1, 4}, scene.fineness); });
    }
    eachPiece(scene, [&](std::uint32_t, GpuSkin &gpu) { m_triangles += gpu.triangles(scene.fineness); });
    m_gl.glDisable(GL_CULL_FACE);
    m_gl.glDepthMask(GL_TRUE);
    m_gl.glDisable(GL_BLEND);
}

/// The faces that a stroke would touch, washed in moss by how much. Cost follows their number.
void Renderer::drawTouch(const Scene &scene)
{
    const document::Piece *piece = scene.creature->piece(scene.chosenPiece);
    const sculpt::Touch &touch = *scene.touch;
    if (!piece || piece->isHidden)
        return;
    const mesh::Surface &s = piece->skin.shown;
    const auto shareOf = [&](std::uint32_t v) {
        const auto at = std::lower_bound(touch.blocks.begin(), touch.blocks.end(), v / std::uint32_t(mesh::kBlockSize));
        if (at == touch.blocks.end() || *at != v / mesh::kBlockSize)
            return 0.0f;
        const std::vector<float> &shares = touch.shares[std::size_t(at - touch.blocks.begin())];
        return shares.empty() ? 0.0f : shares[v % mesh::kBlockSize];
    };
    std::vector<std::array<float, 4>> corners;
    for (std::size_t k = 0; k < touch.blocks.size(); ++k) {
        if (touch.shares[k].empty())
            continue;
        const std::size_t b = touch.blocks[k];
        for (std::size_t i = 0; i < s.topology->block(b).drawnFaces; ++i) {
            const mesh::Face f = s.topology->faceOf(b, i);
            std::array<std::array<float, 4>, 4> at;
            float most = 0;
            for (std::size_t c = 0; c < std::size_t(f.size()); ++c) {
                const Vec3f p = s.positions[f.v[c]];
                at[c] = {p.x, p.y, p.z, shareOf(f.v[c])};
                most = std::max(most, at[c][3]);
            }
            if (most == 0)
                continue;
            corners.insert(corners.end(), {at[0], at[1], at[2]});
            if (f.size() == 4)
                corners.insert(corners.end(), {at[0], at[2], at[3]});
        }
    }
    if (corners.empty())
        return;
    useInSpace(Program::Touch).setUniformValue("colour", vec(theme().isDark ? theme().moss : QColor("#5C7A3D")));
    m_touchArray.bind();
    m_touchCorners.bind();
    m_touchCorners.allocate(corners.data(), int(corners.size() * 16));
    m_gl.glEnable(GL_POLYGON_OFFSET_FILL);
    m_gl.glPolygonOffset(-1, -1);
    m_gl.glDepthFunc(GL_LEQUAL);
    m_gl.glEnable(GL_BLEND);
    m_gl.glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ZERO, GL_ONE);
    m_gl.glDrawArrays(GL_TRIANGLES, 0, GLsizei(corners.size()));
    m_gl.glDisable(GL_BLEND);
    m_gl.glDepthFunc(GL_LESS);
    m_gl.glDisable(GL_POLYGON_OFFSET_FILL);
    m_touchArray.release();
}

std::vector<std::uint32_t> Renderer::needLight(Fineness fineness, std::size_t above) const
{
    std::vector<std::uint32_t> ids;
    for (const auto &[id, gpu] : m_pieces)
        if (!gpu->hasLight(fineness) && gpu->triangles(Fineness::Full) > above)
            ids.push_back(id);
    return ids;
}

void Renderer::setLight(std::uint32_t piece, Fineness fineness, const LightIndices &light)
{
    if (const auto it = m_pieces.find(piece); it != m_pieces.end())
        it->second->setLight(fineness, light);
}

std::size_t Renderer::fullTriangles() const
{
    std::size_t n = 0;
    for (const auto &[id, gpu] : m_pieces)
        n += gpu->triangles(Fineness::Full);
    return n;
}

void Renderer::setContactShadow(const std::vector<std::uint8_t> &values, int side, Box3f area)
{
    m_shadow = std::make_unique<QOpenGLTexture>(QOpenGLTexture::Target2D);
    m_shadow->setSize(side, side);
    m_shadow->setFormat(QOpenGLTexture::R8_UNorm);
    m_shadow->setMinMagFilters(QOpenGLTexture::Linear, QOpenGLTexture::Linear);
    m_shadow->setWrapMode(QOpenGLTexture::ClampToEdge);
    m_shadow->allocateStorage(QOpenGLTexture::Red, QOpenGLTexture::UInt8);
    QOpenGLPixelTransferOptions tight;
    tight.setAlignment(1);
    m_shadow->setData(QOpenGLTexture::Red, QOpenGLTexture::UInt8, values.data(), &tight);
    m_shadowArea = area;
}

} // namespace bonemoss::app
