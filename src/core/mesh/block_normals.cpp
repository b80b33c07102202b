#include "mesh/block_normals.h"

#include <bit>
#include <cmath>
#include <cstring>

namespace bonemoss::mesh {

namespace {

typedef std::int32_t Whole __attribute__((vector_size(16)));

Lanes turned(Lanes a) // y, z, x
{
    return __builtin_shufflevector(a, a, 1, 2, 0, 3);
}

/// The area-weighted normal of a face, its parts in the order z, x, y: so comes a cross product with a shuffle less. A
/// quad's is that of its diagonals, a triangle's that of two sides: both twice the area long.
template <int Corners> Lanes normalOf(const LocalFace &f, const Lanes *p)
{
    const bool isTriangle = Corners == 3 || (Corners != 4 && f.v[3] == kLocalNone);
    const Lanes a = p[f.v[2]] - p[f.v[0]], b = p[isTriangle ? f.v[0] : f.v[3]] - p[f.v[1]];
    return a * turned(b) - turned(a) * b;
}

template <int Corners> void normalsOf(std::span<const LocalFace> faces, const Lanes *p, Lanes *out)
{
    for (std::size_t i = 0; i < faces.size(); ++i)
        out[i] = normalOf<Corners>(faces[i], p);
}

/// Makes four normals (z, x, y) unit and packs them. All bits of a lane are set where one is longer than 0.
Whole packFour(Lanes a, Lanes b, Lanes c, Lanes d, PackedNormal *out)
{
    const Lanes ab = __builtin_shufflevector(a, b, 0, 4, 1, 5), cd = __builtin_shufflevector(c, d, 0, 4, 1, 5);
    const Lanes abY = __builtin_shufflevector(a, b, 2, 6, 3, 7), cdY = __builtin_shufflevector(c, d, 2, 6, 3, 7);
    const Lanes x = __builtin_shufflevector(ab, cd, 2, 3, 6, 7), y = __builtin_shufflevector(abY, cdY, 0, 1, 4, 5);
    const Lanes z = __builtin_shufflevector(ab, cd, 0, 1, 4, 5);
    const Lanes squares = x * x + y * y + z * z;
    Lanes inverse;
    for (int k = 0; k < 4; ++k)
        inverse[k] = std::sqrt(squares[k]);
    inverse = squares > 0 ? 32767.0f / inverse : Lanes{};
    const Whole ux = __builtin_convertvector(x * inverse, Whole), uy = __builtin_convertvector(y * inverse, Whole);
    const Whole uz = __builtin_convertvector(z * inverse, Whole);
    const Whole xy = (ux & 0xffff) | (uy << 16), zw = uz & 0xffff;
    const Whole packed[2] = {__builtin_shufflevector(xy, zw, 0, 4, 1, 5), __builtin_shufflevector(xy, zw, 2, 6, 3, 7)};
    static_assert(sizeof packed == 4 * sizeof(PackedNormal) && std::endian::native == std::endian::little);
    std::memcpy(out, packed, sizeof packed);
    return squares > 0;
}

bool areAllSet(Whole bits)
{
    return (bits[0] & bits[1] & bits[2] & bits[3]) != 0;
}

/// The sum of the normals that a row of the table tells, whose numbers are doubled.
template <std::size_t Width> Lanes sumOf(const std::uint16_t *row, const Lanes *normal)
{
    const auto at = [&](std::size_t k) { // scaled by 8, as the machine does when it reads
        return *reinterpret_cast<const Lanes *>(reinterpret_cast<const char *>(normal)
                                                + std::size_t(row[k]) * (sizeof(Lanes) / 2));
    };
    Lanes sum = at(0);
    for (std::size_t k = 1; k < Width; ++k)
        sum += at(k);
    return sum;
}

/// Normals of n vertices whose rows follow each other.
template <std::size_t Width> bool packRows(const std::uint16_t *row, std::size_t n, const Lanes *normal, PackedNormal *out)
{
    Whole isLong = {-1, -1, -1, -1};
    const auto four = [&](PackedNormal *to) {
        isLong &= packFour(sumOf<Width>(row, normal), sumOf<Width>(row + Width, normal), sumOf<Width>(row + 2 * Width, normal),
                           sumOf<Width>(row + 3 * Width, normal), to);
        row += 4 * Width;
    };
    std::size_t i = 0;
    for (; i + 4 <= n; i += 4)
        four(out + i);
    if (i < n) {
        PackedNormal last[4];
        four(last);
        std::copy_n(last, n - i, out + i);
    }
    return areAllSet(isLong);
}

} // namespace

bool addNormals(const BlockFaces &faces, const Lanes *position, PackedNormal *out)
{
    thread_local std::vector<Lanes> sums;
    sums.assign(faces.own + faces.borrowed.size() + 3, Lanes{}); // packed four at a time
    Lanes *n = sums.data();
    for (const LocalFace &f : faces.faces) {
        const Lanes normal = normalOf<0>(f, position);
        for (std::size_t c = 0; c < 3; ++c)
            n[f.v[c]] += normal;
        if (f.v[3] != kLocalNone)
            n[f.v[3]] += normal;
    }
    Whole isLong = {-1, -1, -1, -1};
    std::size_t i = 0;
    for (; i + 4 <= faces.own; i += 4)
        isLong &= packFour(n[i], n[i + 1], n[i + 2], n[i + 3], out + i);
    if (i < faces.own) {
        PackedNormal last[4];
        isLong &= packFour(n[i], n[i + 1], n[i + 2], n[i + 3], last);
        std::copy_n(last, faces.own - i, out + i);
    }
    return areAllSet(isLong);
}

bool fetchNormals(const BlockFaces &faces, std::uint64_t spots, const Lanes *position, PackedNormal *out)
{
    constexpr std::size_t kFaces = BlockFaces::SpotLinks::kFaces;
    thread_local std::vector<Lanes> ofFaces;
    const BlockFaces::FacesAbout &about = faces.facesAbout();
    const std::span<const LocalFace> all = faces.faces;
    ofFaces.resize(all.size() + 1);
    Lanes *normal = ofFaces.data();
    const auto make = [&](std::size_t first, std::size_t count) {
        const auto some = all.subspan(first, std::min(count, all.size() - first));
        if (about.corners == 4)
            normalsOf<4>(some, position, normal + first);
        else
            normalsOf<0>(some, position, normal + first);
    };
    if (spots == Spots::all().own)
        make(0, all.size());
    else
        for (std::size_t i = 0; i < all.size(); i += kFaces)
            if (faces.spotLinks().ofFaces[i / kFaces] & spots)
                make(i, kFaces);
    normal[all.size()] = Lanes{}; // where there is no face
    bool isLong = true;
    eachRun(spots, faces.own, [&](std::size_t begin, std::size_t end) {
        if (about.width == 4)
            isLong = packRows<4>(&about.table[begin * 4], end - begin, normal, out + begin) && isLong;
        else if (about.width == 8)
            isLong = packRows<8>(&about.table[begin * 8], end - begin, normal, out + begin) && isLong;
        for (auto i = std::size_t(std::lower_bound(about.crowded.begin(), about.crowded.end(), begin) - about.crowded.begin());
             i < about.crowded.size() && about.crowded[i] < end; ++i) {
            Lanes sum{};
            for (std::uint32_t k = about.firstOfRow[i]; k < about.firstOfRow[i + 1]; ++k)
                sum += normal[about.more[k]];
            PackedNormal packed[4];
            isLong = packFour(sum, sum, sum, sum, packed)[0] != 0 && isLong;
            out[about.crowded[i]] = packed[0];
        }
    });
    return isLong;
}

} // namespace bonemoss::mesh
