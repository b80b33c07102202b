#include "app/view/renderer.h"

#include "app/theme/theme.h"

#include <QOpenGLPixelTransferOptions>
#include <QVector2D>
#include <QVector3D>

namespace bonemoss::app {

namespace {

constexpr const char *kClayVertex = R"(#version 330 core
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
layout(location = 2) in float mask;
layout(location = 3) in float cavity;
layout(location = 4) in vec4 tintOver;
layout(location = 5) in vec4 finish;
uniform mat4 view, projection;
out vec3 vNormal, vPlace;
out float vMask, vCavity;
out vec4 vOver, vFinish;
void main()
{
    vec4 p = view * vec4(position, 1.0);
    vPlace = p.xyz;
    vNormal = mat3(view) * normal;
    vMask = mask;
    vCavity = cavity;
    vOver = tintOver;
    vFinish = finish;
    gl_Position = projection * p;
})";

// Matt clay: soft warm key from upper left front, hemisphere fill from sky to ground, a thin rim from
// behind; hollows darkened and ridges lifted by curvature. sRGB curve at the end.
constexpr const char *kClayFragment = R"(#version 330 core
in vec3 vNormal, vPlace;
in float vMask, vCavity;
in vec4 vOver, vFinish; // sRGB colour and how much clay stays; gloss, metal, wet, opaque: (0, 0, 0, 1) without
uniform mat4 view;
uniform vec3 colour, tint;
uniform float tintShare, alpha;
uniform int look; // 1 facets, 2 silhouette, 3 hollows and ridges
out vec4 result;
void main()
{
    if (look == 2) {
        result = vec4(0.115, 0.105, 0.09, alpha);
        return;
    }
    vec3 n = normalize(look == 1 ? cross(dFdx(vPlace), dFdy(vPlace)) : vNormal);
    vec3 toEye = normalize(-vPlace);
    if (dot(n, toEye) < -0.15)
        n = -n;
    vec3 up = mat3(view) * vec3(0.0, 1.0, 0.0);
    vec3 key = normalize(vec3(-0.62, 0.66, 0.52));
    float lit = max(dot(n, key), 0.0);
    float wrap = max((dot(n, key) + 0.35) / 1.35, 0.0);
    vec3 sky = mix(vec3(0.14, 0.125, 0.11), vec3(0.34, 0.375, 0.43), 0.5 + 0.5 * dot(n, up));
    float hollow = clamp(vCavity, -1.0, 1.0);
    float open = hollow < 0.0 ? 1.0 + 0.55 * hollow : 1.0;
    vec3 light = sky * open + vec3(1.08, 1.0, 0.88) * (0.72 * lit + 0.28 * wrap * wrap) * mix(1.0, open, 0.6);
    vec3 base = mix(mix(colour, tint, tintShare), pow(vOver.rgb, vec3(2.2)), 1.0 - vOver.a);
    if (look == 3)
        base = hollow < 0.0 ? mix(vec3(0.42, 0.41, 0.38), vec3(0.045, 0.14, 0.18), min(1.0, -1.6 * hollow))
                            : mix(vec3(0.42, 0.41, 0.38), vec3(0.80, 0.56, 0.14), min(1.0, 1.6 * hollow));
    base = mix(base, base * vec3(0.34, 0.42, 0.45), vMask);
    float gloss = vFinish.x, metal = vFinish.y, wet = vFinish.z, through = 1.0 - vFinish.w;
    light += through * vec3(0.42, 0.20, 0.13) * (0.35 + 0.65 * pow(1.0 - max(dot(n, toEye), 0.0), 2.0));
    vec3 c = base * light * (1.0 - 0.65 * metal) * (1.0 - 0.25 * wet);
    c *= 1.0 + 0.22 * max(hollow, 0.0);
    float edge = pow(1.0 - max(dot(n, toEye), 0.0), 3.5);
    c += vec3(0.30, 0.32, 0.33) * edge * max(dot(n, normalize(vec3(0.55, 0.55, -0.62))), 0.0);
    vec3 h = normalize(key + toEye);
    float shine = max(dot(n, h), 0.0);
    c += vec3(0.05) * pow(shine, 22.0) * lit;
    vec3 mirror = mix(vec3(1.0), base * 2.2, metal);
    c += mirror * max(gloss, 0.4 * metal) * (0.85 * pow(shine, mix(18.0, 190.0, gloss)) * lit
         + 0.35 * max(gloss, metal) * mix(0.15, 1.0, 0.5 + 0.5 * dot(reflect(-toEye, n), up)) * sky * 2.0);
    c += vec3(wet) * (0.9 * pow(shine, 320.0) * lit + 0.30 * edge);
    c = c / (1.0 + 0.18 * c);
    vec3 s = mix(1.055 * pow(max(c, vec3(0.0)), vec3(1.0 / 2.4)) - 0.055, 12.92 * c, lessThanEqual(c, vec3(0.0031308)));
    result = vec4(s, alpha);
})";

