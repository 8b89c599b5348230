/** What every preview stands on: shapes, and an environment of our own. */
import * as three from "three";

export const SHAPES = ["sphere", "cube", "plane", "cloth"] as const;
export type Shape = (typeof SHAPES)[number];

export const ENVIRONMENTS = ["studio", "overcast", "low_sun", "night_lamps"] as const;
export type Environment = (typeof ENVIRONMENTS)[number];

/** Of a room: the wall's brightness, the floor's, and boxes of light: place, width, height, strength. */
interface Room {
  wall: number;
  floor: number;
  boxes: [number, number, number, number, number, number][];
}
const ROOMS: Record<Environment, Room> = {
  studio: {
    wall: 0.22,
    floor: 0.22,
    boxes: [
      [0, 5.8, 0, 8, 8, 3.2],
      [-9.5, 1, 2, 5, 6, 1.6],
      [9.5, 2, -3, 3, 8, 2.2],
      [2, 0, 9.5, 9, 3, 0.7],
    ],
  },
  // One bright ceiling from wall to wall, dark ground.
  overcast: { wall: 0.75, floor: 0.12, boxes: [[0, 5.8, 0, 19, 19, 1.5]] },
  // Little light but for a small, strong one near the horizon, as the turned light is.
  low_sun: {
    wall: 0.18,
    floor: 0.1,
    boxes: [
      [0, 1.6, 9.5, 1.6, 1.6, 40],
      [0, 5.8, 0, 19, 19, 0.35],
    ],
  },
  night_lamps: {
    wall: 0.02,
    floor: 0.02,
    boxes: [
      [-9.5, 3, 0, 1, 1, 22],
      [9.5, 3, 4, 1, 1, 16],
      [3, 3, -9.5, 1, 1, 20],
      [-4, 3, 9.5, 1, 1, 14],
    ],
  },
};

/** Boxes of light in a grey room: brightness without any hue, so that the surface's own colour is judged. */
export function roomOf(name: Environment): three.Scene {
  const scene = new three.Scene();
  const { wall, floor, boxes } = ROOMS[name];
  const grey = (value: number) =>
    new three.MeshBasicMaterial({ color: new three.Color(value, value, value), side: three.BackSide });
  // Of a box's six sides the fourth is below.
  const sides = [0, 1, 2, 3, 4, 5].map((side) => grey(side === 3 ? floor : wall));
  scene.add(new three.Mesh(new three.BoxGeometry(20, 12, 20), sides));
  for (const [x, y, z, width, height, strength] of boxes) {
    const glow = new three.MeshBasicMaterial({
      color: new three.Color(strength, strength, strength),
      side: three.DoubleSide,
    });
    const box = new three.Mesh(new three.PlaneGeometry(width, height), glow);
    box.position.set(x, y, z);
    box.lookAt(0, 0, 0);
    scene.add(box);
  }
  return scene;
}

/** A cloth that hangs in folds: a plane bent along its width, so that roughness and normals meet every angle. */
function cloth(): three.BufferGeometry {
  const made = new three.PlaneGeometry(2, 2, 160, 60);
  const at = made.getAttribute("position");
  for (let index = 0; index < at.count; index++) {
    const x = at.getX(index);
    const down = 0.5 - at.getY(index) / 2;
    at.setZ(index, Math.sin(x * 5 + down * 0.8) * (0.1 + 0.22 * down) + Math.sin(x * 11) * 0.03 * down);
  }
  made.computeVertexNormals();
  return made;
}

export function geometryOf(shape: Shape): three.BufferGeometry {
  if (shape === "cube") return new three.BoxGeometry(1.45, 1.45, 1.45, 48, 48, 48);
  if (shape === "plane") return new three.PlaneGeometry(2, 2, 160, 160);
  if (shape === "cloth") return cloth();
  const made = new three.SphereGeometry(1, 96, 64);
  // Twice around the equator, so that a square tile stays nearly square.
  const uv = made.getAttribute("uv");
  for (let at = 0; at < uv.count; at++) uv.setX(at, uv.getX(at) * 2);
  return made;
}
