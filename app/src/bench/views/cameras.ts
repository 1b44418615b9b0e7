import { OrthographicCamera, PerspectiveCamera, Vector3 } from 'three';

export type StandardView = 'front' | 'back' | 'left' | 'right' | 'top' | 'below';

const angles: Record<StandardView, [number, number]> = {
  front: [0, 0],
  back: [Math.PI, 0],
  left: [-Math.PI / 2, 0],
  right: [Math.PI / 2, 0],
  top: [0, Math.PI / 2 - 1e-3],
  below: [0, -Math.PI / 2 + 1e-3],
};

/** The model view's eye: turns about a target, y stays up. */
export class ModelCamera {
  readonly camera = new PerspectiveCamera(35, 1, 0.01, 1000);
  target = new Vector3();
  distance = 5;
  azimuth = 0.6;
  elevation = 0.35;
  /** Box of all that is drawn: [minX … maxZ]. */
  scene: readonly number[] = [];
  private size = 1;

  /** Half the height of the view at distance 1. */
  get tan(): number {
    return Math.tan((this.camera.fov * Math.PI) / 360);
  }

  /** Right, up and towards the eye, as it was drawn last. */
  get axes(): { right: number[]; up: number[]; out: number[] } {
    const column = (k: number) => new Vector3().setFromMatrixColumn(this.camera.matrixWorld, k).toArray();
    return { right: column(0), up: column(1), out: column(2) };
  }

  /** Comes as near as shows all of the given places (3 numbers each) from the present side. `box` is the whole model's, for the depth range. */
  frame(places: ArrayLike<number>, box: readonly number[], aspect: number): void {
    this.size = Math.max(1e-9, Math.hypot(box[3]! - box[0]!, box[4]! - box[1]!, box[5]! - box[2]!) / 2);
    const tan = this.tan;
    const [sa, ca, se, ce] = [Math.sin(this.azimuth), Math.cos(this.azimuth), Math.sin(this.elevation), Math.cos(this.elevation)];
    // right, up and towards the eye
    const axes = [
      [ca, 0, -sa],
      [-sa * se, ce, -ca * se],
      [sa * ce, se, ca * ce],
    ] as const;
    const middle = axes.map((axis) => {
      let [low, high] = [Infinity, -Infinity];
      for (let k = 0; k < places.length; k += 3) {
        const d = places[k]! * axis[0] + places[k + 1]! * axis[1] + places[k + 2]! * axis[2];
        if (d < low) low = d;
        if (d > high) high = d;
      }
      return (low + high) / 2;
    });
    this.target.set(0, 0, 0);
    axes.forEach((axis, a) => this.target.add(new Vector3(...axis).multiplyScalar(middle[a]!)));
    let distance = this.size * 0.02;
    for (let k = 0; k < places.length; k += 3) {
      const [x, y, z] = [places[k]! - this.target.x, places[k + 1]! - this.target.y, places[k + 2]! - this.target.z];
      const [right, up, near] = axes.map((axis) => x * axis[0] + y * axis[1] + z * axis[2]) as [number, number, number];
      distance = Math.max(distance, near + Math.abs(right) / (tan * aspect), near + Math.abs(up) / tan);
    }
    this.distance = distance * 1.12;
  }

  /** Looks at the same place as another eye, from elsewhere. */
  follow(other: ModelCamera, azimuth: number, elevation: number): void {
    this.target.copy(other.target);
    this.distance = other.distance;
    this.size = other.size;
    this.scene = other.scene;
    this.azimuth = azimuth;
    this.elevation = elevation;
  }

  look(view: StandardView): void {
    [this.azimuth, this.elevation] = angles[view];
  }

  orbit(dx: number, dy: number): void {
    this.azimuth -= dx * 0.0075;
    this.elevation = Math.max(-1.5697, Math.min(1.5697, this.elevation + dy * 0.0075));
  }

  /** Moves the target in the view plane by px of a view that is `height` px high. */
  pan(dx: number, dy: number, height: number): void {
    const scale = (2 * this.distance * this.tan) / height;
    const right = new Vector3().setFromMatrixColumn(this.camera.matrixWorld, 0);
    const up = new Vector3().setFromMatrixColumn(this.camera.matrixWorld, 1);
    this.target.addScaledVector(right, -dx * scale).addScaledVector(up, dy * scale);
  }

