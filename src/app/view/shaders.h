#pragma once

// What runs on the graphics card.
namespace bonemoss::app {

// Begins with #version and, made for each use, LOOK (0 clay, 1 facets, 2 silhouette, 3 hollows and ridges, 4 clear, 5 its
// tint alone, unlit) and TINTED. With many small triangles the cost is what goes from corner to point, so that is kept low.
inline constexpr const char *kClayVertex = R"(
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
layout(location = 2) in float mask;
layout(location = 3) in float cavity;
uniform mat4 toView, projection;
uniform mat3 normalToView;
#if COPIES
layout(location = 6) in vec4 placeX; // rows of where each copy stands
layout(location = 7) in vec4 placeY;
layout(location = 8) in vec4 placeZ;
layout(location = 9) in vec3 copyTint;
flat out vec3 vTint;
#endif
out vec4 vNormal, vPlace; // with mask and cavity
#if TINTED
layout(location = 4) in vec4 tintOver;
layout(location = 5) in vec4 finish;
out vec4 vOver, vFinish;
#endif
void main()
{
    vec4 at = vec4(position, 1.0);
    vec3 n = normal;
#if COPIES
    vTint = copyTint;
    at = vec4(dot(placeX, at), dot(placeY, at), dot(placeZ, at), 1.0);
    mat3 m = transpose(mat3(placeX.xyz, placeY.xyz, placeZ.xyz));
    mat3 cofactors = mat3(cross(m[1], m[2]), cross(m[2], m[0]), cross(m[0], m[1])); // the inverse transpose, times the determinant
    n = cofactors * n * sign(dot(m[0], cofactors[0]));
#endif
    vec4 p = toView * at;
    vPlace = vec4(p.xyz, cavity);
    vNormal = vec4(normalToView * n, mask);
#if TINTED
    vOver = tintOver;
    vFinish = finish;
#endif
    gl_Position = projection * p;
})";

// Matt clay: soft warm key from upper left front, hemisphere fill from sky to ground, a thin rim from
// behind; hollows darkened and ridges lifted by curvature. sRGB curve at the end.
inline constexpr const char *kClayFragment = R"(
in vec4 vNormal, vPlace;
#if TINTED
in vec4 vOver, vFinish; // sRGB colour and how much clay stays; gloss, metal, wet, opaque
#endif
#if COPIES
flat in vec3 vTint;
#endif
uniform mat4 view;
uniform vec3 colour, tint;
uniform float tintShare, alpha;
out vec4 result;
void main()
{
#if LOOK == 2
    result = vec4(0.115, 0.105, 0.09, alpha);
#else
#if LOOK == 1
    vec3 n = normalize(cross(dFdx(vPlace.xyz), dFdy(vPlace.xyz)));
#else
    vec3 n = normalize(vNormal.xyz);
#endif
    vec3 toEye = normalize(-vPlace.xyz);
#if LOOK == 5
    vec3 plain = vec3(0.87, 0.84, 0.78) * (0.80 + 0.20 * max(dot(n, toEye), 0.0));
#if TINTED
    plain = mix(plain, vOver.rgb, 1.0 - vOver.a);
#endif
    result = vec4(plain, alpha);
#else
    if (dot(n, toEye) < -0.15)
        n = -n;
    vec3 up = view[1].xyz;
    const vec3 key = vec3(-0.5938, 0.6321, 0.4980);
    float facing = max(dot(n, toEye), 0.0), towards = dot(n, key);
    float lit = max(towards, 0.0);
    float wrap = max((towards + 0.35) / 1.35, 0.0);
    vec3 sky = mix(vec3(0.14, 0.125, 0.11), vec3(0.34, 0.375, 0.43), 0.5 + 0.5 * dot(n, up));
    float hollow = clamp(vPlace.w, -1.0, 1.0);
    float open = hollow < 0.0 ? 1.0 + 0.55 * hollow : 1.0;
    vec3 light = sky * open + vec3(1.08, 1.0, 0.88) * (0.72 * lit + 0.28 * wrap * wrap) * mix(1.0, open, 0.6);
    vec3 base = mix(colour, tint, tintShare);
#if TINTED
    base = mix(base, pow(vOver.rgb, vec3(2.2)), 1.0 - vOver.a);
#endif
#if COPIES
    base *= vTint;
#endif
#if LOOK == 3
    base = hollow < 0.0 ? mix(vec3(0.42, 0.41, 0.38), vec3(0.045, 0.14, 0.18), min(1.0, -1.6 * hollow))
                        : mix(vec3(0.42, 0.41, 0.38), vec3(0.80, 0.56, 0.14), min(1.0, 1.6 * hollow));
#endif
    if (vNormal.w > 0.01) { // what is masked lies under slanted lines in slate, broader where it is masked more
        float across = abs(fract((gl_FragCoord.x + gl_FragCoord.y) / 7.0) - 0.5) * 2.0, width = 0.72 * vNormal.w;
        float ink = 1.0 - smoothstep(width - 0.22, width + 0.22, across);
        base = mix(base * (1.0 - 0.10 * vNormal.w), vec3(0.048, 0.127, 0.162), 0.88 * ink);
    }
    float away = 1.0 - facing, edge = away * away * away * sqrt(away);
#if TINTED
    float gloss = vFinish.x, metal = vFinish.y, wet = vFinish.z, through = 1.0 - vFinish.w;
    light += through * vec3(0.42, 0.20, 0.13) * (0.35 + 0.65 * away * away);
#if LOOK != 6
    base *= (1.0 - 0.65 * metal) * (1.0 - 0.25 * wet);
#endif
#endif
#if LOOK == 6 // colour alone, without light
    vec3 c = base;
#else
    vec3 c = base * light * (1.0 + 0.22 * max(hollow, 0.0));
    c += vec3(0.30, 0.32, 0.33) * edge * max(dot(n, vec3(0.5527, 0.5527, -0.6231)), 0.0);
    float shine = max(dot(n, normalize(key + toEye)), 0.0);
    c += vec3(0.05) * pow(shine, 22.0) * lit;
#if TINTED
    vec3 mirror = mix(vec3(1.0), base * 2.2, metal);
    c += mirror * max(gloss, 0.4 * metal) * (0.85 * pow(shine, mix(18.0, 190.0, gloss)) * lit
         + 0.35 * max(gloss, metal) * mix(0.15, 1.0, 0.5 + 0.5 * dot(reflect(-toEye, n), up)) * sky * 2.0);
    c += vec3(wet) * (0.9 * pow(shine, 320.0) * lit + 0.30 * edge);
#endif
    c = c / (1.0 + 0.18 * c);
#endif
#if LOOK == 7 // values: as light as it is, without hue (weights of ITU-R BT.709)
    c = vec3(dot(c, vec3(0.2126, 0.7152, 0.0722)));
#endif
    vec3 s = mix(1.055 * pow(max(c, vec3(0.0)), vec3(1.0 / 2.4)) - 0.055, 12.92 * c, lessThanEqual(c, vec3(0.0031308)));
#if LOOK == 4 // as glass: borders stand out, and what is tinted
    float told = 0.20 + 0.6 * pow(1.0 - abs(dot(n, toEye)), 2.0);
#if TINTED
    told += 0.7 * (1.0 - vOver.a);
#endif
    result = vec4(s, min(told, 0.95));
#else
    result = vec4(s, alpha);
#endif
#endif
#endif
})";

