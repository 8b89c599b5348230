<script setup lang="ts">
/** What comes out of an output that is being edited, or why nothing does. */
defineProps<{ address: string | null; problem: string }>();
</script>

<template>
  <figure>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <img v-else-if="address" :src="address" alt="What comes out" data-test="live" />
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
  width: 260px;
}
img {
  width: 260px;
  height: 260px;
  object-fit: contain;
  background: var(--surround);
}
.problem {
  color: var(--error);
  margin: 0;
  font-size: 12px;
}
</style>
