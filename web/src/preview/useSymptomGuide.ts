import { computed, type Ref, ref, type ShallowRef } from "vue";

import { useSymptoms } from "@/api/materials";

import type { SheetLook, SheetScene } from "./sheetScene";

const [WIDTH, HEIGHT] = [220, 110];

/** The misreading that is shown, and small pictures of this very surface misread in every way: to be recognised. */
export function useSymptomGuide(
  scene: Readonly<ShallowRef<SheetScene | null>>,
  look: Ref<SheetLook>,
  isReady: () => boolean,
  draw: () => void,
) {
  const all = useSymptoms();
  const symptoms = computed(() => all.data.value ?? []);
  const symptom = computed(() => symptoms.value.find((one) => one.key === look.value.misread) ?? null);
  const guide = ref<{ key: string; symptom: string; picture: string }[]>([]);

  function recognise(): void {
    const staged = scene.value;
    if (guide.value.length || !staged || !isReady()) {
      guide.value = [];
      return;
    }
    guide.value = symptoms.value.map((one) => ({
      key: one.key,
      symptom: one.symptom,
      picture: staged.still({ ...look.value, misread: one.key }, WIDTH, HEIGHT),
    }));
    draw();
  }
  function pick(key: string): void {
    look.value.misread = key;
    guide.value = [];
  }
  return { symptoms, symptom, guide, recognise, pick };
}
