<script setup lang="ts">
import Button from "primevue/button";

import CheckField from "@/parts/fields/CheckField.vue";
import { t } from "@/texts/deliveries";

/** Which casts go along, as material files of the target's formats. */
defineProps<{ casts: { id: number; name: string }[] }>();
const going = defineModel<number[]>({ required: true });
</script>

<template>
  <section :aria-label="t('castsToDeliver')">
    <div class="row">
      <h2>{{ t("castsToDeliver") }}</h2>
      <span class="grow" />
      <Button
        text
        :label="t('all')"
        :title="t('selectAllCasts')"
        @click="going = casts.map((one) => one.id)"
      />
      <Button text :label="t('none')" :title="t('selectNoCast')" @click="going = []" />
    </div>
    <CheckField v-for="one in casts" :key="one.id" v-model="going" :of="one.id" :label="one.name" />
  </section>
</template>

<style scoped>
section {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
}
</style>
