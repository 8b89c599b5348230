<script setup lang="ts">
import InputText from "primevue/inputtext";
import Tag from "primevue/tag";
import { computed, ref } from "vue";

import type { Adoption, useLibrary } from "@/api/materials";
import StateView from "@/parts/StateView.vue";

import { useMasterPictures } from "./useMasterPictures";

/** All masters of the studio, as cards with pictures; a card opens the master. */
const props = defineProps<{ slug: string; library: ReturnType<typeof useLibrary>; masters: Adoption[] }>();
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
  <section class="scroll library" aria-label="Library">
    <div class="row">
      <h2>Library</h2>
      <span class="soft">Masters that all projects can use</span>
      <span class="grow" />
      <InputText v-model="words" placeholder="Find a master" aria-label="Find a master" />
    </div>
    <StateView :query="library" :rows="3" height="9rem" :empty="!library.data.value?.length">
      <template #empty>
        <p class="soft">
          There is no master yet. Make a new one, or import one from a MaterialX or glTF file.
        </p>
      </template>
      <p v-if="!shown.length" class="soft">Nothing has that name.</p>
      <ul :data-pictures="state">
        <li v-for="one in shown" :key="one.name" :data-master="one.name">
          <RouterLink :to="{ name: 'materials', params: { slug, kind: 'master', key: one.name } }">
            <img v-if="pictures[one.name]" :src="pictures[one.name]" alt="" />
            <span v-else class="blank" />
            <b>{{ one.title }}</b>
            <span class="soft"
              >{{ one.newest ? `version ${one.newest}` : "draft" }},
              {{ one.casts === 1 ? "1 cast" : `${one.casts} casts` }}</span
            >
            <Tag v-if="inUse.has(one.name)" severity="secondary" value="in use here" />
          </RouterLink>
        </li>
      </ul>
    </StateView>
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
