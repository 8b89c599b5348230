<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import Listbox from "primevue/listbox";
import { computed, ref } from "vue";

import type { TextureMap, TextureSet } from "@/api/types";
import { t } from "@/texts/set";

/** Which other sets get the steps of this map, as one change that can be undone. */
const props = defineProps<{ map: TextureMap; sets: TextureSet[]; role: string }>();
const emit = defineEmits<{ copy: [sets: number[]] }>();
const shown = defineModel<boolean>("shown", { required: true });
const chosen = ref<number[]>([]);
const SEARCHED = 12;
const fitting = computed(() =>
  props.sets.filter(
    (one) => one.id !== props.map.set && one.maps.some((map) => map.role === props.map.role && map.in_use),
  ),
);

function copy(): void {
  emit("copy", chosen.value);
  shown.value = false;
}
</script>

<template>
  <Dialog v-model:visible="shown" modal :header="t('copyTheseStepsToOtherSets')" :style="{ width: '420px' }">
    <p class="soft">{{ t("theyReplaceTheStepsOfThe", { role: role.toLowerCase() }) }}</p>
    <p v-if="!fitting.length">{{ t("noOtherSetHasSuchA") }}</p>
    <Listbox
      v-else
      v-model="chosen"
      :options="fitting"
      option-label="name"
      option-value="id"
      multiple
      checkmark
      :meta-key-selection="false"
      :filter="fitting.length > SEARCHED"
      list-style="max-height: 320px"
      :aria-label="t('setsThatGetTheSteps')"
    />
    <template #footer>
      <Button text :label="t('selectAll')" @click="chosen = fitting.map((one) => one.id)" />
      <Button :label="t('copyTo1Set', { count: chosen.length })" :disabled="!chosen.length" @click="copy" />
    </template>
  </Dialog>
</template>
