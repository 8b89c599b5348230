/** Changes to several sets at once, each one change with one undo; to many of them as a job. */
import { type MaybeRefOrGetter, toValue } from "vue";

import { t } from "@/texts/api";

import { client, data } from "./client";
import { alike, changed } from "./conflicts";
import { isLater, made } from "./later";
import type { RecipeStep } from "./recipes";
import { useSeenSets } from "./seenSets";
import type { TextureSet } from "./types";
import { useToldChange } from "./useToldChange";

export function useManyChanges(slug: MaybeRefOrGetter<string>) {
  const change = useToldChange(slug);
  const { setsSeen, seenRevisions } = useSeenSets(slug);
  const path = () => ({ slug: toValue(slug) });

  return {
    copySteps: change(
      async (to: { map: number; sets: number[] }) =>
        made(
          toValue(slug),
          await data(
            client.POST("/api/projects/{slug}/maps/{pk}/copy-recipe", {
              params: { path: { ...path(), pk: to.map }, query: isLater(to.sets.length) },
              body: { sets: to.sets },
            }),
          ),
        ),
      (to) => t("stepsCopiedToSets", { count: to.sets.length }),
    ),
    /** names: by set. */
    renameMany: change(
      async (to: { names: Record<number, string> }) => {
        const ids = Object.keys(to.names).map(Number);
        return made(
          toValue(slug),
          await data(
            client.PUT("/api/projects/{slug}/sets/names", {
              params: { path: path(), query: isLater(ids.length) },
              body: { names: to.names, seen: seenRevisions(ids) },
            }),
          ),
        );
      },
      (to) => t("setsRenamed", { count: Object.keys(to.names).length }),
    ),
    addSteps: change(
      async (to: { sets: number[]; role: string; recipe: RecipeStep[] }) =>
        made(
          toValue(slug),
          await data(
            client.POST("/api/projects/{slug}/sets/steps", {
              params: { path: path(), query: isLater(to.sets.length) },
              body: { ...to, seen: seenRevisions(to.sets) },
            }),
          ),
        ),
      (to) => t("stepAdded", { count: to.sets.length }),
    ),
    /** targets: names; none for the project's own. */
    targets: change(
      async (to: { sets: TextureSet[]; targets: string[] }) =>
        made(
          toValue(slug),
          await data(
            client.PUT("/api/projects/{slug}/sets/targets", {
              params: { path: path(), query: isLater(to.sets.length) },
              body: {
                sets: to.sets.map((one) => one.id),
                targets: to.targets,
                seen: Object.fromEntries(to.sets.map((one) => [one.id, one.revision])),
              },
            }),
          ),
        ),
      (to) => t("targetsAssigned", { count: to.sets.length }),
    ),
    licence: change(
      (to: { sets: number[]; licence: string; credit: string }) => {
        // Of several sets, the first that somebody else changed is shown; the answer holds for all.
        const seen = setsSeen(to.sets);
        return changed<TextureSet, unknown>({
          key: `licence of ${to.sets.join()}`,
          seen: seen.get(to.sets[0]!),
          revision: (one) => one.revision,
          same: (_, now) => {
            const before = seen.get(now.id);
            seen.set(now.id, now);
            return alike([before?.licence, before?.credit], [now.licence, now.credit]);
          },
          about: t("theLicence"),
          mine: `${to.licence || "unknown"} ${to.credit}`,
          theirs: (one) => `${one.name}: ${one.licence || "unknown"} ${one.credit}`,
          send: async () =>
            made(
              toValue(slug),
              await data(
                client.PUT("/api/projects/{slug}/sets/licence", {
                  params: { path: path(), query: isLater(to.sets.length) },
                  body: {
                    ...to,
                    seen: Object.fromEntries([...seen].map(([id, one]) => [id, one.revision])),
                  },
                }),
              ),
            ),
        });
      },
      (to) => t("licenceSet", { count: to.sets.length }),
    ),
  };
}
