import type { Ref, ShallowRef } from "vue";

import type { Painted, VertexStroke } from "@/api/models";
import type { useOrbit } from "@/preview/useOrbit";

import type { ModelScene } from "./modelScene";
import type { useVertexPainting } from "./useVertexPainting";

/** A press that moved farther dragged, in CSS pixels. */
const NEAR = 4;

/** The pointer on the model: it paints while a brush is in hand, turns the model, or picks a slot. */
export function useStagePointer(
  canvas: Readonly<Ref<HTMLCanvasElement | null>>,
  scene: ShallowRef<ModelScene | null>,
  orbit: ReturnType<typeof useOrbit>,
  brush: ReturnType<typeof useVertexPainting>,
  isPainting: () => boolean,
  pick: (slot: number) => void,
  send: (stroke: VertexStroke) => Promise<Painted | null>,
) {
  let pressed: [number, number] | null = null;
  const placeOf = (event: PointerEvent): [number, number] => {
    const box = canvas.value!.getBoundingClientRect();
    return [
      ((event.clientX - box.left) / box.width) * 2 - 1,
      1 - ((event.clientY - box.top) / box.height) * 2,
    ];
  };
  /** A pen presses as hard as it does; a mouse has no pressure of its own. */
  const touched = (event: PointerEvent) =>
    scene.value?.touch(...placeOf(event), event.pointerType === "pen" ? event.pressure : 1) ?? null;

  function down(event: PointerEvent): void {
    const point = isPainting() && event.button === 0 ? touched(event) : null;
    if (point) {
      canvas.value!.setPointerCapture(event.pointerId);
      return brush.begin(point, event.altKey);
    }
    pressed = [event.clientX, event.clientY];
    orbit.onDown(event);
  }
  function move(event: PointerEvent): void {
    if (isPainting() && !pressed) brush.under.value = touched(event);
    if (!brush.isLive()) return orbit.onMove(event);
    if (brush.under.value) brush.go(brush.under.value);
  }
  function up(event: PointerEvent): void {
    if (brush.isLive()) return void brush.end(send);
    orbit.onUp();
    const from = pressed;
    pressed = null;
    if (!from || Math.hypot(event.clientX - from[0], event.clientY - from[1]) > NEAR) return;
    pick(scene.value?.pick(...placeOf(event))?.slot ?? -1);
  }
  const leave = () => (brush.under.value = null);
  return { down, move, up, leave };
}
