<script setup lang="ts">
import Button from "primevue/button";
import Password from "primevue/password";
import { ref, useId } from "vue";

import { t } from "@/texts/scans";

/** The key of one's own account with a library. */
defineProps<{ library: string; disabled: boolean }>();
const emit = defineEmits<{ enter: [key: string] }>();
const key = ref("");
const id = useId();
</script>

<template>
  <form class="key" @submit.prevent="emit('enter', key)">
    <p>{{ t("enterKey", { library }) }}</p>
    <div class="row">
      <label :for="id">{{ t("key") }}</label>
      <Password v-model="key" :input-id="id" :feedback="false" :input-props="{ autocomplete: 'off' }" />
      <Button type="submit" :label="t('useKey')" :disabled="disabled || !key.trim()" />
    </div>
    <p class="soft">{{ t("keyIsKept") }}</p>
  </form>
</template>

<style scoped>
.key {
  display: grid;
  gap: var(--space-3);
  padding: var(--space-4);
}
</style>
