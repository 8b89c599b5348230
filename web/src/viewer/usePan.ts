import { type Ref, ref } from "vue";

import { framed, type Standing, zoomed } from "./view";

/** Where the picture stands in its frame, and the hand that moves it. */
export function usePan(frame: Ref<HTMLElement | undefined>, size: () => [number, number], moved: () => void) {
  const standing = ref<Standing>({ zoom: 1, left: 0, top: 0 });
  let isFramed = true;

  function room(): [number, number] {
    return [frame.value?.clientWidth ?? 1, frame.value?.clientHeight ?? 1];
  }
  function fit(halved = false): void {
    const [width, height] = room();
    standing.value = framed(...size(), halved ? width / 2 : width, height);
    isFramed = true;
    moved();
  }
  function zoom(factor: number, x?: number, y?: number): void {
    const [width, height] = room();
    const smallest = framed(...size(), width, height).zoom;
    standing.value = zoomed(standing.value, factor, x ?? width / 2, y ?? height / 2, smallest);
    isFramed = false;
    moved();
  }
  function pan(x: number, y: number): void {
    const { zoom: kept, left, top } = standing.value;
    standing.value = { zoom: kept, left: left + x, top: top + y };
    isFramed = false;
    moved();
  }
  return { standing, fit, zoom, pan, isFramed: () => isFramed };
}
