<script setup lang="ts">
import { pictureOf } from "@/api/pictures";
import type { TextureMap } from "@/api/types";

/** A closer look without leaving the sets. */
defineProps<{ slug: string; map: TextureMap }>();
defineEmits<{ close: []; open: [] }>();
</script>

<template>
  <div class="peek" role="dialog" :aria-label="map.file" @click.self="$emit('close')">
    <figure>
      <img :src="pictureOf(slug, map, { side: 1024 })" :alt="map.file" />
      <figcaption>
        <span class="mono"
          >{{ map.file }}<template v-if="map.channel"> [{{ map.channel.toUpperCase() }}]</template></span
        >
        <span>{{ map.width }} × {{ map.height }}, {{ map.bits }} bits, {{ map.channels.toUpperCase() }}</span>
        <button class="plain" @click="$emit('open')">Open on the bench <kbd>Enter</kbd></button>
      </figcaption>
    </figure>
  </div>
</template>

<style scoped>
.peek {
  position: fixed;
  inset: 40px 0 0;
  background: var(--surround);
  color: var(--on-surround);
  display: grid;
  place-items: center;
  z-index: 20;
}
figure {
  margin: 0;
  display: grid;
  gap: 8px;
  justify-items: center;
}
img {
  max-width: 92vw;
  height: calc(100vh - 110px);
  object-fit: contain;
  image-rendering: auto;
}
figcaption {
  display: flex;
  gap: 24px;
}
</style>
