#pragma once

#include "app/view/gpu_skin.h"
#include "app/view/look.h"
#include "creature/creature.h"
#include "portrait/camera.h"
#include "sculpt/dab.h"

#include <QMatrix4x4>
#include <QOpenGLShaderProgram>
#include <QOpenGLTexture>

#include <array>
#include <functional>
#include <map>
#include <memory>
#include <span>

namespace bonemoss::app {

/// A picture in space, behind everything or over it.
struct ScenePicture {
    const void *key = nullptr; ///< tells pictures apart from frame to frame
    const QImage *image = nullptr;
    std::array<Vec3f, 4> corners; ///< upper left, upper right, lower left, lower right
    float opacity = 1;
    bool isOver = false;
};

/// What the renderer shall show in one frame.
struct Scene {
    const creature::Creature *creature = nullptr;
    bool showForms = false, showPieces = true;
    std::span<const std::uint32_t> chosenForms;
    std::uint32_t litForm = 0, chosenPiece = 0;
    const mesh::Surface *liveSkin = nullptr;                 ///< what the forms would knit into, shown through
    Look look = Look::Clay;                                  ///< of the skins
    std::uint32_t layer = 0;                                 ///< the chosen one, for Look::LayerOnly
    std::function<MapValues(std::uint32_t piece)> mapValues; ///< for looks that are worked out
    bool preferLight = false;                                ///< lighter version, where there is one
    const mesh::Surface *strokeSurface = nullptr;            ///< shown instead of the chosen piece during a stroke
    const mesh::BlockArray<std::uint8_t> *strokeMask = nullptr;
    const detail::Skin *strokeSkin = nullptr; ///< with its other marks, where the stroke changes faces
    std::vector<std::uint32_t> strokeDirty, strokeTouched;
    std::vector<ScenePicture> pictures;
    const sculpt::Touch *touch = nullptr; ///< what a stroke would touch of the chosen piece, tinted
};

/// Greatest thickness (mm) that Look::Thin tells, and difference of left and right that Look::Uneven shows in full.
float toldThickness(const creature::Creature &creature);
float toldUnevenness(const creature::Creature &creature);

/// Draws a creature in clay on a floor with contact shadow. Lives with the view's context.
class Renderer
{
public:
    explicit Renderer(QOpenGLFunctions_3_3_Core &gl);
    ~Renderer();

    /// Sends what changed since the last frame. Cost follows the blocks that changed.
    void update(const Scene &scene);
    void draw(const Scene &scene, const portrait::Camera &camera, float aspect);
    /// Forgets the tints of looks that no view shows any longer.
    void dropTints(std::span<const Look> but);
    std::size_t trianglesDrawn() const { return m_triangles; }
    /// Pieces that have no lighter version yet.
    std::vector<std::uint32_t> needLight(std::size_t aboveTriangles) const;
    void setLight(std::uint32_t piece, std::shared_ptr<const LightIndices> light);
    /// A square picture of how near the floor things are (255 touching), over the given floor area.
    void setContactShadow(const std::vector<std::uint8_t> &values, int side, Box3f area);

private:
    struct FormMesh {
        armature::Form form;
        std::vector<Transform> places;
        std::unique_ptr<GpuSkin> gpu, twin;
    };
    void useCamera(QOpenGLShaderProgram &program, const portrait::Camera &camera, float aspect);
    void updateForms(const Scene &scene);
    void updateCages(const Scene &scene);
    void drawForms(const Scene &scene, bool outline);
    void drawLiveSkin(const Scene &scene);
    void useTints(GpuSkin &gpu, const detail::Skin &skin, std::uint32_t piece, const Scene &scene);
    void drawPieces(const Scene &scene, const portrait::Camera &camera, float aspect);
    void drawClear(const Scene &scene);
    void drawTouch(const Scene &scene, const portrait::Camera &camera, float aspect);
    template <typename Use> void eachPiece(const Scene &scene, const Use &use)
    {
        for (auto &[id, gpu] : m_pieces)
            if (const creature::Piece *p = scene.creature->piece(id); p && !p->isHidden)
                use(id, *gpu);
    }
    void drawFloor(const portrait::Camera &camera, float aspect);
    void drawBackdrop();
    void drawPictures(const Scene &scene, const portrait::Camera &camera, float aspect, bool over);

    QOpenGLFunctions_3_3_Core &m_gl;
    QOpenGLShaderProgram m_clay, m_outline, m_floor, m_backdrop, m_picture, m_touch;
    QOpenGLVertexArrayObject m_empty, m_touchArray;
    QOpenGLBuffer m_touchCorners{QOpenGLBuffer::VertexBuffer};
    std::unique_ptr<QOpenGLTexture> m_shadow;
    Box3f m_shadowArea;
    std::map<std::uint32_t, std::unique_ptr<GpuSkin>> m_pieces;
    std::map<std::uint32_t, FormMesh> m_forms;
    struct CageMesh {
        std::shared_ptr<const creature::Cage> cage;
        std::unique_ptr<GpuSkin> gpu;
    };
    std::map<std::uint32_t, CageMesh> m_cages;
    std::map<const void *, std::unique_ptr<QOpenGLTexture>> m_pictures;
    std::unique_ptr<GpuSkin> m_live;
    std::size_t m_triangles = 0;
};

QMatrix4x4 viewMatrix(const portrait::Camera &camera);
QMatrix4x4 projectionMatrix(const portrait::Camera &camera, float aspect, float sceneSize);

} // namespace bonemoss::app
