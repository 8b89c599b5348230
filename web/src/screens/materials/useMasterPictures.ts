import { onBeforeUnmount, ref, watch } from "vue";

import { client, data } from "@/api/client";
import { readSheet } from "@/api/materials";
import { plainLook } from "@/preview/look";
import type { SheetScene } from "@/preview/sheetScene";

import { plainOf } from "./values";

const SIDE = 256;
const MAX_PICTURES = 48;
/** Pictures that were drawn before, by name and document. */
const DRAWN = new Map<string, string>();

/** Small pictures of masters with their own values and no maps, drawn one after the other while the page is idle. */
export function useMasterPictures(names: () => string[]) {
  const pictures = ref<Record<string, string>>({});
  const state = ref<"drawing" | "done">("drawing");
  let scene: SheetScene | null = null;
  let round = 0;

  async function draw(name: string): Promise<void> {
    const { document: sheetDocument } = await data(
      client.GET("/api/masters/{name}", { params: { path: { name } } }),
    );
    const key = JSON.stringify(sheetDocument);
    const before = DRAWN.get(key);
    if (before) {
      pictures.value = { ...pictures.value, [name]: before };
      return;
    }
    const { sheet } = await readSheet(sheetDocument);
    if (!sheet?.shader) return;
    if (!scene) {
      const { SheetScene: Scene } = await import("@/preview/sheetScene");
      scene = new Scene(document.createElement("canvas"));
    }
    const values = Object.fromEntries(sheet.parameters.map((one) => [one.name, one.default]));
    const slots = Object.fromEntries(sheet.slots.map((one) => [one.name, plainOf(one)]));
    await scene.material().apply({ name, sheet, values, slots });
    const picture = scene.still(plainLook(), SIDE, SIDE);
    DRAWN.set(key, picture);
    pictures.value = { ...pictures.value, [name]: picture };
  }
  async function drawAll(): Promise<void> {
    const mine = ++round;
    state.value = "drawing";
    for (const name of names().slice(0, MAX_PICTURES)) {
      if (mine !== round) return;
      if (pictures.value[name]) continue;
      try {
        await draw(name);
      } catch {
        // Without WebGL, or for a draft with an error, the card stays without a picture.
      }
    }
    if (mine === round) state.value = "done";
  }
  watch(() => names().join(), drawAll, { immediate: true });
  onBeforeUnmount(() => {
    round += 1;
    scene?.dispose();
  });
  return { pictures, state };
}
