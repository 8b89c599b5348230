<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";

import type { Terms, Use } from "@/api/rules";
import type { TextureSet } from "@/api/types";
import CheckField from "@/parts/fields/CheckField.vue";
import LicenceInput from "@/parts/LicenceInput.vue";
import Mark from "@/parts/Mark.vue";
import Print from "@/parts/Print.vue";
import { t } from "@/texts/rules";

import { licenceGroups } from "./licenceGroups";

/** The project's sets by the licence they came under, and what the rules say of each. */
const props = defineProps<{
  slug: string;
  sets: TextureSet[];
  terms: Terms[];
  mayChange: boolean;
  mayRule: boolean;
}>();
const emit = defineEmits<{ name: [licence: string, use: Use] }>();

const chosen = ref(new Set<number>());
const groups = computed(() => licenceGroups(props.sets, props.terms));

function toggle(ids: number[]): void {
  const next = new Set(chosen.value);
  const all = ids.every((id) => next.has(id));
  for (const id of ids)
    if (all) next.delete(id);
    else next.add(id);
  chosen.value = next;
}
const colour = (set: TextureSet) =>
  set.maps.find((one) => one.in_use && one.role === "base_color") ?? set.maps[0];
</script>

<template>
  <section :aria-label="t('setsByLicence')">
    <article v-for="group in groups" :key="group.licence" :data-group="group.licence || 'none'">
      <header class="row">
        <Mark :severity="group.mark" />
        <h2>{{ group.licence || t("noLicence") }}</h2>
        <span class="soft">{{ t("n1Set", { count: group.sets.length }) }}, {{ group.words }}</span>
        <span class="grow" />
        <template v-if="!group.named && mayRule">
          <Button text :label="t('accept')" data-test="accept" @click="emit('name', group.licence, 'free')" />
          <Button
            text
            :label="t('refuse')"
            data-test="refuse"
            @click="emit('name', group.licence, 'refused')"
          />
        </template>
        <Button
          v-if="mayChange"
          text
          severity="secondary"
          :label="t('selectAll')"
          data-test="all"
          @click="toggle(group.sets.map((one) => one.id))"
        />
      </header>
      <ul>
        <li v-for="one in group.sets" :key="one.id" :class="{ chosen: chosen.has(one.id) }">
          <Print v-if="colour(one)" :slug="slug" :map="colour(one)!" :side="64" />
          <CheckField
            :label="one.name"
            :model-value="chosen.has(one.id)"
            :disabled="!mayChange"
            @update:model-value="toggle([one.id])"
          />
          <span v-if="one.credit" class="soft">{{ one.credit }}</span>
        </li>
      </ul>
    </article>
    <p v-if="!sets.length" class="soft">{{ t("noSetsYet") }}</p>
    <div v-if="chosen.size" class="say">
      <LicenceInput :slug="slug" :sets="[...chosen]" @said="chosen = new Set()" />
    </div>
  </section>
</template>

<style scoped>
section {
  padding: var(--space-2) var(--space-4);
  display: grid;
  gap: var(--space-3);
  align-content: start;
}
header {
  border-bottom: 1px solid var(--line);
}
ul {
  list-style: none;
  margin: var(--space-2) 0 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(7rem, 1fr));
  gap: var(--space-2);
}
li {
  display: grid;
  gap: 2px;
  align-content: start;
}
li > :deep(.check-field) {
  min-width: 0;
  overflow: hidden;
}
li :deep(label) {
  overflow: hidden;
  text-overflow: ellipsis;
}
li.chosen {
  outline: 2px solid var(--accent);
}
.say {
  position: sticky;
  bottom: 0;
  background: var(--sheet);
  border: 1px solid var(--line-strong);
  padding: var(--space-3);
}
</style>
