<script setup lang="ts">
import Button from "primevue/button";
import Chip from "primevue/chip";
import InputText from "primevue/inputtext";
import { ref } from "vue";

import type { LibraryEntry } from "@/api/materials";
import { t } from "@/texts/materials";

/** Who may change what all projects share. */
const props = defineProps<{ master: LibraryEntry; busy: boolean }>();
const emit = defineEmits<{ add: [person: string]; remove: [person: string] }>();
const person = ref("");

function add(): void {
  if (person.value.trim()) emit("add", person.value.trim());
  person.value = "";
}
</script>

<template>
  <div class="keepers" data-test="keepers">
    <span class="soft">{{ t("keptBy") }}</span>
    <Chip
      v-for="name in props.master.keepers"
      :key="name"
      :label="name"
      :removable="master.may_write && master.keepers.length > 1"
      @remove="emit('remove', name)"
    />
    <span v-if="!master.keepers.length" class="soft">{{ t("theAdministrators") }}</span>
    <form v-if="master.may_write" @submit.prevent="add">
      <InputText v-model="person" :placeholder="t('accountName')" :aria-label="t('nameOfAnotherKeeper')" />
      <Button type="submit" severity="secondary" :label="t('addKeeper')" :disabled="busy || !person" />
    </form>
    <span v-else class="soft">{{ t("everybodyMayUseIt") }}</span>
  </div>
</template>

<style scoped>
.keepers,
form {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  font-size: 12px;
}
form input {
  width: 9rem;
}
</style>
