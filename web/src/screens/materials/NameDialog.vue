<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import InputText from "primevue/inputtext";
import { ref, useId } from "vue";

import { t } from "@/texts/materials";

/** Asks for one name. */
defineProps<{ title: string; label: string }>();
const emit = defineEmits<{ name: [name: string]; cancel: [] }>();
const name = ref("");
const id = useId();
function done(): void {
  if (name.value.trim()) emit("name", name.value.trim());
}
</script>

<template>
  <Dialog :visible="true" modal :header="title" :style="{ width: '24rem' }" @update:visible="emit('cancel')">
    <form @submit.prevent="done">
      <label :for="id">{{ label }}</label>
      <InputText :id="id" v-model="name" autofocus fluid maxlength="80" />
      <div class="row">
        <Button type="submit" :label="t('make')" :disabled="!name.trim()" />
        <Button text severity="secondary" :label="t('cancel')" @click="emit('cancel')" />
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
form {
  display: grid;
  gap: var(--space-2);
}
</style>
