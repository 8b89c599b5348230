<script setup lang="ts">
import Button from "primevue/button";

import { pictureOf } from "@/api/pictures";
import type { TextureMap } from "@/api/types";
import { t } from "@/texts/sets";

/** A closer look at one map, without leaving the list. */
defineProps<{ slug: string; map: TextureMap }>();
defineEmits<{ close: []; open: [] }>();
</script>

<template>
  <div class="look" role="dialog" :aria-label="map.file" @click.self="$emit('close')">
    <figure>
      <img :src="pictureOf(slug, map, { side: 1024 })" :alt="map.file" />
      <figcaption class="row">
        <span class="mono"
          >{{ map.file }}<template v-if="map.channel"> [{{ map.channel.toUpperCase() }}]</template></span
        >
        <span>{{
          t("bits", {
            width: map.width,
            height: map.height,
            bits: map.bits,
            channels: map.channels.toUpperCase(),
          })
        }}</span>
        <Button severity="secondary" @click="$emit('open')"
          >{{ t("openTheSet") }} <kbd>{{ t("enter") }}</kbd></Button
        >
        <Button severity="secondary" @click="$emit('close')"
          >{{ t("close") }} <kbd>{{ t("space") }}</kbd></Button
        >
      </figcaption>
    </figure>
  </div>
</template>

<style scoped>
.look {
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
  gap: var(--space-2);
  justify-items: center;
}
img {
  max-width: 92vw;
  height: calc(100vh - 110px);
  object-fit: contain;
}
figcaption {
  gap: var(--space-4);
}
</style>
