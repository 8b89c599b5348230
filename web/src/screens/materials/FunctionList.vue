<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import { useFunctions } from "@/api/functions";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/materials";

/** The functions of the library; each opens by its title. words: what titles and help must hold. */
const props = defineProps<{ slug: string; words: string }>();
const emit = defineEmits<{ begin: [] }>();
const functions = useFunctions();
const shown = computed(() =>
  (functions.data.value ?? []).filter((one) =>
    `${one.title} ${one.name} ${one.help}`.toLowerCase().includes(props.words.trim().toLowerCase()),
  ),
);
</script>

<template>
  <section :aria-label="t('functionsOfTheLibrary')">
    <div class="row">
      <h2>{{ t("functions") }}</h2>
      <span class="soft">{{ t("functionsHelp") }}</span>
      <span class="grow" />
      <Button outlined icon="pi pi-plus" :label="t('newFunction')" @click="emit('begin')" />
    </div>
    <StateView :query="functions" :rows="2" height="2rem" :empty="!functions.data.value?.length">
      <template #empty>
        <p class="soft">{{ t("noFunctionYet") }}</p>
      </template>
      <ul>
        <li v-for="one in shown" :key="one.name" :data-function="one.name">
          <RouterLink :to="{ name: 'materials', params: { slug, kind: 'function', key: one.name } }"
            ><b>{{ one.title }}</b></RouterLink
          >
          <span class="mono">{{ one.operation?.example ?? one.name }}</span>
          <span class="soft"
            >{{ one.newest ? t("version", { newest: one.newest }) : t("draft") }},
            {{ t("usedByMasters", { count: one.uses }) }}</span
          >
          <span class="soft">{{ one.help }}</span>
        </li>
      </ul>
    </StateView>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: var(--space-2);
}
ul {
  list-style: none;
  padding: 0;
  margin: 0;
}
li {
  display: grid;
  grid-template-columns: 12rem minmax(12rem, 1fr) 12rem minmax(10rem, 1fr);
  gap: var(--space-3);
  padding: var(--space-1) 0;
  border-top: 1px solid var(--line);
}
</style>
