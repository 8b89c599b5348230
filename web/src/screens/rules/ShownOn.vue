<script setup lang="ts">
/** Which set a rule is shown on. */
defineProps<{ sets: { id: number; name: string }[]; sample: { id: number } | null }>();
const emit = defineEmits<{ choose: [id: number] }>();
</script>

<template>
  <label class="soft"
    >shown on
    <select :value="sample?.id" @change="emit('choose', Number(($event.target as HTMLSelectElement).value))">
      <option v-for="one in sets" :key="one.id" :value="one.id">{{ one.name }}</option>
    </select></label
  >
</template>

<style scoped>
label {
  font-size: 12px;
}
</style>
