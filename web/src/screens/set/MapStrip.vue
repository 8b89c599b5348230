<script setup lang="ts">
import type { RoleInfo, TextureMap } from "@/api/types";
import Print from "@/parts/Print.vue";
import { t } from "@/texts/set";

/** The maps of the set, small, to pick the one that is shown large. */
defineProps<{ slug: string; maps: TextureMap[]; roles: RoleInfo[]; current: number | null }>();
defineEmits<{ pick: [id: number] }>();
</script>

<template>
  <nav class="strip" :aria-label="t('mapsOfThisSet')">
    <!-- eslint-disable-next-line vue/no-restricted-html-elements -- a picture that is pressed, with no look of a button -->
    <button
      v-for="(map, index) in maps"
      :key="map.id"
      :class="{ current: map.id === current, spare: !map.in_use }"
      :aria-current="map.id === current"
      @click="$emit('pick', map.id)"
    >
      <Print :slug="slug" :map="map" />
      <span class="label">
        <kbd v-if="index < 9">{{ index + 1 }}</kbd>
        {{ roles.find((role) => role.key === map.role)?.label ?? map.role }}
        <template v-if="!map.in_use"> {{ t("notUsed") }}</template>
      </span>
    </button>
  </nav>
</template>

<style scoped>
.strip {
  width: 108px;
  overflow: auto;
  padding: 6px;
  display: grid;
  gap: 6px;
  align-content: start;
  background: var(--sheet);
  border-right: 1px solid var(--line);
}
button {
  font: inherit;
  color: inherit;
  text-align: left;
  background: none;
  cursor: pointer;
  padding: 2px;
  border: 2px solid transparent;
}
.current {
  border-color: var(--accent);
}
.spare {
  opacity: 0.65;
}
.label {
  display: block;
  font-size: var(--text-small);
  padding: 2px 0;
}
</style>
