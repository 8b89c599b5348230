/** Sets made to repeat: what is asked for, how it would look, and doing it. */
import type { components } from "./generated/schema";
import { t } from "@/texts/tileable";

import { client, data, fetched } from "./client";
import { keys } from "./queries";
import type { StepKind, StepOption } from "./recipes";
import { meantFor } from "./turns";
import { useChange } from "./useChange";

export type TileableOrder = components["schemas"]["TileableIn"];
/** A picture as it would become. seam: how much the step across the borders exceeds those inside, for left and right,
 * and for upper and lower; above limit it shows. whole: texels of the full map. */
export interface Tried {
  url: string;
  seam: [number, number];
  limit: number;
  whole: [number, number];
}
export const WHOLE = [0, 0, 1, 0, 1, 1, 0, 1];
/** What an order begins with. kinds: the steps that there are, with what their options begin with. */
export const newOrder = (guide: number, kinds: readonly StepKind[]): TileableOrder => ({
  guide,
  corners: [...WHOLE],
  light: 0,
  reach: Number(optionOf(kinds, "even_light", "reach")?.default),
  by_channel: false,
  borders: "patch",
  width: Number(optionOf(kinds, "patch_borders", "width")?.default),
  axes: "both",
});
export const optionOf = (kinds: readonly StepKind[], step: string, option: string): StepOption | undefined =>
  kinds.find((one) => one.step === step)?.options.find((one) => one.name === option);
/** As it is without any of this. */
export const untouched = (guide: number, kinds: readonly StepKind[]): TileableOrder => ({
  ...newOrder(guide, kinds),
  borders: "leave",
});

/** The picture of the map that decides, as an order would leave it. The address is to be revoked. Throws an ApiError. */
export async function tryOut(
  slug: string,
  set: number,
  order: TileableOrder,
  signal: AbortSignal,
): Promise<Tried> {
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries(order))
    for (const one of Array.isArray(value) ? value : [value]) query.append(name, String(one));
  const answer = await fetched(`/api/projects/${slug}/sets/${set}/tileable/preview?${query}`, signal);
  const told = (name: string) => Number(answer.headers.get(`X-Texel-${name}`));
  return {
    url: URL.createObjectURL(await answer.blob()),
    seam: [told("Seam-X"), told("Seam-Y")],
    limit: told("Seam-Limit"),
    whole: [told("Width"), told("Height")],
  };
}

export function useMakeTileable(slug: () => string) {
  const { change, busy } = useChange(slug, () => [keys.sets(slug())]);
  const make = (set: { id: number; revision: number }, order: TileableOrder) =>
    change(
      () =>
        data(
          client.POST("/api/projects/{slug}/sets/{pk}/tileable", {
            params: { path: { slug: slug(), pk: set.id }, header: { "If-Match": meantFor(set) } },
            body: order,
          }),
        ),
      { said: (made) => (made ? t("made", { count: made.maps }) : null), undoable: true },
    );
  return { make, busy };
}
