import { ref, type ShallowRef, shallowRef } from "vue";

import type { OwnMesh } from "./ownMesh";
import type { SheetScene, PreviewMaterial } from "./sheetScene";

/** A mesh of the user's own on the stage: which slot wears which cast; 0 is the one in hand, null none. */
export function useOwnMesh(
  scene: Readonly<ShallowRef<SheetScene | null>>,
  materialOf: (cast: number) => Promise<PreviewMaterial> | undefined,
  draw: () => void,
) {
  const own = shallowRef<OwnMesh | null>(null);
  const assigned = ref<Record<string, number | null>>({});
  const told = ref("");

  /** Show a mesh from its files, or the shapes again. */
  async function take(files: File[] | null): Promise<void> {
    told.value = "";
    try {
      own.value = files ? await (await import("./ownMesh")).readMesh(files) : null;
    } catch (error) {
      told.value = (error as Error).message;
      return;
    }
    scene.value?.take(own.value);
    assigned.value = Object.fromEntries((own.value?.slots ?? []).map((slot, at) => [slot, at ? null : 0]));
    draw();
  }
  async function assign(slot: string, cast: number | null): Promise<void> {
    assigned.value = { ...assigned.value, [slot]: cast };
    if (cast) {
      const one = await materialOf(cast);
      if (one) await scene.value?.material(`cast ${cast}`).apply(one);
    }
    scene.value?.assign(slot, cast === null ? null : cast ? `cast ${cast}` : "");
    draw();
  }
  return { own, assigned, told, take, assign };
}
