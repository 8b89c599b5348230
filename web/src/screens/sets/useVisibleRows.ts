import { computed, onBeforeUnmount, onMounted, ref, type Ref } from "vue";

import { visibleRange } from "./matrix";

const HEAD = 30;

/** Which rows of the sets are drawn, and bringing one into sight. */
export function useVisibleRows(body: Ref<HTMLElement | undefined>, rowHeight: number, count: () => number) {
  const top = ref(0);
  const height = ref(window.innerHeight);
  let observer: ResizeObserver | null = null;

  onMounted(() => {
    observer = new ResizeObserver(() => (height.value = body.value?.clientHeight ?? window.innerHeight));
    if (body.value) observer.observe(body.value);
  });
  onBeforeUnmount(() => observer?.disconnect());

  const range = computed(() => visibleRange(top.value, height.value, rowHeight, count()));

  function onScroll(): void {
    top.value = body.value?.scrollTop ?? 0;
  }

  function reveal(row: number): void {
    const box = body.value;
    if (!box) return;
    const start = row * rowHeight;
    if (start < box.scrollTop) box.scrollTop = start;
    else if (start + rowHeight + HEAD > box.scrollTop + box.clientHeight) {
      box.scrollTop = start + rowHeight + HEAD - box.clientHeight;
    }
  }

  return { range, onScroll, reveal };
}
