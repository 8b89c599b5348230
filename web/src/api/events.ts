import { useQueryClient } from "@tanstack/vue-query";
import { type MaybeRefOrGetter, onBeforeUnmount, onMounted, toValue } from "vue";

import { keys } from "./queries";

const GATHER_MS = 150;
/** What else follows from a change. */
const FOLLOW: Record<string, string[]> = {
  job: ["deliveries", "exports"],
  sets: ["budget", "names", "materials"],
  materials: ["sets"],
  intake: ["habit"],
};

/** Follow a project's changes: what the server says has changed is asked for anew, a few times a second at most. */
export function useEvents(slug: MaybeRefOrGetter<string>): void {
  const queries = useQueryClient();
  const changed = new Set<string>();
  let source: EventSource | null = null;
  let timer = 0;

  async function refresh(): Promise<void> {
    const kinds = [...changed];
    changed.clear();
    // One round at a time: with several hundred sets being judged, rounds would overtake each other.
    await Promise.allSettled(
      kinds.map((kind) => queries.invalidateQueries({ queryKey: [...keys.project(toValue(slug)), kind] })),
    );
    timer = changed.size ? window.setTimeout(refresh, GATHER_MS) : 0;
  }

  onMounted(() => {
    source = new EventSource(`/api/projects/${toValue(slug)}/events`);
    source.onmessage = (event) => {
      const { kind } = JSON.parse(event.data as string) as { kind: string };
      changed.add(kind);
      for (const other of FOLLOW[kind] ?? []) changed.add(other);
      timer ||= window.setTimeout(refresh, GATHER_MS);
    };
    // After a gap nobody knows what was missed.
    source.onopen = () => void queries.invalidateQueries({ queryKey: keys.project(toValue(slug)) });
  });
  onBeforeUnmount(() => {
    source?.close();
    window.clearTimeout(timer);
  });
}