constexpr const char *kOutlineVertex = R"(#version 330 core
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
uniform mat4 view, projection;
uniform float width;
void main()
{
    vec4 p = projection * view * vec4(position, 1.0);
    vec2 n = (projection * vec4(mat3(view) * normal, 0.0)).xy;
    p.xy += normalize(n + vec2(1e-9)) * width * p.w;
    gl_Position = p;
})";

constexpr const char *kFlatFragment = R"(#version 330 core
uniform vec3 colour;
out vec4 result;
void main() { result = vec4(colour, 1.0); })";

constexpr const char *kFloorVertex = R"(#version 330 core
uniform mat4 view, projection;
uniform vec2 middle;
uniform float radius, height;
out vec2 vFloor;
void main()
{
    vec2 corner = vec2((gl_VertexID & 1) * 2 - 1, (gl_VertexID >> 1) * 2 - 1);
    vFloor = middle + corner * radius;
    gl_Position = projection * view * vec4(vFloor.x, height, vFloor.y, 1.0);
})";

constexpr const char *kFloorFragment = R"(#version 330 core
in vec2 vFloor;
uniform vec2 middle, shadowLow, shadowSize;
uniform float radius, step;
uniform vec3 line;
uniform sampler2D shadow;
out vec4 result;
void main()
{
    vec2 cell = abs(fract(vFloor / step - 0.5) - 0.5) / fwidth(vFloor / step);
    float grid = 0.22 * (1.0 - min(min(cell.x, cell.y), 1.0));
    float axis = abs(vFloor.x) < fwidth(vFloor.x) ? 0.18 : 0.0; // the middle line
    float fade = 1.0 - smoothstep(0.35, 1.0, length(vFloor - middle) / radius);
    vec2 at = (vFloor - shadowLow) / shadowSize;
    float dark = all(greaterThan(at, vec2(0.0))) && all(lessThan(at, vec2(1.0))) ? texture(shadow, at).r : 0.0;
    float a = max((grid + axis) * fade, 0.0);
    result = vec4(mix(line, vec3(0.10, 0.09, 0.08), dark), a + dark * 0.62 * (1.0 - a));
})";

constexpr const char *kBackdropVertex = R"(#version 330 core
out float vHeight;
void main()
{
    vec2 corner = vec2((gl_VertexID & 1) * 2 - 1, (gl_VertexID >> 1) * 2 - 1);
    vHeight = 0.5 + 0.5 * corner.y;
    gl_Position = vec4(corner, 0.9999, 1.0);
})";

constexpr const char *kBackdropFragment = R"(#version 330 core
in float vHeight;
uniform vec3 top, bottom;
out vec4 result;
void main() { result = vec4(mix(bottom, top, vHeight), 1.0); })";

constexpr const char *kPictureVertex = R"(#version 330 core
uniform mat4 view, projection;
uniform vec3 corners[4];
out vec2 vAt;
void main()
{
    vAt = vec2(gl_VertexID & 1, gl_VertexID >> 1);
    gl_Position = projection * view * vec4(corners[gl_VertexID], 1.0);
})";

constexpr const char *kPictureFragment = R"(#version 330 core
in vec2 vAt;
uniform sampler2D picture;
uniform float opacity;
out vec4 result;
void main()
{
    vec4 c = texture(picture, vAt);
    result = vec4(c.rgb, c.a * opacity);
})";

QVector3D vec(Vec3f v)
{
    return {v.x, v.y, v.z};
}
QVector3D vec(const QColor &c)
{
    return {c.redF(), c.greenF(), c.blueF()};
}

