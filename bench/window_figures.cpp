// Figures that need the graphics card: frame and undo. Runs once and prints what it measured, in seconds, as one line of JSON.
#include "app/view/renderer.h"
#include "base/parallel.h"
#include "bench/figure.h"
#include "command/command.h"
#include "command/history.h"
#include "command/stroke_command.h"
#include "outgrowth/outgrowth.h"

#include <QApplication>
#include <QOpenGLBuffer>
#include <QOpenGLShaderProgram>
#include <QOpenGLVertexArrayObject>
#include <QOpenGLWidget>
#include <QTimer>
#include <fmt/core.h>
#include <nlohmann/json.hpp>

#include <cmath>

using namespace bonemoss;
using bench::Pair;

namespace {

std::shared_ptr<document::Creature> sheet(std::uint32_t n)
{
    auto c = std::make_shared<document::Creature>();
    auto piece = std::make_shared<document::Piece>();
    piece->id = c->nextId++;
    piece->name = "sheet";
    piece->skin = skin::makeSkin(bench::waves(n, 100), true);
    c->pieces.push_back(std::move(piece));
    return c;
}

/// The plainest lit drawing of a mesh: two attributes, one light.
class Plain
{
public:
    Plain(QOpenGLFunctions_3_3_Core &gl, const mesh::Surface &surface) : m_gl(gl)
    {
        m_program.addShaderFromSourceCode(QOpenGLShader::Vertex, R"(#version 330 core
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
uniform mat4 view, projection;
out vec3 n;
void main() { n = mat3(view) * normal; gl_Position = projection * view * vec4(position, 1.0); })");
        m_program.addShaderFromSourceCode(QOpenGLShader::Fragment, R"(#version 330 core
in vec3 n;
out vec4 result;
void main() { result = vec4(vec3(max(dot(normalize(n), vec3(0.577)), 0.0)), 1.0); })");
        m_program.link();
        std::vector<float> vertices;
        for (std::size_t v = 0; v < surface.positions.size(); ++v) {
            const Vec3f p = surface.positions[v], n = surface.normals[v].unpack();
            vertices.insert(vertices.end(), {p.x, p.y, p.z, n.x, n.y, n.z});
        }
        std::vector<std::uint32_t> indices;
        for (std::size_t b = 0; b < surface.topology->blockCount(); ++b)
            for (std::size_t i = 0; i < surface.topology->block(b).drawnFaces; ++i) {
                const mesh::Face f = surface.topology->faceOf(b, i);
                indices.insert(indices.end(), {f.v[0], f.v[1], f.v[2], f.v[0], f.v[2], f.v[3]});
            }
        m_count = int(indices.size());
        m_array.create();
        m_array.bind();
        for (auto *buffer : {&m_vertices, &m_indices}) {
            buffer->create();
            buffer->bind();
        }
        m_vertices.allocate(vertices.data(), int(vertices.size() * 4));
        m_indices.allocate(indices.data(), int(indices.size() * 4));
        for (const GLuint a : {0u, 1u}) {
            gl.glEnableVertexAttribArray(a);
            gl.glVertexAttribPointer(a, 3, GL_FLOAT, GL_FALSE, 24, reinterpret_cast<const void *>(std::size_t(a) * 12));
        }
        m_array.release();
    }
    void draw(const portrait::Camera &camera, float aspect)
    {
        m_gl.glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
        m_gl.glEnable(GL_DEPTH_TEST);
        m_program.bind();
        m_program.setUniformValue("view", app::viewMatrix(camera));
        m_program.setUniformValue("projection", app::projectionMatrix(camera, aspect, 200));
        m_array.bind();
        m_gl.glDrawElements(GL_TRIANGLES, m_count, GL_UNSIGNED_INT, nullptr);
        m_array.release();
    }
    std::size_t triangles() const { return std::size_t(m_count) / 3; }

private:
    QOpenGLFunctions_3_3_Core &m_gl;
    QOpenGLShaderProgram m_program;
    QOpenGLVertexArrayObject m_array;
    QOpenGLBuffer m_vertices{QOpenGLBuffer::VertexBuffer}, m_indices{QOpenGLBuffer::IndexBuffer};
    int m_count = 0;
};

/// Fifty outgrowths of many kinds with some 2,000 members on a sheet.
document::Creature grown()
{
    document::Creature c = *sheet(300);
    const auto at = [](float x, float z) { return nlohmann::json{x, 0, z}; };
    const auto add = [&](nlohmann::json command) {
        command["mirror"] = false;
        command::CommandContext context;
        auto next = command::apply(c, command, context);
        if (!next)
            qFatal("%s", next.error().text().c_str());
        c = std::move(*next);
    };
    constexpr const char *kRows[] = {"plates", "spikes", "scutes", "shells", "fangs", "incisors", "molars", "needles"};
    constexpr const char *kSingle[] = {"horn", "tusk", "antler", "claw", "nail", "hoof", "eye", "ring", "crown", "horn"};
    for (int k = 0; k < 40; ++k) {
        nlohmann::json points = nlohmann::json::array();
        for (int i = 0; i <= 10; ++i)
            points.push_back(at(-45 + 9 * float(i), -45 + 2.2f * float(k)));
        add({{"do", std::string("outgrow.") + kRows[k % 8]}, {"points", points}, {"count", 49}, {"height", 3}});
    }
    for (int k = 0; k < 10; ++k)
        add({{"do", std::string("outgrow.") + kSingle[k]}, {"at", at(-40 + 9 * float(k), 46)}});
    return c;
}

class View : public QOpenGLWidget
{
public:
    View()
    {
        QSurfaceFormat format;
        format.setVersion(3, 3);
        format.setProfile(QSurfaceFormat::CoreProfile);
        format.setDepthBufferSize(24);
        format.setSamples(4);
        setFormat(format);
    }

protected:
    void paintGL() override
    {
        if (std::exchange(m_isDone, true))
            return;
        if (!m_gl.initializeOpenGLFunctions())
            qFatal("OpenGL 3.3 is not available");
        measureFrame();
        measureGrown();
        measureUndo();
        QTimer::singleShot(0, qApp, &QApplication::quit);
    }

private:
    void measureFrame()
    {
        const auto creature = sheet(1000);
        const mesh::Surface &surface = creature->pieces[0]->skin.shown;
        portrait::Camera camera;
        camera.rotation = *portrait::viewRotation("three-quarter");
        const float aspect = float(width()) / float(height());
        camera = portrait::framing(camera, surface.box(), aspect);
        app::Renderer ours(m_gl);
        app::Scene scene;
        scene.creature = creature.get();
        ours.update(scene);
        Plain plain(m_gl, surface);
        const Pair t = bench::medians(
            5,
            [&] {
                ours.update(scene);
                ours.draw(scene, camera, aspect);
                m_gl.glFinish();
            },
            [&] {
                plain.draw(camera, aspect);
                m_gl.glFinish();
            });
        fmt::print("{{\"frame\": [{}, {}], \"triangles\": {}, ", t.a, t.b, plain.triangles());
    }

