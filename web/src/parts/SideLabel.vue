<script setup lang="ts">
/** What is seen at one side of a comparison, over the picture. */
withDefaults(defineProps<{ side?: "left" | "middle" | "right"; bottom?: boolean }>(), { side: "left" });
</script>

<template>
  <span class="side-label" :class="[side, { bottom }]"><slot /></span>
</template>

<style scoped>
.side-label {
  position: absolute;
  top: 8px;
  padding: 1px 6px;
  background: var(--sheet);
  pointer-events: none;
}
.bottom {
  top: auto;
  bottom: 8px;
}
.left {
  left: 8px;
}
.right {
  right: 8px;
}
.middle {
  left: calc(50% + 8px);
}
</style>
