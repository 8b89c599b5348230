import { onScopeDispose, shallowRef, watch } from "vue";

import { type TileableOrder, type Tried, tryOut } from "@/api/tileable";

const PAUSE = 250;

/** A picture that follows an order, a moment after the last change; the one before stays until the next is there. */
export function useTried(slug: () => string, set: () => number, order: () => TileableOrder) {
  const tried = shallowRef<Tried | null>(null);
  const problem = shallowRef("");
  const waiting = shallowRef(false);
  let timer: ReturnType<typeof setTimeout> | undefined;
  let asked: AbortController | null = null;
  const drop = () => tried.value && URL.revokeObjectURL(tried.value.url);

  async function ask(): Promise<void> {
    asked?.abort();
    const mine = new AbortController();
    asked = mine;
    waiting.value = true;
    try {
      const made = await tryOut(slug(), set(), order(), mine.signal);
      if (mine.signal.aborted) return URL.revokeObjectURL(made.url);
      drop();
      tried.value = made;
      problem.value = "";
    } catch (error) {
      if (!mine.signal.aborted) problem.value = (error as Error).message;
    } finally {
      if (asked === mine) waiting.value = false;
    }
  }
  watch(
    () => JSON.stringify(order()),
    () => {
      clearTimeout(timer);
      waiting.value = true;
      timer = setTimeout(() => void ask(), PAUSE);
    },
  );
  void ask();
  onScopeDispose(() => {
    clearTimeout(timer);
    asked?.abort();
    drop();
  });
  return { tried, problem, waiting };
}