void build(QOpenGLShaderProgram &p, const char *vertex, const char *fragment)
{
    p.addShaderFromSourceCode(QOpenGLShader::Vertex, vertex);
    p.addShaderFromSourceCode(QOpenGLShader::Fragment, fragment);
    if (!p.link())
        qWarning("shader: %s", qPrintable(p.log()));
}

/// Clay of forms: a little apart from each other by kind, so that the block-out reads.
Vec3f formColour(const armature::Form &f)
{
    if (f.role == armature::FormRole::Cut)
        return {0.42f, 0.20f, 0.14f};
    if (f.role == armature::FormRole::Apart && !f.colour)
        return {0.16f, 0.14f, 0.12f};
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
        m.perspective(c.heightAngle * 57.29578f, aspect, std::max(c.distance * 0.02f, 0.05f), far);
    }
    return m;
}

Renderer::Renderer(QOpenGLFunctions_3_3_Core &gl) : m_gl(gl)
{
    build(m_clay, kClayVertex, kClayFragment);
    build(m_outline, kOutlineVertex, kFlatFragment);
    build(m_floor, kFloorVertex, kFloorFragment);
    build(m_backdrop, kBackdropVertex, kBackdropFragment);
    build(m_picture, kPictureVertex, kPictureFragment);
    m_empty.create();
    setContactShadow({0}, 1, {});
}

Renderer::~Renderer() = default;

void Renderer::update(const Scene &scene)
{
    const creature::Creature &c = *scene.creature;
    std::erase_if(m_pieces, [&](const auto &entry) { return !c.piece(entry.first); });
    if (scene.showPieces)
        for (const auto &p : c.pieces) {
            if (p->isHidden)
                continue;
            auto &gpu = m_pieces[p->id];
            if (!gpu)
                gpu = std::make_unique<GpuSkin>(m_gl);
            const bool isStroked = scene.strokeSurface && p->id == scene.chosenPiece;
            if (isStroked)
                gpu->update(*scene.strokeSurface, *scene.strokeMask, scene.strokeDirty);
            else
                gpu->update(p->skin.shown, p->skin.mask);
            const detail::Skin &skin = isStroked && scene.strokeSkin ? *scene.strokeSkin : p->skin;
            if (scene.look == Look::Stretched || scene.look == Look::Neglected || scene.look == Look::LayerOnly)
                gpu->updateMap(skin, scene.look, scene.layer);
            else
                gpu->updateTints(scene.look == Look::Clay || scene.look == Look::Facets || scene.look == Look::Wire
                                     ? skin.paint
                                     : detail::Paint(),
                                 scene.look == Look::Groups ? &skin.groupOf : nullptr);
        }
    updateForms(scene);
    updateCages(scene);
    if (!scene.liveSkin || scene.liveSkin->isEmpty()) {
        m_live.reset();
        return;
    }
    if (!m_live || m_live->topology() != scene.liveSkin->topology.get())
        m_live = std::make_unique<GpuSkin>(m_gl);
    m_live->update(*scene.liveSkin, mesh::BlockArray<std::uint8_t>(scene.liveSkin->positions.size()));
}

