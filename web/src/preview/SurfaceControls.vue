<script setup lang="ts">
import type { Painted, SheetLook } from "./sheetScene";
import { SHOWN } from "./sheetShader";

/** What the surface is looked at with: shape, light, exposure, one value by itself, a misreading beside it. */
defineProps<{ symptoms: { key: string }[] }>();
const emit = defineEmits<{ recognise: []; still: [] }>();
const look = defineModel<SheetLook>({ required: true });
const shapes: SheetLook["shape"][] = ["sphere", "cube", "plane", "cloth"];
const words: Record<string, string> = {
  lit: "Lit",
  base_color: "Base colour",
  metallic: "Metallic",
  roughness: "Roughness",
  normal: "Normal",
  occlusion: "Occlusion",
  emissive: "Emissive",
  opacity: "Opacity",
  height: "Height",
};
const paints: Painted[] = [
  "none",
  "red",
  "green",
  "blue",
  "no alpha",
  "red in patches",
  "red from the left",
  "green from below",
];
</script>

<template>
  <div class="controls">
    <label
      >Shape
      <select v-model="look.shape">
        <option v-for="one in shapes" :key="one" :value="one">{{ one }}</option>
      </select></label
    >
    <label
      >Show
      <select v-model="look.shown">
        <option v-for="one in SHOWN" :key="one" :value="one">{{ words[one] }}</option>
      </select></label
    >
    <label>Light <input v-model.number="look.turn" type="range" min="0" max="359" /></label>
    <label>Exposure <input v-model.number="look.exposure" type="range" min="-3" max="3" step="0.1" /></label>
    <label><input v-model="look.toneMapped" type="checkbox" /> tone mapping</label>
    <label><input v-model="look.wire" type="checkbox" /> wires</label>
    <label
      >Vertex colour
      <select v-model="look.vertex">
        <option v-for="one in paints" :key="one" :value="one">{{ one }}</option>
      </select></label
    >
    <label
      >Misread
      <select v-model="look.misread">
        <option value="">read rightly</option>
        <option v-for="one in symptoms" :key="one.key" :value="one.key">
          {{ one.key.replaceAll("_", " ") }}
        </option>
      </select></label
    >
    <button class="plain link" @click="emit('recognise')">What does yours look like?</button>
    <button class="plain link" @click="emit('still')">Save a still</button>
  </div>
</template>

<style scoped>
.controls {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  padding: 6px 8px;
  background: var(--sheet);
  border-top: 1px solid var(--line);
  font-size: 12px;
}
.controls label {
  display: flex;
  gap: 4px;
  align-items: center;
}
.controls input[type="range"] {
  width: 72px;
}
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
}
.link {
  color: var(--accent);
}
</style>
