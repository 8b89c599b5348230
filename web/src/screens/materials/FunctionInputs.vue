<script setup lang="ts">
import Button from "primevue/button";

import type { FunctionDocument, FunctionInput } from "@/api/functions";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import TextField from "@/parts/fields/TextField.vue";
import { t } from "@/texts/materials";

import { TAKES, takesWords } from "./takes";

/** The inputs of a function: their names, what each takes, and what a new step has for it. */
defineProps<{ document: FunctionDocument; mayWrite: boolean }>();
const emit = defineEmits<{ change: [edit: (document: FunctionDocument) => void] }>();
const edit = (at: number, change: (input: FunctionInput) => void) =>
  emit("change", (edited) => change(edited.inputs[at]!));
function add(typed: string): void {
  const name = typed.trim();
  if (name) emit("change", (edited) => edited.inputs.push({ name, takes: "number" }));
}
const remove = (at: number) => emit("change", (edited) => edited.inputs.splice(at, 1));
const moveUp = (at: number) =>
  emit("change", (edited) => edited.inputs.splice(at - 1, 0, ...edited.inputs.splice(at, 1)));
</script>

<template>
  <section role="group" :aria-label="t('inputsOfTheFunction')">
    <div class="row">
      <h3>{{ t("inputsOfTheFunction") }}</h3>
      <span class="soft">{{ t("firstInputFlows") }}</span>
    </div>
    <div v-for="(one, at) in document.inputs" :key="one.name" class="input" :data-input="one.name">
      <span class="mono">{{ one.name }}</span>
      <TextField
        :value="one.title ?? ''"
        :disabled="!mayWrite"
        :placeholder="one.name"
        :label="t('titleOf', { name: one.name })"
        :maxlength="60"
        @change="edit(at, (input) => (input.title = $event))"
      />
      <ChoiceField
        v-if="mayWrite"
        :model-value="one.takes"
        :options="TAKES"
        :label="t('whatItTakes', { name: one.name })"
        @update:model-value="edit(at, (input) => (input.takes = $event ?? one.takes))"
      />
      <span v-else>{{ takesWords(one.takes) }}</span>
      <TextField
        v-if="one.takes !== 'map' && at > 0"
        :value="one.default ?? '0'"
        :disabled="!mayWrite"
        mono
        :label="t('beginsWith', { name: one.name })"
        @change="edit(at, (input) => (input.default = $event))"
      />
      <span v-else />
      <span v-if="mayWrite" class="row">
        <Button
          v-if="at > 0"
          text
          severity="secondary"
          icon="pi pi-arrow-up"
          :aria-label="t('moveTheInputUp', { name: one.name })"
          :title="t('moveTheInputUp', { name: one.name })"
          @click="moveUp(at)"
        />
        <Button
          v-if="document.inputs.length > 1"
          text
          severity="secondary"
          icon="pi pi-times"
          :aria-label="t('removeTheInput', { name: one.name })"
          :title="t('removeTheInput', { name: one.name })"
          @click="remove(at)"
        />
      </span>
    </div>
    <TextField
      v-if="mayWrite"
      value=""
      clears
      mono
      :placeholder="t('addAnInputItsName')"
      :label="t('nameOfANewInput')"
      @change="add"
    />
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: var(--space-1);
  justify-items: start;
}
.input {
  display: grid;
  grid-template-columns: 7rem minmax(6rem, 1fr) 14rem 6rem 5rem;
  gap: var(--space-2);
  align-items: center;
  width: 100%;
}
</style>