// Hair as ribbons towards the eye, never thinner on the screen than a line; LOOK as above. pixel: half of one, for each unit of depth.
inline constexpr const char *kHairVertex = R"(
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 tangent;
layout(location = 2) in vec3 ribbon; // radius; along, from the root to the tip; side
layout(location = 6) in vec4 placeX;
layout(location = 7) in vec4 placeY;
layout(location = 8) in vec4 placeZ;
layout(location = 9) in vec3 copyTint;
uniform mat4 view, projection;
uniform float pixel;
out vec3 vTangent, vSkin, vPlace;
out vec2 vRibbon;
flat out vec3 vTint;
void main()
{
    vec4 at = vec4(position, 1.0);
    mat3 place = transpose(mat3(placeX.xyz, placeY.xyz, placeZ.xyz));
    vec4 p = view * vec4(dot(placeX, at), dot(placeY, at), dot(placeZ, at), 1.0);
    vec3 way = mat3(view) * place * tangent;
    vTangent = way;
    vSkin = mat3(view) * place[1];
    vPlace = p.xyz;
    vRibbon = ribbon.yz;
    vTint = copyTint;
    vec3 toEye = projection[3][3] == 1.0 ? vec3(0.0, 0.0, 1.0) : -p.xyz;
    float deep = (projection * p).w;
    p.xyz += normalize(cross(way, toEye)) * ribbon.z * max(ribbon.x * length(way), pixel * deep);
    gl_Position = projection * p;
})";

// The key on a cylinder too thin to see (Kajiya & Kay 1989), dimmed by how the skin below lies and towards the root.
inline constexpr const char *kHairFragment = R"(
in vec3 vTangent, vSkin, vPlace;
in vec2 vRibbon;
flat in vec3 vTint;
uniform mat4 view;
uniform vec3 root, tip;
out vec4 result;
void main()
{
#if LOOK == 2
    result = vec4(0.115, 0.105, 0.09, 1.0);
#else
    const vec3 key = vec3(-0.5938, 0.6321, 0.4980);
    vec3 t = normalize(vTangent), n = normalize(vSkin), toEye = normalize(-vPlace);
    float along = dot(t, key), across = sqrt(max(0.0, 1.0 - along * along));
    float seen = dot(t, toEye), beside = sqrt(max(0.0, 1.0 - seen * seen));
    float open = mix(0.42, 1.0, vRibbon.x), wrap = clamp((dot(n, key) + 0.45) / 1.45, 0.0, 1.0);
    vec3 base = mix(root, tip, vRibbon.x) * vTint;
    vec3 sky = mix(vec3(0.14, 0.125, 0.11), vec3(0.34, 0.375, 0.43), 0.5 + 0.5 * dot(n, view[1].xyz));
    vec3 c = base * open * (sky + vec3(1.08, 1.0, 0.88) * 0.95 * across * wrap) * (1.0 - 0.25 * abs(vRibbon.y));
    c += vec3(0.16, 0.155, 0.14) * open * wrap * pow(max(across * beside - along * seen, 0.0), 40.0);
    c = c / (1.0 + 0.18 * c);
#if LOOK == 6
    c = base;
#elif LOOK == 7
    c = vec3(dot(c, vec3(0.2126, 0.7152, 0.0722)));
#endif
    result = vec4(mix(1.055 * pow(max(c, vec3(0.0)), vec3(1.0 / 2.4)) - 0.055, 12.92 * c, lessThanEqual(c, vec3(0.0031308))), 1.0);
#endif
})";

