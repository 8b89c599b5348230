/** Pieces of a drawn model as the brush paints them, in units of its file; and the ring that shows the brush. */
import * as three from "three";

import type { PaintedPiece, SurfacePoint } from "./vertexBrush";

/** A piece with the geometry whose colours it changes. */
export interface DrawnPiece extends PaintedPiece {
  geometry: three.BufferGeometry;
}
/** How places on the page come from those of the file: less the middle, times the scale. */
export interface Placing {
  middle: three.Vector3;
  scale: number;
}

const numbers = (geometry: three.BufferGeometry, name: string) =>
  geometry.getAttribute(name).array as Float32Array;

export function pieceOf(geometry: three.BufferGeometry, { middle, scale }: Placing): DrawnPiece {
  const offset = middle.toArray();
  const positions = numbers(geometry, "position").map((value, at) => value / scale + offset[at % 3]!);
  return {
    geometry,
    positions,
    normals: numbers(geometry, "normal"),
    colours: numbers(geometry, "ftVertex"),
  };
}

/** A place that was hit, with the mean of the normals at its triangle's corners. */
export function pointOf(hit: three.Intersection, { middle, scale }: Placing, pressure: number): SurfacePoint {
  const place = hit.point.clone().divideScalar(scale).add(middle);
  const normal = hit.normal ?? hit.face?.normal ?? new three.Vector3(0, 1, 0);
  return [place.x, place.y, place.z, normal.x, normal.y, normal.z, pressure];
}

/** A ring on the surface, as wide as the brush. */
export class BrushRing {
  readonly line = new three.LineLoop(
    new three.BufferGeometry().setFromPoints(
      Array.from({ length: 48 }, (_, at) => {
        const angle = (at / 48) * 2 * Math.PI;
        return new three.Vector3(Math.cos(angle), Math.sin(angle), 0);
      }),
    ),
    new three.LineBasicMaterial({ color: 0xffffff, depthTest: false }),
  );

  constructor() {
    this.line.visible = false;
    this.line.renderOrder = 1;
  }
  /** radius: in units of the file. */
  show(point: SurfacePoint | null, radius: number, { middle, scale }: Placing): void {
    this.line.visible = point !== null;
    if (!point) return;
    const [x, y, z, nx, ny, nz] = point;
    this.line.position.set(x, y, z).sub(middle).multiplyScalar(scale);
    this.line.quaternion.setFromUnitVectors(
      new three.Vector3(0, 0, 1),
      new three.Vector3(nx, ny, nz).normalize(),
    );
    this.line.scale.setScalar(radius * scale);
  }
  dispose(): void {
    this.line.geometry.dispose();
    (this.line.material as three.Material).dispose();
  }
}
