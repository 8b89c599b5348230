import { computed, onBeforeUnmount, onMounted, ref, type Ref } from "vue";

import { visibleRange } from "./matrix";

/** Which items of the list are drawn, and bringing one into sight. head: pixels that the sticky head covers. */
export function useVisibleRows(
  body: Ref<HTMLElement | undefined>,
  offsets: () => readonly number[],
  head: number,
) {
  const top = ref(0);
  const height = ref(window.innerHeight);
  let observer: ResizeObserver | null = null;

  onMounted(() => {
    observer = new ResizeObserver(() => (height.value = body.value?.clientHeight ?? window.innerHeight));
    if (body.value) observer.observe(body.value);
  });
  onBeforeUnmount(() => observer?.disconnect());

  const range = computed(() => visibleRange(offsets(), top.value, height.value));

  function onScroll(): void {
    top.value = body.value?.scrollTop ?? 0;
  }

  function reveal(item: number): void {
    const box = body.value;
    const [start, end] = [offsets()[item], offsets()[item + 1]];
    if (!box || start === undefined || end === undefined) return;
    if (start < box.scrollTop) box.scrollTop = start;
    else if (end + head > box.scrollTop + box.clientHeight) box.scrollTop = end + head - box.clientHeight;
  }

  return { range, onScroll, reveal };
}
