<script setup lang="ts">
import { computed, nextTick, ref, watch } from "vue";

import type { TextureMap } from "@/api/types";
import CheckField from "@/parts/fields/CheckField.vue";
import { t } from "@/texts/sets";

import SetRow from "./SetRow.vue";
import type { useSetList } from "./useSetList";
import { useVisibleRows } from "./useVisibleRows";

/** Sets in rows, roles in columns; only what is in sight is drawn. */
const props = defineProps<{
  slug: string;
  list: ReturnType<typeof useSetList>;
  chosen: ReadonlySet<number>;
  renaming: number | null;
  mayChange: boolean;
}>();
const emit = defineEmits<{
  look: [map: TextureMap];
  open: [set: number];
  choose: [set: number, range: boolean];
  chooseAll: [];
  startRename: [set: number];
  rename: [set: number, name: string | null];
  drop: [map: number, set: number, role: string];
  menu: [event: MouseEvent, row: number, column: number | null];
}>();
const focus = defineModel<{ row: number; column: number } | null>("focus", { required: true });

const HEAD = 31;
const body = ref<HTMLElement>();
const { range, onScroll, reveal } = useVisibleRows(body, () => props.list.offsets.value, HEAD);
const items = computed(() => props.list.items.value);
const rowHeight = computed(() => props.list.rowHeight.value);
/** Of each drawn item: which row it is, counted over the rows alone. */
const numberOf = computed(() => {
  let row = -1;
  return items.value.map((item) => (item.row ? ++row : -1));
});
const itemOf = (row: number) => numberOf.value.indexOf(row);
const shown = computed(() =>
  items.value.slice(range.value[0], range.value[1]).map((item, at) => {
    const index = range.value[0] + at;
    return { item, index, row: numberOf.value[index]! };
  }),
);
const columns = computed(() => props.list.columns.value);
const gridColumns = computed(
  () =>
    `minmax(210px, 11rem) repeat(${columns.value.length}, max(72px, 5.5rem, ${rowHeight.value}px)) minmax(140px, 1fr)`,
);
const allChosen = computed(() => props.chosen.size > 0 && props.chosen.size === props.list.rows.value.length);
const revealRow = (row: number) => reveal(itemOf(row));
watch(focus, async () => {
  await nextTick();
  if (focus.value) revealRow(focus.value.row);
});
defineExpose({ reveal: revealRow });
</script>

<template>
  <div
    ref="body"
    class="scroll matrix"
    role="grid"
    tabindex="0"
    :aria-label="t('setsByRoles')"
    :aria-rowcount="list.rows.value.length + 1"
    :style="{ '--matrix-columns': gridColumns, '--row-height': `${rowHeight}px` }"
    @scroll="onScroll"
  >
    <div class="columns" role="row">
      <span role="columnheader" class="first">
        <CheckField
          :model-value="allChosen"
          :label="t('selectAll')"
          hidden
          @update:model-value="emit('chooseAll')"
        />
        {{ t("set") }}
      </span>
      <span v-for="(column, index) in columns" :key="column.key" role="columnheader" class="role">
        {{ column.label }} <kbd v-if="index < 10">{{ (index + 1) % 10 }}</kbd>
      </span>
      <span role="columnheader">{{ t("verdict") }}</span>
    </div>
    <div role="rowgroup" :style="{ height: `${list.offsets.value.at(-1)}px`, position: 'relative' }">
      <div role="presentation" :style="{ transform: `translateY(${list.offsets.value[range[0]] ?? 0}px)` }">
        <template v-for="{ item, index, row } in shown" :key="item.row ? item.row.set.id : item.head">
          <div v-if="item.head !== undefined" role="row" class="group">
            <span role="gridcell"
              ><b>{{ item.head }}</b> <span class="soft">{{ item.count }}</span></span
            >
          </div>
          <SetRow
            v-else
            :slug="slug"
            :row="item.row"
            :aria-rowindex="index + 2"
            :focus-column="focus?.row === row ? focus.column : null"
            :chosen="chosen.has(item.row.set.id)"
            :renaming="renaming === item.row.set.id"
            :may-change="mayChange"
            :compact="rowHeight < 60"
            @focus="focus = { row, column: $event }"
            @look="emit('look', $event)"
            @open="emit('open', item.row.set.id)"
            @choose="emit('choose', item.row.set.id, $event)"
            @start-rename="emit('startRename', item.row.set.id)"
            @rename="emit('rename', item.row.set.id, $event)"
            @drop="(role, map) => emit('drop', map, item.row!.set.id, role)"
            @menu="(event, column) => emit('menu', event, row, column)"
          />
        </template>
      </div>
    </div>
  </div>
</template>

<style scoped>
.matrix {
  flex: 1;
  background: var(--sheet);
}
.matrix:focus-visible {
  outline-offset: -2px;
}
.columns {
  display: grid;
  grid-template-columns: var(--matrix-columns);
  position: sticky;
  top: 0;
  z-index: 2;
  min-width: max-content;
  background: var(--sheet);
  border-bottom: 1px solid var(--line-strong);
  font-size: 0.923rem;
  color: var(--ink-soft);
  align-items: center;
}
.columns > span {
  padding: 2px 4px;
}
.columns .first {
  display: flex;
  gap: var(--space-1);
  align-items: center;
  padding-left: var(--space-3);
}
.columns > span:last-child {
  padding-left: 10px;
}
.group {
  height: 30px;
  display: flex;
  align-items: center;
  padding: 0 var(--space-3);
  background: var(--paper);
  border-bottom: 1px solid var(--line);
}
</style>