void Renderer::updateCages(const Scene &scene)
{
    std::erase_if(m_cages, [&](const auto &entry) { return !scene.creature->cage(entry.first); });
    for (const auto &cage : scene.creature->cages) {
        CageMesh &m = m_cages[cage->id];
        if (m.cage == cage)
            continue;
        m.cage = cage;
        const mesh::PolyMesh shape = shownCage(*cage);
        m.gpu = std::make_unique<GpuSkin>(m_gl);
        m.gpu->update(mesh::makeSurface(shape), mesh::BlockArray<std::uint8_t>(shape.positions.size()));
    }
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

void Renderer::useCamera(QOpenGLShaderProgram &program, const portrait::Camera &camera, float aspect)
{
    program.bind();
    program.setUniformValue("view", viewMatrix(camera));
    program.setUniformValue("projection",
                            projectionMatrix(camera, aspect, m_shadowArea.isEmpty() ? camera.distance : m_shadowArea.diagonal()));
}

void Renderer::drawBackdrop()
{
    m_gl.glDisable(GL_DEPTH_TEST);
    m_backdrop.bind();
    m_backdrop.setUniformValue("top", vec(theme().backdropTop));
    m_backdrop.setUniformValue("bottom", vec(theme().backdropBottom));
    m_empty.bind();
    m_gl.glDrawArrays(GL_TRIANGLE_STRIP, 0, 4);
    m_empty.release();
    m_gl.glEnable(GL_DEPTH_TEST);
}

void Renderer::drawFloor(const portrait::Camera &camera, float aspect)
{
    if (m_shadowArea.isEmpty())
        return;
    useCamera(m_floor, camera, aspect);
    const Vec3f middle = m_shadowArea.centre(), size = m_shadowArea.size();
    const float longest = std::max(size.x, size.z);
    m_floor.setUniformValue("middle", QVector2D(middle.x, middle.z));
    m_floor.setUniformValue("radius", longest * 1.3f);
    m_floor.setUniformValue("height", m_shadowArea.lo.y);
    m_floor.setUniformValue("shadowLow", QVector2D(m_shadowArea.lo.x, m_shadowArea.lo.z));
    m_floor.setUniformValue("shadowSize", QVector2D(size.x, size.z));
    m_floor.setUniformValue("step", std::pow(10.0f, std::floor(std::log10(longest / 4))) * 2);
    m_floor.setUniformValue("line", vec(theme().isDark ? theme().line : QColor("#6E6A5C")));
    m_gl.glActiveTexture(GL_TEXTURE0);
    m_shadow->bind();
    m_floor.setUniformValue("shadow", 0);
    m_gl.glEnable(GL_BLEND);
    m_gl.glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ZERO, GL_ONE); // the picture stays opaque
    m_gl.glDepthMask(GL_FALSE);
    m_empty.bind();
    m_gl.glDrawArrays(GL_TRIANGLE_STRIP, 0, 4);
    m_empty.release();
    m_gl.glDepthMask(GL_TRUE);
    m_gl.glDisable(GL_BLEND);
}

void Renderer::drawForms(const Scene &scene, bool outline)
{
    for (auto &[id, m] : m_forms) {
        const bool apart = m.form.role == armature::FormRole::Apart;
        if (m.form.isHidden || !(scene.showForms || (apart && scene.showPieces)))
            continue;
        if (outline) {
            const bool isChosen = std::find(scene.chosenForms.begin(), scene.chosenForms.end(), id) != scene.chosenForms.end();
            if (!scene.showForms || (!isChosen && id != scene.litForm))
                continue;
            m_outline.setUniformValue("colour", vec(isChosen ? theme().slate : theme().moss));
        } else {
            m_clay.setUniformValue("colour", vec(formColour(m.form)));
            m_clay.setUniformValue("tint", QVector3D(0.36f, 0.50f, 0.22f));
            m_clay.setUniformValue("tintShare", scene.showForms && id == scene.litForm ? 0.35f : 0.0f);
        }
        m.gpu->draw(false);
        if (m.twin)
            m.twin->draw(false);
        m_triangles += m.gpu->triangles(false) * (m.twin ? 2 : 1);
    }
}

void Renderer::drawPictures(const Scene &scene, const portrait::Camera &camera, float aspect, bool over)
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
        useCamera(m_picture, camera, aspect);
        QVector3D corners[4];
        for (std::size_t i = 0; i < 4; ++i)
            corners[i] = vec(p.corners[i]);
        m_picture.setUniformValueArray("corners", corners, 4);
        m_picture.setUniformValue("opacity", p.opacity);
        m_picture.setUniformValue("picture", 0);
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
void Renderer::drawLiveSkin(const Scene &)
{
    if (!m_live)
        return;
    m_gl.glColorMask(GL_FALSE, GL_FALSE, GL_FALSE, GL_FALSE);
    m_live->draw(false);
    m_gl.glColorMask(GL_TRUE, GL_TRUE, GL_TRUE, GL_TRUE);
    m_gl.glDepthFunc(GL_LEQUAL);
    m_gl.glEnable(GL_BLEND);
    m_gl.glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ZERO, GL_ONE);
    m_clay.setUniformValue("colour", QVector3D(0.60f, 0.555f, 0.475f));
    m_clay.setUniformValue("tintShare", 0.0f);
    m_clay.setUniformValue("alpha", 0.62f);
    m_live->draw(false);
    m_clay.setUniformValue("alpha", 1.0f);
    m_gl.glDisable(GL_BLEND);
    m_gl.glDepthFunc(GL_LESS);
    m_triangles += m_live->triangles(false);
}

