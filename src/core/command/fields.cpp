#include "command/fields.h"

namespace bonemoss::command::value {

using armature::PathPoint;
using nlohmann::json;
using sculpt::PenSample;

namespace {

Vec3f vec(const json &row, std::size_t first = 0)
{
    return {row[first].get<float>(), row[first + 1].get<float>(), row[first + 2].get<float>()};
}

/// [x, y, z, radius, squash, square, turn in degrees], of which the first three must be there.
PathPoint readRow(const json &row, PathPoint)
{
    const auto part = [&](std::size_t i, float missing) { return row.size() > i ? row[i].get<float>() : missing; };
    return {vec(row), part(3, 1), part(4, 1), part(5, 0), part(6, 0) * kRadiansPerDegree};
}
json rowOf(const PathPoint &p)
{
    return {p.at.x, p.at.y, p.at.z, p.radius, p.squash, p.square, p.rotation / kRadiansPerDegree};
}

/// [x, y, z], [x, y, z, pressure] or [x, y, z, dx, dy, dz, pressure, ms], with the pen's lean after it.
PenSample readRow(const json &row, PenSample s)
{
    s.origin = vec(row);
    if (row.size() == 4)
        s.pressure = row[3].get<float>();
    if (row.size() >= 7) {
        const Vec3f d = vec(row, 3); // a unit direction keeps its bits, so that a replay is exact
        s.direction = std::abs(squaredLength(d) - 1) < 1e-4f ? d : normalized(d);
        s.pressure = row[6].get<float>();
    }
    if (row.size() >= 8)
        s.timeMs = row[7].get<float>();
    if (row.size() == 11)
        s.lean = vec(row, 8);
    return s;
}
json rowOf(const PenSample &s)
{
    json row{s.origin.x, s.origin.y, s.origin.z, s.direction.x, s.direction.y, s.direction.z, s.pressure, s.timeMs};
    if (!(s.lean == Vec3f{}))
        for (const float v : {s.lean.x, s.lean.y, s.lean.z})
            row.push_back(v);
    return row;
}

Vec3f readRow(const json &row, Vec3f)
{
    return vec(row);
}
json rowOf(Vec3f v)
{
    return {v.x, v.y, v.z};
}

} // namespace

template <typename T, ParamKind Kind> T Rows<T, Kind>::read(const json &j)
{
    T out;
    for (const json &row : j)
        out.push_back(readRow(row, typename T::value_type{}));
    return out;
}

template <typename T, ParamKind Kind> json Rows<T, Kind>::write(const T &v)
{
    json out = json::array();
    for (const auto &row : v)
        out.push_back(rowOf(row));
    return out;
}

template struct Rows<std::vector<Vec3f>, ParamKind::Points>;
template struct Rows<std::vector<PathPoint>, ParamKind::Points>;
template struct Rows<std::vector<PenSample>, ParamKind::Samples>;

} // namespace bonemoss::command::value
