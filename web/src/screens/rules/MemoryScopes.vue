<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import { memoryWords, useMemoryBy } from "@/api/rules";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/rules";

/** The whole project for each target, or each project for its own, beside their budgets: one click goes into it. */
const props = defineProps<{ slug: string; by: "targets" | "projects"; target: string }>();
const emit = defineEmits<{ target: [name: string] }>();
const MIB = 1 << 20;
const memory = useMemoryBy(
  () => props.slug,
  () => props.by,
);
const rows = computed(() => [...(memory.data.value ?? [])].sort((a, b) => b.memory - a.memory));
const limitOf = (mib: number | null) => (mib ?? 0) * MIB;
const scale = computed(() =>
  Math.max(1, ...rows.value.flatMap((one) => [one.memory, limitOf(one.memory_mib)])),
);
const share = (bytes: number) => `${(100 * bytes) / scale.value}%`;
const over = (one: { memory: number; memory_mib: number | null }) =>
  one.memory_mib !== null && one.memory > limitOf(one.memory_mib);
</script>

<template>
  <StateView :query="memory">
    <ol :aria-label="by === 'targets' ? t('memoryByTarget') : t('memoryByProject')">
      <li v-for="one in rows" :key="by === 'targets' ? one.target : one.slug">
        <Button
          v-if="by === 'targets'"
          text
          class="name"
          :severity="one.target === target ? 'primary' : 'secondary'"
          :aria-current="one.target === target"
          :label="one.title"
          @click="emit('target', one.target)"
        />
        <RouterLink v-else :to="{ name: 'rules', params: { slug: one.slug, part: 'budget' } }">
          {{ one.project }} <span class="soft">{{ one.target }}</span>
        </RouterLink>
        <div class="bar" aria-hidden="true">
          <span :class="{ over: over(one) }" :style="{ width: share(one.memory) }" />
          <i v-if="one.memory_mib !== null" :style="{ left: share(limitOf(one.memory_mib)) }" />
        </div>
        <span class="number" :class="{ error: over(one) }">{{ memoryWords(one.memory) }}</span>
        <span class="soft"
          >{{ one.memory_mib === null ? t("noBudget2") : t("ofMib", { memory_mib: one.memory_mib })
          }}<template v-if="one.problems.length">{{
            t("setsLeftOut", { count: one.problems.length })
          }}</template></span
        >
      </li>
    </ol>
  </StateView>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  width: 100%;
}
li {
  display: grid;
  grid-template-columns: 17rem minmax(0, 1fr) 6rem 9rem;
  gap: var(--space-3);
  align-items: center;
  padding: var(--space-1) 0;
  border-top: 1px solid var(--line);
}
.name {
  justify-content: start;
  text-align: left;
}
.bar {
  position: relative;
  height: 16px;
}
.bar span {
  display: block;
  height: 100%;
  background: var(--ink-soft);
}
.bar .over {
  background: var(--error);
}
.bar i {
  position: absolute;
  top: -3px;
  bottom: -3px;
  width: 2px;
  background: var(--ink);
}
.number {
  text-align: right;
}
</style>
