<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import InputText from "primevue/inputtext";
import Listbox from "primevue/listbox";
import { computed, ref, useId } from "vue";

import { useReadyMasters } from "@/api/materials";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/materials";

/** A new master: what it begins as, and its name. The name follows what is chosen until somebody writes one. */
const emit = defineEmits<{ make: [name: string, ready: string]; cancel: [] }>();
const ready = useReadyMasters();
const name = ref("");
const written = ref(false);
/** What is chosen; the first one until somebody chooses. */
const picked = ref<string>();
const round = ref(0);
const chosen = computed({
  get: () => picked.value ?? ready.data.value?.[0]?.name,
  set: (now) => {
    // Choosing what is chosen already would leave the list without a choice.
    if (!now) round.value += 1;
    picked.value = now ?? chosen.value;
    if (!written.value) name.value = ready.data.value?.find((one) => one.name === picked.value)?.title ?? "";
  },
});
const id = useId();
function done(): void {
  if (name.value.trim() && chosen.value) emit("make", name.value.trim(), chosen.value);
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
          :key="round"
          v-model="chosen"
          :options="ready.data.value ?? []"
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
              <span class="soft number">{{
                t("readsAndSteps", { reads: option.cost.reads, steps: option.cost.arithmetic })
              }}</span>
            </span>
          </template>
        </Listbox>
      </StateView>
      <label :for="id">{{ t("titleOfTheMaster") }}</label>
      <InputText :id="id" v-model="name" autofocus fluid maxlength="80" @input="written = true" />
      <div class="row">
        <Button type="submit" :label="t('make')" :disabled="!name.trim() || !chosen" />
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
