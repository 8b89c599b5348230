/** Every change to a project's sets and maps. */
import { useQueryClient } from "@tanstack/vue-query";
import { type MaybeRefOrGetter, toValue } from "vue";

import { t } from "@/texts/api";

import { client, data } from "./client";
import { alike, changed } from "./conflicts";
import { keys } from "./queries";
import type { RecipeStep } from "./recipes";
import { useChange } from "./useChange";
import type { SetList, TextureSet, TextureMap } from "./types";

type Slug = MaybeRefOrGetter<string>;

/** Changes to a project's sets. Each shows its error once, and asks for the sets anew. */
export function useSetChanges(slug: Slug) {
  const queries = useQueryClient();
  const path = () => ({ slug: toValue(slug) });
  const { change: make } = useChange(slug, () => [keys.sets(toValue(slug))]);

  /** said: what is told of the change; then the message carries "Undo". */
  function change<Given, T = unknown>(run: (given: Given) => Promise<T>, said?: (given: Given) => string) {
    async function mutate(given: Given, more: { onSuccess?: (made: T) => void } = {}): Promise<void> {
      const made = await make(() => run(given), {
        said: (answer) => (said && answer !== null ? said(given) : null),
        undoable: true,
      });
      if (made === null) return;
      more.onSuccess?.(made);
    }
    return { mutate };
  }

  const setList = () => queries.getQueryData<SetList>(keys.sets(toValue(slug)));
  const setSeen = (id: number): TextureSet | undefined =>
    queries.getQueryData<TextureSet>(keys.set(toValue(slug), id)) ??
    setList()?.sets.find((one) => one.id === id);
  function mapSeen(id: number): TextureMap | undefined {
    const sets = queries
      .getQueriesData<TextureSet>({ queryKey: keys.sets(toValue(slug)) })
      .flatMap(([, one]) => (one && "maps" in one ? [one] : []));
    const maps = [...sets, ...(setList()?.sets ?? [])].flatMap((one) => one.maps);
    return [...maps, ...(setList()?.undecided.map((one) => one.map) ?? [])]
      .filter((one) => one.id === id)
      .sort((one, other) => other.revision - one.revision)[0];
  }
  const seenRevisions = (ids: number[]): Record<string, number> =>
    Object.fromEntries(
      ids.flatMap((id) => {
        const seen = setSeen(id);
        return seen ? [[id, seen.revision]] : [];
      }),
    );
  const nameOf = (id: number | null) =>
    id === null ? t("noSet") : (setSeen(id)?.name ?? t("setNumber", { id }));
  const placeOf = (role: string, set: string) =>
    t("roleOfSet", { role: role.replaceAll("_", " ") || t("undecided"), set });
  const revision = (one: { revision: number }) => one.revision;
  /** A change to one map. part: what of it the change is about. */
  const ofMap = <R>(
    id: number,
    part: (one: TextureMap) => unknown,
    words: { mine: string; theirs: (one: TextureMap) => string },
    send: (headers: Record<string, string>) => Promise<R>,
    seen = mapSeen(id),
  ) =>
    changed<TextureMap, R>({
      key: `map ${id}`,
      seen,
      revision,
      same: (before, now) => alike(part(before), part(now)),
      about: seen?.file ?? t("theMap"),
      ...words,
      send,
    });
  const stepWords = (steps: { label?: string; step: string }[]) =>
    steps.map((one) => one.label ?? one.step.replaceAll("_", " ")).join(", ") || t("noSteps");

  return {
    place: change(
      (to: { map: number; set: number | null; role: string; newSet?: string }) =>
        ofMap(
          to.map,
          (one) => [one.set, one.role],
          {
            mine: placeOf(to.role, to.newSet ?? nameOf(to.set)),
            theirs: (one) => placeOf(one.role, nameOf(one.set)),
          },
          (headers) =>
            data(
              client.POST("/api/projects/{slug}/maps/{pk}/place", {
                params: { path: { ...path(), pk: to.map } },
                body: { set: to.set, role: to.role, new_set: to.newSet ?? null },
                headers,
              }),
            ),
        ),
      (to) =>
        to.set === null && !to.newSet
          ? t("mapTakenOutOfItsSet")
          : t("mapIsNow", { role: to.role.replaceAll("_", " ") }),
    ),
    /** seen: the map as it was when its steps began to be edited. */
    recipe: change(
      (to: { map: number; recipe: RecipeStep[]; label: string; seen?: TextureMap | null }) =>
        ofMap(
          to.map,
          (one) => one.recipe,
          { mine: stepWords(to.recipe as never), theirs: (one) => stepWords(one.recipe) },
          (headers) =>
            data(
              client.PUT("/api/projects/{slug}/maps/{pk}/recipe", {
                params: { path: { ...path(), pk: to.map } },
                body: { recipe: to.recipe, label: to.label },
                headers,
              }),
            ),
          to.seen ?? mapSeen(to.map),
        ),
      (to) => to.label || t("stepsSaved"),
    ),
    derive: change(
      (to: { map: number; role: string; recipe: RecipeStep[] }) =>
        data(
          client.POST("/api/projects/{slug}/maps/{pk}/derive", {
            params: { path: { ...path(), pk: to.map } },
            body: { role: to.role, recipe: to.recipe },
          }),
        ),
      (to) => t("mapAdded", { role: to.role.replaceAll("_", " ") }),
    ),
    copySteps: change(
      (to: { map: number; sets: number[] }) =>
        data(
          client.POST("/api/projects/{slug}/maps/{pk}/copy-recipe", {
            params: { path: { ...path(), pk: to.map } },
            body: { sets: to.sets },
          }),
        ),
      (to) => t("stepsCopiedToSets", { count: to.sets.length }),
    ),
    layer: change(
      (to: { map: number; layer: string }) =>
        ofMap(
          to.map,
          (one) => one.layer,
          {
            mine: t("layerNamed", { layer: to.layer }),
            theirs: (one) => t("layerNamed", { layer: one.layer ?? "" }),
          },
          (headers) =>
            data(
              client.POST("/api/projects/{slug}/maps/{pk}/layer", {
                params: { path: { ...path(), pk: to.map } },
                body: { layer: to.layer },
                headers,
              }),
            ),
        ),
      (to) => t("layerIsUsed", { layer: to.layer }),
    ),
    useAlpha: change(
      (to: { map: number; role: string }) =>
        data(
          client.POST("/api/projects/{slug}/maps/{pk}/alpha", {
            params: { path: { ...path(), pk: to.map } },
            body: { role: to.role },
          }),
        ),
      (to) => t("alphaIsNow", { role: to.role.replaceAll("_", " ") }),
    ),
    rename: change(
      (to: { set: number; name: string }) =>
        changed<TextureSet, TextureSet>({
          key: `set ${to.set}`,
          seen: setSeen(to.set),
          revision,
          same: (before, now) => before.name === now.name,
          about: setSeen(to.set)?.name ?? t("theSet"),
          mine: to.name,
          theirs: (one) => one.name,
          send: (headers) =>
            data(
              client.PATCH("/api/projects/{slug}/sets/{pk}", {
                params: { path: { ...path(), pk: to.set } },
                body: { name: to.name },
                headers,
              }),
            ),
        }),
      (to) => t("renamedTo", { name: to.name }),
    ),
    /** names: by set. */
    renameMany: change(
      (to: { names: Record<number, string> }) =>
        data(
          client.PUT("/api/projects/{slug}/sets/names", {
            params: { path: path() },
            body: { names: to.names, seen: seenRevisions(Object.keys(to.names).map(Number)) },
          }),
        ),
      (to) => t("setsRenamed", { count: Object.keys(to.names).length }),
    ),
    addSteps: change(
      (to: { sets: number[]; role: string; recipe: RecipeStep[] }) =>
        data(
          client.POST("/api/projects/{slug}/sets/steps", {
            params: { path: path() },
            body: { ...to, seen: seenRevisions(to.sets) },
          }),
        ),
      (to) => t("stepAdded", { count: to.sets.length }),
    ),
    metres: change(
      (to: { set: number; metres: number | null }) =>
        changed<TextureSet, TextureSet>({
          key: `set ${to.set}`,
          seen: setSeen(to.set),
          revision,
          same: (before, now) => before.metres === now.metres,
          about: t("theSizeOf", { name: setSeen(to.set)?.name ?? t("theSet2") }),
          mine: to.metres === null ? "unknown" : `${to.metres} m`,
          theirs: (one) => (one.metres === null ? "unknown" : `${one.metres} m`),
          send: (headers) =>
            data(
              client.PUT("/api/projects/{slug}/sets/{pk}/metres", {
                params: { path: { ...path(), pk: to.set } },
                body: { metres: to.metres },
                headers,
              }),
            ),
        }),
      (to) => (to.metres === null ? t("sizeCleared") : t("sizeSetToM", { metres: to.metres })),
    ),
    licence: change(
      (to: { sets: number[]; licence: string; credit: string }) => {
        // Of several sets, the first that somebody else changed is shown; the answer holds for all.
        const seen = new Map(to.sets.map((id) => [id, setSeen(id)]));
        return changed<TextureSet, unknown>({
          key: `licence of ${to.sets.join()}`,
          seen: setSeen(to.sets[0]!),
          revision,
          same: (_, now) => {
            const before = seen.get(now.id);
            seen.set(now.id, now);
            return alike([before?.licence, before?.credit], [now.licence, now.credit]);
          },
          about: t("theLicence"),
          mine: `${to.licence || "unknown"} ${to.credit}`,
          theirs: (one) => `${one.name}: ${one.licence || "unknown"} ${one.credit}`,
          send: () =>
            data(
              client.PUT("/api/projects/{slug}/sets/licence", {
                params: { path: path() },
                body: {
                  ...to,
                  seen: Object.fromEntries(
                    [...seen].flatMap(([id, one]) => (one ? [[id, one.revision]] : [])),
                  ),
                },
              }),
            ),
        });
      },
      (to) => t("licenceSet", { count: to.sets.length }),
    ),
    merge: change(
      (to: { into: number; sets: number[] }) =>
        data(
          client.POST("/api/projects/{slug}/sets/merge", {
            params: { path: path() },
            body: { seen: {}, ...to },
          }),
        ),
      (to) => t("setsMerged", { count: to.sets.length }),
    ),
    share: change(
      (to: { map: number; set: number }) =>
        data(
          client.POST("/api/projects/{slug}/maps/{pk}/share", {
            params: { path: { ...path(), pk: to.map } },
            body: { set: to.set },
          }),
        ),
      () => t("mapAddedToTheOtherSet"),
    ),
    split: change(
      (to: { set: number; name: string; maps: number[] }) =>
        data(
          client.POST("/api/projects/{slug}/sets/{pk}/split", {
            params: { path: { ...path(), pk: to.set } },
            body: { name: to.name, maps: to.maps },
          }),
        ),
      () => t("mapMovedToASetOf"),
    ),
    judge: change((to: { set: number }) =>
      data(
        client.POST("/api/projects/{slug}/sets/{pk}/judge", { params: { path: { ...path(), pk: to.set } } }),
      ),
    ),
  };
}