inline constexpr const char *kOutlineVertex = R"(#version 330 core
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
uniform mat4 view, projection;
uniform float width;
void main()
{
    vec4 p = projection * view * vec4(position, 1.0);
    vec2 n = (projection * vec4(mat3(view) * normal, 0.0)).xy;
    p.xy += normalize(n + vec2(1e-9)) * width * p.w;
    gl_Position = p;
})";

inline constexpr const char *kFlatFragment = R"(#version 330 core
uniform vec3 colour;
out vec4 result;
void main() { result = vec4(colour, 1.0); })";

inline constexpr const char *kFloorVertex = R"(#version 330 core
uniform mat4 view, projection;
uniform vec2 middle;
uniform float radius, height;
out vec2 vFloor;
void main()
{
    vec2 corner = vec2((gl_VertexID & 1) * 2 - 1, (gl_VertexID >> 1) * 2 - 1);
    vFloor = middle + corner * radius;
    gl_Position = projection * view * vec4(vFloor.x, height, vFloor.y, 1.0);
})";

inline constexpr const char *kFloorFragment = R"(#version 330 core
in vec2 vFloor;
uniform vec2 middle, shadowLow, shadowSize;
uniform float radius, step;
uniform vec3 line;
uniform sampler2D shadow;
out vec4 result;
void main()
{
    vec2 cell = abs(fract(vFloor / step - 0.5) - 0.5) / fwidth(vFloor / step);
    float grid = 0.22 * (1.0 - min(min(cell.x, cell.y), 1.0));
    float axis = abs(vFloor.x) < fwidth(vFloor.x) ? 0.18 : 0.0; // the middle line
    float fade = 1.0 - smoothstep(0.35, 1.0, length(vFloor - middle) / radius);
    vec2 at = (vFloor - shadowLow) / shadowSize;
    float dark = all(greaterThan(at, vec2(0.0))) && all(lessThan(at, vec2(1.0))) ? texture(shadow, at).r : 0.0;
    float a = max((grid + axis) * fade, 0.0);
    result = vec4(mix(line, vec3(0.10, 0.09, 0.08), dark), a + dark * 0.62 * (1.0 - a));
})";

inline constexpr const char *kBackdropVertex = R"(#version 330 core
out float vHeight;
void main()
{
    vec2 corner = vec2((gl_VertexID & 1) * 2 - 1, (gl_VertexID >> 1) * 2 - 1);
    vHeight = 0.5 + 0.5 * corner.y;
    gl_Position = vec4(corner, 0.9999, 1.0);
})";

inline constexpr const char *kBackdropFragment = R"(#version 330 core
in float vHeight;
uniform vec3 top, bottom;
out vec4 result;
void main() { result = vec4(mix(bottom, top, vHeight), 1.0); })";

inline constexpr const char *kTouchVertex = R"(#version 330 core
layout(location = 0) in vec4 corner; // place and share
uniform mat4 view, projection;
out float vShare;
void main()
{
    vShare = corner.w;
    gl_Position = projection * view * vec4(corner.xyz, 1.0);
})";

inline constexpr const char *kTouchFragment = R"(#version 330 core
in float vShare;
uniform vec3 colour;
out vec4 result;
void main() { result = vec4(colour, 0.5 * vShare); })";

inline constexpr const char *kPictureVertex = R"(#version 330 core
uniform mat4 view, projection;
uniform vec3 corners[4];
out vec2 vAt;
void main()
{
    vAt = vec2(gl_VertexID & 1, gl_VertexID >> 1);
    gl_Position = projection * view * vec4(corners[gl_VertexID], 1.0);
})";

inline constexpr const char *kPictureFragment = R"(#version 330 core
in vec2 vAt;
uniform sampler2D picture;
uniform float opacity;
out vec4 result;
void main()
{
    vec4 c = texture(picture, vAt);
    result = vec4(c.rgb, c.a * opacity);
})";

inline constexpr const char *kPlateVertex = R"(#version 330 core
uniform vec4 place; // upper left corner and size
out vec2 vAt;
void main()
{
    vAt = vec2(gl_VertexID & 1, gl_VertexID >> 1);
    gl_Position = vec4(place.xy + vAt * place.zw, 0.0, 1.0);
})";

inline constexpr const char *kPlateFragment = R"(#version 330 core
in vec2 vAt;
uniform sampler2D plate;
out vec4 result;
void main() { result = texture(plate, vAt); })";

} // namespace bonemoss::app
