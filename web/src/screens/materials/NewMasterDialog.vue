<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import InputText from "primevue/inputtext";
import Listbox from "primevue/listbox";
import { computed, ref, useId, watch } from "vue";

import { useReadyMasters } from "@/api/materials";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/materials";

/** A new master: what it begins as, and its name. The name follows what is chosen until somebody writes one. */
const emit = defineEmits<{ make: [name: string, ready: string]; cancel: [] }>();
/** What is chosen at first; no ready-made master has this name. */
const PLAIN = ".plain";
const ready = useReadyMasters();
const options = computed(() => [
  { name: PLAIN, title: t("plainSurface"), help: t("plainSurfaceHelp"), cost: null },
  ...(ready.data.value ?? []),
]);
const chosen = ref(PLAIN);
const name = ref("");
const written = ref(false);
const id = useId();
watch(chosen, (now) => {
  if (!written.value)
    name.value = now !== PLAIN ? (options.value.find((one) => one.name === now)?.title ?? "") : "";
});
function done(): void {
  if (name.value.trim()) emit("make", name.value.trim(), chosen.value === PLAIN ? "" : chosen.value);
}
</script>

<template>
  <Dialog
    :visible="true"
    modal
    :header="t('newMaster')"
    :style="{ width: '46rem' }"
    @update:visible="emit('cancel')"
  >
    <form @submit.prevent="done">
      <span :id="`${id}-list`">{{ t("beginsAs") }}</span>
      <StateView :query="ready" :rows="8" height="3rem">
        <Listbox
          v-model="chosen"
          :options="options"
          option-value="name"
          option-label="title"
          filter
          :filter-placeholder="t('searchReadyMasters')"
          :filter-fields="['title', 'help']"
          scroll-height="20rem"
          :aria-labelledby="`${id}-list`"
          data-test="ready"
        >
          <template #option="{ option }">
            <span class="option" :data-ready="option.name">
              <b>{{ option.title }}</b>
              <span class="soft">{{ option.help }}</span>
              <span v-if="option.cost" class="soft number">{{
                t("readsAndSteps", { reads: option.cost.reads, steps: option.cost.arithmetic })
              }}</span>
            </span>
          </template>
        </Listbox>
      </StateView>
      <label :for="id">{{ t("titleOfTheMaster") }}</label>
      <InputText :id="id" v-model="name" autofocus fluid maxlength="80" @input="written = true" />
      <div class="row">
        <Button type="submit" :label="t('make')" :disabled="!name.trim()" />
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
.option {
  display: grid;
  grid-template-columns: 13rem 1fr auto;
  gap: var(--space-3);
  width: 100%;
  white-space: normal;
}
.number {
  font-variant-numeric: tabular-nums;
  white-space: nowrap;
}
</style>
