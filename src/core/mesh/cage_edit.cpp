#include "mesh/cage_edit.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <numbers>
#include <set>

namespace bonemoss::mesh {

namespace {

Vec3f areaNormal(const PolyMesh &m, const Face &f)
{
    const Vec3f a = m.positions[f.v[0]], b = m.positions[f.v[1]], c = m.positions[f.v[2]];
    return f.size() == 3 ? cross(b - a, c - a) : cross(c - a, m.positions[f.v[3]] - b);
}

std::uint32_t corner(const Face &f, int i)
{
    return f.v[std::size_t((i + f.size()) % f.size())];
}

/// Directed edges of the outline of a set of faces: those whose other side is not in the set.
std::vector<EdgeKeyPair> outline(const PolyMesh &m, FaceList faces)
{
    std::set<EdgeKeyPair> all;
    for (const std::uint32_t i : faces)
        for (int k = 0; k < m.faces[i].size(); ++k)
            all.insert({corner(m.faces[i], k), corner(m.faces[i], k + 1)});
    std::vector<EdgeKeyPair> out;
    for (const EdgeKeyPair &e : all)
        if (!all.contains({e.second, e.first}))
            out.push_back(e);
    return out;
}

/// Cuts faces loose along their outline and joins them to it by a ring of quads. Returns which new vertex stands
/// for which old one of the outline.
std::map<std::uint32_t, std::uint32_t> addRing(PolyMesh &m, FaceList faces)
{
    const std::vector<EdgeKeyPair> edges = outline(m, faces);
    std::map<std::uint32_t, std::uint32_t> twin;
    for (const EdgeKeyPair &e : edges)
        for (const std::uint32_t v : {e.first, e.second})
            if (twin.insert({v, std::uint32_t(m.positions.size())}).second)
                m.positions.push_back(m.positions[v]);
    for (const std::uint32_t i : faces)
        for (std::uint32_t &v : m.faces[i].v)
            if (const auto t = twin.find(v); t != twin.end())
                v = t->second;
    for (const auto &[a, b] : edges)
        m.faces.push_back({{a, b, twin[b], twin[a]}});
    return twin;
}

/// How the outline moves in by one mm at each of its vertices: along the mean of the two sides' inward directions,
/// longer where they meet at an angle so that both sides keep their distance.
std::map<std::uint32_t, Vec3f> inwards(const PolyMesh &m, FaceList faces)
{
    const Vec3f up = meanNormal(m, faces);
    std::map<std::uint32_t, std::vector<Vec3f>> sides;
    for (const auto &[a, b] : outline(m, faces)) {
        const Vec3f in = normalized(cross(up, m.positions[b] - m.positions[a]));
        sides[a].push_back(in);
        sides[b].push_back(in);
    }
    std::map<std::uint32_t, Vec3f> out;
    for (const auto &[v, in] : sides) {
        Vec3f sum;
        for (const Vec3f d : in)
            sum += d;
        const Vec3f middle = normalized(sum);
        out[v] = middle * (1 / std::max(0.25f, dot(middle, in.front())));
    }
    return out;
}

} // namespace

PolyMesh sheetCage(Vec3f middle, Vec3f normal, Vec3f along, float halfLong, float halfWide)
{
    const Vec3f n = normalized(normal), u = normalized(along - n * dot(along, n)), v = cross(n, u);
    PolyMesh m;
    for (const auto &[x, y] : {std::pair{-1.0f, -1.0f}, {1.0f, -1.0f}, {1.0f, 1.0f}, {-1.0f, 1.0f}})
        m.positions.push_back(middle + u * (x * halfLong) + v * (y * halfWide));
    m.faces.push_back({{0, 1, 2, 3}});
    return m;
}

PolyMesh boxCage(Vec3f middle, Vec3f half)
{
    PolyMesh m;
    for (int i = 0; i < 8; ++i)
        m.positions.push_back(middle + Vec3f{i & 1 ? half.x : -half.x, i & 2 ? half.y : -half.y, i & 4 ? half.z : -half.z});
    m.faces = {{{0, 2, 3, 1}}, {{4, 5, 7, 6}}, {{0, 1, 5, 4}}, {{2, 6, 7, 3}}, {{0, 4, 6, 2}}, {{1, 3, 7, 5}}};
    return m;
}

PolyMesh stripCage(const std::vector<Vec3f> &points, const std::vector<Vec3f> &normals, float width)
{
    PolyMesh m;
    const std::size_t n = points.size();
    for (std::size_t i = 0; i < n; ++i) {
        const Vec3f along = points[std::min(i + 1, n - 1)] - points[i > 0 ? i - 1 : 0];
        const Vec3f side = normalized(cross(normals[i], along)) * (width / 2);
        m.positions.push_back(points[i] - side);
        m.positions.push_back(points[i] + side);
    }
    for (std::uint32_t i = 0; i + 1 < n; ++i)
        m.faces.push_back({{2 * i, 2 * i + 2, 2 * i + 3, 2 * i + 1}});
    return m;
}

Vec3f meanNormal(const PolyMesh &m, FaceList faces)
{
    Vec3f sum;
    for (const std::uint32_t i : faces)
        sum += areaNormal(m, m.faces[i]);
    return length(sum) > 1e-12f ? normalized(sum) : Vec3f{0, 1, 0};
}

PolyMesh extruded(const PolyMesh &cage, FaceList faces, Vec3f by)
{
    PolyMesh m = cage;
    addRing(m, faces);
    std::set<std::uint32_t> lifted;
    for (const std::uint32_t i : faces)
        for (int k = 0; k < m.faces[i].size(); ++k)
            lifted.insert(m.faces[i].v[std::size_t(k)]);
    for (const std::uint32_t v : lifted)
        m.positions[v] += by;
    return m;
}

PolyMesh extended(const PolyMesh &cage, std::span<const EdgeKeyPair> edges, Vec3f by, bool &done)
{
    std::map<EdgeKeyPair, int> count;
    for (const Face &f : cage.faces)
        for (int k = 0; k < f.size(); ++k)
            ++count[{corner(f, k), corner(f, k + 1)}];
    PolyMesh m = cage;
    std::map<std::uint32_t, std::uint32_t> twin;
    done = !edges.empty();
    for (const auto &[a, b] : edges) {
        done = done && count.contains({a, b}) && !count.contains({b, a});
        for (const std::uint32_t v : {a, b})
            if (twin.insert({v, std::uint32_t(m.positions.size())}).second)
                m.positions.push_back(v < cage.positions.size() ? cage.positions[v] + by : Vec3f{});
        m.faces.push_back({{b, a, twin[a], twin[b]}});
    }
    return done ? m : cage;
}

Vec3f outwards(const PolyMesh &cage, std::span<const EdgeKeyPair> edges)
{
    const std::set<EdgeKeyPair> wanted(edges.begin(), edges.end());
    Vec3f sum;
    for (const Face &f : cage.faces)
        for (int k = 0; k < f.size(); ++k)
            if (const EdgeKeyPair e{corner(f, k), corner(f, k + 1)}; wanted.contains(e))
                sum += normalized(cross(cage.positions[e.second] - cage.positions[e.first], areaNormal(cage, f)));
    return normalized(sum);
}

PolyMesh inset(const PolyMesh &cage, FaceList faces, float width)
{
    const auto in = inwards(cage, faces);
    PolyMesh m = cage;
    for (const auto &[old, now] : addRing(m, faces))
        m.positions[now] += in.at(old) * width;
    return m;
}

PolyMesh bevelled(const PolyMesh &cage, FaceList faces, float width)
{
    // The one edge that leaves each vertex of the outline outside of the faces is the way its old place slides.
    std::set<std::uint32_t> chosen(faces.begin(), faces.end());
    std::set<EdgeKeyPair> inside;
    for (const std::uint32_t i : faces)
        for (int k = 0; k < cage.faces[i].size(); ++k) {
            const std::uint32_t a = corner(cage.faces[i], k), b = corner(cage.faces[i], k + 1);
            inside.insert({std::min(a, b), std::max(a, b)});
        }
    std::map<std::uint32_t, std::set<std::uint32_t>> ways;
    for (std::uint32_t i = 0; i < cage.faces.size(); ++i) {
        if (chosen.contains(i))
            continue;
        for (int k = 0; k < cage.faces[i].size(); ++k) {
            const std::uint32_t a = corner(cage.faces[i], k), b = corner(cage.faces[i], k + 1);
            if (!inside.contains({std::min(a, b), std::max(a, b)}))
                ways[a].insert(b), ways[b].insert(a);
        }
    }
    PolyMesh m = inset(cage, faces, width);
    for (const auto &[v, in] : inwards(cage, faces)) {
        const auto way = ways.find(v);
        if (way == ways.end())
            continue; // on the border of a sheet it stays
        Vec3f sum;
        for (const std::uint32_t to : way->second)
            sum += normalized(cage.positions[to] - cage.positions[v]);
        if (length(sum) > 1e-6f)
            m.positions[v] += normalized(sum) * width;
    }
    return m;
}

PolyMesh withRing(const PolyMesh &cage, EdgeKeyPair edge, float share, bool &done)
{
    std::map<EdgeKeyPair, std::uint32_t> owner; // face that runs along an edge in this direction
    for (std::uint32_t i = 0; i < cage.faces.size(); ++i)
        for (int k = 0; k < cage.faces[i].size(); ++k)
            owner[{corner(cage.faces[i], k), corner(cage.faces[i], k + 1)}] = i;
    PolyMesh m = cage;
    std::map<EdgeKeyPair, std::uint32_t> cut; // by the ends in the direction of the share
    const auto pointOn = [&](EdgeKeyPair e) {
        const auto [it, isNew] = cut.insert({e, std::uint32_t(m.positions.size())});
        if (isNew)
            m.positions.push_back(lerp(cage.positions[e.first], cage.positions[e.second], share));
        return it->second;
    };
    std::set<std::uint32_t> split;
    done = owner.contains(edge) || owner.contains({edge.second, edge.first});
    // Both ways from the edge, each quad handing on to the one across.
    for (const bool forward : {true, false}) {
        EdgeKeyPair e = edge; // from the low to the high end of the share
        for (std::size_t guard = 0; guard <= cage.faces.size(); ++guard) {
            const auto next = owner.find(forward ? e : EdgeKeyPair{e.second, e.first});
            if (next == owner.end() || cage.faces[next->second].size() != 4 || !split.insert(next->second).second)
                break;
            const Face &f = cage.faces[next->second];
            int k = 0;
            while (corner(f, k) != (forward ? e.first : e.second))
                ++k;
            // Corners from the edge on: a b c d with the edge from a to b; the one across runs from d to c.
            const std::uint32_t a = corner(f, k), b = corner(f, k + 1), c = corner(f, k + 2), d = corner(f, k + 3);
            const EdgeKeyPair across = forward ? EdgeKeyPair{d, c} : EdgeKeyPair{c, d};
            const std::uint32_t p = pointOn(e), q = pointOn(across);
            m.faces[next->second] = {{a, p, q, d}};
            m.faces.push_back({{p, b, c, q}});
            e = across;
        }
    }
    done = done && !split.empty();
    return done ? m : cage;
}

PolyMesh softMoved(const PolyMesh &cage, std::span<const std::uint32_t> vertices, Vec3f by, float reach)
{
    PolyMesh m = cage;
    for (std::uint32_t v = 0; v < m.positions.size(); ++v) {
        float nearest = std::numeric_limits<float>::max();
        for (const std::uint32_t c : vertices)
            nearest = std::min(nearest, length(cage.positions[v] - cage.positions[c]));
        const bool isChosen = std::find(vertices.begin(), vertices.end(), v) != vertices.end();
        if (isChosen)
            m.positions[v] += by;
        else if (nearest < reach)
            m.positions[v] += by * (0.5f + 0.5f * std::cos(std::numbers::pi_v<float> * nearest / reach));
    }
    return m;
}

PolyMesh withoutFaces(const PolyMesh &cage, FaceList faces)
{
    const std::set<std::uint32_t> gone(faces.begin(), faces.end());
    PolyMesh m;
    std::map<std::uint32_t, std::uint32_t> kept;
    for (std::uint32_t i = 0; i < cage.faces.size(); ++i) {
        if (gone.contains(i))
            continue;
        Face f = cage.faces[i];
        for (int k = 0; k < f.size(); ++k) {
            const auto [it, isNew] = kept.insert({f.v[std::size_t(k)], std::uint32_t(m.positions.size())});
            if (isNew)
                m.positions.push_back(cage.positions[f.v[std::size_t(k)]]);
            f.v[std::size_t(k)] = it->second;
        }
        m.faces.push_back(f);
    }
    return m;
}

} // namespace bonemoss::mesh
