import { onBeforeUnmount, onMounted, type Ref, ref, type ShallowRef, shallowRef } from "vue";

import { t } from "@/texts/preview";

interface Staged {
  resize(width: number, height: number): void;
  dispose(): void;
}

/** A scene on a canvas that fills a frame: made when the page is there, drawn at most once a frame, taken down. */
export function useScene<T extends Staged>(
  canvas: Readonly<Ref<HTMLCanvasElement | null | undefined>>,
  frame: Readonly<Ref<HTMLElement | null | undefined>>,
  load: () => Promise<new (canvas: HTMLCanvasElement) => T>,
  begin: () => Promise<void>,
  paint: (scene: T) => void,
) {
  const scene: ShallowRef<T | null> = shallowRef(null);
  const state = ref<"loading" | "ready" | "failed">("loading");
  const problem = ref("");
  const drawn = ref(0);
  let observer: ResizeObserver | null = null;
  let pending = 0;

  function draw(): void {
    pending ||= requestAnimationFrame(() => {
      pending = 0;
      if (!scene.value || state.value !== "ready") return;
      paint(scene.value);
      drawn.value += 1;
    });
  }
  /** Do what may fail, and say how it went. */
  async function attempt(work: () => Promise<void>, otherwise: string): Promise<void> {
    try {
      await work();
      state.value = "ready";
      draw();
    } catch (error) {
      problem.value = (error as Error).message || otherwise;
      state.value = "failed";
    }
  }
  onMounted(async () => {
    const Scene = await load();
    if (!canvas.value || !frame.value) return;
    try {
      scene.value = new Scene(canvas.value);
    } catch {
      problem.value = t("thisBrowserShowsNoWebglWhich");
      state.value = "failed";
      return;
    }
    const fit = () => scene.value?.resize(frame.value!.clientWidth, frame.value!.clientHeight);
    observer = new ResizeObserver(() => {
      fit();
      draw();
    });
    observer.observe(frame.value);
    fit();
    await begin();
  });
  onBeforeUnmount(() => {
    cancelAnimationFrame(pending);
    observer?.disconnect();
    scene.value?.dispose();
  });
  return { scene, state, problem, drawn, draw, attempt };
}
