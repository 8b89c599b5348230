<script setup lang="ts">
/** A line over a picture that is not there, or not yet. */
</script>

<template>
  <p class="over-picture"><slot /></p>
</template>

<style scoped>
.over-picture {
  position: absolute;
  inset: 45% 0 auto;
  text-align: center;
  color: var(--on-surround);
}
</style>
