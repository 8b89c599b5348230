<script setup lang="ts">
import InputText from "primevue/inputtext";
import { computed, nextTick, ref, watch } from "vue";

import type { TextureMap } from "@/api/types";
import Mark from "@/parts/Mark.vue";
import Print from "@/parts/Print.vue";

import type { Row } from "./matrix";

const props = defineProps<{
  slug: string;
  row: Row;
  focusColumn: number | null;
  chosen: boolean;
  renaming: boolean;
  mayChange: boolean;
}>();
const emit = defineEmits<{
  focus: [column: number];
  look: [map: TextureMap];
  open: [];
  choose: [];
  rename: [name: string | null];
  startRename: [];
  drop: [role: string, map: number];
}>();

const over = ref<string | null>(null);
const name = ref("");
const input = ref<{ $el: HTMLInputElement }>();
watch(
  () => props.renaming,
  async (on) => {
    if (!on) return;
    name.value = props.row.set.name;
    await nextTick();
    input.value?.$el.select();
  },
);

const verdict = computed(() => {
  const { set, state } = props.row;
  if (state === "judging") return "being judged";
  if (state === "error") return set.errors === 1 ? "1 error" : `${set.errors} errors`;
  if (state === "warning") return set.warnings === 1 ? "1 warning" : `${set.warnings} warnings`;
  return "fit to deliver";
});

function dragStart(event: DragEvent, map: TextureMap): void {
  event.dataTransfer?.setData("application/x-map", String(map.id));
  event.dataTransfer!.effectAllowed = "move";
}

function dropped(event: DragEvent, role: string): void {
  over.value = null;
  const map = Number(event.dataTransfer?.getData("application/x-map"));
  if (map) emit("drop", role, map);
}
</script>

<template>
  <div class="row" :class="{ chosen }" role="row" :data-set="row.set.name">
    <div class="head" role="rowheader">
      <input
        type="checkbox"
        :checked="chosen"
        :aria-label="`Choose ${row.set.name}`"
        @change="emit('choose')"
      />
      <div class="who">
        <InputText
          v-if="renaming"
          ref="input"
          v-model="name"
          aria-label="New name"
          @keydown.enter.stop="emit('rename', name)"
          @keydown.escape.stop="emit('rename', null)"
          @blur="emit('rename', null)"
        />
        <button v-else class="plain name" @click="emit('open')">
          {{ row.set.name }}
        </button>
        <div class="soft">
          {{ row.set.maps.length }} maps
          <button
            v-if="mayChange"
            class="plain rename"
            :aria-label="`Rename ${row.set.name}`"
            @click="emit('startRename')"
          >
            rename
          </button>
        </div>
      </div>
    </div>
    <div
      v-for="(cell, index) in row.cells"
      :key="cell.role"
      role="gridcell"
      :data-role="cell.role"
      :class="[
        'cell',
        {
          focused: focusColumn === index,
          missing: cell.missing,
          over: over === cell.role,
          left: cell.joinedLeft,
          right: cell.joinedRight,
        },
      ]"
      @click="emit('focus', index)"
      @dblclick="cell.map && emit('look', cell.map)"
      @dragover.prevent="over = mayChange ? cell.role : null"
      @dragleave="over = null"
      @drop.prevent="dropped($event, cell.role)"
    >
      <Print
        v-if="cell.map"
        :slug="slug"
        :map="cell.map"
        :more="cell.more"
        :draggable="mayChange"
        @dragstart="dragStart($event, cell.map)"
      />
      <span v-else-if="cell.missing" class="absent"><Mark severity="warning" /> missing</span>
      <span v-else class="empty" />
    </div>
    <div class="end" role="gridcell">
      <div class="verdict"><Mark :severity="row.state" /> {{ verdict }}</div>
      <div v-if="row.set.judged && row.set.headline" class="headline soft" :title="row.set.headline">
        {{ row.set.headline }}
      </div>
    </div>
  </div>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: var(--matrix-columns);
  height: var(--row-height);
  border-bottom: 1px solid var(--line);
  align-items: stretch;
}
.chosen {
  background: var(--accent-wash);
}
.head {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 0 8px 0 12px;
  min-width: 0;
}
.who {
  min-width: 0;
}
.name {
  font-weight: 650;
  overflow-wrap: anywhere;
  display: -webkit-box;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
.rename {
  opacity: 0;
  color: var(--accent);
  margin-left: 4px;
}
.row:hover .rename,
.rename:focus-visible {
  opacity: 1;
}
.name:hover {
  color: var(--accent);
  text-decoration: underline;
}
.cell {
  padding: 4px;
  min-width: 0;
  position: relative;
}
.cell.left {
  padding-left: 0;
}
.cell.right {
  padding-right: 0;
}
.cell.left::after,
.cell.right::after {
  content: "";
  position: absolute;
  inset: auto 0 0 0;
  height: 3px;
  background: var(--ink-soft);
}
.cell.focused {
  outline: 2px solid var(--accent);
  outline-offset: -2px;
}
.cell.over {
  background: var(--accent-wash);
  outline: 2px dashed var(--accent);
  outline-offset: -2px;
}
.cell :deep(.print) {
  height: 100%;
  aspect-ratio: auto;
}
.absent,
.empty {
  display: grid;
  place-content: center;
  justify-items: center;
  gap: 2px;
  height: 100%;
  font-size: 11px;
}
.absent {
  border: 1px dashed var(--warning);
  color: var(--warning);
}
.empty {
  border: 1px dotted var(--line);
}
.end {
  padding: 0 12px 0 10px;
  align-self: center;
  font-size: 12px;
  min-width: 0;
}
.verdict {
  display: flex;
  gap: 6px;
  align-items: center;
  font-weight: 650;
}
.headline {
  display: -webkit-box;
  -webkit-line-clamp: 3;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
</style>
