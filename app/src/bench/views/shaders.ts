/** Both views draw the same triangles: the model view at their places in space, the sheet view at their UVs. */
export const vertexShader = /* glsl */ `
  attribute vec2 uvAt;
  attribute float faceId;
  uniform bool onSheet;
  varying vec2 vUv;
  varying vec3 vNormal;
  varying vec3 vView;
  flat varying float vFace;
  void main() {
    vUv = uvAt;
    vFace = faceId;
    vNormal = normalMatrix * normal;
    vec4 place = onSheet ? vec4(uvAt, 0.0, 1.0) : vec4(position, 1.0);
    vec4 inView = modelViewMatrix * place;
    vView = -inView.xyz;
    gl_Position = projectionMatrix * inView;
  }
`;

/** Light on a surface: a room with a window and a wall, the same from all sides, or one lamp that brings out relief. */
const litFunction = /* glsl */ `
  vec3 lit(vec3 color, vec3 n, vec3 eye, int light, vec3 lamp) {
    if (light == 1) return color;
    vec3 from = light == 2 ? lamp : normalize(vec3(0.35, 0.6, 0.75));
    float key = max(0.0, dot(n, from));
    if (light == 2) return color * (0.12 + 0.95 * key) + 0.06 * pow(max(0.0, dot(reflect(-eye, n), from)), 24.0);
    float fill = max(0.0, dot(n, normalize(vec3(-0.7, 0.1, 0.4))));
    float rim = 0.5 + 0.5 * n.y;
    return color * (0.42 + 0.46 * key + 0.1 * fill + 0.08 * rim) + 0.035 * pow(max(0.0, dot(reflect(-eye, n), from)), 24.0);
  }
`;

/** Other parts: their form alone, faint, so that the part at work stands out. */
export const contextVertexShader = /* glsl */ `
  varying vec3 vNormal;
  varying vec3 vView;
  void main() {
    vNormal = normalMatrix * normal;
    vec4 inView = modelViewMatrix * vec4(position, 1.0);
    vView = -inView.xyz;
    gl_Position = projectionMatrix * inView;
  }
`;
export const contextFragmentShader = /* glsl */ `
  uniform vec3 clay;
  uniform int light;
  uniform vec3 lamp;
  uniform float solid;
  uniform vec3 tint;
  uniform float tinted;
  varying vec3 vNormal;
  varying vec3 vView;
  ${litFunction}
  void main() {
    vec3 n = normalize(vNormal);
    if (!gl_FrontFacing) n = -n;
    vec3 color = lit(clay, n, normalize(vView), light, lamp);
    gl_FragColor = vec4(mix(color, tint, tinted), max(solid, tinted));
  }
`;

/*
 * Faces of the part at work. Comments stay out of the text: it is sent as it is, but for three marks where layers put their own code.
 * overlay: 0 picture, 1 colour of the face, 2 bare. placement: from the UVs to the image. outside: 0 repeat, 1 mirrored repeat, 2 the edge's colour, 3 nothing.
 * channel: 0 all, 1 red, 2 green, 3 blue, 4 alpha. light: 0 room, 1 even, 2 lamp. lamp: towards it, as the eye sees it. mark: strength of the selection's fill.
 * uvLines: lines along u (solid) and along v (dashed), so many a sheet, every fourth heavier; 0: none.
 * Flags of a face, in this order: 64 badly served by what is previewed (crosses), or to be kept whole (a no-cut sign: a ring with a bar through it); 128 seams may
 * go here (grey diagonal lines); 4 overlapping (ink hatching); 2 flipped (dots); 8 outside (faded); 1 selected; 16 without a place; 32 hidden.
 */
