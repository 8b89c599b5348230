/**
 * The one way in which the page changes data: the change is shown at once where that is given, sent, told with the way
 * back, and asked for anew; when it fails, what was shown before is shown again and the reason is told.
 */
import { type QueryKey, useQueryClient } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, ref, toValue } from "vue";

import { t } from "@/texts/api";

import { client, data } from "./client";
import { useNotices } from "./notices";
import { keys } from "./queries";

interface Options<T> {
  /** What is told when it is made; null: nothing. */
  said?: (made: T) => string | null;
  /** Whether the change can be undone by "Undo"; then the message carries it. */
  undoable?: boolean;
  /** What is shown at once, before the server has answered: the question, and its answer as it will be. */
  optimistic?: [QueryKey, (before: never) => unknown];
  /** What is asked for anew; without it what the caller named. */
  stale?: readonly QueryKey[];
}

export function useChange(slug: MaybeRefOrGetter<string>, stale: () => readonly QueryKey[]) {
  const queries = useQueryClient();
  const notices = useNotices();
  const running = ref(0);
  const busy = computed(() => running.value > 0);

  async function turn(which: "undo" | "redo", done: string, nothing: string): Promise<void> {
    try {
      const params = { path: { slug: toValue(slug) } };
      const asked =
        which === "undo"
          ? client.POST("/api/projects/{slug}/undo", { params })
          : client.POST("/api/projects/{slug}/redo", { params });
      const step = await data(asked);
      const summary = step.label ? `${done}: ${step.label}` : nothing;
      if (step.said?.length) notices.partly(summary, step.said.join("\n"));
      else notices.changed(summary);
    } catch (error) {
      notices.failed(error);
    }
    await queries.invalidateQueries({ queryKey: keys.project(toValue(slug)) });
  }
  const undo = () => turn("undo", t("undone"), t("nothingToUndo"));
  const redo = () => turn("redo", t("redone"), t("nothingToRedo"));

  /** Null when it failed, or when the other one's state was left as it is. */
  async function change<T>(work: () => Promise<T>, options: Options<T> = {}): Promise<T | null> {
    running.value += 1;
    const { optimistic } = options;
    const before = optimistic ? queries.getQueryData(optimistic[0]) : undefined;
    if (optimistic && before !== undefined)
      queries.setQueryData(optimistic[0], optimistic[1](before as never));
    try {
      const made = await work();
      const said = options.said?.(made) ?? null;
      if (said !== null) notices.changed(said, options.undoable ? () => void undo() : undefined);
      await Promise.all(
        (options.stale ?? stale()).map((queryKey) => queries.invalidateQueries({ queryKey })),
      );
      return made;
    } catch (error) {
      if (optimistic && before !== undefined) queries.setQueryData(optimistic[0], before);
      notices.failed(error);
      return null;
    } finally {
      running.value -= 1;
    }
  }
  return { busy, change, undo, redo, notices };
}
