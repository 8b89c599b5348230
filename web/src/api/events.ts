import { useQueryClient } from "@tanstack/vue-query";
import { type MaybeRefOrGetter, onBeforeUnmount, onMounted, ref, toValue } from "vue";

import { keys } from "./queries";

const GATHER_MS = 150;
const FIRST_PAUSE_MS = 1000;
const LONGEST_PAUSE_MS = 30_000;
/** What the page asks for at first is young; what changed before the line was open is asked for when that is drawn. */
const FIRST_ROUND_MS = 3000;
/** Whether the line to the server is down: what is shown may be out of date. */
export const offline = ref(false);
/** What else follows from a change. */
/** What may also be told to oneself, over all projects. */
const OWN = new Set(["notices", "comments", "reviews"]);
const FOLLOW: Record<string, string[]> = {
  job: ["deliveries", "exports", "destinations", "scans"],
  deliveries: ["destinations"],
  sets: ["budget", "names", "materials", "models", "ground", "reviews"],
  materials: ["sets", "models", "ground"],
  scans: ["sets"],
  intake: ["habit"],
  rules: ["targets", "names", "budget", "sets", "models"],
};

/** Follow a project's changes: what the server says has changed is asked for anew, a few times a second at most. */
export function useEvents(slug: MaybeRefOrGetter<string>): void {
  const queries = useQueryClient();
  const changed = new Set<string>();
  let source: EventSource | null = null;
  let timer = 0;
  let again = 0;
  let first = 0;
  let opened = false;
  let pause = FIRST_PAUSE_MS;

  async function refresh(): Promise<void> {
    const kinds = [...changed];
    if (kinds.some((kind) => OWN.has(kind)))
      for (const key of ["notices", "waiting"]) void queries.invalidateQueries({ queryKey: [key] });
    changed.clear();
    // One round at a time: with several hundred sets being judged, rounds would overtake each other.
    await Promise.allSettled(
      kinds.map((kind) => queries.invalidateQueries({ queryKey: [...keys.project(toValue(slug)), kind] })),
    );
    timer = changed.size ? window.setTimeout(() => void refresh(), GATHER_MS) : 0;
  }

  const everything = () => void queries.invalidateQueries({ queryKey: keys.project(toValue(slug)) });

  function listen(): void {
    source = new EventSource(`/api/projects/${toValue(slug)}/events`);
    source.onmessage = (event) => {
      const { kind } = JSON.parse(event.data as string) as { kind: string };
      if (["all", "gone", "project"].includes(kind)) return everything();
      changed.add(kind);
      changed.add("history");
      for (const other of FOLLOW[kind] ?? []) changed.add(other);
      timer ||= window.setTimeout(() => void refresh(), GATHER_MS);
    };
    // After a gap nobody knows what was missed.
    source.onopen = () => {
      pause = FIRST_PAUSE_MS;
      offline.value = false;
      if (opened) everything();
      else first = window.setTimeout(everything, FIRST_ROUND_MS);
      opened = true;
    };
    // A lost line the browser takes up by itself; an answer that is none, it gives up on.
    source.onerror = () => {
      offline.value = true;
      if (source?.readyState !== EventSource.CLOSED) return;
      again = window.setTimeout(listen, pause);
      pause = Math.min(LONGEST_PAUSE_MS, pause * 2);
    };
  }
  onMounted(listen);
  onBeforeUnmount(() => {
    source?.close();
    offline.value = false;
    window.clearTimeout(timer);
    window.clearTimeout(again);
    window.clearTimeout(first);
  });
}
