#include "mesh/coarsen.h"

#include <algorithm>

namespace bonemoss::mesh {

namespace {

enum Label : std::uint8_t { kUnknown, kKept, kEdgePoint, kFacePoint };

/// Faces about each vertex.
struct Fans {
    std::vector<std::uint32_t> start, face;

    Fans(std::size_t vertexCount, const std::vector<Face> &faces) : start(vertexCount + 1, 0), face(faces.size() * 4)
    {
        for (const Face &f : faces)
            for (const std::uint32_t v : f.v)
                ++start[v + 1];
        for (std::size_t v = 0; v < vertexCount; ++v)
            start[v + 1] += start[v];
        std::vector<std::uint32_t> cursor(start.begin(), start.end() - 1);
        for (std::uint32_t f = 0; f < faces.size(); ++f)
            for (const std::uint32_t v : faces[f].v)
                face[cursor[v]++] = f;
    }
};

/// Labels all that hangs together with a face, of whose corners the given one is a kept vertex. False when that leads
/// to a vertex of two kinds; reached then holds what has to be forgotten again.
bool label(const std::vector<Face> &faces, const Fans &fans, std::uint32_t seed, std::size_t corner, std::vector<Label> &labels,
           std::vector<std::uint32_t> &reached)
{
    std::vector<std::uint32_t> open;
    const auto set = [&](std::uint32_t v, Label l) {
        if (labels[v] != kUnknown)
            return labels[v] == l;
        labels[v] = l;
        reached.push_back(v);
        if (l != kEdgePoint) // its faces follow from it
            open.push_back(v);
        return true;
    };
    const auto setFace = [&](const Face &f, std::size_t kept) {
        return set(f.v[kept], kKept) && set(f.v[(kept + 1) % 4], kEdgePoint) && set(f.v[(kept + 2) % 4], kFacePoint)
               && set(f.v[(kept + 3) % 4], kEdgePoint);
    };
    if (!setFace(faces[seed], corner))
        return false;
    while (!open.empty()) {
        const std::uint32_t v = open.back();
        open.pop_back();
        for (std::uint32_t i = fans.start[v]; i < fans.start[v + 1]; ++i) {
            const Face &f = faces[fans.face[i]];
            const std::size_t c = std::size_t(std::find(f.v.begin(), f.v.end(), v) - f.v.begin());
            if (!setFace(f, labels[v] == kKept ? c : (c + 2) % 4))
                return false;
        }
    }
    return true;
}

/// Kept vertices about a face point, in the order of its old face; empty when they do not close up.
std::vector<std::uint32_t> loopAbout(const std::vector<Face> &faces, const Fans &fans, std::uint32_t centre)
{
    struct Spoke {
        std::uint32_t from, kept, to;
    };
    std::vector<Spoke> spokes;
    for (std::uint32_t i = fans.start[centre]; i < fans.start[centre + 1]; ++i) {
        const Face &f = faces[fans.face[i]];
        const std::size_t c = std::size_t(std::find(f.v.begin(), f.v.end(), centre) - f.v.begin());
        spokes.push_back({f.v[(c + 1) % 4], f.v[(c + 2) % 4], f.v[(c + 3) % 4]});
    }
    std::vector<std::uint32_t> loop{spokes.front().kept};
    std::uint32_t at = spokes.front().to;
    while (loop.size() < spokes.size()) {
        const auto next = std::find_if(spokes.begin(), spokes.end(), [&](const Spoke &s) { return s.from == at; });
        if (next == spokes.end() || next->kept == loop.front())
            return {};
        loop.push_back(next->kept);
        at = next->to;
    }
    return at == spokes.front().from ? loop : std::vector<std::uint32_t>{};
}

} // namespace

std::optional<Coarsened> coarsen(std::size_t vertexCount, const std::vector<Face> &faces)
{
    if (faces.empty() || std::any_of(faces.begin(), faces.end(), [](const Face &f) { return f.size() != 4; }))
        return {};
    const Fans fans(vertexCount, faces);
    std::vector<Label> labels(vertexCount, kUnknown);
    std::vector<std::uint32_t> reached;
    for (std::uint32_t f = 0; f < faces.size(); ++f) {
        if (labels[faces[f].v[0]] != kUnknown)
            continue; // of an island already done
        bool isDone = false;
        for (std::size_t corner = 0; corner < 4 && !isDone; ++corner) {
            reached.clear();
            isDone = label(faces, fans, f, corner, labels, reached);
            for (std::size_t i = 0; i < reached.size() && isDone; ++i) {
                const std::uint32_t v = reached[i], about = fans.start[v + 1] - fans.start[v];
                // An edge point lies between two old faces or on a border, a face point in one of three or four corners.
                isDone = labels[v] == kEdgePoint   ? about == 4 || about == 2
                         : labels[v] == kFacePoint ? (about == 3 || about == 4) && !loopAbout(faces, fans, v).empty()
                                                   : true;
            }
            if (!isDone)
                for (const std::uint32_t v : reached)
                    labels[v] = kUnknown;
        }
        if (!isDone)
            return {};
    }
    if (std::find(labels.begin(), labels.end(), kUnknown) != labels.end())
        return {}; // a vertex without a face
    Coarsened out;
    std::vector<std::uint32_t> place(vertexCount, kNone);
    for (std::uint32_t v = 0; v < vertexCount; ++v)
        if (labels[v] == kKept) {
            place[v] = std::uint32_t(out.kept.size());
            out.kept.push_back(v);
        }
    for (std::uint32_t v = 0; v < vertexCount; ++v)
        if (labels[v] == kFacePoint) {
            Face f;
            std::size_t c = 0;
            for (const std::uint32_t k : loopAbout(faces, fans, v))
                f.v[c++] = place[k];
            out.faces.push_back(f);
            out.faceCentre.push_back(v);
        }
    return out;
}

} // namespace bonemoss::mesh
