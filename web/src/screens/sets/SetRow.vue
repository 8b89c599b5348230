<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import { nextTick, ref, watch } from "vue";

import type { TextureMap } from "@/api/types";
import CheckField from "@/parts/fields/CheckField.vue";
import Mark from "@/parts/Mark.vue";
import Print from "@/parts/Print.vue";
import { t } from "@/texts/sets";

import type { Row } from "./matrix";
import RowVerdict from "./RowVerdict.vue";

/** One set in the list: its name, its maps by role, its verdict. */
const props = defineProps<{
  slug: string;
  row: Row;
  focusColumn: number | null;
  chosen: boolean;
  renaming: boolean;
  mayChange: boolean;
  compact?: boolean;
}>();
const emit = defineEmits<{
  focus: [column: number];
  look: [map: TextureMap];
  open: [];
  choose: [range: boolean];
  rename: [name: string | null];
  startRename: [];
  drop: [role: string, map: number];
  menu: [event: MouseEvent, column: number | null];
}>();

const over = ref<string | null>(null);
const withShift = ref(false);
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
  <div class="row-of-set" :class="{ chosen, compact }" role="row" :data-set="row.set.name">
    <div class="head" role="rowheader" @contextmenu.prevent="emit('menu', $event, null)">
      <CheckField
        :model-value="chosen"
        :label="t('select', { name: row.set.name })"
        hidden
        @click.capture="withShift = $event.shiftKey"
        @update:model-value="emit('choose', withShift)"
      />
      <div class="who">
        <InputText
          v-if="renaming"
          ref="input"
          v-model="name"
          fluid
          :aria-label="t('newName')"
          @keydown.enter.stop="emit('rename', name)"
          @keydown.escape.stop="emit('rename', null)"
          @blur="emit('rename', null)"
        />
        <Button v-else text severity="secondary" class="name" :title="row.set.name" @click="emit('open')">
          <span>{{ row.set.name }}</span>
        </Button>
        <div v-if="!compact" class="soft more">
          {{ t("maps2", { count: row.set.maps.length }) }}
          <span v-if="row.tiles" class="tiles" data-test="tiles">{{
            t("oneOfTiles", { count: row.tiles })
          }}</span>
          <Button
            v-if="mayChange && !renaming"
            text
            class="rename"
            icon="pi pi-pencil"
            :aria-label="t('rename2', { name: row.set.name })"
            :title="t('renameN')"
            @click="emit('startRename')"
          />
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
      @contextmenu.prevent="emit('menu', $event, index)"
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
      <span v-else-if="cell.missing" class="absent"><Mark severity="warning" /> {{ t("missing") }}</span>
      <span v-else class="empty" />
    </div>
    <RowVerdict :row="row" :compact="compact" />
  </div>
</template>

<style scoped>
.tiles {
  margin-left: var(--space-2);
}
.row-of-set {
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
  gap: var(--space-1);
  align-items: center;
  padding: 0 var(--space-2) 0 var(--space-3);
  min-width: 0;
}
.who {
  min-width: 0;
  flex: 1;
}
.name {
  font-weight: 650;
  padding: 0 2px;
  justify-content: start;
  text-align: left;
  max-width: 100%;
}
.name span {
  overflow-wrap: anywhere;
  display: -webkit-box;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
.compact .name span {
  -webkit-line-clamp: 1;
}
.more {
  display: flex;
  align-items: center;
  padding-left: 2px;
}
.rename {
  opacity: 0;
}
.row-of-set:hover .rename,
.rename:focus-visible {
  opacity: 1;
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
  font-size: var(--text-small);
}
.absent {
  border: 1px dashed var(--warning);
  color: var(--warning);
}
.empty {
  border: 1px dotted var(--line);
}
</style>
