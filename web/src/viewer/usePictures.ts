import { ref, watch } from "vue";

import { levelPictureOf, pictureOf, tileOf } from "@/api/pictures";
import type { TextureMap } from "@/api/types";

import type { Look } from "./look";
import { type Frame, LAYERS, loadPicture, loadPreview, type Renderer } from "./renderer";
import { BASE_SIDE, cellsInSight, gridFor, TileStore } from "./tiles";
import type { Standing } from "./view";

interface Wanted {
  slug: string;
  map: TextureMap;
  look: Look;
  preview: string | null;
  other: Other | null;
  /** Names all that a mip chain of the map depends on. */
  chain: string;
}

/** A picture that is shown in place of the map, and compared with it: what a format makes of it, say. */
export interface Other {
  address: (wanted: { side?: number; channel?: string }) => string;
  /** Names it, so that it is loaded anew when it changes. */
  key: string;
  /** For people: what it is. */
  label: string;
}

/** The pictures that the viewer shows: a map, its source, a recipe tried out, a mip level, tiles of a large one. */
export function usePictures(
  props: Wanted,
  renderer: () => Renderer | null,
  changed: (resized: boolean) => void,
) {
  const size = ref<[number, number]>([props.map.width, props.map.height]);
  const problem = ref("");
  const ready = ref(false);
  let asked: AbortController | null = null;
  let tiled = false;

  /** Alpha, and colours over a chequer, are pictures of their own; the other channels are taken from the colours. */
  const apart = () =>
    props.look.channel === "a" || props.look.channel === "over" ? props.look.channel : undefined;
  const compared = () => props.look.comparison !== "none";
  const isLarge = () => Math.max(props.map.width, props.map.height) > BASE_SIDE;

  const store = new TileStore(LAYERS, loadPicture, (layer, picture) => {
    renderer()?.loadTile(layer, picture);
    changed(false);
  });

  function show(picture: ImageBitmap, whole: [number, number]): void {
    const resized = whole[0] !== size.value[0] || whole[1] !== size.value[1];
    size.value = whole;
    renderer()?.load(0, picture, whole);
    changed(resized);
  }

  /** What is tried out follows the hand: one request at a time, and always the newest next. */
  let trying = false;
  async function tryOut(): Promise<void> {
    if (trying) return;
    trying = true;
    tiled = false;
    while (props.preview) {
      const address = props.preview;
      try {
        const found = await loadPreview(apart() ? `${address}&channel=${apart()}` : address);
        if (!renderer() || !props.preview) break;
        problem.value = "";
        show(found.picture, found.whole);
      } catch (error) {
        problem.value = (error as Error).message;
      }
      if (address === props.preview) break;
    }
    trying = false;
  }

  /** Addresses of what is shown and of what it is compared with: a level beside plain averaging, or the source. */
  function addresses(): [string, string] {
    const { slug, map, look, chain } = props;
    const channel = apart();
    if (look.level > 0) {
      const level = (naive: boolean) =>
        levelPictureOf(slug, map, { chain, level: look.level, naive, channel });
      return [level(false), level(true)];
    }
    const side = isLarge() ? BASE_SIDE : undefined;
    if (props.other) return [props.other.address({ side, channel }), pictureOf(slug, map, { channel, side })];
    return [pictureOf(slug, map, { channel, side }), pictureOf(slug, map, { channel, side, source: true })];
  }

  async function load(): Promise<void> {
    asked?.abort();
    asked = new AbortController();
    ready.value = false;
    tiled = false;
    problem.value = "";
    const { signal } = asked;
    try {
      const [shown, other] = addresses();
      const [picture, against] = await Promise.all([
        loadPicture(shown, signal),
        compared() ? loadPicture(other, signal) : null,
      ]);
      if (against) renderer()?.load(1, against);
      tiled = isLarge() && props.look.level === 0 && !props.other;
      show(picture, [props.map.width, props.map.height]);
      ready.value = true;
      if (props.preview) void tryOut();
    } catch (error) {
      if (!signal.aborted) problem.value = (error as Error).message;
    }
  }

  /** The tiles for a picture that stands so, in canvas pixels; what is missing is fetched. */
  function tilesFor(standing: Standing, window: [number, number]): Frame["tiles"] {
    const { slug, map, look } = props;
    const grid = tiled && !props.preview ? gridFor(standing.zoom, map.width, map.height) : null;
    if (!grid) {
      store.want([]);
      return null;
    }
    const cells = new Uint16Array(grid.columns * grid.rows * 2);
    const wanted: { name: string; address: string }[] = [];
    const same = map.source_width === map.width && map.source_height === map.height;
    const places = compared() && same ? [false, true] : [false];
    for (const cell of cellsInSight(grid, standing, window, size.value, look.repeat, look.half)) {
      places.forEach((source, place) => {
        const address = tileOf(slug, map, { cell, level: grid.level, channel: apart(), source });
        const layer = store.layer(address);
        if (layer === null) wanted.push({ name: address, address });
        else cells[(cell[1] * grid.columns + cell[0]) * 2 + place] = layer + 1;
      });
    }
    store.want(wanted);
    return { grid, cells };
  }

  watch(
    [
      () => props.map.digest,
      () => props.map.id,
      apart,
      compared,
      () => props.look.level,
      () => props.look.level && props.chain,
      () => props.other?.key,
    ],
    load,
  );
  watch(
    () => props.preview,
    (address) => void (address ? tryOut() : load()),
  );

  function stop(): void {
    asked?.abort();
    store.stop();
  }
  return { size, problem, ready, load, tilesFor, stop };
}
