/** Places in a picture that comments are about: those that there are, and the one that is being marked. */
import { computed, ref, watch } from "vue";

import { useComments } from "@/api/team";

export interface Pin {
  id: number;
  x: number;
  y: number;
  label: string;
}

/** What is looked at: a comment that is written while a finding is shown is about that. */
interface Looked {
  map: { value: { id: number } | null };
  shownFinding: { value: { check: string; title: string; map: number | null } | null };
}

export function usePlaces(slug: () => string, set: () => number, looked: Looked) {
  const map = () => looked.map.value?.id ?? null;
  const finding = () => looked.shownFinding.value;
  const about = computed(() => `sets:${set()}`);
  const comments = useComments(slug, about);
  /** Whether the next click on the picture marks a place; the place that was marked for a new comment. */
  const marking = ref(false);
  const place = ref<{ map: number; x: number; y: number } | null>(null);
  const shown = ref<number | null>(null);
  const open = computed(() => (comments.data.value ?? []).filter((one) => one.closed === null));

  watch([set, map], () => {
    marking.value = false;
    if (place.value?.map !== map()) place.value = null;
  });
  const pins = computed<Pin[]>(() => {
    const found = open.value.flatMap((one, at) =>
      one.map === map() && one.x !== null && one.y !== null
        ? [{ id: one.id, x: one.x, y: one.y, label: String(at + 1) }]
        : [],
    );
    const fresh = place.value;
    return fresh && fresh.map === map() ? [...found, { id: 0, x: fresh.x, y: fresh.y, label: "+" }] : found;
  });
  function mark(x: number, y: number): void {
    const on = map();
    if (on !== null) place.value = { map: on, x, y };
    marking.value = false;
  }
  const forget = () => void (place.value = null);
  const toggle = () => void (marking.value = !marking.value);
  const show = (id: number) => void (shown.value = id);
  return { comments, open, finding, pins, marking, place, shown, mark, forget, toggle, show };
}
export type Places = ReturnType<typeof usePlaces>;
