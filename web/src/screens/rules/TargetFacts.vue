<script setup lang="ts">
import type { TargetDocument } from "@/api/rules";
import { chosen, vTyped } from "@/parts/typed";

/** What holds for a whole target: green's direction, names, sizes, budgets. */
const props = defineProps<{ document: TargetDocument; mayChange: boolean }>();
const emit = defineEmits<{ set: [change: Partial<TargetDocument>] }>();

const text = (event: Event) => (event.target as HTMLInputElement).value;
const number = (event: Event) => Number(text(event)) || undefined;
const names = (change: Partial<TargetDocument["names"]>) =>
  emit("set", { names: { ...props.document.names, ...change } });
function budget(key: "memory_mib" | "set_mib" | "density", event: Event): void {
  const next = { ...props.document.budget, [key]: number(event) };
  const told = Object.fromEntries(Object.entries(next).filter(([, value]) => value !== undefined));
  emit("set", { budget: Object.keys(told).length ? told : undefined });
}
</script>

<template>
  <fieldset class="facts" :disabled="!mayChange">
    <label class="wide"
      >title
      <input v-typed="document.title ?? ''" @change="emit('set', { title: text($event) || undefined })"
    /></label>
    <label
      >green
      <select
        :value="document.green"
        @change="emit('set', { green: text($event) as TargetDocument['green'] })"
      >
        <option value="up">Y+, up</option>
        <option value="down">Y-, down</option>
      </select></label
    >
    <label
      >longest side
      <input
        v-typed="document.largest ?? ''"
        type="number"
        min="1"
        max="16384"
        placeholder="any"
        @change="emit('set', { largest: number($event) })"
      />
      texels</label
    >
    <label
      >name <input v-typed="document.names.pattern" class="mono" @change="names({ pattern: text($event) })"
    /></label>
    <label
      >folder
      <input v-typed="document.names.folder ?? ''" class="mono" @change="names({ folder: text($event) })"
    /></label>
    <label
      >case
      <select :value="document.names.case ?? 'keep'" @change="names({ case: chosen($event) })">
        <option value="keep">as it is</option>
        <option value="lower">lower</option>
        <option value="snake">snake_case</option>
        <option value="pascal">PascalCase</option>
      </select></label
    >
    <label
      >budget
      <input
        v-typed="document.budget?.memory_mib ?? ''"
        type="number"
        min="0"
        placeholder="none"
        aria-label="Memory of all sets, MiB"
        @change="budget('memory_mib', $event)"
      />
      MiB in all</label
    >
    <label>
      <input
        v-typed="document.budget?.set_mib ?? ''"
        type="number"
        min="0"
        placeholder="none"
        aria-label="Memory of one set, MiB"
        @change="budget('set_mib', $event)"
      />
      MiB a set</label
    >
    <label>
      <input
        v-typed="document.budget?.density ?? ''"
        type="number"
        min="0"
        placeholder="any"
        aria-label="Texels per metre"
        @change="budget('density', $event)"
      />
      texels per metre</label
    >
    <label class="check"
      ><input
        type="checkbox"
        :checked="document.material !== null"
        @change="emit('set', { material: ($event.target as HTMLInputElement).checked ? 'gltf' : null })"
      />
      glTF material beside the maps</label
    >
  </fieldset>
</template>

<style scoped>
.facts {
  border: 0;
  margin: 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  align-items: center;
  font-size: 12px;
}
input:not([type="checkbox"]),
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 2px 4px;
}
.wide {
  flex-basis: 100%;
}
.wide input {
  width: min(560px, 80%);
}
input[type="number"] {
  width: 72px;
}
.check {
  display: flex;
  gap: 4px;
}
</style>
