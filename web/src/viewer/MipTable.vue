<script setup lang="ts">
import Button from "primevue/button";

import { useChains } from "@/api/queries";
import type { TextureMap } from "@/api/types";
import { t } from "@/texts/viewer";

import type { Look } from "./look";

/** The mip chain in numbers, level by level, beside what plain averaging makes; a level is chosen by its row. */
const props = defineProps<{ slug: string; map: TextureMap; chain: string }>();
const look = defineModel<Look>("look", { required: true });
const chains = useChains(
  () => props.slug,
  () => props.map,
  () => props.chain,
);
const number = (value: number) => value.toFixed(4);
</script>

<template>
  <aside class="levels" :aria-label="t('mipLevels')">
    <p v-if="chains.isPending.value" class="soft">{{ t("computingTheLevels") }}</p>
    <table v-else-if="chains.data.value">
      <caption>
        {{
          chains.data.value.measure
        }}{{
          chains.data.value.normals ? t("withTheNormalsLostLength") : ""
        }}
      </caption>
      <thead>
        <tr>
          <th>{{ t("mip2") }}</th>
          <th>{{ t("texels") }}</th>
          <th>{{ t("correct") }}</th>
          <th>{{ t("averaged") }}</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="one in chains.data.value.levels"
          :key="one.level"
          :class="{ now: one.level === look.level }"
          :aria-current="one.level === look.level"
          @click="look.level = one.level"
        >
          <td>
            <Button
              text
              severity="secondary"
              :label="String(one.level)"
              :aria-label="t('showMipLevel', { level: one.level })"
              @click.stop="look.level = one.level"
            />
          </td>
          <td>{{ one.width }} × {{ one.height }}</td>
          <td>{{ number(one.right) }}</td>
          <td>{{ number(one.naive) }}</td>
        </tr>
      </tbody>
    </table>
  </aside>
</template>

<style scoped>
.levels {
  position: absolute;
  left: 8px;
  top: 8px;
  padding: 6px 8px;
  background: var(--sheet);
  font-size: 12px;
}
p {
  margin: 0;
}
table {
  border-collapse: collapse;
  font-variant-numeric: tabular-nums;
}
caption {
  text-align: left;
  color: var(--ink-soft);
  padding-bottom: 4px;
}
th {
  font-weight: 400;
  color: var(--ink-soft);
}
th,
td {
  text-align: right;
  padding: 0 8px 0 0;
}
tbody tr {
  cursor: pointer;
}
.now {
  background: var(--accent-wash);
  outline: 1px solid var(--accent);
}
</style>
