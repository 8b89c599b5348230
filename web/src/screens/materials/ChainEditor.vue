<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";

import {
  type Chain,
  type Operation,
  type Problem,
  type Sheet,
  type SheetRow,
  textOfChain,
} from "@/api/materials";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import PickAction from "@/parts/fields/PickAction.vue";
import TextField from "@/parts/fields/TextField.vue";
import { t } from "@/texts/materials";

import { useSheetCatalogue } from "@/api/materials";

import CurveField from "./CurveField.vue";
import ExpressionField from "./ExpressionField.vue";
import { newLink, startsOf } from "./chains";
import { isDrawn } from "./curves";
import { useSheetFunctions } from "./useSheetFunctions";

/** A row written: as an expression, or step by step. Both are one thing; the server keeps them the same. */
const props = defineProps<{
  row: SheetRow;
  sheet: Sheet;
  operations: Operation[];
  problem: Problem | null;
  /** A row that cannot be taken out. */
  kept?: boolean;
}>();
const functions = useSheetFunctions();
const emit = defineEmits<{ write: [text: string]; drop: [] }>();
const refused = ref("");
const catalogue = useSheetCatalogue();
const starts = computed(() => {
  const places = catalogue.data.value?.starts ?? [];
  const told = new Map(places.map((one) => [one.name, `${one.label}: ${one.help}`]));
  return startsOf(props.sheet, props.row, places).map((one) => ({
    value: one,
    label: one,
    help: told.get(one.split(".")[0]!),
  }));
});
const slots = computed(() => props.sheet.slots.map((one) => ({ value: one.name, label: one.title })));
const takesMap = (step: string, index: number) => operationOf(step)?.maps.includes(index + 1) ?? false;
const addable = computed(() => [...props.operations, ...(functions?.offered.value ?? [])]);
const offered = computed(() =>
  [...new Set(addable.value.map((one) => one.group))].map((group) => ({
    group,
    options: addable.value
      .filter((one) => one.group === group)
      .map((one) => ({ value: one.name, label: one.label, help: one.help })),
  })),
);
const operationOf = (step: string) => props.operations.find((one) => one.name === step);
function argumentOf(step: string, index: number): string {
  const operation = operationOf(step);
  const names = operation?.arguments.slice(1) ?? [];
  return (names[index] ?? names[names.length - 1] ?? "and").replaceAll("_", " ");
}

async function change(edit: (chain: Chain) => void): Promise<void> {
  const chain = JSON.parse(JSON.stringify(props.row.chain)) as Chain;
  edit(chain);
  try {
    const documents = functions?.documents.value ?? props.sheet.functions.map((one) => one.document);
    emit("write", await textOfChain(chain, documents));
    refused.value = "";
  } catch (error) {
    refused.value = (error as Error).message;
  }
}
function add(step: string): void {
  const operation = operationOf(step);
  if (operation) void change((chain) => chain.steps.push(newLink(operation, props.sheet)));
  else void bring(step);
}
/** A step of a function that the sheet does not carry yet. */
async function bring(step: string): Promise<void> {
  try {
    await functions?.call(props.row, props.row.chain, step);
    refused.value = "";
  } catch (error) {
    refused.value = (error as Error).message;
  }
}
</script>

<template>
  <div class="editor">
    <ExpressionField :row="row" :problem="problem" @write="emit('write', $event)" />
    <p v-if="refused" class="error" role="alert">{{ refused }}</p>
    <ol>
      <li>
        <span class="soft">{{ t("startsWith") }}</span>
        <ChoiceField
          :model-value="row.chain.start"
          :options="starts"
          :label="t('startOf', { label: row.label })"
          @update:model-value="change((chain) => (chain.start = $event ?? chain.start))"
        />
      </li>
      <li v-for="(link, at) in row.chain.steps" :key="at">
        <b>{{ operationOf(link.step)?.label ?? t("channels") }}</b>
        <TextField
          v-if="link.letters"
          :value="link.letters"
          :label="t('channels')"
          mono
          class="short"
          @change="change((chain) => (chain.steps[at]!.letters = $event))"
        />
        <CurveField
          v-if="link.step === 'curve' && isDrawn(link.others ?? [])"
          :points="link.others!"
          :label="t('pointsOfTheCurve', { label: row.label })"
          @change="change((chain) => (chain.steps[at]!.others = $event))"
        />
        <label v-for="(other, index) in link.others" v-else :key="index" class="row"
          ><span class="soft">{{ argumentOf(link.step, index) }}</span>
          <ChoiceField
            v-if="takesMap(link.step, index)"
            :model-value="other"
            :options="slots"
            :label="argumentOf(link.step, index)"
            @update:model-value="change((chain) => (chain.steps[at]!.others![index] = $event ?? other))" />
          <TextField
            v-else
            :value="other"
            mono
            class="short"
            @change="change((chain) => (chain.steps[at]!.others![index] = $event))"
        /></label>
        <span class="grow" />
        <Button
          v-if="at > 0"
          text
          severity="secondary"
          icon="pi pi-arrow-up"
          :aria-label="t('moveUp')"
          :title="t('moveUp')"
          @click="change((chain) => chain.steps.splice(at - 1, 0, ...chain.steps.splice(at, 1)))"
        />
        <Button
          text
          severity="secondary"
          icon="pi pi-times"
          :aria-label="t('removeThisStep')"
          :title="t('removeThisStep')"
          @click="change((chain) => chain.steps.splice(at, 1))"
        />
      </li>
      <li>
        <PickAction :label="t('addAStep')" :options="offered" @pick="add" />
        <Button
          v-if="functions && row.chain.steps.length"
          text
          severity="secondary"
          :label="t('makeAFunctionShort')"
          :title="t('makeAFunction')"
          @click="functions.making.value = row"
        />
        <span class="grow" />
        <Button
          v-if="!kept"
          text
          severity="danger"
          :label="row.is_input ? t('remove', { label: row.label }) : t('removeThisRow')"
          @click="emit('drop')"
        />
      </li>
    </ol>
  </div>
</template>

<style scoped>
.editor {
  padding: 6px 8px;
  border-left: 2px solid var(--accent);
  margin: 4px 0;
}
ol {
  list-style: none;
  padding: 0;
  margin: 6px 0 0;
  display: grid;
  gap: 4px;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.short {
  width: 120px;
}
</style>
