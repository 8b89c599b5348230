import { onBeforeUnmount, ref, watch } from "vue";

const DEGREES_A_FRAME = -1.2;

/** A turntable: while it is on, the camera goes around by a little with every frame. */
export function useTurntable(orbit: (degrees: number) => void) {
  const turning = ref(false);
  let frame = 0;
  watch(turning, (on) => {
    cancelAnimationFrame(frame);
    const step = () => {
      orbit(DEGREES_A_FRAME);
      frame = requestAnimationFrame(step);
    };
    if (on) frame = requestAnimationFrame(step);
  });
  onBeforeUnmount(() => cancelAnimationFrame(frame));
  return turning;
}
