<script setup lang="ts">
import Button from "primevue/button";

import { t } from "@/texts/viewer";

import type { Standing } from "./view";

/** Places in a picture that comments are about, over the picture as it stands. */
const props = defineProps<{
  pins: { id: number; x: number; y: number; label: string }[];
  standing: Standing;
  size: [number, number];
}>();
const emit = defineEmits<{ pin: [id: number] }>();
const at = (pin: { x: number; y: number }) => ({
  left: `${props.standing.left + pin.x * props.size[0] * props.standing.zoom}px`,
  top: `${props.standing.top + pin.y * props.size[1] * props.standing.zoom}px`,
});
</script>

<template>
  <Button
    v-for="one in pins"
    :key="one.id"
    class="pin"
    rounded
    size="small"
    :label="one.label"
    :aria-label="t('commentAtThisPlace', { label: one.label })"
    :data-pin="one.id"
    :style="at(one)"
    @click="emit('pin', one.id)"
  />
</template>

<style scoped>
.pin {
  position: absolute;
  transform: translate(-50%, -50%);
  min-width: 22px;
  height: 22px;
  padding: 0 5px;
  border: 2px solid #fff;
  outline: 1px solid #000;
}
</style>
