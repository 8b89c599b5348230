<script setup lang="ts">
import { useRouter } from "vue-router";
import Button from "primevue/button";

import ScreenHead from "@/parts/ScreenHead.vue";
import { t } from "@/texts/start";

import { GLOSSARY } from "./glossary";

/** The few words of our own, and those of the trade that newcomers ask about. */
const router = useRouter();
</script>

<template>
  <main class="screen">
    <ScreenHead :title="t('glossary')" state="Words of this tool, and words of the trade that it uses">
      <template #actions>
        <Button
          outlined
          severity="secondary"
          icon="pi pi-arrow-left"
          :label="t('back')"
          @click="router.back()"
        />
      </template>
    </ScreenHead>
    <div class="scroll" tabindex="0" role="region" :aria-label="t('glossary')">
      <section v-for="group in GLOSSARY" :key="group.title">
        <h2>{{ group.title }}</h2>
        <dl>
          <template v-for="[word, meaning] in group.words" :key="word">
            <dt :id="word.toLowerCase().replaceAll(' ', '-')">{{ word }}</dt>
            <dd>{{ meaning }}</dd>
          </template>
        </dl>
      </section>
    </div>
  </main>
</template>

<style scoped>
section {
  padding: var(--space-4);
  max-width: 800px;
}
dl {
  display: grid;
  grid-template-columns: 10rem minmax(0, 1fr);
  gap: var(--space-2) var(--space-4);
}
dt {
  font-weight: 650;
}
dd {
  margin: 0;
}
</style>
