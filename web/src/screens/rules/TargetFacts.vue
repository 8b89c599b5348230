<script setup lang="ts">
import type { TargetDocument } from "@/api/rules";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import NumberField from "@/parts/fields/NumberField.vue";
import TextField from "@/parts/fields/TextField.vue";

/** What holds for a whole target: green's direction, names, sizes, budgets. */
const props = defineProps<{ document: TargetDocument; mayChange: boolean }>();
const emit = defineEmits<{ set: [change: Partial<TargetDocument>] }>();

const GREEN: { value: TargetDocument["green"]; label: string }[] = [
  { value: "up", label: "Up, Y+" },
  { value: "down", label: "Down, Y-" },
];
const CASES: { value: NonNullable<TargetDocument["names"]["case"]>; label: string }[] = [
  { value: "keep", label: "Unchanged" },
  { value: "lower", label: "lower case" },
  { value: "snake", label: "snake_case" },
  { value: "pascal", label: "PascalCase" },
];
const BUDGETS: ["memory_mib" | "set_mib" | "density", string, string][] = [
  ["memory_mib", "Memory of all sets", "MiB"],
  ["set_mib", "Memory of one set", "MiB"],
  ["density", "Texel density", "texels/m"],
];
const names = (change: Partial<TargetDocument["names"]>) =>
  emit("set", { names: { ...props.document.names, ...change } });
function budget(key: (typeof BUDGETS)[number][0], value: number | null): void {
  const next = { ...props.document.budget, [key]: value ?? undefined };
  const told = Object.fromEntries(Object.entries(next).filter(([, one]) => one !== undefined));
  emit("set", { budget: Object.keys(told).length ? told : undefined });
}
</script>

<template>
  <div class="facts">
    <div class="fields">
      <span>Title</span>
      <TextField
        label="Title"
        :value="document.title"
        :disabled="!mayChange"
        @change="emit('set', { title: $event || undefined })"
      />
      <span>File name</span>
      <TextField
        mono
        label="File name"
        :value="document.names.pattern"
        :disabled="!mayChange"
        @change="names({ pattern: $event })"
      />
      <span>Folder</span>
      <TextField
        mono
        label="Folder"
        :value="document.names.folder"
        :disabled="!mayChange"
        @change="names({ folder: $event })"
      />
      <span>Case</span>
      <ChoiceField
        label="Case"
        :model-value="document.names.case ?? 'keep'"
        :options="CASES"
        :disabled="!mayChange"
        @update:model-value="$event && names({ case: $event })"
      />
    </div>
    <div class="fields">
      <span>Green of normal maps</span>
      <ChoiceField
        label="Green of normal maps"
        :model-value="document.green"
        :options="GREEN"
        :disabled="!mayChange"
        @update:model-value="$event && emit('set', { green: $event })"
      />
      <span>Longest side</span>
      <NumberField
        label="Longest side"
        :value="document.largest"
        :min="1"
        :max="16384"
        :digits="0"
        optional
        unit="texels"
        placeholder="any"
        :disabled="!mayChange"
        @change="emit('set', { largest: $event ?? undefined })"
      />
      <span>glTF material</span>
      <CheckField
        label="Written beside the maps"
        :model-value="document.material !== null"
        :disabled="!mayChange"
        @update:model-value="emit('set', { material: $event ? 'gltf' : null })"
      />
    </div>
    <div class="fields">
      <template v-for="[key, label, unit] in BUDGETS" :key="key">
        <span>{{ label }}</span>
        <NumberField
          :label="label"
          :value="document.budget?.[key]"
          :min="0"
          :digits="2"
          optional
          :unit="unit"
          placeholder="no limit"
          :disabled="!mayChange"
          @change="budget(key, $event)"
        />
      </template>
    </div>
  </div>
</template>

<style scoped>
.facts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(17rem, 1fr));
  gap: var(--space-3) var(--space-5);
  align-items: start;
}
.facts :deep(.number-field) {
  width: 9.5rem;
}
</style>
