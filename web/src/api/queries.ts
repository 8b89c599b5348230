/** Every question that the page asks, by name. */
import { useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, onScopeDispose, ref, toValue } from "vue";

import { client, data } from "./client";
import { queryClient } from "./queryClient";
import { loadCatalogue } from "./recipes";
import type { TextureMap } from "./types";

type Slug = MaybeRefOrGetter<string>;

/** What is to be delivered: ids of sets, casts and models. */
export interface Ordered {
  target: string;
  sets: number[];
  casts: number[];
  models: number[];
  grounds: number[];
  keep_others: boolean;
}
export const keys = {
  projects: ["projects"] as const,
  project: (slug: string) => ["project", slug] as const,
  sets: (slug: string) => ["project", slug, "sets"] as const,
  set: (slug: string, id: number) => ["project", slug, "sets", id] as const,
  outputs: (slug: string, id: number, target: string) =>
    ["project", slug, "sets", id, "outputs", target] as const,
  // Follows from changes of sets, deliveries and intakes alike.
  overview: (slug: string) => ["project", slug, "sets", "overview"] as const,
  targets: (slug: string) => ["project", slug, "targets"] as const,
  intakes: (slug: string) => ["project", slug, "intake"] as const,
  jobs: (slug: string) => ["project", slug, "job"] as const,
  deliveries: (slug: string) => ["project", slug, "deliveries"] as const,
  plan: (slug: string, ordered: Ordered) => ["project", slug, "sets", "plan", ordered] as const,
};

export const useProjects = () =>
  useQuery({ queryKey: keys.projects, queryFn: () => data(client.GET("/api/projects")) });

export const useProject = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => keys.project(toValue(slug))),
    queryFn: () => data(client.GET("/api/projects/{slug}", { params: { path: { slug: toValue(slug) } } })),
  });

export const useOverview = (slug: Slug, enabled: MaybeRefOrGetter<boolean> = true) =>
  useQuery({
    enabled,
    queryKey: computed(() => keys.overview(toValue(slug))),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/overview", { params: { path: { slug: toValue(slug) } } })),
  });

const askSets = (slug: string) =>
  data(client.GET("/api/projects/{slug}/sets", { params: { path: { slug } } }));
export const useSets = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => keys.sets(toValue(slug))),
    queryFn: () => askSets(toValue(slug)),
  });
/** How long the whole list is waited for before its first rows are asked for apart, in milliseconds. */
const WAIT = 300;
const FIRST = 60;
/** The first sets that fit, for as long as the whole list of a large project is on its way. */
export function useFirstSets(
  slug: Slug,
  words: MaybeRefOrGetter<string>,
  severity: MaybeRefOrGetter<"error" | "warning" | undefined>,
  whole: MaybeRefOrGetter<boolean>,
) {
  const waited = ref(false);
  const timer = setTimeout(() => (waited.value = true), WAIT);
  onScopeDispose(() => clearTimeout(timer));
  const query = computed(() => ({ first: FIRST, words: toValue(words).trim(), severity: toValue(severity) }));
  return useQuery({
    queryKey: computed(() => ["first sets", toValue(slug), query.value]),
    queryFn: ({ signal }) =>
      data(
        client.GET("/api/projects/{slug}/sets", {
          params: { path: { slug: toValue(slug) }, query: query.value },
          signal,
        }),
      ),
    enabled: computed(() => waited.value && !toValue(whole)),
    placeholderData: (before) => before,
  });
}
/** Ask for the sets before a screen shows them. */
export const fetchSetsEarly = (slug: string) =>
  queryClient.prefetchQuery({ queryKey: keys.sets(slug), queryFn: () => askSets(slug) });

export const useSet = (slug: Slug, id: MaybeRefOrGetter<number>) =>
  useQuery({
    queryKey: computed(() => keys.set(toValue(slug), toValue(id))),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/sets/{pk}", {
          params: { path: { slug: toValue(slug), pk: toValue(id) } },
        }),
      ),
    placeholderData: (before) => before,
  });

export const useHistogram = (slug: Slug, map: () => TextureMap) =>
  useQuery({
    queryKey: computed(() => ["histogram", toValue(slug), map().id, map().digest]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/maps/{pk}/histogram", {
          params: { path: { slug: toValue(slug), pk: map().id } },
        }),
      ),
    staleTime: Infinity,
  });

export const useChains = (slug: Slug, map: () => TextureMap, chain: () => string) =>
  useQuery({
    queryKey: computed(() => ["mips", toValue(slug), map().id, chain()]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/maps/{pk}/mips", {
          params: { path: { slug: toValue(slug), pk: map().id } },
        }),
      ),
    staleTime: Infinity,
  });

/** What the server knows of the job: steps, checks, formats, containers. It changes only with the application. */
export const useCatalogue = () =>
  useQuery({ queryKey: ["catalogue"], queryFn: loadCatalogue, staleTime: Infinity });

/** Targets that come with the application. */
export const useReadyTargets = () =>
  useQuery({
    queryKey: ["catalogue"],
    queryFn: loadCatalogue,
    staleTime: Infinity,
    select: (catalogue) => catalogue.targets,
  });

export const useTargets = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => keys.targets(toValue(slug))),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/targets", { params: { path: { slug: toValue(slug) } } })),
  });

/** untouched: as the set was before any step; it is asked for only while that holds. */
export const useOutputs = (
  slug: Slug,
  id: MaybeRefOrGetter<number>,
  target: MaybeRefOrGetter<string>,
  untouched?: () => boolean,
) =>
  useQuery({
    queryKey: computed(() => [
      ...keys.outputs(toValue(slug), toValue(id), toValue(target)),
      untouched !== undefined,
    ]),
    queryFn: () =>
      data(
        client.GET("/api/projects/{slug}/sets/{pk}/outputs", {
          params: {
            path: { slug: toValue(slug), pk: toValue(id) },
            query: { target: toValue(target), untouched: untouched !== undefined },
          },
        }),
      ),
    enabled: computed(() => toValue(target) !== "" && (untouched?.() ?? true)),
    placeholderData: (before) => before,
  });

export const useIntakes = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => keys.intakes(toValue(slug))),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/intakes", { params: { path: { slug: toValue(slug) } } })),
  });

export const useJobs = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => keys.jobs(toValue(slug))),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/jobs", { params: { path: { slug: toValue(slug) } } })),
    // Events tell of every change; this only catches what was said while the stream was down.
    refetchInterval: 10_000,
  });

export const useDeliveries = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => keys.deliveries(toValue(slug))),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/deliveries", { params: { path: { slug: toValue(slug) } } })),
  });

export const usePlan = (slug: Slug, ordered: MaybeRefOrGetter<Ordered>) =>
  useQuery({
    queryKey: computed(() => keys.plan(toValue(slug), toValue(ordered))),
    queryFn: () =>
      data(
        client.POST("/api/projects/{slug}/deliveries/plan", {
          params: { path: { slug: toValue(slug) } },
          body: { ...toValue(ordered), destinations: [] },
        }),
      ),
    enabled: computed(() => {
      const { target, sets, casts, models, grounds } = toValue(ordered);
      return target !== "" && sets.length + casts.length + models.length + grounds.length > 0;
    }),
    placeholderData: (before) => before,
  });
