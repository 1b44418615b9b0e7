import { Color, ShaderMaterial, Vector2, type ShaderMaterialParameters } from 'three';

/** From corners of segmentBoxes to px of the view: all is done in px, so that what goes on between corners is straight in them, too. */
const vertexShader = /* glsl */ `
uniform float width;
uniform vec2 resolution;
attribute vec3 start;
attribute vec3 end;
varying vec3 place; // px along the segment, px across it, its length in px
#ifdef DASHED
attribute vec2 distances;
varying float distanceAlong;
#endif

/** How far from one end to the other, which is behind the eye, the near plane is. */
float beforeEye(vec4 front, vec4 back) {
  float near = -0.5 * projectionMatrix[3][2] / projectionMatrix[2][2];
  return (near - front.z) / (back.z - front.z);
}

void main() {
  vec4 a = modelViewMatrix * vec4(start, 1.0);
  vec4 b = modelViewMatrix * vec4(end, 1.0);
  if (projectionMatrix[2][3] == -1.0) {
    if (a.z < 0.0 && b.z >= 0.0) b = mix(a, b, beforeEye(a, b));
    else if (b.z < 0.0 && a.z >= 0.0) a = mix(b, a, beforeEye(b, a));
    else if (a.z >= 0.0) {
      gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
      return;
    }
  }
  vec4 clipA = projectionMatrix * a;
  vec4 clipB = projectionMatrix * b;
  vec3 placeA = clipA.xyz / clipA.w;
  vec3 placeB = clipB.xyz / clipB.w;
  vec2 along = (placeB.xy - placeA.xy) * resolution * 0.5;
  float size = length(along);
  vec2 heading = size > 0.0 ? along / size : vec2(1.0, 0.0);
  float radius = width * 0.5;
#ifdef DASHED
  float beyond = 0.0;
#else
  float beyond = radius;
#endif
  bool isAtEnd = (gl_VertexID & 2) != 0;
  float outward = isAtEnd ? beyond : -beyond;
  float across = (gl_VertexID & 1) != 0 ? radius : -radius;
  vec3 corner = isAtEnd ? placeB : placeA;
  corner.xy += (heading * outward + vec2(heading.y, -heading.x) * across) / (resolution * 0.5);
  // the depth goes on straight beyond the ends
  corner.z += (placeB.z - placeA.z) * outward / max(size, radius);
  place = vec3((isAtEnd ? size : 0.0) + outward, across, size);
#ifdef DASHED
  distanceAlong = isAtEnd ? distances.y : distances.x;
#endif
  gl_Position = vec4(corner, 1.0);
}
`;

const fragmentShader = /* glsl */ `
uniform vec3 color;
uniform float opacity;
uniform float width;
varying vec3 place;
#ifdef DASHED
uniform float dash;
uniform float gap;
varying float distanceAlong;
#endif

void main() {
#ifdef DASHED
  if (mod(distanceAlong, dash + gap) > dash) discard;
#else
  float beyond = max(-place.x, place.x - place.z);
  if (beyond > 0.0 && beyond * beyond + place.y * place.y > width * width * 0.25) discard;
#endif
  gl_FragColor = vec4(color, opacity);
  #include <colorspace_fragment>
}
`;

/** Draws segmentBoxes as lines of a width in px, with round ends, or dashed. */
export class LineMaterial extends ShaderMaterial {
  readonly isDashed: boolean;

  /** @param width px of the resolution that is set */
  constructor(width: number, isDashed: boolean, more: ShaderMaterialParameters = {}) {
    super({
      vertexShader,
      fragmentShader,
      uniforms: {
        color: { value: new Color() },
        opacity: { value: 1 },
        width: { value: width },
        resolution: { value: new Vector2(1, 1) },
        ...(isDashed ? { dash: { value: 1 }, gap: { value: 0.7 } } : {}),
      },
      defines: isDashed ? { DASHED: '' } : {},
      ...more,
    });
    this.isDashed = isDashed;
  }

  get color(): Color {
    return this.uniforms.color!.value as Color;
  }

  /** @param height px */
  setView(width: number, height: number, dash: number): void {
    (this.uniforms.resolution!.value as Vector2).set(width, height);
    if (!this.isDashed) return;
    this.uniforms.dash!.value = dash;
    this.uniforms.gap!.value = dash * 0.55;
  }

  setStrength(strength: number): void {
    this.opacity = strength;
    this.uniforms.opacity!.value = strength;
  }
}
