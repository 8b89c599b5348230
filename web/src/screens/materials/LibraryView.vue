<script setup lang="ts">
import InputText from "primevue/inputtext";
import Tag from "primevue/tag";
import { computed, ref } from "vue";

import type { Adoption, useLibrary } from "@/api/materials";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/materials";

import FunctionList from "./FunctionList.vue";
import { useMasterPictures } from "./useMasterPictures";

/** All masters of the studio, as cards with pictures, and its functions below; a card opens the master. */
const props = defineProps<{ slug: string; library: ReturnType<typeof useLibrary>; masters: Adoption[] }>();
const emit = defineEmits<{ begin: [] }>();
const words = ref("");
const shown = computed(() =>
  (props.library.data.value ?? []).filter((one) =>
    `${one.title} ${one.name}`.toLowerCase().includes(words.value.trim().toLowerCase()),
  ),
);
const inUse = computed(() => new Set(props.masters.map((one) => one.master)));
const { pictures, state } = useMasterPictures(() => shown.value.map((one) => one.name));
</script>

<template>
  <section class="scroll library" :aria-label="t('library')">
    <div class="row">
      <h2>{{ t("library") }}</h2>
      <span class="soft">{{ t("mastersThatAllProjectsCanUse") }}</span>
      <span class="grow" />
      <RouterLink class="target" :to="{ name: 'history', params: { slug }, query: { of: 'library' } }">{{
        t("historyOfTheLibrary")
      }}</RouterLink>
      <InputText v-model="words" :placeholder="t('findAMaster')" :aria-label="t('findAMaster')" />
    </div>
    <StateView :query="library" :rows="3" height="9rem" :empty="!library.data.value?.length">
      <template #empty>
        <p class="soft">
          {{ t("thereIsNoMasterYetMake") }}
        </p>
      </template>
      <p v-if="!shown.length" class="soft">{{ t("nothingHasThatName") }}</p>
      <ul :data-pictures="state">
        <li v-for="one in shown" :key="one.name" :data-master="one.name">
          <RouterLink :to="{ name: 'materials', params: { slug, kind: 'master', key: one.name } }">
            <img v-if="pictures[one.name]" :src="pictures[one.name]" alt="" />
            <span v-else class="blank" />
            <b>{{ one.title }}</b>
            <span class="soft"
              >{{ one.newest ? t("version", { newest: one.newest }) : t("draft") }},
              {{ t("n1Cast", { count: one.casts, casts: one.casts }) }}</span
            >
            <Tag v-if="inUse.has(one.name)" severity="secondary" :value="t('inUseHere')" />
          </RouterLink>
        </li>
      </ul>
    </StateView>
    <FunctionList :slug="slug" :words="words" @begin="emit('begin')" />
  </section>
</template>

<style scoped>
.library {
  padding: var(--space-3) var(--space-4);
  display: grid;
  gap: var(--space-3);
  align-content: start;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(170px, 1fr));
  gap: var(--space-4);
}
a {
  display: grid;
  gap: 2px;
  justify-items: start;
  color: inherit;
  text-decoration: none;
}
a:hover b {
  text-decoration: underline;
}
img,
.blank {
  width: 100%;
  aspect-ratio: 1;
  background: var(--surround);
}
</style>
