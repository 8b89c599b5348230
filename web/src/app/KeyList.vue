<script setup lang="ts">
import Dialog from "primevue/dialog";

import { t } from "@/texts/app";

import { keyGroups } from "./keys";

/** Every key that does something on the screen now shown. */
const open = defineModel<boolean>("open", { required: true });
</script>

<template>
  <Dialog v-model:visible="open" :header="t('keys')" modal dismissable-mask :style="{ width: '34rem' }">
    <section v-for="group in keyGroups" :key="group.title">
      <h3>{{ group.title }}</h3>
      <dl>
        <template v-for="key in group.keys" :key="key.key">
          <dt>
            <kbd v-for="one in (key.shown ?? key.key).split(' ')" :key="one">{{
              one.replace("Arrow", "")
            }}</kbd>
          </dt>
          <dd>{{ key.does }}</dd>
        </template>
      </dl>
    </section>
  </Dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 12rem 1fr;
  gap: 4px 12px;
  margin: 6px 0 14px;
}
dt {
  display: flex;
  gap: 4px;
  flex-wrap: wrap;
}
dd {
  margin: 0;
}
</style>
