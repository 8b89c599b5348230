<script setup lang="ts">
import Button from "primevue/button";
import Panel from "primevue/panel";
import { computed } from "vue";

import type { Model } from "@/api/models";
import { whenOf } from "@/app/when";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import TextField from "@/parts/fields/TextField.vue";
import FilePick from "@/parts/FilePick.vue";
import { t } from "@/texts/models";

import { count, metres } from "./wearing";

/** The file of a model: parts that can be hidden, size and scale, versions. */
const props = defineProps<{ model: Model; mayChange: boolean }>();
const emit = defineEmits<{
  rename: [name: string];
  scale: [metres: number];
  again: [files: { path: string; file: File }[]];
  back: [number: number];
  textures: [];
  remove: [];
}>();
const hidden = defineModel<string[]>("hidden", { required: true });
const UNITS = [
  { value: 1, label: t("metre") },
  { value: 0.1, label: t("decimetre") },
  { value: 0.01, label: t("centimetre") },
  { value: 0.001, label: t("millimetre") },
  { value: 0.3048, label: t("foot") },
  { value: 0.0254, label: t("inch") },
];
const units = computed(() =>
  UNITS.some((one) => one.value === props.model.metres)
    ? UNITS
    : [...UNITS, { value: props.model.metres, label: metres(props.model.metres) }],
);
const hasTextures = computed(() => props.model.slots_out.some((one) => one.textures.length > 0));
const size = computed(() => props.model.size.map((one) => metres(one)).join(" x "));
function show(part: string, shown: boolean): void {
  hidden.value = shown ? hidden.value.filter((one) => one !== part) : [...hidden.value, part];
}
const picked = (files: File[]) =>
  emit(
    "again",
    files.map((file) => ({ path: file.name, file })),
  );
</script>

<template>
  <Panel :header="t('partsCount', { count: model.parts.length })" toggleable class="panel">
    <ul class="parts">
      <li v-for="one in model.parts" :key="one.name" class="row">
        <CheckField
          :model-value="!hidden.includes(one.name)"
          :label="one.name"
          @update:model-value="show(one.name, Boolean($event))"
        />
        <span class="grow" />
        <span class="small soft">{{ one.levels.map(count).join(" / ") }}</span>
      </li>
    </ul>
    <p v-if="model.parts.some((one) => one.levels.length > 1)" class="small soft">{{ t("levelsHelp") }}</p>
  </Panel>
  <Panel :header="t('file')" toggleable class="panel">
    <dl class="facts small">
      <dt>{{ t("name") }}</dt>
      <dd>
        <TextField
          :value="model.name"
          :label="t('name')"
          :disabled="!mayChange"
          @change="emit('rename', $event)"
        />
      </dd>
      <dt>{{ t("file") }}</dt>
      <dd class="mono">{{ model.file }}</dd>
      <dt>{{ t("size") }}</dt>
      <dd>{{ size }}</dd>
      <dt>{{ t("oneUnit") }}</dt>
      <dd>
        <ChoiceField
          :model-value="model.metres"
          :options="units"
          :label="t('oneUnit')"
          :disabled="!mayChange"
          @update:model-value="$event && emit('scale', $event)"
        />
      </dd>
      <dt>{{ t("mesh") }}</dt>
      <dd>
        {{ t("trianglesAndPoints", { triangles: count(model.triangles), points: count(model.points) }) }}
      </dd>
    </dl>
    <p v-for="one in model.remarks" :key="one" class="small soft">{{ one }}</p>
    <h3>{{ t("versions") }}</h3>
    <ul class="parts">
      <li v-for="one in model.versions" :key="one.number" class="row small">
        <span>{{ t("versionLine", { number: one.number, by: one.by ?? "" }) }} {{ whenOf(one.at) }}</span>
        <span class="grow" />
        <span v-if="one.is_current" class="soft">{{ t("inUse") }}</span>
        <Button v-else-if="mayChange" text :label="t('useThis')" @click="emit('back', one.number)" />
      </li>
    </ul>
    <div v-if="mayChange" class="row wrap">
      <Button
        v-if="hasTextures"
        outlined
        :label="t('takeInItsTextures')"
        :title="t('takeInItsTexturesHelp')"
        @click="emit('textures')"
      />
      <FilePick :label="t('exportedAgain')" outlined multiple test="again" @files="picked" />
      <Button text severity="danger" :label="t('deleteModel')" @click="emit('remove')" />
    </div>
  </Panel>
</template>

<style scoped>
.panel {
  margin-top: var(--space-2);
}
.parts {
  list-style: none;
  margin: 0;
  padding: 0;
}
.wrap {
  flex-wrap: wrap;
}
.facts {
  display: grid;
  grid-template-columns: max-content minmax(0, 1fr);
  gap: 2px var(--space-3);
  align-items: center;
  margin: 0;
}
.facts dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.facts dt {
  color: var(--ink-soft);
}
</style>