void Renderer::draw(const Scene &scene, const portrait::Camera &camera, float aspect)
{
    m_triangles = 0;
    m_gl.glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
    drawBackdrop();
    drawPictures(scene, camera, aspect, false);
    m_gl.glEnable(GL_DEPTH_TEST);
    useCamera(m_clay, camera, aspect);
    m_clay.setUniformValue("alpha", 1.0f);
    if (scene.showPieces) {
        m_clay.setUniformValue("tintShare", 0.0f);
        m_clay.setUniformValue("colour", QVector3D(0.60f, 0.555f, 0.475f));
        m_clay.setUniformValue("look", scene.look == Look::Facets       ? 1
                                       : scene.look == Look::Silhouette ? 2
                                       : scene.look == Look::Hollows    ? 3
                                                                        : 0);
        const bool isWire = scene.look == Look::Wire;
        if (isWire) { // so that the edges lie before their faces
            m_gl.glEnable(GL_POLYGON_OFFSET_FILL);
            m_gl.glPolygonOffset(1, 1);
        }
        const auto eachShown = [&](const auto &use) {
            for (auto &[id, gpu] : m_pieces)
                if (const creature::Piece *p = scene.creature->piece(id); p && !p->isHidden)
                    use(id, *gpu);
        };
        eachShown([&](std::uint32_t id, GpuSkin &gpu) {
            const bool stroked = scene.strokeSurface && id == scene.chosenPiece;
            gpu.draw(scene.preferLight && !isWire, stroked ? scene.strokeTouched : std::vector<std::uint32_t>{});
            m_triangles += gpu.triangles(scene.preferLight && !isWire);
        });
        if (isWire) {
            m_gl.glDisable(GL_POLYGON_OFFSET_FILL);
            useCamera(m_outline, camera, aspect);
            m_outline.setUniformValue("width", 0.0f);
            m_outline.setUniformValue("colour", QVector3D(0.27f, 0.25f, 0.21f));
            // Where edges lie close on the screen they would hide the clay, so they fade there.
            const auto fade = [&](std::uint32_t id) {
                const float edge = meanEdgeLength(scene.creature->piece(id)->skin.shown);
                const float points = edge / camera.heightAtTarget() * 800;
                return std::clamp(points / 9, 0.06f, 0.75f);
            };
            m_gl.glEnable(GL_BLEND);
            m_gl.glBlendFuncSeparate(GL_CONSTANT_ALPHA, GL_ONE_MINUS_CONSTANT_ALPHA, GL_ZERO, GL_ONE);
            eachShown([&](std::uint32_t id, GpuSkin &gpu) {
                m_gl.glBlendColor(0, 0, 0, fade(id));
                gpu.drawEdges();
            });
            m_gl.glDisable(GL_BLEND);
            useCamera(m_clay, camera, aspect);
        }
    }
    m_clay.setUniformValue("look", 0);
    m_clay.setUniformValue("tintShare", 0.0f);
    m_clay.setUniformValue("colour", QVector3D(0.50f, 0.50f, 0.47f)); // a little cooler than skin
    for (auto &[id, m] : m_cages)
        if (!m.cage->isHidden) {
            m.gpu->draw(false);
            m_triangles += m.gpu->triangles(false);
        }
    drawForms(scene, false);
    drawLiveSkin(scene);
    m_gl.glEnable(GL_CULL_FACE);
    m_gl.glCullFace(GL_FRONT);
    useCamera(m_outline, camera, aspect);
    m_outline.setUniformValue("width", 0.006f);
    drawForms(scene, true);
    m_gl.glDisable(GL_CULL_FACE);
    drawFloor(camera, aspect);
    m_gl.glDisable(GL_DEPTH_TEST);
    drawPictures(scene, camera, aspect, true);
}

std::vector<std::uint32_t> Renderer::needLight(std::size_t above) const
{
    std::vector<std::uint32_t> ids;
    for (const auto &[id, gpu] : m_pieces)
        if (!gpu->hasLight() && gpu->triangles(false) > above)
            ids.push_back(id);
    return ids;
}

void Renderer::setLight(std::uint32_t piece, std::shared_ptr<const LightIndices> light)
{
    if (const auto it = m_pieces.find(piece); it != m_pieces.end())
        it->second->setLight(std::move(light));
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
