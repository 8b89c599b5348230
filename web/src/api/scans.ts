/** Scan libraries: accounts, searching by what the camera sees, taking in, newer revisions. */
import { keepPreviousData, useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { t } from "@/texts/scans";

import { client, data } from "./client";
import type { components } from "./generated/schema";
import { keys } from "./queries";
import { useChange } from "./useChange";

type Schemas = components["schemas"];
type Slug = MaybeRefOrGetter<string>;
export type Library = Schemas["LibraryOut"];
export type Listed = Schemas["ListedOut"];
export type Fit = Schemas["FitOut"];
export type Scan = Schemas["ScanOut"];
/** How the surface is looked at: metres, pixels, degrees; metres null: each surface's own size. */
export interface Camera {
  distance: number;
  height: number;
  angle: number;
  metres: number | null;
}

const scansKey = (slug: string) => ["project", slug, "scans"] as const;

export const useLibraries = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => [...scansKey(toValue(slug)), "libraries"]),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/scans/libraries", { params: { path: { slug: toValue(slug) } } })),
  });

export const useSurfaces = (
  slug: Slug,
  library: MaybeRefOrGetter<string>,
  asked: MaybeRefOrGetter<{ search: string; page: number } & Camera>,
  enabled: MaybeRefOrGetter<boolean>,
) =>
  useQuery({
    enabled,
    queryKey: computed(() => [...scansKey(toValue(slug)), "surfaces", toValue(library), toValue(asked)]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/scans/libraries/{library}/surfaces", {
          params: { path: { slug: toValue(slug), library: toValue(library) }, query: toValue(asked) },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });

/** What was taken in; of one set, or all. It stands with the sets, and is asked for anew with them. */
export const useScans = (slug: Slug, set: MaybeRefOrGetter<number | null> = null) =>
  useQuery({
    queryKey: computed(() => [...scansKey(toValue(slug)), "taken", toValue(set)]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/scans", {
          params: { path: { slug: toValue(slug) }, query: { set: toValue(set) } },
        }),
      ),
  });

/** revision: so that another one is asked for anew. */
export const previewOf = (slug: string, library: string, one: Listed, side = 320) =>
  `/api/projects/${slug}/scans/libraries/${encodeURIComponent(library)}/surfaces/${one.id}/preview?side=${side}&r=${one.revision}`;

export function useScanChanges(slug: () => string) {
  const { change, busy } = useChange(slug, () => [scansKey(slug()), keys.jobs(slug())]);
  const to = (pk: number) => ({ path: { slug: slug(), pk } });
  return {
    busy,
    enterKey: (library: string, key: string) =>
      change(
        () =>
          data(
            client.PUT("/api/projects/{slug}/scans/libraries/{library}/account", {
              params: { path: { slug: slug(), library } },
              body: { key },
            }),
          ),
        { said: (made) => t("accountOf", { account: made.account ?? "" }) },
      ),
    forgetKey: (library: string) =>
      change(() =>
        data(
          client.DELETE("/api/projects/{slug}/scans/libraries/{library}/account", {
            params: { path: { slug: slug(), library } },
          }),
        ),
      ),
    take: (library: string, one: Listed, pixels: number) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/scans", {
              params: { path: { slug: slug() } },
              body: { library, surface: one.id, pixels },
            }),
          ),
        { said: (made) => t("fetching", { title: made.title }) },
      ),
    resume: (one: Scan) =>
      change(() => data(client.POST("/api/projects/{slug}/scans/{pk}/resume", { params: to(one.id) }))),
    update: (one: Scan, pixels: number | null = null) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/scans/{pk}/update", { params: to(one.id), body: { pixels } }),
          ),
        { said: (made) => t("fetching", { title: made.title }) },
      ),
    look: () =>
      change(
        () => data(client.POST("/api/projects/{slug}/scans/look", { params: { path: { slug: slug() } } })),
        { said: () => t("lookingForNewer") },
      ),
  };
}
