import type { TextureMap } from "./types";

/** A recipe step as the API takes it: its name and options. */
export interface RecipeStep {
  step: string;
  [option: string]: unknown;
}

/** The steps of a map, in the form in which they are sent back. */
export function stepsOf(map: TextureMap): RecipeStep[] {
  return map.recipe.map((one) => ({ step: one.step, ...one.options }));
}

/** A remedy without what is only for people. */
export function stepOf(remedy: Record<string, unknown>): RecipeStep {
  return Object.fromEntries(Object.entries(remedy).filter(([key]) => key !== "label")) as RecipeStep;
}
