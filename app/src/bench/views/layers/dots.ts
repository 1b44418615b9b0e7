import { BufferAttribute, BufferGeometry, Points, PointsMaterial, type Scene } from 'three';

/** Round marks of a fixed size in px, ink-rimmed. */
export class Dots {
  private readonly layers: Points<BufferGeometry, PointsMaterial>[];

  constructor(size: number, order: number) {
    this.layers = [size + 4, size].map((px, k) => {
      const points = new Points(
        new BufferGeometry(),
        new PointsMaterial({ size: px, sizeAttenuation: false, depthTest: false, transparent: true, toneMapped: false }),
      );
      points.frustumCulled = false;
      points.renderOrder = order + k * 0.1;
      points.visible = false;
      return points;
    });
  }

  addTo(scene: Scene): this {
    for (const layer of this.layers) scene.add(layer);
    return this;
  }

  /** @param places 3 numbers a mark */
  set(places: Float32Array): void {
    for (const layer of this.layers) {
      layer.geometry.dispose();
      layer.visible = places.length > 0;
      layer.geometry = new BufferGeometry();
      layer.geometry.setAttribute('position', new BufferAttribute(places, 3));
    }
  }

  recolor(color: string, rim: string): void {
    this.layers[0]!.material.color.set(rim);
    this.layers[1]!.material.color.set(color);
  }
}
