/** What the page needs to say about layers of ground. */
import type { GroundLayer, GroundTerm } from "@/api/ground";
import { t } from "@/texts/ground";

/** Colours that tell layers apart when weights are shown; in the order of the layers. */
export const TINTS: [number, number, number][] = [
  [0.55, 0.55, 0.5],
  [0.82, 0.42, 0.16],
  [0.2, 0.5, 0.75],
  [0.75, 0.7, 0.2],
  [0.5, 0.3, 0.6],
  [0.25, 0.6, 0.4],
  [0.8, 0.35, 0.45],
  [0.3, 0.75, 0.75],
];
export const tintOf = (at: number): [number, number, number] => TINTS[at % TINTS.length]!;
/** As the picture shows it: linear light encoded for the screen. */
export const cssTint = (at: number): string =>
  `rgb(${tintOf(at)
    .map((one) => Math.round(255 * (1.055 * one ** (1 / 2.4) - 0.055)))
    .join(" ")})`;

export type Measure = GroundTerm["measure"];
export const MEASURES: { value: Measure; label: string; unit: string }[] = [
  { value: "slope", label: t("slope"), unit: "°" },
  { value: "altitude", label: t("altitude"), unit: "m" },
  { value: "noise", label: t("noise"), unit: "" },
  { value: "water", label: t("water"), unit: "" },
  { value: "edge", label: t("edgeOfALayer"), unit: "m" },
];
/** A new term by a measure. terms: what each measure begins with. below: the layers whose edge it can follow. */
export function newTerm(
  terms: readonly GroundTerm[],
  measure: Measure,
  below: readonly GroundLayer[],
): GroundTerm {
  const term = { ...terms.find((one) => one.measure === measure)! };
  return measure === "edge" ? { ...term, of: below.at(-1)?.key ?? "" } : term;
}

/** On top of the others. terms: what a rule by each measure begins with. */
export const newLayer = (terms: readonly GroundTerm[], layers: readonly GroundLayer[]): GroundLayer => {
  const taken = new Set(layers.map((one) => one.name));
  let number = layers.length + 1;
  while (taken.has(t("layerNumber", { number }))) number++;
  return {
    key: "", name: t("layerNumber", { number }), worn: null, tile: 2, turn: 0, repeat: "plain", edge: 0.3,
    rule: [newTerm(terms, "noise", layers)], strokes: 0,
  }; // prettier-ignore
};

/** One place up (1) or down (-1); edges that a layer follows have to stay below it. */
export function moved(layers: readonly GroundLayer[], at: number, by: 1 | -1): GroundLayer[] | null {
  const to = at + by;
  if (to < 0 || to >= layers.length) return null;
  const made = [...layers];
  [made[at], made[to]] = [made[to]!, made[at]!];
  const isSound = made.every((one, place) =>
    one.rule.every(
      (term) => term.measure !== "edge" || made.slice(0, place).some((below) => below.key === term.of),
    ),
  );
  return isSound ? made : null;
}
/** How much of the patch each layer covers, 0 to 1, from rules and paint as they are drawn. */
export function sharesOf(rules: Uint8Array, paint: Uint8Array, layers: number): number[] {
  const size = rules.length / layers;
  const sums = new Float64Array(layers);
  // Every 16th place tells it within a percent.
  const step = 16;
  for (let at = 0; at < size; at += step) {
    let left = 1;
    for (let layer = layers - 1; layer > 0; layer--) {
      const place = layer * size + at;
      const covered = Math.min(1, Math.max(0, rules[place]! / 255 + (paint[place]! - 128) / 127));
      sums[layer]! += covered * left;
      left *= 1 - covered;
    }
    sums[0]! += left;
  }
  return [...sums].map((one) => one / Math.ceil(size / step));
}
