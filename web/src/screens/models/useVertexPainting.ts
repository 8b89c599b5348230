import { ref, type ShallowRef, watch } from "vue";

import type { Model, Painted, VertexStroke } from "@/api/models";

import type { ModelScene } from "./modelScene";
import { LiveVertexStroke, type SurfacePoint, type VertexBrush } from "./vertexBrush";

/** What is painted: the brush in hand, whether it takes away, and the key of the slot, null for all. */
export interface Painting {
  brush: VertexBrush;
  takes: boolean;
  slot: string | null;
}

/** Painting on the mesh under the hand: laid down at once, kept by the server, drawn anew where others painted. */
export function useVertexPainting(
  scene: ShallowRef<ModelScene | null>,
  model: () => Model,
  painting: () => Painting | null,
  draw: () => void,
  reload: () => void,
) {
  const under = ref<SurfacePoint | null>(null);
  let live: { stroke: LiveVertexStroke; slot: string | null } | null = null;
  let waiting = 0;
  /** Strokes that the mesh on the stage shows. */
  let known = model().strokes;

  const index = (slot: string | null) => model().slots_out.find((one) => one.key === slot)?.index ?? null;

  function begin(point: SurfacePoint, otherWay: boolean): void {
    const now = painting();
    if (!now || !scene.value) return;
    const strength = now.takes !== otherWay ? -now.brush.strength : now.brush.strength;
    const pieces = scene.value.pieces(now.slot === null ? null : index(now.slot));
    live = { stroke: new LiveVertexStroke(pieces, { ...now.brush, strength }), slot: now.slot };
    go(point);
  }
  function go(point: SurfacePoint): void {
    if (!live) return;
    scene.value?.recolour(live.stroke.add(point));
    draw();
  }
  /** End it; send gives whether it was kept. */
  async function end(send: (stroke: VertexStroke) => Promise<Painted | null>): Promise<void> {
    if (!live) return;
    const { stroke, slot } = live;
    live = null;
    waiting += 1;
    known += 1;
    const kept = await send(stroke.stroke(slot));
    waiting -= 1;
    if (kept?.model.strokes === known) return;
    // It was not kept, or others painted meanwhile.
    known = kept?.model.strokes ?? model().strokes;
    reload();
  }
  /** Strokes of others, or taken back: the mesh is asked for anew. */
  function catchUp(): void {
    if (waiting || live || model().strokes === known) return;
    known = model().strokes;
    reload();
  }
  watch(() => model().strokes, catchUp);
  watch([under, painting], () => {
    scene.value?.showBrush(painting() ? under.value : null, painting()?.brush.radius ?? 0);
    draw();
  });
  return { under, begin, go, end, isLive: () => live !== null };
}
