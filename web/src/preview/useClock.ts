import { onBeforeUnmount, ref, watch } from "vue";

/** Seconds for sheets that move: while it runs, they are told with every frame. */
export function useClock(tell: (seconds: number) => void) {
  const running = ref(false);
  let frame = 0;
  let seconds = 0;
  watch(running, (on) => {
    cancelAnimationFrame(frame);
    let last: number | null = null;
    const step = (now: number) => {
      seconds += last === null ? 0 : (now - last) / 1000;
      last = now;
      tell(seconds);
      frame = requestAnimationFrame(step);
    };
    if (on) frame = requestAnimationFrame(step);
  });
  onBeforeUnmount(() => cancelAnimationFrame(frame));
  return running;
}
