/** A picture under the pointer: it is moved and zoomed, the line of a wipe is dragged, a place is marked. */
import type { Ref } from "vue";

import { placeAt, type Standing } from "./view";

interface Doing {
  /** Whether a line between two pictures can be dragged. */
  compared: () => boolean;
  /** Whether the next click marks a place. */
  marking: () => boolean;
  standing: () => Standing;
  size: () => [number, number];
  split: Ref<number>;
  pan: (x: number, y: number) => void;
  zoom: (factor: number, x: number, y: number) => void;
  draw: () => void;
  point: (at: { x: number; y: number } | null) => void;
  mark: (x: number, y: number) => void;
}
const NEAR = 10;

export function usePointer(canvas: Ref<HTMLCanvasElement | undefined>, doing: Doing) {
  let dragging: "pan" | "wipe" | null = null;

  function at(event: MouseEvent) {
    const box = canvas.value!.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top, width: box.width };
  }
  function onMove(event: PointerEvent): void {
    const { x, y, width } = at(event);
    if (dragging === "pan") doing.pan(event.movementX, event.movementY);
    else if (dragging === "wipe") {
      doing.split.value = Math.max(0, Math.min(1, x / width));
      doing.draw();
    }
    doing.point({ x, y });
  }
  function onDown(event: PointerEvent): void {
    const { x, y, width } = at(event);
    if (doing.marking()) {
      const place = placeAt(doing.standing(), x, y, ...doing.size());
      if (place) doing.mark(place.x, place.y);
      return;
    }
    const near = Math.abs(x - doing.split.value * width) < NEAR;
    dragging = doing.compared() && near ? "wipe" : "pan";
    canvas.value!.setPointerCapture(event.pointerId);
  }
  function onWheel(event: WheelEvent): void {
    const { x, y } = at(event);
    doing.zoom(2 ** (-event.deltaY / 240), x, y);
  }
  const release = () => void (dragging = null);
  return { onMove, onDown, onWheel, release };
}
