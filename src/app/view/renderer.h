#pragma once

#include "app/view/gpu_skin.h"
#include "app/view/gpu_strands.h"
#include "app/view/look.h"
#include "document/creature.h"
#include "io/scene.h"
#include "outgrowth/riders.h"
#include "portrait/camera.h"
#include "sculpt/dab.h"

#include <QMatrix4x4>
#include <QOpenGLShaderProgram>
#include <QOpenGLTexture>
#include <QVector3D>

#include <algorithm>
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
    const document::Creature *creature = nullptr;
    bool showForms = false, showPieces = true;
    std::span<const std::uint32_t> chosenForms;
    std::uint32_t litForm = 0, chosenPiece = 0;
    const mesh::Surface *liveSkin = nullptr;                 ///< what the forms would knit into, shown through
    Look look = Look::Clay;                                  ///< of the skins
    std::uint32_t layer = 0;                                 ///< the chosen one, for Look::LayerOnly
    pose::BoneKey bone;                                      ///< the chosen one, for Look::BoneWeight
    std::uint32_t colourLayer = 0;                           ///< the chosen one, for Look::ColourMask
    std::function<MapValues(std::uint32_t piece)> mapValues; ///< for looks that are worked out
    Fineness fineness = Fineness::Full;                      ///< of the pieces
    std::size_t mostTriangles = SIZE_MAX;         ///< a piece with more, for want of a lighter version, shows as points
    const mesh::Surface *strokeSurface = nullptr; ///< shown instead of the chosen piece during a stroke
    const mesh::BlockArray<std::uint8_t> *strokeMask = nullptr;
    const skin::Skin *strokeSkin = nullptr; ///< with its other marks, where the stroke changes faces
    std::vector<std::uint32_t> strokeDirty, strokeTouched;
    std::map<std::uint32_t, std::vector<std::uint32_t>>
        late; ///< by piece: blocks that an ended stroke changed since it was last drawn
    std::vector<ScenePicture> pictures;
    const sculpt::Touch *touch = nullptr; ///< what a stroke would touch of the chosen piece, tinted
};

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
    std::vector<std::uint32_t> needLight(Fineness fineness, std::size_t aboveTriangles) const;
    void setLight(std::uint32_t piece, Fineness fineness, const LightIndices &light);
    std::size_t fullTriangles() const;         ///< of the pieces it holds
    bool leftOut() const { return m_leftOut; } ///< a piece at the last drawing
    /// A square picture of how near the floor things are (255 touching), over the given floor area.
    void setContactShadow(const std::vector<std::uint8_t> &values, int side, Box3f area);

