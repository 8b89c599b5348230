<script setup lang="ts">
import { computed } from "vue";

import type { TargetDocument } from "@/api/rules";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import NumberField from "@/parts/fields/NumberField.vue";
import TextField from "@/parts/fields/TextField.vue";
import { t } from "@/texts/rules";

/** What holds for a whole target: green's direction, names, sizes, budgets. */
const props = defineProps<{ document: TargetDocument; mayChange: boolean }>();
const emit = defineEmits<{ set: [change: Partial<TargetDocument>] }>();

const GREEN: { value: TargetDocument["green"]; label: string }[] = [
  { value: "up", label: t("upY") },
  { value: "down", label: t("downY") },
];
const CASES: { value: NonNullable<TargetDocument["names"]["case"]>; label: string }[] = [
  { value: "keep", label: t("unchanged2") },
  { value: "lower", label: t("lowerCase") },
  { value: "snake", label: t("snakeCase") },
  { value: "pascal", label: t("pascalcase") },
];
const BUDGETS: ["memory_mib" | "set_mib" | "density", string, string][] = [
  ["memory_mib", t("memoryOfAllSets"), "MiB"],
  ["set_mib", t("memoryOfOneSet"), "MiB"],
  ["density", t("texelDensity"), "texels/m"],
];
const REFUSED: { value: NonNullable<TargetDocument["refuses"]> | ""; label: string }[] = [
  { value: "", label: t("areDelivered") },
  { value: "error", label: t("areKeptOutByErrors") },
  { value: "warning", label: t("areKeptOutByWarnings") },
];
const refuse = (chosen: string) =>
  emit("set", { refuses: REFUSED.find((one) => one.value === chosen)?.value || undefined });
type CastForm = NonNullable<TargetDocument["casts"]>[number];
const CASTS: { value: CastForm; label: string }[] = [
  { value: "glb", label: "glTF" },
  { value: "mtlx", label: "MaterialX" },
  { value: "usdz", label: "OpenUSD" },
];
const casts = computed<CastForm[]>(() => props.document.casts ?? ["glb"]);
const toggled = <T,>(all: T[], one: T): T[] =>
  all.includes(one) ? all.filter((each) => each !== one) : [...all, one];
type ModelForm = NonNullable<TargetDocument["models"]>[number];
const MODELS: { value: ModelForm; label: string }[] = [
  { value: "glb", label: "glTF" },
  { value: "usdz", label: "OpenUSD" },
];
const COLOURS = [
  { value: "layers" as const, label: t("attributeOfOurOwn") },
  { value: "color" as const, label: t("formatsVertexColours") },
];
const models = computed<ModelForm[]>(() => props.document.models ?? ["glb"]);
const isLastModelForm = (form: ModelForm) => models.value.length === 1 && models.value[0] === form;
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
      <span>{{ t("title") }}</span>
      <TextField
        :label="t('title')"
        :value="document.title"
        :disabled="!mayChange"
        @change="emit('set', { title: $event || undefined })"
      />
      <span>{{ t("fileName") }}</span>
      <TextField
        mono
        :label="t('fileName')"
        :value="document.names.pattern"
        :disabled="!mayChange"
        @change="names({ pattern: $event })"
      />
      <span>{{ t("folder") }}</span>
      <TextField
        mono
        :label="t('folder')"
        :value="document.names.folder"
        :disabled="!mayChange"
        @change="names({ folder: $event })"
      />
      <span>{{ t("case") }}</span>
      <ChoiceField
        :label="t('case')"
        :model-value="document.names.case ?? 'keep'"
        :options="CASES"
        :disabled="!mayChange"
        @update:model-value="$event && names({ case: $event })"
      />
    </div>
    <div class="fields">
      <span>{{ t("greenOfNormalMaps") }}</span>
      <ChoiceField
        :label="t('greenOfNormalMaps')"
        :model-value="document.green"
        :options="GREEN"
        :disabled="!mayChange"
        @update:model-value="$event && emit('set', { green: $event })"
      />
      <span>{{ t("longestSide") }}</span>
      <NumberField
        :label="t('longestSide')"
        :value="document.largest"
        :min="1"
        :max="16384"
        :digits="0"
        optional
        unit="texels"
        :placeholder="t('any')"
        :disabled="!mayChange"
        @change="emit('set', { largest: $event ?? undefined })"
      />
      <span>{{ t("gltfMaterial") }}</span>
      <CheckField
        :label="t('writtenBesideTheMaps')"
        :model-value="document.material !== null"
        :disabled="!mayChange"
        @update:model-value="emit('set', { material: $event ? 'gltf' : null })"
      />
    </div>
    <div class="fields">
      <span>{{ t("setsWithFindings") }}</span>
      <ChoiceField
        :label="t('setsWithFindings')"
        :model-value="document.refuses ?? ''"
        :options="REFUSED"
        :disabled="!mayChange"
        @update:model-value="refuse($event ?? '')"
      />
      <span>{{ t("formatsOfCasts") }}</span>
      <span class="row">
        <CheckField
          v-for="one in CASTS"
          :key="one.value"
          :label="one.label"
          :model-value="casts.includes(one.value)"
          :disabled="!mayChange"
          @update:model-value="emit('set', { casts: toggled(casts, one.value) })"
        />
      </span>
      <span>{{ t("formatsOfModels") }}</span>
      <span class="row">
        <CheckField
          v-for="one in MODELS"
          :key="one.value"
          :label="one.label"
          :model-value="models.includes(one.value)"
          :disabled="!mayChange || isLastModelForm(one.value)"
          :data-test="`models-as-${one.value}`"
          @update:model-value="emit('set', { models: toggled(models, one.value) })"
        />
      </span>
      <span :title="t('vertexColoursHelp')">{{ t("vertexColoursAs") }}</span>
      <ChoiceField
        :label="t('vertexColoursAs')"
        :model-value="document.vertex_colours ?? 'layers'"
        :options="COLOURS"
        :disabled="!mayChange"
        @update:model-value="emit('set', { vertex_colours: $event === 'color' ? 'color' : undefined })"
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
          :placeholder="t('noLimit')"
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
  grid-template-columns: repeat(auto-fit, minmax(20rem, 1fr));
  gap: var(--space-3) var(--space-5);
  align-items: start;
}
.facts :deep(.number-field) {
  width: 9.5rem;
}
</style>
