import type { Ref } from "vue";

/** What a hand can do to a scene. */
interface Handled {
  orbitBy(x: number, y: number): void;
  zoomBy(factor: number): void;
}

/** The pointer on a surface: dragging turns it, with Shift or the right button the light; the wheel goes nearer. */
export function useOrbit(
  canvas: Readonly<Ref<HTMLCanvasElement | null | undefined>>,
  scene: () => Handled | null,
  turnLight: (degrees: number) => void,
  draw: () => void,
) {
  let dragging: "orbit" | "light" | null = null;

  function onDown(event: PointerEvent): void {
    dragging = event.shiftKey || event.button === 2 ? "light" : "orbit";
    canvas.value!.setPointerCapture(event.pointerId);
  }
  function onMove(event: PointerEvent): void {
    if (dragging === "light") turnLight(event.movementX);
    if (dragging !== "orbit") return;
    scene()?.orbitBy(event.movementX, event.movementY);
    draw();
  }
  function onUp(): void {
    dragging = null;
  }
  function onWheel(event: WheelEvent): void {
    scene()?.zoomBy(2 ** (event.deltaY / 600));
    draw();
  }
  return { onDown, onMove, onUp, onWheel };
}

/** An angle turned further, within a whole turn. */
export const turned = (degrees: number, by: number): number => (((degrees + by) % 360) + 360) % 360;
