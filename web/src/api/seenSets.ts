/** Sets and maps as the page has them: the state that a change of them is meant for. */
import { useQueryClient } from "@tanstack/vue-query";
import { type MaybeRefOrGetter, toValue } from "vue";

import { keys } from "./queries";
import type { SetList, TextureMap, TextureSet } from "./types";

export function useSeenSets(slug: MaybeRefOrGetter<string>) {
  const queries = useQueryClient();
  const setList = () => queries.getQueryData<SetList>(keys.sets(toValue(slug)));
  const alone = (id: number) => queries.getQueryData<TextureSet>(keys.set(toValue(slug), id));

  const setSeen = (id: number): TextureSet | undefined =>
    alone(id) ?? setList()?.sets.find((one) => one.id === id);
  /** Thousands of sets at once. */
  function setsSeen(ids: number[]): Map<number, TextureSet> {
    const listed = new Map(setList()?.sets.map((one) => [one.id, one]));
    return new Map(
      ids.flatMap((id) => {
        const seen = alone(id) ?? listed.get(id);
        return seen ? [[id, seen] as const] : [];
      }),
    );
  }
  const seenRevisions = (ids: number[]): Record<string, number> =>
    Object.fromEntries([...setsSeen(ids)].map(([id, one]) => [id, one.revision]));
  function mapSeen(id: number): TextureMap | undefined {
    const sets = queries
      .getQueriesData<TextureSet>({ queryKey: keys.sets(toValue(slug)) })
      .flatMap(([, one]) => (one && "maps" in one ? [one] : []));
    const maps = [...sets, ...(setList()?.sets ?? [])].flatMap((one) => one.maps);
    return [...maps, ...(setList()?.undecided.map((one) => one.map) ?? [])]
      .filter((one) => one.id === id)
      .sort((one, other) => other.revision - one.revision)[0];
  }
  return { setSeen, setsSeen, mapSeen, seenRevisions };
}
