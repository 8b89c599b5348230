/** What the stage of a patch draws from: land, layers' tiles, rules and paint; and the stroke under the hand. */
import { computed, type Ref, ref, shallowRef, watch } from "vue";

import { fetchHeights, fetchRules, fetchTile, type Ground, type GroundStroke } from "@/api/ground";

import { type Brush, LiveStroke, type Point } from "./brush";
import type { GroundScene } from "./groundScene";
import type { Land } from "./land";

export function useGroundStage(
  slug: () => string,
  ground: () => Ground,
  scene: Readonly<Ref<GroundScene | null>>,
  draw: () => void,
) {
  const land = shallowRef<Land | null>(null);
  const rules = shallowRef<Uint8Array<ArrayBuffer> | null>(null);
  const paint = shallowRef<Uint8Array<ArrayBuffer> | null>(null);
  /** Strokes that the server has not answered yet; what it said before them is not drawn over them. */
  const waiting = ref(0);
  let live: { stroke: LiveStroke; layer: number } | null = null;
  let tilesOf = "";
  let laidOf = "";

  const tileState = computed(() =>
    ground()
      .layers.map((one) => one.worn?.state ?? "")
      .join(" "),
  );

  async function loadLand(): Promise<void> {
    const one = ground();
    const heights = await fetchHeights(slug(), one);
    if (one.land !== ground().land) return;
    land.value = { heights, side: one.side, metres: one.metres };
    scene.value?.setLand(land.value);
  }
  async function loadTiles(): Promise<void> {
    const wanted = tileState.value;
    if (wanted === tilesOf) return;
    const tiles = await Promise.all(ground().layers.map((_, at) => fetchTile(slug(), ground(), at)));
    if (wanted !== tileState.value) return;
    tilesOf = wanted;
    scene.value?.setTiles(tiles);
  }
  async function loadRules(): Promise<void> {
    const one = ground();
    if (one.laid === laidOf) return;
    const all = await fetchRules(slug(), one);
    if (one.laid !== ground().laid || live || waiting.value) return;
    laidOf = one.laid;
    const half = all.length / 2;
    rules.value = all.slice(0, half);
    paint.value = all.slice(half);
    scene.value?.setRules(rules.value, paint.value, one.layers.length);
  }
  async function load(): Promise<void> {
    await loadLand();
    await Promise.all([loadTiles(), loadRules()]);
  }
  const again = (what: () => Promise<void>) => () => void what().then(draw, () => {});
  const isThere = () => scene.value !== null && land.value !== null;
  watch(() => ground().land, () => isThere() && again(load)()); // prettier-ignore
  watch(tileState, () => isThere() && again(loadTiles)());
  watch([() => ground().laid, waiting], () => isThere() && again(loadRules)());

  /** Begin a stroke on a layer. */
  function begin(layer: number, brush: Brush, point: Point): void {
    const one = ground();
    if (!paint.value) return;
    const size = one.side * one.side;
    const part = paint.value.subarray(layer * size, (layer + 1) * size);
    live = { stroke: new LiveStroke(part, one.side, one.metres, brush), layer };
    go(point);
  }
  function go(point: Point): void {
    if (!live?.stroke.add(point)) return;
    scene.value?.repaint(live.layer);
    draw();
  }
  /** End it; send gives whether it was kept. */
  async function end(send: (stroke: GroundStroke) => Promise<unknown>): Promise<void> {
    if (!live) return;
    const { stroke, layer } = live;
    live = null;
    const key = ground().layers[layer]?.key;
    if (!key) return;
    waiting.value += 1;
    if ((await send(stroke.stroke(key))) === null) laidOf = "";
    waiting.value -= 1;
  }
  return { land, rules, paint, load, begin, go, end };
}
