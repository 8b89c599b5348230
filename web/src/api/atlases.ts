/** Atlases, and regions of sets: planned, made, changed, and cut into sets again. */
import { useQuery } from "@tanstack/vue-query";
import { computed } from "vue";

import { t } from "@/texts/atlas";

import { client, data } from "./client";
import { alike, changed } from "./conflicts";
import type { components } from "./generated/schema";
import { pictureOf } from "./pictures";
import { keys } from "./queries";
import { meantFor } from "./turns";
import type { TextureSet } from "./types";
import { useChange } from "./useChange";

type Schemas = components["schemas"];
export type AtlasOrder = Schemas["AtlasIn"];
export type AtlasPlan = Schemas["AtlasPlanned"];
export type Region = Schemas["RegionDocument"];
interface SeenSet {
  id: number;
  name: string;
  revision: number;
}
type SeenRegions = Pick<TextureSet, "id" | "name" | "revision" | "regions" | "maps">;

/** Where sets would lie; asked for anew with each other order, the former plan shown until then. */
export const useAtlasPlan = (slug: () => string, order: () => AtlasOrder) =>
  useQuery({
    queryKey: computed(() => ["project", slug(), "atlas", order()] as const),
    queryFn: () =>
      data(
        client.POST("/api/projects/{slug}/atlases/plan", {
          params: { path: { slug: slug() } },
          body: order(),
        }),
      ),
    placeholderData: (before: AtlasPlan | undefined) => before,
    retry: false,
  });

export function useAtlasChanges(slug: () => string) {
  const { change, busy } = useChange(slug, () => [keys.sets(slug()), keys.jobs(slug())]);
  const ofSet = (one: SeenSet) => ({
    path: { slug: slug(), pk: one.id },
    header: { "If-Match": meantFor(one) },
  });
  return {
    busy,
    make: (order: AtlasOrder) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/atlases", { params: { path: { slug: slug() } }, body: order }),
          ),
        { said: () => t("isBeingMade", { name: order.name }) },
      ),
    keep: (one: SeenRegions, regions: Region[]) =>
      change(
        () =>
          changed<SeenRegions, SeenRegions>({
            key: `set ${one.id}`,
            seen: one,
            revision: (now) => now.revision,
            same: (before, now) => alike(before.regions, now.regions),
            about: t("regionsOf", { name: one.name }),
            mine: t("nRegions", { count: regions.length }),
            theirs: (now) => t("nRegions", { count: now.regions.length }),
            looks: (now) => {
              const [map] = now.maps;
              const url = map ? pictureOf(slug(), map, { side: 512 }) : "";
              return url
                ? { pictures: { theirs: { url, regions: now.regions }, mine: { url, regions } } }
                : {};
            },
            send: (headers) =>
              data(
                client.PUT("/api/projects/{slug}/sets/{pk}/regions", {
                  params: { path: { slug: slug(), pk: one.id } },
                  body: { regions },
                  headers,
                }),
              ),
          }),
        { said: (made) => (made ? t("regionsKept", { name: one.name }) : null), undoable: true },
      ),
    cut: (one: SeenSet, regions: string[] = []) =>
      change(
        () =>
          data(client.POST("/api/projects/{slug}/sets/{pk}/cut", { params: ofSet(one), body: { regions } })),
        { said: (made) => t("wasCut", { count: made.length }), undoable: true },
      ),
  };
}
