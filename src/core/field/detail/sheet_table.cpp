#include "field/detail/sheet_table.h"

namespace bonemoss::field::detail {

namespace {

struct CellFace {
    std::array<unsigned, 4> corners; ///< around the face
    std::array<unsigned, 4> edges;   ///< edges[i] joins corners[i] and corners[i + 1]
};

unsigned edgeBetween(unsigned a, unsigned b)
{
    const unsigned difference = a ^ b, low = a & b;
    if (difference == 1)
        return 0 + (low >> 1 & 1) + 2 * (low >> 2 & 1);
    if (difference == 2)
        return 4 + (low & 1) + 2 * (low >> 2 & 1);
    return 8 + (low & 1) + 2 * (low >> 1 & 1);
}

CellFace faceOf(unsigned axis, unsigned side)
{
    const unsigned u = 1u << ((axis + 1) % 3), v = 1u << ((axis + 2) % 3), base = side << axis;
    CellFace f;
    f.corners = {base, base | u, base | u | v, base | v};
    for (unsigned i = 0; i < 4; ++i)
        f.edges[i] = edgeBetween(f.corners[i], f.corners[(i + 1) % 4]);
    return f;
}

bool inside(unsigned configuration, unsigned corner)
{
    return configuration >> corner & 1;
}

bool isAmbiguous(unsigned configuration, const CellFace &f)
{
    const bool a = inside(configuration, f.corners[0]);
    return a == inside(configuration, f.corners[2]) && a != inside(configuration, f.corners[1])
           && a != inside(configuration, f.corners[3]);
}

} // namespace

Sheets makeSheets(unsigned configuration, unsigned flipped)
{
    std::array<std::uint8_t, 12> root;
    for (unsigned e = 0; e < 12; ++e)
        root[e] = std::uint8_t(e);
    const auto find = [&](unsigned e) {
        while (root[e] != e)
            e = root[e];
        return e;
    };
    std::array<bool, 12> crossed{};
    for (unsigned axis = 0; axis < 3; ++axis)
        for (unsigned side = 0; side < 2; ++side) {
            const CellFace f = faceOf(axis, side);
            const bool ambiguous = isAmbiguous(configuration, f);
            const bool join = flipped >> (axis * 2 + side) & 1;
            int last = -1;
            for (unsigned i = 0; i < 4; ++i) {
                if (inside(configuration, f.corners[i]) == inside(configuration, f.corners[(i + 1) % 4]))
                    continue;
                crossed[f.edges[i]] = true;
                if (ambiguous) { // the two edges at an inside corner, or at an outside corner, belong together
                    const bool cornerInside = inside(configuration, f.corners[i]);
                    if (cornerInside != join)
                        root[find(f.edges[i])] = std::uint8_t(find(f.edges[(i + 3) % 4]));
                } else if (last < 0) {
                    last = int(f.edges[i]);
                } else {
                    root[find(f.edges[i])] = std::uint8_t(find(unsigned(last)));
                }
            }
        }
    Sheets s;
    s.of.fill(255);
    for (unsigned e = 0; e < 12; ++e)
        if (crossed[e] && find(e) == e)
            s.of[e] = s.count++;
    for (unsigned e = 0; e < 12; ++e)
        if (crossed[e])
            s.of[e] = s.of[find(e)];
    return s;
}

const Sheets &sheetsOf(unsigned configuration)
{
    static const std::array<Sheets, 256> table = [] {
        std::array<Sheets, 256> t;
        for (unsigned c = 0; c < 256; ++c)
            t[c] = makeSheets(c, 0);
        return t;
    }();
    return table[configuration];
}

unsigned knottedFaces(unsigned configuration)
{
    static const std::array<std::uint8_t, 256> table = [] {
        std::array<std::uint8_t, 256> t{};
        for (unsigned c = 0; c < 256; ++c)
            for (unsigned face = 0; face < 6; ++face) {
                const CellFace f = faceOf(face / 2, face % 2);
                if (!isAmbiguous(c, f))
                    continue;
                const Sheets s = makeSheets(c, 0);
                if (s.of[f.edges[0]] == s.of[f.edges[1]] && s.of[f.edges[0]] == s.of[f.edges[2]]
                    && s.of[f.edges[0]] == s.of[f.edges[3]])
                    t[c] = std::uint8_t(t[c] | 1u << face);
            }
        return t;
    }();
    return table[configuration];
}

} // namespace bonemoss::field::detail
