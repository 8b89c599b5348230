/** What shapes, environments and vertex colours of a preview are called. */
import { t } from "@/texts/preview";

import type { Painted } from "./sheetScene";
import type { Environment, Shape } from "./stage";

type Choice = Shape | Environment | Painted;
const LABELS: Record<Choice, string> = {
  sphere: t("sphere"),
  cube: t("cube"),
  plane: t("plane"),
  cloth: t("cloth"),
  studio: t("studio"),
  overcast: t("overcast"),
  low_sun: t("lowSun"),
  night_lamps: t("nightLamps"),
  none: t("noColour"),
  red: t("red"),
  green: t("green"),
  blue: t("blue"),
  no_alpha: t("noAlpha"),
  red_patches: t("redInPatches"),
  red_left: t("redFromTheLeft"),
  green_below: t("greenFromBelow"),
  own: t("colourOfTheMesh"),
};
export const labelOf = (one: Choice): string => LABELS[one];
export const titled = <T extends Choice>(all: readonly T[]): { value: T; label: string }[] =>
  all.map((value) => ({ value, label: LABELS[value] }));
