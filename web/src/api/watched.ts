/** Watched folders, and the versions of files: exported again, uploaded anew, brought back. */
import { useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { t } from "@/texts/versions";

import { client, data } from "./client";
import { changed } from "./conflicts";
import type { components } from "./generated/schema";
import { keys } from "./queries";
import { useChange } from "./useChange";

type Schemas = components["schemas"];
type Slug = MaybeRefOrGetter<string>;
export type Watched = Schemas["WatchedOut"];
export type WatchedGiven = Pick<Watched, "name" | "place" | "quiet" | "paused">;
export type Version = Schemas["FileVersionOut"];
export type Outdated = Schemas["OutdatedOut"];

const watchedKey = (slug: string) => ["project", slug, "watched"] as const;
/** Files change as sets do, so that these are asked for anew with them. */
const versionsKey = (slug: string) => [...keys.sets(slug), "versions"] as const;

export const useWatched = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => watchedKey(toValue(slug))),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/watched", { params: { path: { slug: toValue(slug) } } })),
  });

/** The folders below which the server watches. */
export const useWatchable = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => [...watchedKey(toValue(slug)), "allowed"]),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/watched/allowed", { params: { path: { slug: toValue(slug) } } })),
    staleTime: Infinity,
  });

/** Versions of the files of a set, or of what came with an intake, the newest first. */
export const useVersions = (slug: Slug, of: MaybeRefOrGetter<{ set?: number; intake?: number }>) =>
  useQuery({
    queryKey: computed(() => [...versionsKey(toValue(slug)), toValue(of)]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/versions", {
          params: { path: { slug: toValue(slug) }, query: toValue(of) },
        }),
      ),
  });

/** Deliveries that hold a former state of a set. */
export const useOutdated = (slug: Slug, set: MaybeRefOrGetter<number | null>) =>
  useQuery({
    queryKey: computed(() => [...keys.sets(toValue(slug)), "outdated", toValue(set)]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/deliveries/outdated", {
          params: { path: { slug: toValue(slug) }, query: { set: toValue(set) } },
        }),
      ),
  });

/** The address of a map's picture before or after a version. */
export const versionPicture = (slug: string, one: Version, of: "before" | "after", side = 192) =>
  one.map === null || (of === "before" && one.before === null)
    ? null
    : `/api/projects/${slug}/versions/${one.id}/picture?${new URLSearchParams({ of, map: String(one.map), side: String(side) })}`;

export function useVersionChanges(slug: () => string) {
  const { change, busy } = useChange(slug, () => [keys.sets(slug())]);
  return {
    busy,
    bringBack: (one: Version) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/versions/{pk}/bring-back", {
              params: { path: { slug: slug(), pk: one.id } },
            }),
          ),
        { said: () => t("broughtBack", { file: one.file }), undoable: true },
      ),
    replace: (map: number, file: File) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/versions/of-map/{pk}", {
              params: { path: { slug: slug(), pk: map } },
              body: { file: file.name },
              bodySerializer: () => {
                const form = new FormData();
                form.append("file", file);
                return form;
              },
            }),
          ),
        { said: (made) => t("replaced", { file: made.file }), undoable: true },
      ),
  };
}

export function useWatchedChanges(slug: () => string) {
  const { change, busy } = useChange(slug, () => [watchedKey(slug()), keys.intakes(slug())]);
  const to = (pk: number) => ({ path: { slug: slug(), pk } });
  return {
    busy,
    add: (given: Omit<WatchedGiven, "paused">) =>
      change(
        () =>
          data(
            client.POST("/api/projects/{slug}/watched", { params: { path: { slug: slug() } }, body: given }),
          ),
        { said: (made) => t("nowWatched", { name: made.name }) },
      ),
    /** seen: the folder as it was when it began to be edited. */
    edit: (seen: Watched, given: WatchedGiven) =>
      change(() =>
        changed<Watched, Watched>({
          key: `watched ${seen.id}`,
          seen,
          revision: (one) => one.revision,
          same: (before, now) =>
            before.name === now.name && before.place === now.place && before.paused === now.paused,
          about: seen.name,
          mine: `${given.name}: ${given.place}`,
          theirs: (now) => `${now.name}: ${now.place}`,
          send: (headers) =>
            data(
              client.PATCH("/api/projects/{slug}/watched/{pk}", {
                params: to(seen.id),
                body: given,
                headers,
              }),
            ),
        }),
      ),
    again: (one: Watched) =>
      change(() => data(client.POST("/api/projects/{slug}/watched/{pk}/again", { params: to(one.id) }))),
    remove: (one: Watched) =>
      change(() => data(client.DELETE("/api/projects/{slug}/watched/{pk}", { params: to(one.id) })), {
        said: () => t("notWatched", { name: one.name }),
      }),
  };
}
