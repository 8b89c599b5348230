<script setup lang="ts">
import Button from "primevue/button";

import CheckField from "@/parts/fields/CheckField.vue";
import { t } from "@/texts/deliveries";

/** Which casts or models go along, as files of the target's formats. */
defineProps<{ title: string; things: { id: number; name: string }[] }>();
const going = defineModel<number[]>({ required: true });
</script>

<template>
  <section :aria-label="title">
    <div class="row">
      <h2>{{ title }}</h2>
      <span class="grow" />
      <Button
        text
        :label="t('all')"
        :title="t('selectAll', { title })"
        @click="going = things.map((one) => one.id)"
      />
      <Button text :label="t('none')" :title="t('selectNone', { title })" @click="going = []" />
    </div>
    <CheckField v-for="one in things" :key="one.id" v-model="going" :of="one.id" :label="one.name" />
  </section>
</template>

<style scoped>
section {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
}
</style>
