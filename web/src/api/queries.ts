/** Every question that the page asks, and every change that it makes, by name. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query";
import { useToast } from "primevue/usetoast";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { client, data } from "./client";
import { loadCatalogue, type RecipeStep } from "./recipes";
import type { TextureMap } from "./types";

type Slug = MaybeRefOrGetter<string>;

export const keys = {
  projects: ["projects"] as const,
  project: (slug: string) => ["project", slug] as const,
  roll: (slug: string) => ["project", slug, "sets"] as const,
  set: (slug: string, id: number) => ["project", slug, "sets", id] as const,
  outputs: (slug: string, id: number, target: string) =>
    ["project", slug, "sets", id, "outputs", target] as const,
  targets: (slug: string) => ["project", slug, "targets"] as const,
  intakes: (slug: string) => ["project", slug, "intake"] as const,
  jobs: (slug: string) => ["project", slug, "job"] as const,
  deliveries: (slug: string) => ["project", slug, "deliveries"] as const,
  plan: (slug: string, target: string, sets: number[]) =>
    ["project", slug, "sets", "plan", target, sets] as const,
};

export const useProjects = () =>
  useQuery({ queryKey: keys.projects, queryFn: () => data(client.GET("/api/projects")) });

export const useProject = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => keys.project(toValue(slug))),
    queryFn: () => data(client.GET("/api/projects/{slug}", { params: { path: { slug: toValue(slug) } } })),
  });

export const useRoll = (slug: Slug) =>
  useQuery({
    queryKey: computed(() => keys.roll(toValue(slug))),
    queryFn: () =>
      data(client.GET("/api/projects/{slug}/sets", { params: { path: { slug: toValue(slug) } } })),
  });

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

/** Every step there is; it changes only with the application. */
export const useCatalogue = () =>
  useQuery({ queryKey: ["steps"], queryFn: loadCatalogue, staleTime: Infinity });

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

export const usePlan = (slug: Slug, target: MaybeRefOrGetter<string>, sets: MaybeRefOrGetter<number[]>) =>
  useQuery({
    queryKey: computed(() => keys.plan(toValue(slug), toValue(target), toValue(sets))),
    queryFn: () =>
      data(
        client.POST("/api/projects/{slug}/deliveries/plan", {
          params: { path: { slug: toValue(slug) } },
          body: { target: toValue(target), sets: toValue(sets) },
        }),
      ),
    enabled: computed(() => toValue(target) !== "" && toValue(sets).length > 0),
    placeholderData: (before) => before,
  });

/** Changes to a project's sets. Each shows its error once, and asks for the roll anew. */
export function useSetChanges(slug: Slug) {
  const queries = useQueryClient();
  const toast = useToast();
  const path = () => ({ slug: toValue(slug) });

  function change<Variables>(
    run: (variables: Variables) => Promise<unknown>,
    done?: (result: unknown) => void,
  ) {
    return useMutation({
      mutationFn: run,
      onSuccess: (result) => {
        done?.(result);
        return queries.invalidateQueries({ queryKey: keys.roll(toValue(slug)) });
      },
      onError: (error: Error) => toast.add({ severity: "error", summary: error.message, life: 8000 }),
    });
  }

  const said = (word: string) => (result: unknown) => {
    const label = (result as { label: string | null }).label;
    toast.add({
      severity: "secondary",
      summary: label ? `${word}: ${label}` : "There is nothing left",
      life: 2500,
    });
  };

  return {
    place: change((to: { map: number; set: number | null; role: string; newSet?: string }) =>
      data(
        client.POST("/api/projects/{slug}/maps/{pk}/place", {
          params: { path: { ...path(), pk: to.map } },
          body: { set: to.set, role: to.role, new_set: to.newSet ?? null },
        }),
      ),
    ),
    recipe: change((to: { map: number; recipe: RecipeStep[]; label: string }) =>
      data(
        client.PUT("/api/projects/{slug}/maps/{pk}/recipe", {
          params: { path: { ...path(), pk: to.map } },
          body: { recipe: to.recipe, label: to.label },
        }),
      ),
    ),
    derive: change((to: { map: number; role: string; recipe: RecipeStep[] }) =>
      data(
        client.POST("/api/projects/{slug}/maps/{pk}/derive", {
          params: { path: { ...path(), pk: to.map } },
          body: { role: to.role, recipe: to.recipe },
        }),
      ),
    ),
    copySteps: change((to: { map: number; sets: number[] }) =>
      data(
        client.POST("/api/projects/{slug}/maps/{pk}/copy-recipe", {
          params: { path: { ...path(), pk: to.map } },
          body: { sets: to.sets },
        }),
      ),
    ),
    layer: change((to: { map: number; layer: string }) =>
      data(
        client.POST("/api/projects/{slug}/maps/{pk}/layer", {
          params: { path: { ...path(), pk: to.map } },
          body: { layer: to.layer },
        }),
      ),
    ),
    useAlpha: change((to: { map: number; role: string }) =>
      data(
        client.POST("/api/projects/{slug}/maps/{pk}/alpha", {
          params: { path: { ...path(), pk: to.map } },
          body: { role: to.role },
        }),
      ),
    ),
    rename: change((to: { set: number; name: string }) =>
      data(
        client.PATCH("/api/projects/{slug}/sets/{pk}", {
          params: { path: { ...path(), pk: to.set } },
          body: { name: to.name },
        }),
      ),
    ),
    licence: change((to: { sets: number[]; licence: string; credit: string }) =>
      data(client.PUT("/api/projects/{slug}/sets/licence", { params: { path: path() }, body: to })),
    ),
    merge: change((to: { into: number; sets: number[] }) =>
      data(client.POST("/api/projects/{slug}/sets/merge", { params: { path: path() }, body: to })),
    ),
    share: change((to: { map: number; set: number }) =>
      data(
        client.POST("/api/projects/{slug}/maps/{pk}/share", {
          params: { path: { ...path(), pk: to.map } },
          body: { set: to.set },
        }),
      ),
    ),
    split: change((to: { set: number; name: string; maps: number[] }) =>
      data(
        client.POST("/api/projects/{slug}/sets/{pk}/split", {
          params: { path: { ...path(), pk: to.set } },
          body: { name: to.name, maps: to.maps },
        }),
      ),
    ),
    judge: change((to: { set: number }) =>
      data(
        client.POST("/api/projects/{slug}/sets/{pk}/judge", { params: { path: { ...path(), pk: to.set } } }),
      ),
    ),
    undo: change<void>(
      () => data(client.POST("/api/projects/{slug}/undo", { params: { path: path() } })),
      said("Taken back"),
    ),
    redo: change<void>(
      () => data(client.POST("/api/projects/{slug}/redo", { params: { path: path() } })),
      said("Made again"),
    ),
  };
}