    /// Outgrowths beside a bare skin of as many faces.
    void measureGrown()
    {
        const document::Creature full = grown();
        std::size_t faces = full.pieces[0]->skin.shown.topology->faceCount(), members = 0;
        for (const auto &o : full.outgrowths)
            faces += o->made->faceCount(), members += o->made->members.size();
        const auto bare = sheet(std::uint32_t(std::lround(std::sqrt(double(faces)))));
        portrait::Camera camera;
        camera.rotation = *portrait::viewRotation("three-quarter");
        const float aspect = float(width()) / float(height());
        camera = portrait::framing(camera, bare->pieces[0]->skin.shown.box(), aspect);
        app::Renderer withThem(m_gl), without(m_gl);
        app::Scene fullScene, bareScene;
        fullScene.creature = &full, bareScene.creature = bare.get();
        withThem.update(fullScene), without.update(bareScene);
        const auto draw = [&](app::Renderer &renderer, const app::Scene &scene) {
            renderer.update(scene);
            renderer.draw(scene, camera, aspect);
            m_gl.glFinish();
        };
        const Pair t = bench::medians(
            5, [&] { draw(withThem, fullScene); }, [&] { draw(without, bareScene); });
        fmt::print("\"grown\": [{}, {}], \"grownFaces\": {}, \"members\": {}, ", t.a, t.b, faces, members);
    }

    /// Back to the state before a stroke on 1 % of 5 million vertices, with what changed sent to the card.
    void measureUndo()
    {
        std::shared_ptr<const document::Creature> before = sheet(2236);
        command::History history(before, "begun");
        document::Creature after = *before;
        auto piece = std::make_shared<document::Piece>(*before->pieces[0]);
        sculpt::StrokeSettings s;
        s.size = float(std::sqrt(0.01 * 100 * 100 / 3.14159265)) * 0.7f;
        s.isMirrored = false;
        document::LiveStroke live(piece->skin, s, 0);
        live.add({{-1, 60, 3}, {0, -1, 0}, 1, 0});
        live.add({{1, 60, 3}, {0, -1, 0}, 1, 8});
        const std::vector<std::uint32_t> touched = live.stroke().touched();
        if (!live.finish(piece->skin))
            qFatal("the stroke failed");
        after.put(piece);
        history.push(std::move(after), {{"do", "sculpt.stroke"}});
        app::Renderer renderer(m_gl);
        app::Scene scene;
        scene.creature = &history.now();
        renderer.update(scene);
        // Of each touched block what a state holds: body, shown place and normal.
        const skin::Skin &skin = before->pieces[0]->skin;
        constexpr std::size_t kBytes = sizeof(Vec3f) * 2 + sizeof(mesh::PackedNormal);
        std::vector<std::vector<char>> from(touched.size()), to(touched.size());
        for (std::size_t k = 0; k < touched.size(); ++k)
            from[k].assign(skin.body.countIn(touched[k]) * kBytes, 1), to[k] = from[k];
        std::vector<double> undo, sent, copy;
        for (int i = 0; i < 9; ++i) {
            undo.push_back(bench::seconds([&] { history.goTo(0); }));
            scene.creature = &history.now();
            sent.push_back(bench::seconds([&] {
                renderer.update(scene);
                m_gl.glFinish();
            }));
            copy.push_back(bench::seconds([&] {
                for (std::size_t k = 0; k < touched.size(); ++k)
                    std::copy(from[k].begin(), from[k].end(), to[k].begin());
            }));
            history.goTo(1);
            scene.creature = &history.now();
            renderer.update(scene);
        }
        fmt::print("\"undo\": [{}, {}, {}], \"blocks\": {}}}\n", bench::median(undo), bench::median(copy), bench::median(sent),
                   touched.size());
    }

    QOpenGLFunctions_3_3_Core m_gl;
    bool m_isDone = false;
};

} // namespace

int main(int argc, char **argv)
{
    keepFreedMemory(); // as the program itself does
    QApplication app(argc, argv);
    View view;
    view.resize(1280, 800);
    view.show();
    return QApplication::exec();
}
