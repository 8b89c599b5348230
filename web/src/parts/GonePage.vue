<script setup lang="ts">
/** In place of a page whose subject is not there. */
defineProps<{ title: string }>();
</script>

<template>
  <div class="gone">
    <h1>{{ title }}</h1>
    <p><slot /></p>
  </div>
</template>

<style scoped>
.gone {
  padding: 48px;
  display: grid;
  gap: var(--space-2);
}
</style>
