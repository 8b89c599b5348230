<script setup lang="ts">
import { computed } from "vue";

import { memoryWords, useMemoryBy } from "@/api/rules";

/** The whole project for each target, or each project for its own, beside their budgets: one click goes into it. */
const props = defineProps<{ slug: string; by: "targets" | "projects"; target: string }>();
const emit = defineEmits<{ target: [name: string] }>();
const MIB = 1 << 20;
const found = useMemoryBy(
  () => props.slug,
  () => props.by,
);
const rows = computed(() => [...(found.data.value ?? [])].sort((a, b) => b.memory - a.memory));
const limitOf = (mib: number | null) => (mib ?? 0) * MIB;
const scale = computed(() =>
  Math.max(1, ...rows.value.flatMap((one) => [one.memory, limitOf(one.memory_mib)])),
);
const share = (bytes: number) => `${(100 * bytes) / scale.value}%`;
const over = (one: { memory: number; memory_mib: number | null }) =>
  one.memory_mib !== null && one.memory > limitOf(one.memory_mib);
</script>

<template>
  <p v-if="found.error.value" class="over" role="alert">{{ found.error.value.message }}</p>
  <p v-else-if="!found.data.value" class="soft" role="status">Counting…</p>
  <ol :aria-label="by === 'targets' ? 'Memory by target' : 'Memory by project'">
    <li v-for="one in rows" :key="by === 'targets' ? one.target : one.slug">
      <button
        v-if="by === 'targets'"
        class="plain name"
        :aria-current="one.target === target"
        @click="emit('target', one.target)"
      >
        {{ one.title }}
      </button>
      <RouterLink v-else class="name" :to="{ name: 'rules', params: { slug: one.slug, part: 'budget' } }">
        {{ one.project }} <span class="soft">{{ one.target }}</span>
      </RouterLink>
      <div class="bar">
        <span :class="{ beyond: over(one) }" :style="{ width: share(one.memory) }" />
        <i v-if="one.memory_mib !== null" :style="{ left: share(limitOf(one.memory_mib)) }" />
      </div>
      <span class="number" :class="{ over: over(one) }">{{ memoryWords(one.memory) }}</span>
      <span class="soft"
        >{{ one.memory_mib === null ? "no budget" : `of ${one.memory_mib} MiB`
        }}<template v-if="one.problems.length">, {{ one.problems.length }} sets left out</template></span
      >
    </li>
  </ol>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 260px minmax(0, 1fr) 86px 120px;
  gap: 10px;
  align-items: center;
  padding: 5px 0;
  border-top: 1px solid var(--line);
  font-size: 12px;
}
.name {
  font-weight: 650;
  color: inherit;
}
.name[aria-current="true"] {
  color: var(--accent);
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
.bar .beyond {
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
.over {
  color: var(--error);
}
</style>