  /** Comes nearer (factor < 1) towards what lies under the pointer, x and y from −1 to 1. */
  zoom(factor: number, x: number, y: number): void {
    const next = Math.max(this.size * 1e-3, Math.min(this.size * 60, this.distance * factor));
    const share = 1 - next / this.distance;
    const tan = this.tan;
    const right = new Vector3().setFromMatrixColumn(this.camera.matrixWorld, 0);
    const up = new Vector3().setFromMatrixColumn(this.camera.matrixWorld, 1);
    this.target.addScaledVector(right, x * tan * this.camera.aspect * this.distance * share).addScaledVector(up, y * tan * this.distance * share);
    this.distance = next;
  }

  update(width: number, height: number): void {
    const { camera } = this;
    camera.aspect = width / Math.max(1, height);
    // how far the scene reaches from the target
    let reach = this.size * 4;
    if (this.scene.length === 6) {
      const [x, y, z] = [0, 1, 2].map((d) =>
        Math.max(Math.abs(this.scene[d]! - this.target.getComponent(d)), Math.abs(this.scene[d + 3]! - this.target.getComponent(d))),
      );
      reach = Math.max(reach, Math.hypot(x!, y!, z!) * 1.05);
    }
    camera.near = Math.max(this.distance - reach, this.distance * 0.01);
    camera.far = this.distance + reach;
    const c = Math.cos(this.elevation);
    camera.position.set(
      this.target.x + this.distance * c * Math.sin(this.azimuth),
      this.target.y + this.distance * Math.sin(this.elevation),
      this.target.z + this.distance * c * Math.cos(this.azimuth),
    );
    camera.lookAt(this.target);
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
  }
}

/** The eye of the one model view: jigs can be placed from it. */
export const modelEye = new ModelCamera();

/** The sheet view's eye: u to the right, v up; `scale` px a unit of v. */
export class SheetCamera {
  readonly camera = new OrthographicCamera(-1, 1, 1, -1, -10, 10);
  u = 0.5;
  v = 0.5;
  scale = 400;
  /** Width of the sheet over its height: u is drawn this much wider. */
  aspect = 1;

  frame(box: readonly [number, number, number, number], width: number, height: number): void {
    const [minU, minV, maxU, maxV] = box;
    this.u = (minU + maxU) / 2;
    this.v = (minV + maxV) / 2;
    const room = 46;
    this.scale = Math.max(
      10,
      Math.min((width - room * 1.6) / Math.max(1e-6, (maxU - minU) * this.aspect), (height - room * 1.6) / Math.max(1e-6, maxV - minV)),
    );
  }

  pan(dx: number, dy: number): void {
    this.u -= dx / (this.scale * this.aspect);
    this.v += dy / this.scale;
  }

  zoom(factor: number, x: number, y: number, width: number, height: number): void {
    const [u, v] = this.toUv(x, y, width, height);
    this.scale = Math.max(20, Math.min(2e6, this.scale / factor));
    const [u2, v2] = this.toUv(x, y, width, height);
    this.u += u - u2;
    this.v += v - v2;
  }

  /** UV at px of the view (from its top left). */
  toUv(x: number, y: number, width: number, height: number): [number, number] {
    return [this.u + (x - width / 2) / (this.scale * this.aspect), this.v - (y - height / 2) / this.scale];
  }

  toPx(u: number, v: number, width: number, height: number): [number, number] {
    return [width / 2 + (u - this.u) * this.scale * this.aspect, height / 2 - (v - this.v) * this.scale];
  }

  update(width: number, height: number): void {
    const { camera } = this;
    const halfU = width / (2 * this.scale * this.aspect);
    const halfV = height / (2 * this.scale);
    camera.left = this.u - halfU;
    camera.right = this.u + halfU;
    camera.top = this.v + halfV;
    camera.bottom = this.v - halfV;
    camera.position.set(0, 0, 0);
    camera.rotation.set(0, 0, 0);
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
  }
}
