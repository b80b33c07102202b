#pragma once

#include "base/finish.h"
#include "portrait/frame.h"
#include "portrait/sampler.h"

namespace bonemoss::portrait {

/// How light leaves a place of a surface: a clear coat over gloss over what is matt or metal. Directions are unit vectors in the frame
/// of the place, +z out of the surface. Energy that the lobes of gloss would lose by bouncing between facets is given back to them, so
/// that a white surface gives back all light.
/// One thread at a time.
/// Facets: B. Walter et al. 2007 (GGX); sampled by those that are seen: E. Heitz 2018; energy: E. Turquin 2019, after C. Kulla & A. Conty 2017.
class SurfaceLight
{
public:
    /// colour: linear light. finish: gloss, metal, wet, translucent, grain.
    SurfaceLight(Vec3f colour, const FinishValues &finish);

    /// What part of the light from `in` goes to `out`, times the cosine of `in`.
    Vec3f value(Vec3f out, Vec3f in) const;
    struct Sample {
        Vec3f in, weight;  ///< weight: value / density
        float density = 0; ///< per steradian; 0: none
    };
    Sample sample(Vec3f out, float which, std::array<float, 2> u) const;
    float density(Vec3f out, Vec3f in) const;
    /// Share of what is not mirrored that goes through the inside of the body instead.
    float through() const { return m_through; }
    /// What is left for the inside, of light that leaves that way.
    Vec3f below(Vec3f out) const;

private:
    struct Parts {
        Vec3f gloss, matt;       ///< reach of each, from this direction
        float all = 0, mean = 0; ///< reach of gloss if all were reflected; rise as its mean
        float coat = 0;
        float pickCoat = 0, pickGloss = 0;
    };
    /// Worked out once for a direction. out: above the surface.
    const Parts &partsOf(Vec3f out) const;
    /// What facets reflect of each colour, of a dielectric and of metal in their shares: one that is as high as `rise` at grazing angles,
    /// with what bounces on between facets.
    Vec3f reflected(float rise, float all) const;

    Vec3f m_colour, m_matt;
    float m_metal, m_alpha, m_coat, m_through;
    mutable float m_partsOf = -1; ///< height of the direction that m_parts are of
    mutable Parts m_parts;
};

/// Reflection of a dielectric, unpolarized (A. Fresnel 1823). cosine: of the side it comes from; eta: of the far side over the near.
float fresnel(float cosine, float eta);
/// The share of light that facets of that roughness give back when each gives back all (first), and how much of that follows the rise
/// of reflection at grazing angles (second).
std::array<float, 2> facetReach(float cosine, float alpha);
/// A facet that is seen from `out`, as likely as it is seen (E. Heitz 2018). Frame: +z out of the surface.
Vec3f seenFacet(Vec3f out, float alpha, std::array<float, 2> u);
/// The share of facets that others do not hide from a direction (Smith's).
float seenShare(float cosine, float alpha);
/// How rough the surface of what is clear is; 0: smooth, as where its gloss is not said.
float clearAlpha(const Finish &finish);
inline constexpr float kCoatAlpha = 0.0036f;

/// Light that a hair scatters: M. Chiang et al. 2016, "A practical and controllable hair and fur model", with the lobes of S. Marschner et
/// al. 2003 and E. d'Eon et al. 2011. Frame: x along the hair to its tip. across: where it is met, -1 to 1 over its width.
class HairLight
{
public:
    HairLight(Vec3f colour, float across, float roughness = 0.35f);
    Vec3f value(Vec3f out, Vec3f in) const; ///< times the cosine, as of a cylinder
    SurfaceLight::Sample sample(Vec3f out, std::array<float, 2> u, std::array<float, 2> v) const;
    float density(Vec3f out, Vec3f in) const;

private:
    static constexpr std::size_t kLobes = 4; ///< mirrored, through, through once mirrored inside, all that follow
    struct Way {
        float sine, cosine, phi, gammaT;
        std::array<Vec3f, kLobes> share;
        std::array<float, kLobes> pick;
    };
    Way wayOf(Vec3f out) const;
    std::array<float, 2> tilted(float sine, float cosine, std::size_t lobe) const;
    Vec3f m_absorption;
    float m_across, m_gammaO, m_azimuthal;
    std::array<float, kLobes> m_width;
};

} // namespace bonemoss::portrait
