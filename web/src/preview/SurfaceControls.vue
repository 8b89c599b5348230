<script setup lang="ts">
import { ref } from "vue";

import type { SheetSlot } from "@/api/materials";
import FilePick from "@/parts/FilePick.vue";

import { detail, DETAILS } from "./detail";
import type { Painted, SheetLook } from "./sheetScene";
import { SHOWN } from "./sheetShader";
import { ENVIRONMENTS } from "./stage";

/** What the surface is looked at with: shape, light, one value by itself, maps switched off, what stands beside it. */
const props = defineProps<{
  slots: SheetSlot[];
  symptoms: { key: string }[];
  choices: { id: number; name: string }[];
  beside: number;
  paired: boolean;
  lifts: boolean;
  ownColours: boolean;
}>();
const emit = defineEmits<{
  recognise: [];
  still: [side: number];
  compare: [cast: number];
  mesh: [files: File[]];
}>();
const look = defineModel<SheetLook>({ required: true });
const turning = defineModel<boolean>("turning", { required: true });
const off = defineModel<string[]>("off", { required: true });
const side = ref(1024);
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
  density: "Density of texels",
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
function toggle(slot: string): void {
  off.value = off.value.includes(slot) ? off.value.filter((one) => one !== slot) : [...off.value, slot];
}
</script>

<template>
  <div class="controls">
    <label
      >Shape
      <select v-model="look.shape">
        <option v-for="one in shapes" :key="one" :value="one">{{ one }}</option>
      </select></label
    >
    <FilePick
      label="Own mesh, OBJ or glTF"
      accept=".obj,.gltf,.glb,.bin"
      multiple
      @files="emit('mesh', $event)"
      >own mesh …</FilePick
    >
    <label
      >Show
      <select v-model="look.shown">
        <option v-for="one in SHOWN" :key="one" :value="one">{{ words[one] }}</option>
      </select></label
    >
    <label
      >In
      <select v-model="look.environment" aria-label="Surroundings">
        <option v-for="one in ENVIRONMENTS" :key="one" :value="one">{{ one }}</option>
      </select></label
    >
    <label>Light <input v-model.number="look.turn" type="range" min="0" max="359" /></label>
    <label>Exposure <input v-model.number="look.exposure" type="range" min="-3" max="3" step="0.1" /></label>
    <label><input v-model="look.toneMapped" type="checkbox" /> tone mapping</label>
    <label><input v-model="look.wire" type="checkbox" /> wires</label>
    <label v-if="props.lifts"><input v-model="look.displace" type="checkbox" /> lifted by height</label>
    <label><input v-model="turning" type="checkbox" /> turntable</label>
    <label
      >Vertex colour
      <select v-model="look.vertex">
        <option v-if="ownColours" value="the mesh's own">the mesh's own</option>
        <option v-for="one in paints" :key="one" :value="one">{{ one }}</option>
      </select></label
    >
    <details v-if="slots.length" :open="slots.length <= 4">
      <summary>{{ slots.length - off.length }} of {{ slots.length }} maps</summary>
      <fieldset aria-label="Maps switched on">
        <label v-for="one in slots" :key="one.name"
          ><input
            type="checkbox"
            :checked="!off.includes(one.name)"
            :aria-label="`Map ${one.title}`"
            @change="toggle(one.name)"
          />
          {{ one.title }}</label
        >
      </fieldset>
    </details>
    <label v-if="choices.length"
      >Beside
      <select
        :value="String(beside)"
        aria-label="Beside another cast"
        @change="emit('compare', Number(($event.target as HTMLSelectElement).value))"
      >
        <option value="0">nothing</option>
        <option v-for="one in choices" :key="one.id" :value="String(one.id)">{{ one.name }}</option>
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
    <template v-if="paired">
      <label
        ><input v-model="look.parted" type="checkbox" true-value="wipe" false-value="beside" /> wipe</label
      >
      <input
        v-if="look.parted === 'wipe'"
        v-model.number="look.wipe"
        type="range"
        min="0.02"
        max="0.98"
        step="0.01"
        aria-label="Where the wipe stands"
      />
    </template>
    <label
      >Detail
      <select v-model.number="detail" aria-label="Detail of the surface">
        <option v-for="one in DETAILS" :key="one.share" :value="one.share">{{ one.title }}</option>
      </select></label
    >
    <button class="plain link" @click="emit('recognise')">What does yours look like?</button>
    <span class="still"
      ><button class="plain link" @click="emit('still', side)">Save a still</button>
      <select v-model.number="side" aria-label="Pixels of the still">
        <option v-for="one in [512, 1024, 2048, 4096]" :key="one" :value="one">{{ one }}</option>
      </select></span
    >
  </div>
</template>

<style scoped>
.controls {
  display: flex;
  flex-wrap: wrap;
  gap: 3px 12px;
  align-items: center;
  padding: 6px 8px;
  background: var(--sheet);
  border-top: 1px solid var(--line);
  font-size: 12px;
}
.controls label,
fieldset,
.still {
  display: flex;
  gap: 4px;
  align-items: center;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  gap: 10px;
  flex-wrap: wrap;
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
