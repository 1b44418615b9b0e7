import type { BlendMode } from '@jig-peel/core';

/* The formulas of core/images/surface in the graphics' own language; a test reads pixels back and compares them with core's. */

/** B(Cb, Cs) of each blend mode (W3C, Compositing and Blending), as an expression of b and s. */
export const blendCode: Record<BlendMode, string> = {
  normal: 's',
  multiply: 'b * s',
  screen: 'b + s - b * s',
  overlay: 'hardLight(s, b)',
  darken: 'min(b, s)',
  lighten: 'max(b, s)',
  'color-dodge': 'vec3(dodge(b.r, s.r), dodge(b.g, s.g), dodge(b.b, s.b))',
  'color-burn': 'vec3(burn(b.r, s.r), burn(b.g, s.g), burn(b.b, s.b))',
  'hard-light': 'hardLight(b, s)',
  'soft-light': 'vec3(softLight(b.r, s.r), softLight(b.g, s.g), softLight(b.b, s.b))',
  difference: 'abs(b - s)',
  exclusion: 'b + s - 2.0 * b * s',
  hue: 'setLum(setSat(s, satOf(b)), lumOf(b))',
  saturation: 'setLum(setSat(b, satOf(s)), lumOf(b))',
  color: 'setLum(s, lumOf(b))',
  luminosity: 'setLum(b, lumOf(s))',
};