export const fragmentShader = /* glsl */ `
  uniform sampler2D picture;
  uniform sampler2D faces;
  uniform bool onSheet;
  uniform int overlay;
  uniform float repeats;
  uniform mat3 placement;
  uniform ivec2 outside;
  uniform int channel;
  uniform int light;
  uniform vec3 lamp;
  uniform float mark;
  uniform vec3 clay;
  uniform vec3 selectedColor;
  uniform vec3 inkColor;
  uniform bool fillSelected;
  uniform bool keepSign;
  uniform float uvLines;
  uniform float sheetOpacity;
  varying vec2 vUv;
  varying vec3 vNormal;
  varying vec3 vView;
  flat varying float vFace;

  ${litFunction}
  float wrapped(float at, int beyond, inout float seen) {
    if (beyond == 0) return at;
    if (beyond == 1) return 1.0 - abs(mod(at, 2.0) - 1.0);
    if (beyond == 3 && (at < 0.0 || at > 1.0)) seen = 0.0;
    return clamp(at, 0.002, 0.998);
  }
  vec4 placed(sampler2D image, vec2 uv) {
    vec2 at = (placement * vec3(uv, 1.0)).xy;
    float seen = 1.0;
    at = vec2(wrapped(at.x, outside.x, seen), wrapped(at.y, outside.y, seen));
    return texture2D(image, at) * vec4(1.0, 1.0, 1.0, seen);
  }

  void main() {
    int id = int(vFace + 0.5);
    vec4 texel = texelFetch(faces, ivec2(id & 1023, id >> 10), 0);
    int flags = int(texel.a * 255.0 + 0.5);
    bool unplaced = (flags & 16) != 0;
    if ((onSheet && unplaced) || (flags & 32) != 0) discard;
    vec3 color = texel.rgb;
    float alpha = 1.0;
    if (overlay == 0) {
      //picture
      if (unplaced) color = clay;
      else {
        vec4 sampled = placed(picture, vUv * repeats);
        color = channel == 0 ? mix(clay, sampled.rgb, sampled.a) : vec3(channel == 4 ? sampled.a : sampled[channel - 1]);
      }
      //end
    } else if (overlay == 2) color = clay;
    if (onSheet) alpha = overlay == 0 ? sheetOpacity : 0.94;
    if ((flags & 64) != 0) {
      if (keepSign) {
        vec2 cell = mod(gl_FragCoord.xy, 22.0) - 11.0;
        float r = length(cell);
        // looked at: a ring with a dot; kept whole: a ring with a bar
        if ((flags & 128) != 0) {
          if (abs(r - 6.5) < 0.9 || r < 2.6) color = inkColor;
        } else if (abs(r - 6.0) < 0.9 || (r < 6.0 && abs(cell.x + cell.y) < 1.2)) color = inkColor;
      } else {
        vec2 cell = abs(mod(gl_FragCoord.xy, 14.0) - 7.0);
        if (abs(cell.x - cell.y) < 1.1 && cell.x < 4.5) color = inkColor;
      }
    }
    if ((flags & 128) != 0 && !((flags & 64) != 0 && keepSign) && mod(gl_FragCoord.x - gl_FragCoord.y, 10.0) < 2.0) color = mix(color, vec3(0.42), 0.75);
    if ((flags & 4) != 0 && mod(gl_FragCoord.x + gl_FragCoord.y, 9.0) < 2.2) color = inkColor;
    if ((flags & 2) != 0) {
      vec2 cell = mod(gl_FragCoord.xy, 8.0) - 4.0;
      if (dot(cell, cell) < 5.0) color = inkColor;
    }
    if ((flags & 8) != 0) color = mix(color, vec3(dot(color, vec3(0.33))), 0.7);
    if ((flags & 1) != 0 && fillSelected) color = mix(color, selectedColor, mark);
    if (!onSheet && uvLines > 0.0 && !unplaced) {
      vec2 at = vUv * uvLines;
      vec2 wide = max(fwidth(at), vec2(1e-6));
      vec2 near = abs(at - floor(at + 0.5)) / wide;
      bvec2 heavy = equal(mod(floor(at + 0.5), 4.0), vec2(0.0));
      float alongU = near.y < (heavy.y ? 1.1 : 0.6) ? 1.0 : 0.0;
      float alongV = near.x < (heavy.x ? 1.1 : 0.6) && fract(at.y * 2.0) < 0.6 ? 1.0 : 0.0;
      vec2 room = clamp(1.5 - 4.0 * wide, 0.0, 1.0);
      color = mix(color, inkColor, 0.85 * max(alongU * room.y, alongV * room.x));
    }
    if (!onSheet) {
      vec3 n = normalize(vNormal);
      vec3 eye = normalize(vView);
      bool back = !gl_FrontFacing;
      if (back) n = -n;
      //relief
      color = lit(color, n, eye, light, lamp);
      if (back) color = color * 0.45 + vec3(0.04, 0.05, 0.07);
    }
    gl_FragColor = vec4(color, alpha);
  }
`;

/** The whole picture under the islands on the sheet. */
export const underVertexShader = /* glsl */ `
  varying vec2 vUv;
  void main() {
    vUv = uv;
    gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  }
`;
export const underFragmentShader = /* glsl */ `
  uniform sampler2D picture;
  uniform float repeats;
  uniform int channel;
  uniform float opacity;
  varying vec2 vUv;
  void main() {
    vec4 sampled = texture2D(picture, vUv * repeats);
    gl_FragColor = channel == 0 ? vec4(sampled.rgb, sampled.a * opacity) : vec4(vec3(channel == 4 ? sampled.a : sampled[channel - 1]), opacity);
  }
`;

/** The image on a jig itself: faint, so that up and right are seen and the model shows through. */
export const jigVertexShader = /* glsl */ `
  attribute vec2 uvAt;
  varying vec2 vUv;
  void main() {
    vUv = uvAt;
    gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  }
`;
export const jigFragmentShader = /* glsl */ `
  uniform sampler2D picture;
  uniform float repeats;
  uniform float strength;
  varying vec2 vUv;
  void main() {
    vec4 sampled = texture2D(picture, vUv * repeats);
    gl_FragColor = vec4(sampled.rgb, strength * (0.8 * sampled.a + 0.2));
  }
`;
