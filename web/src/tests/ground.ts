/** Ground as the server tells it, for tests. */
import type { Ground, GroundLayer, GroundRow, GroundTerm, Repetition } from "@/api/ground";

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
  limit: 0.15,
  is_seen: true,
  vanishes: 21.13,
  density: 256,
  needed: 47,
  sharp_from: 3.7,
  remedies: [{ tile: 2, turn: 0, repeat: "hexagons", strength: 0.01 }],
  ...more,
});
/** What the catalogue says of ground. */
export const TERMS: GroundTerm[] = [
  { measure: "slope", to: 30, fade: 8 },
  { measure: "noise", from: 0.5, fade: 0.15, size: 4, seed: 1 },
  { measure: "edge", to: 1, fade: 0.5 },
];
export const groundKinds = {
  terms: TERMS,
  sides: [128, 256],
  far_sides: [1024],
  layers: 8,
  terms_of_a_rule: 8,
};
