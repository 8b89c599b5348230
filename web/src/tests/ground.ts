/** Ground as the server tells it, for tests. */
import type { Ground, GroundLayer, GroundRow, Repetition } from "@/api/ground";

export const layer = (more: Partial<GroundLayer> = {}): GroundLayer => ({
  key: "l1",
  name: "Reeds",
  worn: { kind: "set", id: 4, name: "reed_bed", state: "a" },
  tile: 2,
  turn: 0,
  repeat: "plain",
  edge: 0,
  rule: [],
  strokes: 0,
  ...more,
});
export const mud = layer({
  key: "l2",
  name: "Mud",
  worn: { kind: "set", id: 5, name: "tidal-mud", state: "b" },
  rule: [{ measure: "altitude", to: 0.5, fade: 0.5 }],
});
export const patchRow = (more: Partial<GroundRow> = {}): GroundRow => ({
  id: 7,
  name: "Marsh",
  metres: 48,
  side: 128,
  layers: 2,
  empty: 0,
  picture: "abc",
  ...more,
});
export const patch = (more: Partial<Ground> = {}): Ground => ({
  id: 7,
  name: "Marsh",
  revision: 3,
  metres: 48,
  side: 128,
  far: 1024,
  each: 4,
  bits: 8,
  shape: { kind: "made", low: -1, high: 3, seed: 1 },
  layers: [layer(), mud],
  strokes: 0,
  land: "land",
  laid: "laid",
  picture: "abc",
  ...more,
});
export const told = (more: Partial<Repetition> = {}): Repetition => ({
  layer: "Reeds",
  strength: 0.58,
  is_seen: true,
  vanishes: 21.13,
  density: 256,
  needed: 47,
  sharp_from: 3.7,
  remedies: [{ tile: 2, turn: 0, repeat: "hexagons", strength: 0.01 }],
  ...more,
});
