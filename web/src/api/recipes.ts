import { client, data } from "./client";
import type { components } from "./generated/schema";
import type { TextureMap } from "./types";

export type StepKind = components["schemas"]["StepKind"];
export type StepOption = components["schemas"]["OptionOut"];
export type Derivation = components["schemas"]["DerivationOut"];

/** A recipe step as the API takes it: its name and options. */
export interface RecipeStep {
  step: string;
  [option: string]: unknown;
}

/** The steps of a map, in the form in which they are sent back. */
export function stepsOf(map: TextureMap): RecipeStep[] {
  return map.recipe.map((one) => ({ step: one.step, ...one.options, ...(one.off ? { off: true } : {}) }));
}

/** A remedy without what is only for people. */
export function stepOf(remedy: Record<string, unknown>): RecipeStep {
  return Object.fromEntries(Object.entries(remedy).filter(([key]) => key !== "label")) as RecipeStep;
}

/** A step of a kind with its defaults. Options without one get what fits the map. */
export function newStep(kind: StepKind, map: TextureMap): RecipeStep {
  const size: Record<string, number> = { width: map.width, height: map.height };
  const options = kind.options.map((one) => [one.name, one.default ?? size[one.name] ?? one.low ?? 0]);
  return { step: kind.step, ...(Object.fromEntries(options) as Record<string, unknown>) };
}

/** The address of a map as a recipe would leave it, at screen resolution. role: where it is to be read in another. */
export function previewOf(
  slug: string,
  map: Pick<TextureMap, "id">,
  recipe: RecipeStep[],
  role = "",
): string {
  const query = new URLSearchParams({ recipe: JSON.stringify(recipe), ...(role ? { role } : {}) });
  return `/api/projects/${slug}/maps/${map.id}/preview?${query}`;
}

export const loadCatalogue = () => data(client.GET("/api/catalogue"));
