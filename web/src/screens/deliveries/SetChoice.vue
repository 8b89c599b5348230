<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import { computed, ref } from "vue";

import type { TextureSet } from "@/api/types";
import CheckField from "@/parts/fields/CheckField.vue";
import Mark from "@/parts/Mark.vue";
import { stateOf } from "@/screens/sets/matrix";
import { t } from "@/texts/deliveries";

/** Which sets go, each with how it stands. */
const props = defineProps<{ sets: TextureSet[] }>();
const going = defineModel<number[]>({ required: true });
const SEARCHED = 12;
const words = ref("");
const shown = computed(() =>
  props.sets.filter((one) => one.name.toLowerCase().includes(words.value.trim().toLowerCase())),
);
const chosen = computed(() => new Set(going.value));
function toggle(id: number): void {
  going.value = chosen.value.has(id) ? going.value.filter((one) => one !== id) : [...going.value, id];
}
</script>

<template>
  <section :aria-label="t('setsToDeliver')">
    <div class="row">
      <h2>{{ t("setsToDeliver") }}</h2>
      <span class="grow" />
      <Button text :label="t('all')" :title="t('selectAll')" @click="going = sets.map((one) => one.id)" />
      <Button text :label="t('none')" :title="t('selectNone')" @click="going = []" />
    </div>
    <InputText
      v-if="sets.length > SEARCHED"
      v-model="words"
      :placeholder="t('findASet')"
      :aria-label="t('findASet')"
    />
    <div v-for="one in shown" :key="one.id" class="set">
      <CheckField :model-value="chosen.has(one.id)" :label="one.name" @update:model-value="toggle(one.id)" />
      <Mark :severity="stateOf(one)" />
    </div>
  </section>
</template>

<style scoped>
section {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
}
.set {
  display: flex;
  justify-content: space-between;
  gap: var(--space-2);
  align-items: center;
  overflow-wrap: anywhere;
}
</style>
