<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";

import type { FileVerdict } from "@/api/rules";
import Mark from "@/parts/Mark.vue";

/** Every file of the project with its verdict; those that can be put right are, as one change. */
const props = defineProps<{
  files: FileVerdict[];
  mayChange: boolean;
  unkept: boolean;
  busy: boolean;
}>();
const emit = defineEmits<{ rename: [changes: { file: number; path: string; seen: string }[]] }>();

const left = ref(new Set<number>());
const wrong = computed(() => props.files.filter((one) => !one.fine));
const fixable = computed(() => wrong.value.filter((one) => one.right && one.right !== one.path));
const going = computed(() => fixable.value.filter((one) => !left.value.has(one.file)));

function toggle(file: number): void {
  const next = new Set(left.value);
  if (!next.delete(file)) next.add(file);
  left.value = next;
}
</script>

<template>
  <section class="list" aria-label="Files of the project">
    <header>
      <h2>{{ files.length - wrong.length }} of {{ files.length }} names are right</h2>
      <Button
        v-if="mayChange && fixable.length"
        size="small"
        :label="`Rename ${going.length} files`"
        :disabled="!going.length || busy || unkept"
        :title="unkept ? 'Keep the rules first' : ''"
        @click="
          emit(
            'rename',
            going.map((one) => ({ file: one.file, path: one.right!, seen: one.path })),
          )
        "
      />
    </header>
    <p v-if="unkept" class="soft">By the rules that are kept; keep the new ones to rename by them.</p>
    <ol class="scroll">
      <li v-for="one in wrong" :key="one.file" :data-file="one.path">
        <input
          v-if="one.right && one.right !== one.path"
          type="checkbox"
          :checked="!left.has(one.file)"
          :disabled="!mayChange"
          :aria-label="`Rename ${one.path}`"
          @change="toggle(one.file)"
        />
        <Mark v-else severity="warning" />
        <div>
          <div class="mono">{{ one.path }}</div>
          <div v-if="one.right && one.right !== one.path" class="mono right">{{ one.right }}</div>
          <div class="soft">
            {{ one.problems.join("; ")
            }}<template v-if="one.came_as !== one.path">; came as {{ one.came_as }}</template>
          </div>
        </div>
        <span class="soft sets">{{ one.sets.join(", ") }}</span>
      </li>
      <li v-if="files.length && !wrong.length" class="fine">
        <Mark severity="fine" /> Every name follows the rules.
      </li>
    </ol>
  </section>
</template>

<style scoped>
.list {
  display: flex;
  flex-direction: column;
  min-height: 0;
  padding: 8px 16px;
}
header {
  display: flex;
  gap: 14px;
  align-items: center;
  justify-content: space-between;
  min-height: 32px;
}
p {
  margin: 0;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  flex: 1;
}
li {
  display: grid;
  grid-template-columns: 18px minmax(0, 1fr) auto;
  gap: 8px;
  padding: 6px 0;
  border-top: 1px solid var(--line);
  font-size: 12px;
  align-items: start;
}
.mono {
  overflow-wrap: anywhere;
}
.right {
  color: var(--accent);
}
.fine {
  grid-template-columns: 18px 1fr;
}
</style>
