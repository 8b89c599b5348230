/** Every change to a project's sets and maps. */
import { type MaybeRefOrGetter, toValue } from "vue";

import { t } from "@/texts/api";

import { client, data } from "./client";
import { alike, changed, type Wish } from "./conflicts";
import { useManyChanges } from "./manyChanges";
import { useCatalogue } from "./queries";
import { previewOf, type RecipeStep, stepsOf } from "./recipes";
import { useSeenSets } from "./seenSets";
import type { TextureSet, TextureMap } from "./types";
import { useToldChange } from "./useToldChange";

type Slug = MaybeRefOrGetter<string>;

/** Changes to a project's sets. Each shows its error once, and asks for the sets anew. */
export function useSetChanges(slug: Slug) {
  const path = () => ({ slug: toValue(slug) });
  const change = useToldChange(slug);
  const { setSeen, mapSeen } = useSeenSets(slug);
  const nameOf = (id: number | null) =>
    id === null ? t("noSet") : (setSeen(id)?.name ?? t("setNumber", { id }));
  const placeOf = (role: string, set: string) =>
    t("roleOfSet", { role: role.replaceAll("_", " ") || t("undecided"), set });
  const revision = (one: { revision: number }) => one.revision;
  /** A change to one map. part: what of it the change is about. */
  const ofMap = <R>(
    id: number,
    part: (one: TextureMap) => unknown,
    words: Pick<Wish<TextureMap, R>, "mine" | "theirs" | "looks">,
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
  /** Pictures of a map: as it is now, and as it would be with other steps, or in another role. */
  const beside = (one: TextureMap, recipe: RecipeStep[], role: string) => ({
    pictures: {
      theirs: { url: previewOf(toValue(slug), one, stepsOf(one), one.role) },
      mine: { url: previewOf(toValue(slug), one, recipe, role) },
    },
  });
  const catalogue = useCatalogue();
  function stepWords(steps: { step: string }[]): string {
    const labels = new Map(catalogue.data.value?.steps.map((one) => [one.step, one.label]));
    return (
      steps.map((one) => labels.get(one.step) ?? one.step.replaceAll("_", " ")).join(", ") || t("noSteps")
    );
  }

  return {
    ...useManyChanges(slug),
    place: change(
      (to: { map: number; set: number | null; role: string; newSet?: string }) =>
        ofMap(
          to.map,
          (one) => [one.set, one.role],
          {
            mine: placeOf(to.role, to.newSet ?? nameOf(to.set)),
            theirs: (one) => placeOf(one.role, nameOf(one.set)),
            looks: (one) => beside(one, stepsOf(one), to.role),
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
          {
            mine: stepWords(to.recipe),
            theirs: (one) => stepWords(one.recipe),
            looks: (one) => beside(one, to.recipe, one.role),
          },
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