export const surfaceFunctions = /* glsl */ `
  vec3 hardLight(vec3 b, vec3 s) {
    return mix(2.0 * b * s, b + (2.0 * s - 1.0) - b * (2.0 * s - 1.0), step(vec3(0.5000001), s));
  }
  float dodge(float b, float s) { return b <= 0.0 ? 0.0 : s >= 1.0 ? 1.0 : min(1.0, b / (1.0 - s)); }
  float burn(float b, float s) { return b >= 1.0 ? 1.0 : s <= 0.0 ? 0.0 : 1.0 - min(1.0, (1.0 - b) / s); }
  float softLight(float b, float s) {
    if (s <= 0.5) return b - (1.0 - 2.0 * s) * b * (1.0 - b);
    float d = b <= 0.25 ? ((16.0 * b - 12.0) * b + 4.0) * b : sqrt(b);
    return b + (2.0 * s - 1.0) * (d - b);
  }
  float lumOf(vec3 c) { return dot(c, vec3(0.3, 0.59, 0.11)); }
  float satOf(vec3 c) { return max(c.r, max(c.g, c.b)) - min(c.r, min(c.g, c.b)); }
  vec3 setLum(vec3 c, float lum) {
    c += lum - lumOf(c);
    float l = lumOf(c);
    float least = min(c.r, min(c.g, c.b));
    float most = max(c.r, max(c.g, c.b));
    if (least < 0.0) c = l + (c - l) * l / (l - least);
    if (most > 1.0) c = l + (c - l) * (1.0 - l) / (most - l);
    return c;
  }
  vec3 setSat(vec3 c, float sat) {
    float least = min(c.r, min(c.g, c.b));
    float range = satOf(c);
    return range > 0.0 ? (c - least) * sat / range : vec3(0.0);
  }
  float lightnessOf(vec3 c) { return dot(c, vec3(0.213, 0.715, 0.072)); }
  vec4 over(vec4 under, vec3 blended, vec3 source, float alpha) {
    float all = alpha + under.a * (1.0 - alpha);
    if (alpha <= 0.0) return under;
    vec3 mixed = mix(source, blended, under.a);
    return vec4((alpha * mixed + under.a * (1.0 - alpha) * under.rgb) / all, all);
  }
  vec3 adjusted(vec3 c, vec4 levels, float contrast, mat3 hues) {
    vec3 even = pow(clamp((c - levels.x) / levels.y, 0.0, 1.0), vec3(levels.z));
    vec3 toned = clamp((clamp(even * levels.w, 0.0, 1.0) - 0.5) * contrast + 0.5, 0.0, 1.0);
    return clamp(hues * toned, 0.0, 1.0);
  }
  float beyond(float at, int how, float size, inout float seen) {
    if (how == 0) return at;
    if (how == 1) at = 1.0 - abs(mod(at, 2.0) - 1.0);
    else if (how == 3 && (at < 0.0 || at > 1.0)) seen = 0.0;
    return clamp(at, 0.5 / size, 1.0 - 0.5 / size);
  }
  // red, green, blue and alpha of a picture at a place; what has ended is told by "ended"
  vec4 pictureAt(sampler2D image, vec2 uv, mat3 placement, ivec2 outside, out float ended) {
    vec2 at = (placement * vec3(uv, 1.0)).xy;
    vec2 size = vec2(textureSize(image, 0));
    ended = 1.0;
    // the size of the picture on the screen is that of the place before it was wrapped: no line where it begins again
    vec2 dx = dFdx(at);
    vec2 dy = dFdy(at);
    at = vec2(beyond(at.x, outside.x, size.x, ended), beyond(at.y, outside.y, size.y, ended));
    return ended > 0.0 ? textureGrad(image, at, dx, dy) : vec4(0.0);
  }
  uint hash3(uvec3 v) {
    v = v * 1664525u + 1013904223u;
    v.x += v.y * v.z;
    v.y += v.z * v.x;
    v.z += v.x * v.y;
    v ^= v >> 16u;
    v.x += v.y * v.z;
    return v.x;
  }
  float latticeAt(ivec3 p, int seed) { return float(hash3(uvec3(p + ivec3(seed * 101, 0, 0)))) / 4294967295.0; }
  float valueNoise(vec3 p, int seed) {
    vec3 whole = floor(p);
    vec3 t = p - whole;
    vec3 u = t * t * t * (t * (t * 6.0 - 15.0) + 10.0);
    ivec3 i = ivec3(whole);
    float sum = 0.0;
    for (int k = 0; k < 8; k++) {
      ivec3 c = ivec3(k & 1, (k >> 1) & 1, k >> 2);
      vec3 w = mix(1.0 - u, u, vec3(c));
      sum += w.x * w.y * w.z * latticeAt(i + c, seed);
    }
    return sum;
  }
  float noiseAt(vec3 p, float size, int seed, int detail) {
    float sum = 0.0;
    float all = 0.0;
    float weight = 1.0;
    float scale = 1.0 / size;
    for (int k = 0; k < detail; k++) {
      sum += weight * valueNoise(p * scale, seed + k);
      all += weight;
      weight *= 0.5;
      scale *= 2.0;
    }
    return sum / all;
  }
  float eased(float t) { t = clamp(t, 0.0, 1.0); return t * t * (3.0 - 2.0 * t); }
  float linearFade(vec3 p, vec3 from, vec3 to, float shift) {
    vec3 d = to - from;
    float squared = dot(d, d);
    return 1.0 - eased((squared > 0.0 ? dot(p - from, d) / squared : 0.0) + shift);
  }
  float radialFade(vec3 p, vec3 centre, float inner, float outer, float shift) {
    return 1.0 - eased((length(p - centre) - inner) / max(1e-9, outer - inner) + shift);
  }
  float brushed(sampler2D dabs, int row, int count, vec3 p) {
    float value = 0.0;
    for (int k = 0; k < count; k++) {
      vec4 dab = texelFetch(dabs, ivec2(k * 2, row), 0);
      float away = distance(p, dab.xyz) / dab.w;
      if (away >= 1.0) continue;
      float strength = texelFetch(dabs, ivec2(k * 2 + 1, row), 0).x;
      value += ((strength > 0.0 ? 1.0 : 0.0) - value) * abs(strength) * (1.0 - eased(away));
    }
    return value;
  }
  vec3 triplanarShares(vec3 n, float blend) {
    vec3 a = abs(n);
    float most = max(a.x, max(a.y, a.z));
    vec3 w = max(vec3(0.0), a / most - 1.0 + max(1e-3, blend));
    return w / (w.x + w.y + w.z);
  }
  vec2 turned(vec2 at, vec2 cosSin) { return vec2(at.x * cosSin.x + at.y * cosSin.y, at.y * cosSin.x - at.x * cosSin.y); }
  vec2 sidePlace(vec3 p, vec3 n, int axis) {
    float s = (axis == 0 ? n.x : axis == 1 ? n.y : n.z) < 0.0 ? -1.0 : 1.0;
    return axis == 0 ? vec2(-s * p.z, p.y) : axis == 1 ? vec2(p.x, -s * p.z) : vec2(s * p.x, p.y);
  }
  // u, v and the share of a decal
  vec3 decalPlace(vec3 p, vec3 n, vec3 centre, vec3 right, vec3 up, vec2 size, float depth, float facing, float bend) {
    vec3 ahead = cross(right, up);
    vec3 d = p - centre;
    float along = dot(d, right);
    float away = dot(d, ahead);
    float across = along;
    float gap = away;
    vec3 looks = ahead;
    if (bend != 0.0) {
      float radius = size.x / bend;
      float deep = away + radius;
      float side = sign(radius);
      float angle = atan(along * side, deep * side);
      across = angle * radius;
      gap = (length(vec2(along, deep)) - abs(radius)) * side;
      looks = ahead * cos(angle) + right * sin(angle);
    }
    vec2 uv = vec2(across / size.x, dot(d, up) / size.y) + 0.5;
    bool on = abs(gap) <= depth && dot(n, looks) >= facing && uv.x >= 0.0 && uv.x <= 1.0 && uv.y >= 0.0 && uv.y <= 1.0;
    return vec3(uv, on ? 1.0 : 0.0);
  }
`;
