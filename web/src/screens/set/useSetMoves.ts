import type { useSetChanges } from "@/api/setChanges";
import { router } from "@/app/router";
import type { Places } from "@/screens/team/usePlaces";

import type { Draft } from "./useDraft";
import type { SetPage } from "./useSetPage";

interface Around {
  slug: () => string;
  id: () => number;
  sets: () => { id: number }[];
  page: SetPage;
  places: Places;
  draft: Draft;
  changes: ReturnType<typeof useSetChanges>;
}

/** Apply what is tried out, go to the next set, and back by steps: out of what is shown, then to the list. */
export function useSetMoves({ slug, id, sets, page, places, draft, changes }: Around) {
  function apply(): void {
    const { value: map } = page.map;
    if (!map || !draft.dirty.value) return;
    const { steps, label, seen } = draft;
    const sent = JSON.stringify(steps.value);
    void changes.recipe.mutate(
      { map: map.id, recipe: steps.value, label: label.value, seen: seen.value },
      // What was edited while it was sent stays on trial.
      { onSuccess: () => JSON.stringify(steps.value) === sent && draft.discard() },
    );
  }
  function goBy(step: number): void {
    const next = sets()[sets().findIndex((one) => one.id === id()) + step];
    if (next) void router.replace({ name: "set", params: { slug: slug(), id: next.id } });
  }
  function back(): void {
    if (places.marking.value) places.marking.value = false;
    else if (page.shownFinding.value) page.shownFinding.value = null;
    else if (draft.dirty.value) draft.discard();
    else if (page.view.value !== "flat") page.view.value = "flat";
    else void router.push({ name: "sets", params: { slug: slug() } });
  }
  return { apply, goBy, back };
}
