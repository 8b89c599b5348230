<script setup lang="ts">
import Avatar from "primevue/avatar";
import { computed } from "vue";

import { usePresence } from "@/api/team";
import { t } from "@/texts/team";

/** Who else has the same open, and who is changing it now. */
const props = defineProps<{ slug: string; about: string; editing?: boolean }>();
const others = usePresence(
  () => props.slug,
  () => props.about,
  () => props.editing ?? false,
);
const people = computed(() => {
  const found = new Map<string, boolean>();
  for (const one of others.data.value ?? [])
    found.set(one.person, one.editing || (found.get(one.person) ?? false));
  return [...found].map(([person, editing]) => ({
    person,
    editing,
    words: editing ? t("changesItToo", { person }) : t("hasItOpen", { person }),
  }));
});
</script>

<template>
  <span v-if="people.length" class="row" data-test="presence" aria-live="polite">
    <Avatar
      v-for="one in people"
      :key="one.person"
      :label="one.person.slice(0, 2)"
      :title="one.words"
      :aria-label="one.words"
      role="img"
    />
    <span v-if="people[0]" class="soft">{{ people[0].words }}</span>
  </span>
</template>
