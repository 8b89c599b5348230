<script setup lang="ts">
import { computed } from "vue";

import { useCatalogue } from "@/api/queries";
import type { NamesDocument } from "@/api/rules";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import NumberField from "@/parts/fields/NumberField.vue";
import type { Option } from "@/parts/fields/options";
import PickAction from "@/parts/fields/PickAction.vue";
import TextField from "@/parts/fields/TextField.vue";
import { t } from "@/texts/rules";

import NamePartCard from "./NamePartCard.vue";

/** What a name is made of: its parts in order, how they are joined and written, the suffix of each role. */
const props = defineProps<{ document: NamesDocument; mayChange: boolean }>();
const emit = defineEmits<{ set: [change: Partial<NamesDocument>] }>();
type Part = NamesDocument["parts"][number];

const SEPARATORS: NonNullable<NamesDocument["separator"]>[] = ["_", "-", "."];
const CASES: Option<NonNullable<NamesDocument["case"]>>[] = [
  { value: "lower", label: t("lowerCase") },
  { value: "pascal", label: t("pascalcase") },
  { value: "camel", label: t("camelcase") },
  { value: "upper", label: t("upperCase") },
  { value: "keep", label: t("unchanged2") },
];
const RESOLUTIONS: NonNullable<NamesDocument["resolution"]>[] = ["2k", "2K", "2048"];
const catalogue = useCatalogue();
const parts = computed(() => props.document.parts);
const left = computed(() =>
  (catalogue.data.value?.name_parts ?? []).filter(
    (kind) => kind === "text" || !parts.value.some((one) => one.part === kind),
  ),
);

function change(index: number, next: Part): void {
  emit("set", { parts: parts.value.map((one, at) => (at === index ? next : one)) });
}
function move(index: number, by: number): void {
  const next = [...parts.value];
  const [one] = next.splice(index, 1);
  next.splice(Math.max(0, Math.min(next.length, index + by)), 0, one!);
  emit("set", { parts: next });
}
function add(kind: string): void {
  const made = (
    kind === "text" ? { part: kind, text: "x" } : { part: kind, optional: kind !== "suffix" }
  ) as Part;
  emit("set", { parts: kind === "text" ? [made, ...parts.value] : [...parts.value, made] });
}
function suffix(role: string, value: string): void {
  const next = { ...props.document.suffixes };
  if (value.trim()) next[role] = value.trim();
  else delete next[role];
  emit("set", { suffixes: next });
}
function addSuffix(text: string): void {
  const word = text.trim().toLowerCase();
  if (word) suffix(word, word);
}
</script>

<template>
  <div class="parts">
    <ol :aria-label="t('partsOfAName')">
      <li v-for="(one, index) in parts" :key="index">
        <NamePartCard
          :part="one"
          :first="index === 0"
          :last="index === parts.length - 1"
          :may-change="mayChange"
          @change="change(index, $event)"
          @move="move(index, $event)"
          @remove="emit('set', { parts: parts.filter((_, at) => at !== index) })"
        />
      </li>
      <li v-if="mayChange && left.length">
        <PickAction :options="left" :label="t('addAPart')" @pick="add" />
      </li>
    </ol>
    <div class="fields how">
      <span>{{ t("betweenParts") }}</span>
      <ChoiceField
        :model-value="document.separator ?? '_'"
        :options="SEPARATORS"
        :label="t('betweenParts')"
        :disabled="!mayChange"
        @update:model-value="$event && emit('set', { separator: $event })"
      />
      <span>{{ t("case") }}</span>
      <ChoiceField
        :model-value="document.case ?? 'lower'"
        :options="CASES"
        :label="t('case')"
        :disabled="!mayChange"
        @update:model-value="$event && emit('set', { case: $event })"
      />
      <span>{{ t("n2048TexelsAreWritten") }}</span>
      <ChoiceField
        :model-value="document.resolution ?? '2k'"
        :options="RESOLUTIONS"
        :label="t('n2048TexelsAreWritten')"
        :disabled="!mayChange"
        @update:model-value="$event && emit('set', { resolution: $event })"
      />
      <span>{{ t("maximumLength") }}</span>
      <NumberField
        :value="document.longest ?? 64"
        :min="8"
        :max="200"
        :digits="0"
        :label="t('maximumLength')"
        :disabled="!mayChange"
        @change="$event !== null && emit('set', { longest: $event })"
      />
      <span>{{ t("folder") }}</span>
      <TextField
        mono
        :value="document.folder"
        :label="t('folder')"
        :placeholder="t('unchanged')"
        :disabled="!mayChange"
        @change="emit('set', { folder: $event || null })"
      />
    </div>
    <h2>{{ t("suffixes") }}</h2>
    <div class="suffixes">
      <template v-for="(value, role) in document.suffixes" :key="role">
        <span>{{ String(role).replaceAll("_", " ") }}</span>
        <TextField
          mono
          :value="value"
          :label="t('suffixOf', { String: String(role).replaceAll('_', ' ') })"
          :disabled="!mayChange"
          @change="suffix(String(role), $event)"
        />
      </template>
      <template v-if="mayChange">
        <span class="soft">{{ t("anotherRoleOrPacking") }}</span>
        <TextField
          mono
          value=""
          clears
          :placeholder="t('ard')"
          :label="t('anotherRoleOrPacking')"
          @change="addSuffix"
        />
      </template>
    </div>
  </div>
</template>

<style scoped>
.parts {
  display: grid;
  gap: var(--space-3);
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
  align-items: center;
}
.how {
  max-width: 24rem;
}
.suffixes {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(6rem, 1fr) 6rem);
  gap: var(--space-1) var(--space-3);
  align-items: center;
}
.suffixes :deep(.p-inputtext) {
  width: 100%;
}
</style>
