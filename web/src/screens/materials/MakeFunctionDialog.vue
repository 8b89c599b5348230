<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import InputText from "primevue/inputtext";
import { computed, ref, useId, watch } from "vue";

import type { DrawnOut } from "@/api/functions";
import type { Operation, SheetRow } from "@/api/materials";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { t } from "@/texts/materials";

import type { Wanted } from "./useSheetFunctions";
import { takesWords } from "./takes";

/** Makes a function of a row's steps: which of them, what it then takes, and which rows will call it. */
const props = defineProps<{
  row: SheetRow;
  operations: Operation[];
  tried: (wanted: Wanted) => Promise<DrawnOut>;
  busy: boolean;
}>();
const emit = defineEmits<{ make: [drawn: DrawnOut]; cancel: [] }>();
const title = ref("");
const first = ref(0);
const last = ref(props.row.chain.steps.length - 1);
const numbers = ref(false);
const drawn = ref<DrawnOut | null>(null);
const refused = ref("");
const id = useId();
const steps = computed(() =>
  props.row.chain.steps.map((one, at) => ({
    value: at,
    label: `${at + 1}. ${props.operations.find((each) => each.name === one.step)?.label ?? t("channels")}`,
  })),
);
const rows = computed(() => drawn.value?.rows ?? []);
let asked = 0;
watch(
  [title, first, last, numbers],
  async () => {
    const mine = ++asked;
    drawn.value = null;
    refused.value = "";
    if (!title.value.trim()) return;
    try {
      const wanted = { title: title.value, first: first.value, last: last.value, numbers: numbers.value };
      const made = await props.tried(wanted);
      if (mine === asked) drawn.value = made;
    } catch (error) {
      if (mine === asked) refused.value = (error as Error).message;
    }
  },
  { immediate: true },
);
</script>

<template>
  <Dialog
    :visible="true"
    modal
    :header="t('makeAFunction')"
    :style="{ width: '40rem' }"
    @update:visible="emit('cancel')"
  >
    <form @submit.prevent="drawn && emit('make', drawn)">
      <label :for="id">{{ t("titleOfTheFunction") }}</label>
      <InputText :id="id" v-model="title" autofocus fluid maxlength="60" />
      <div class="row">
        <span>{{ t("firstStep") }}</span>
        <ChoiceField v-model="first" :options="steps" :label="t('firstStep')" />
        <span>{{ t("lastStep") }}</span>
        <ChoiceField v-model="last" :options="steps" :label="t('lastStep')" />
      </div>
      <CheckField v-model="numbers" :label="t('numbersBecomeInputs')" />
      <p v-if="refused" class="error" role="alert">{{ refused }}</p>
      <div v-if="drawn" class="made" data-test="drawn">
        <span class="soft">{{ t("itTakes") }}</span>
        <ul>
          <li v-for="one in drawn.function.inputs" :key="one.name">
            <span class="mono">{{ one.name }}</span> <span class="soft">{{ takesWords(one.takes) }}</span>
          </li>
        </ul>
        <span class="soft">{{ t("itGives") }}</span>
        <span class="mono">{{ drawn.function.result }}</span>
        <span />
        <span>{{ t("calledInRows", { count: rows.length, rows: rows.join(", ") }) }}</span>
      </div>
      <div class="row">
        <Button type="submit" :label="t('make')" :disabled="!drawn || busy" />
        <Button text severity="secondary" :label="t('cancel')" @click="emit('cancel')" />
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
form {
  display: grid;
  gap: var(--space-2);
}
.made {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: var(--space-1) var(--space-3);
}
ul {
  list-style: none;
  padding: 0;
  margin: 0;
}
</style>