private:
    struct FormMesh {
        armature::Form form;
        std::vector<Transform> places;
        std::unique_ptr<GpuSkin> gpu, twin;
    };
    enum class Program { Outline, Floor, Backdrop, Picture, Touch };
    static constexpr int kPrograms = int(Program::Touch) + 1;
    /// How a skin is drawn.
    struct Clay {
        QVector3D colour; ///< linear
        float tintShare = 0, alpha = 1;
        int look = 0; ///< as in the shader
    };
    QOpenGLShaderProgram &use(Program kind);
    QOpenGLShaderProgram &use(std::unique_ptr<QOpenGLShaderProgram> &p, const QByteArray &vertex, const QByteArray &fragment);
    void lookThrough(const portrait::Camera &camera, float aspect);
    QOpenGLShaderProgram &useInSpace(Program kind);
    void useClay(const Clay &clay, bool isTinted, const io::Placement &place = {}, bool ofCopies = false);
    void drawClay(GpuSkin &gpu, const Clay &clay, Fineness fineness = Fineness::Full, const std::vector<std::uint32_t> &full = {},
                  const io::Placement &place = {});
    void updateForms(const Scene &scene);
    void updateItems(const document::Creature &creature);
    void moveWithStroke(const Scene &scene);
    void drawItems(int look);
    struct ItemMesh;
    void drawCopies(ItemMesh &m, std::size_t object, int look);
    void placeCopies(ItemMesh &m, const outgrowth::Made &made);
    void drawForms(const Scene &scene);
    void drawOutlines(const Scene &scene);
    void drawLiveSkin();
    void useTints(GpuSkin &gpu, const skin::Skin &skin, std::uint32_t piece, const Scene &scene);
    void drawPieces(const Scene &scene, const portrait::Camera &camera);
    void drawClear(const Scene &scene);
    void drawTouch(const Scene &scene);
    template <typename Use> void eachForm(const Scene &scene, const Use &use)
    {
        const auto &pieces = scene.creature->pieces;
        const bool hasSkin = std::any_of(pieces.begin(), pieces.end(), [](const auto &p) { return !p->isHidden; });
        for (auto &[id, m] : m_forms) { // beside a skin: what is kept apart from it, and what came since it was knitted
            const bool isBeside = m.form.role == armature::FormRole::Apart
                                  || (hasSkin && m.form.role == armature::FormRole::Add && !m.form.isKnitted);
            if (!m.form.isHidden && (scene.showForms || (isBeside && scene.showPieces)))
                use(id, m);
        }
    }
    template <typename Use> void eachPiece(const Scene &scene, const Use &use)
    {
        for (auto &[id, gpu] : m_pieces)
            if (const document::Piece *p = scene.creature->piece(id); p && !p->isHidden)
                use(id, *gpu);
    }
    void drawFloor();
    void drawBackdrop();
    void drawPictures(const Scene &scene, bool over);

    QOpenGLFunctions_3_3_Core &m_gl;
    std::array<std::unique_ptr<QOpenGLShaderProgram>, kPrograms> m_programs;
    std::map<int, std::unique_ptr<QOpenGLShaderProgram>> m_hair;                ///< by look
    std::map<std::array<int, 3>, std::unique_ptr<QOpenGLShaderProgram>> m_clay; ///< by look, tinted or not, of copies or not
    QMatrix4x4 m_view, m_projection;
    QOpenGLVertexArrayObject m_empty, m_touchArray;
    QOpenGLBuffer m_touchCorners{QOpenGLBuffer::VertexBuffer};
    std::unique_ptr<QOpenGLTexture> m_shadow;
    Box3f m_shadowArea;
    std::map<std::uint32_t, std::unique_ptr<GpuSkin>> m_pieces;
    std::map<std::uint32_t, FormMesh> m_forms;
    /// What an item shows that is neither a form nor a piece.
    struct ItemMesh {
        std::shared_ptr<const void> of;        ///< the state it was made of
        std::shared_ptr<const void> coloursBy; ///< the piece whose colour it takes
        bool isSeen = true;
        io::Scene scene; ///< its objects; shapes are on the card
        /// A shape: faces, or hair in their place.
        struct OnCard {
            std::shared_ptr<const void> of; ///< it was sent from; null for surfaces
            std::shared_ptr<GpuSkin> faces;
            std::shared_ptr<GpuStrands> hair;
        };
        std::vector<OnCard> gpu; ///< of each shape
        Box3f box;
        std::unique_ptr<outgrowth::Riders> riders; ///< while it goes along with a stroke, and until it is made anew
        bool isCarried = false;                    ///< the copies on the card stand where riders took them
        /// Where the copies of each object stand, on the card: first those that are not mirrored.
        struct Copies {
            QOpenGLBuffer places{QOpenGLBuffer::VertexBuffer};
            std::size_t plain = 0, all = 0;
        };
        std::vector<std::unique_ptr<Copies>> copies;
    };
    static std::unique_ptr<ItemMesh::Copies> sendCopies(const io::Object &object);
    std::map<std::uint32_t, ItemMesh> m_items;
    std::map<const void *, std::unique_ptr<QOpenGLTexture>> m_pictures;
    std::unique_ptr<GpuSkin> m_live;
    std::size_t m_triangles = 0;
    bool m_leftOut = false;
};

QMatrix4x4 viewMatrix(const portrait::Camera &camera);
QMatrix4x4 projectionMatrix(const portrait::Camera &camera, float aspect, float sceneSize);

} // namespace bonemoss::app
