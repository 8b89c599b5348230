import type { ShallowRef } from "vue";

import type { SheetScene } from "./sheetScene";
import { useClock } from "./useClock";
import { useTurntable } from "./useTurntable";

/** What moves by itself while it is on: the camera around the surface, and the time of sheets that read it. */
export function useMotion(scene: ShallowRef<SheetScene | null>, draw: () => void) {
  const turning = useTurntable((degrees) => {
    scene.value?.orbitBy(degrees, 0);
    draw();
  });
  const running = useClock((seconds) => {
    scene.value?.setTime(seconds);
    draw();
  });
  return { turning, running };
}
