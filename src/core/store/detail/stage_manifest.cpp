#include "store/detail/stage_manifest.h"

#include "portrait/stage_values.h"
#include "store/detail/form_manifest.h"
#include "store/detail/picture_manifest.h"

#include <nlohmann/json.hpp>

#include <cmath>

namespace bonemoss::store::detail {

using nlohmann::json;
using PicturePtr = std::shared_ptr<const PictureFile>;

namespace {

json valueOf(Vec3f v, const WriteBlob &)
{
    return row(v);
}
json valueOf(Quat q, const WriteBlob &)
{
    return {q.x, q.y, q.z, q.w};
}
json valueOf(const std::optional<Vec3f> &v, const WriteBlob &)
{
    return v ? json(row(*v)) : json();
}
json valueOf(const PicturePtr &p, const WriteBlob &write)
{
    return p ? writePicture(*p, write) : json();
}
template <typename T> json valueOf(const T &v, const WriteBlob &)
{
    if constexpr (std::is_enum_v<T>)
        return int(v);
    else
        return v;
}

void take(const json &j, float &v)
{
    if (const float x = j.is_number() ? j.get<float>() : NAN; std::isfinite(x))
        v = x;
}
void take(const json &j, Vec3f &v)
{
    if (const Vec3f x = vec(j); isFinite(x))
        v = x;
}
void take(const json &j, Quat &q)
{
    const Quat x{j.at(0).get<float>(), j.at(1).get<float>(), j.at(2).get<float>(), j.at(3).get<float>()};
    if (const float size = x.x * x.x + x.y * x.y + x.z * x.z + x.w * x.w; std::isfinite(size) && size > 1e-6f)
        q = normalized(x);
}
void take(const json &j, std::optional<Vec3f> &v)
{
    if (!j.is_null())
        take(j, v.emplace());
}
template <typename T> void take(const json &j, T &v)
{
    if constexpr (std::is_enum_v<T>)
        v = T(std::clamp(j.get<int>(), 0, 15));
    else
        v = j.get<T>();
}

template <typename P> json written(const P &part, const WriteBlob &write)
{
    json out = json::object();
    portrait::eachValue(part, [&](const char *name, const auto &value) { out[name] = valueOf(value, write); });
    return out;
}

template <typename P> Status readPart(const json &j, const ReadBlob &read, P &part)
{
    Status done = Done{};
    portrait::eachValue(part, [&](const char *name, auto &value) {
        const auto at = j.find(name);
        if (at == j.end())
            return;
        if constexpr (std::is_same_v<std::remove_reference_t<decltype(value)>, PicturePtr>) {
            if (at->is_null())
                return;
            auto picture = readPicture(*at, read);
            if (picture)
                value = std::move(*picture);
            else
                done = picture.error();
        } else {
            take(*at, value);
        }
    });
    return done;
}

/// A part that cannot be read is left as it is in a new creature, and named.
template <typename P>
bool readOr(const json &j, const ReadBlob &read, P &part, const std::string &name, std::vector<std::string> &damage)
{
    std::string why;
    try {
        P fresh;
        const Status done = readPart(j, read, fresh);
        part = std::move(fresh); // without its picture, say
        if (done)
            return true;
        why = done.error().text();
    } catch (const std::exception &e) {
        why = e.what();
    }
    damage.push_back(name + " of the portrait could not be read whole (" + why + ")");
    return false;
}

} // namespace

json writeStage(const Creature &creature, const WriteBlob &write)
{
    json out = json::object();
    portrait::eachPart(creature.stage, [&](const char *name, const auto &part) { out[name] = written(part, write); });
    portrait::eachList(creature.stage, [&](const char *name, const auto &list, const char *) {
        json &to = out[name] = json::array();
        for (const auto &one : list)
            to.push_back(written(one, write));
    });
    return out;
}

Status readStage(const json &m, const ReadBlob &read, Creature &creature, std::vector<std::string> &damage)
{
    const json all = m.value("stage", json());
    if (!all.is_object())
        return Done{};
    portrait::Stage &s = creature.stage;
    portrait::eachPart(s, [&](const char *name, auto &part) {
        if (all.contains(name))
            readOr(all.at(name), read, part, name, damage);
    });
    portrait::eachList(s, [&](const char *name, auto &list, const char *what) {
        for (const json &j : all.value(name, json::array()))
            if (typename std::remove_reference_t<decltype(list)>::value_type one; readOr(j, read, one, what, damage))
                list.push_back(std::move(one));
    });
    return Done{};
}

} // namespace bonemoss::store::detail
