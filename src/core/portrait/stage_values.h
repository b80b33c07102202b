#pragma once

#include "portrait/stage.h"

namespace bonemoss::portrait {

// Every value of a stage by its name in files, once. Calls use(name, value) with values that can be written to, or only read where the
// stage is const. Names are of the first format; a new value is one line here.

template <typename L, typename Use>
requires std::is_same_v<std::remove_const_t<L>, Light>
void eachValue(L &l, const Use &use)
{
    use("id", l.id), use("name", l.name), use("shape", l.shape), use("on", l.isOn), use("withCamera", l.goesWithCamera);
    use("azimuth", l.azimuth), use("elevation", l.elevation), use("distance", l.distance), use("size", l.size);
    use("strength", l.strength), use("kelvin", l.kelvin), use("colour", l.colour), use("aim", l.aim);
}

template <typename S, typename Use>
requires std::is_same_v<std::remove_const_t<S>, Surroundings>
void eachValue(S &s, const Use &use)
{
    use("kind", s.kind), use("above", s.above), use("below", s.below), use("sunHeight", s.sunHeight), use("haze", s.haze);
    use("rotation", s.rotation), use("strength", s.strength), use("shown", s.isShown), use("picture", s.picture);
}

template <typename B, typename Use>
requires std::is_same_v<std::remove_const_t<B>, Backdrop>
void eachValue(B &b, const Use &use)
{
    use("kind", b.kind), use("high", b.high), use("low", b.low), use("seed", b.seed), use("picture", b.picture);
}

template <typename G, typename Use>
requires std::is_same_v<std::remove_const_t<G>, Ground>
void eachValue(G &g, const Use &use)
{
    use("kind", g.kind), use("seed", g.seed), use("colour", g.colour), use("sink", g.sink);
    use("piece", g.piece);
}

template <typename F, typename Use>
requires std::is_same_v<std::remove_const_t<F>, Fog>
void eachValue(F &f, const Use &use)
{
    use("distance", f.distance), use("colour", f.colour);
}

template <typename F, typename Use>
requires std::is_same_v<std::remove_const_t<F>, Film>
void eachValue(F &f, const Use &use)
{
    use("exposure", f.exposure), use("metered", f.isMetered), use("contrast", f.contrast), use("bloom", f.bloom);
    use("grain", f.grain), use("look", f.look);
}

template <typename S, typename Use>
requires std::is_same_v<std::remove_const_t<S>, Shot>
void eachValue(S &s, const Use &use)
{
    use("id", s.id), use("name", s.name), use("target", s.camera.target), use("turn", s.camera.rotation);
    use("distance", s.camera.distance), use("fieldOfView", s.camera.fieldOfView), use("parallel", s.camera.isParallel);
    use("aperture", s.aperture), use("focus", s.focus), use("aspect", s.aspect);
}

template <typename M, typename Use>
requires std::is_same_v<std::remove_const_t<M>, PlateMark>
void eachValue(M &m, const Use &use)
{
    use("id", m.id), use("text", m.text), use("at", m.at), use("radius", m.radius);
}

template <typename P, typename Use>
requires std::is_same_v<std::remove_const_t<P>, Plate>
void eachValue(P &p, const Use &use)
{
    use("name", p.name), use("latin", p.latin), use("caption", p.caption), use("paper", p.paper), use("beside", p.beside);
    use("lifeHeight", p.lifeHeight);
}

/// Calls use(name, part) for each part of a stage there is one of.
template <typename S, typename Use>
requires std::is_same_v<std::remove_const_t<S>, Stage>
void eachPart(S &s, const Use &use)
{
    use("surroundings", s.surroundings), use("backdrop", s.backdrop), use("ground", s.ground), use("fog", s.fog);
    use("film", s.film), use("plate", s.plate);
}

/// Calls use(name, list, what) for each part there are several of; what: one of them, in words.
template <typename S, typename Use>
requires std::is_same_v<std::remove_const_t<S>, Stage>
void eachList(S &s, const Use &use)
{
    use("lights", s.lights, "a light"), use("shots", s.shots, "a camera"), use("marks", s.plate.marks, "a mark of the plate");
}

} // namespace bonemoss::portrait
