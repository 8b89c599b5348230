<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Popover from "primevue/popover";
import SelectButton from "primevue/selectbutton";
import { computed, nextTick, ref, watch } from "vue";

import { useHabit } from "@/api/habit";
import { useProject, useSets } from "@/api/queries";
import { useSetChanges } from "@/api/setChanges";
import type { TextureMap } from "@/api/types";
import { router } from "@/app/router";
import LicenceInput from "@/parts/LicenceInput.vue";

import { columnsOf, type Filter, filtered, rowOf } from "./matrix";
import QuickLook from "./QuickLook.vue";
import SetRow from "./SetRow.vue";
import UndecidedTray from "./UndecidedTray.vue";
import { useSetsKeys } from "./useSetsKeys";
import { useVisibleRows } from "./useVisibleRows";

const ROW_HEIGHT = 100; // a print of 92 pixels and its margin
const props = defineProps<{ slug: string }>();
const setList = useSets(() => props.slug);
const project = useProject(() => props.slug);
const changes = useSetChanges(() => props.slug);
const habit = useHabit(() => props.slug);
/** Suffixes that were guessed or left open. */
const unsure = computed(
  () =>
    (habit.data.value?.lines ?? []).filter((line) => !line.taught && !(line.decided && line.certain)).length,
);
const mayChange = computed(() => (project.data.value?.right ?? "look") !== "look");

const words = ref("");
const filter = ref<Filter>("all");
const chosen = ref(new Set<number>());
const renaming = ref<number | null>(null);
const looked = ref<TextureMap | null>(null);
const licences = ref<InstanceType<typeof Popover>>();
const searchBox = ref<{ $el: HTMLInputElement }>();

const columns = computed(() => (setList.data.value ? columnsOf(setList.data.value) : []));
const every = computed(() => (setList.data.value?.sets ?? []).map((set) => rowOf(set, columns.value)));
const rows = computed(() => filtered(every.value, words.value, filter.value));
const count = (state: Filter) => every.value.filter((row) => row.state === state).length;
const filters = computed(() => [
  { value: "all", label: `All ${every.value.length}` },
  { value: "error", label: `Errors ${count("error")}` },
  { value: "warning", label: `Warnings ${count("warning")}` },
  { value: "fine", label: `Fine ${count("fine")}` },
]);

const body = ref<HTMLElement>();
const { range, onScroll, reveal } = useVisibleRows(body, ROW_HEIGHT, () => rows.value.length);
const shown = computed(() => rows.value.slice(range.value[0], range.value[1]));

const open = (id: number, map?: TextureMap) =>
  void router.push({ name: "set", params: { slug: props.slug, id }, query: map ? { map: map.id } : {} });

const { focus, focusedRow, focusedMap } = useSetsKeys({
  rows,
  columns,
  reveal,
  looked,
  open,
  chooseRow: (id) => toggle(id),
  startRename: (id) => (renaming.value = mayChange.value ? id : null),
  search: () => searchBox.value?.$el.focus(),
  assign: (map, role) => map.set !== null && changes.place.mutate({ map: map.id, set: map.set, role }),
  takeOut: (map) => changes.place.mutate({ map: map.id, set: null, role: "" }),
  merge: () => mergeChosen(),
});

function toggle(id: number): void {
  const next = new Set(chosen.value);
  if (!next.delete(id)) next.add(id);
  chosen.value = next;
}

function finishRename(id: number, name: string | null): void {
  if (renaming.value !== id) return;
  renaming.value = null;
  if (name !== null) changes.rename.mutate({ set: id, name });
}

function mergeChosen(): void {
  const ids = rows.value.map((row) => row.set.id).filter((id) => chosen.value.has(id));
  if (ids.length < 2) return;
  changes.merge.mutate({ into: ids[0]!, sets: ids });
  chosen.value = new Set();
}

/** A file of several with one suffix that was placed by hand: the others may be meant as well. */
const placed = ref<{ suffix: string; role: string } | null>(null);
function remember(map: number, role: string): void {
  const suffix = setList.data.value?.undecided.find((one) => one.map.id === map)?.suffix;
  placed.value = suffix ? { suffix, role } : null;
}

function answer(map: number, role: string, setName: string): void {
  remember(map, role);
  const there = setList.data.value?.sets.find((set) => set.name === setName);
  changes.place.mutate({ map, set: there?.id ?? null, role, newSet: there ? undefined : setName });
}

function dropped(map: number, set: number, role: string): void {
  remember(map, role);
  changes.place.mutate({ map, set, role });
}

watch(focus, async () => {
  await nextTick();
  if (focus.value) reveal(focus.value.row);
});
const gridColumns = computed(
  () => `200px repeat(${columns.value.length}, ${ROW_HEIGHT}px) minmax(128px, 1fr)`,
);
const deliverQuery = computed(() => (chosen.value.size ? { sets: [...chosen.value].join(",") } : {}));
</script>

<template>
  <div class="screen" :style="{ '--matrix-columns': gridColumns, '--row-height': `${ROW_HEIGHT}px` }">
    <div class="tools">
      <InputText
        ref="searchBox"
        v-model="words"
        placeholder="Find a set or file  ( / )"
        aria-label="Find a set or file"
        class="find"
      />
      <SelectButton
        v-model="filter"
        :options="filters"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        aria-label="Show"
      />
      <span class="grow" />
      <RouterLink v-slot="{ navigate }" :to="{ name: 'habit', params: { slug } }" custom>
        <Button
          :label="unsure ? `File names: ${unsure} unsure` : 'File names'"
          :title="unsure ? `${unsure} suffixes are guesses or open` : 'What each suffix was taken for'"
          size="small"
          outlined
          @click="navigate"
        />
      </RouterLink>
      <template v-if="chosen.size">
        <span>{{ chosen.size }} chosen</span>
        <Button
          label="Merge"
          size="small"
          outlined
          :disabled="chosen.size < 2 || !mayChange"
          @click="mergeChosen"
        />
        <Button
          label="Licence"
          size="small"
          outlined
          :disabled="!mayChange"
          @click="licences?.toggle($event)"
        />
        <Popover ref="licences" aria-label="Licence of the chosen sets">
          <LicenceInput :slug="slug" :sets="[...chosen]" @said="licences?.hide()" />
        </Popover>
      </template>
      <RouterLink
        v-slot="{ navigate }"
        :to="{ name: 'deliveries', params: { slug }, query: deliverQuery }"
        custom
      >
        <Button
          :label="
            chosen.size === 1 ? 'Deliver 1 set' : chosen.size ? `Deliver ${chosen.size} sets` : 'Deliver'
          "
          size="small"
          :disabled="every.length === 0"
          @click="navigate"
        />
      </RouterLink>
    </div>

    <div v-if="setList.data.value && every.length === 0" class="nothing">
      <h1>No sets yet</h1>
      <p>
        Drop a folder of textures on the
        <RouterLink :to="{ name: 'intake', params: { slug } }">intake</RouterLink>; its files come back here
        as sets.
      </p>
    </div>
    <div
      v-else
      ref="body"
      class="scroll matrix"
      role="grid"
      aria-label="Sets by roles"
      :aria-rowcount="rows.length"
      @scroll="onScroll"
    >
      <div class="columns" role="row">
        <span role="columnheader">Set</span>
        <span v-for="(column, index) in columns" :key="column.key" role="columnheader" class="role">
          {{ column.label }} <kbd v-if="index < 10">{{ (index + 1) % 10 }}</kbd>
        </span>
        <span role="columnheader">Verdict</span>
      </div>
      <div :style="{ height: `${rows.length * ROW_HEIGHT}px`, position: 'relative' }">
        <div :style="{ transform: `translateY(${range[0] * ROW_HEIGHT}px)` }">
          <SetRow
            v-for="(row, index) in shown"
            :key="row.set.id"
            :slug="slug"
            :row="row"
            :focus-column="focus?.row === range[0] + index ? focus.column : null"
            :chosen="chosen.has(row.set.id)"
            :renaming="renaming === row.set.id"
            :may-change="mayChange"
            @focus="focus = { row: range[0] + index, column: $event }"
            @look="looked = $event"
            @open="open(row.set.id)"
            @choose="toggle(row.set.id)"
            @start-rename="renaming = row.set.id"
            @rename="finishRename(row.set.id, $event)"
            @drop="(role, map) => dropped(map, row.set.id, role)"
          />
        </div>
      </div>
    </div>

    <UndecidedTray
      v-if="setList.data.value"
      :slug="slug"
      :set-list="setList.data.value"
      :may-change="mayChange"
      :placed="placed"
      @said="placed = null"
      @place="answer"
      @drop="(map) => changes.place.mutate({ map, set: null, role: '' })"
    />
    <QuickLook
      v-if="looked && (focusedMap ?? looked)"
      :slug="slug"
      :map="focusedMap ?? looked"
      @close="looked = null"
      @open="focusedRow && open(focusedRow.set.id, focusedMap ?? undefined)"
    />
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 8px 12px;
  flex: none;
}
.find {
  width: 230px;
}
.grow {
  flex: 1;
}
.matrix {
  flex: 1;
  background: var(--sheet);
  border-top: 1px solid var(--line);
}
.columns {
  display: grid;
  grid-template-columns: var(--matrix-columns);
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--sheet);
  border-bottom: 1px solid var(--line-strong);
  font-size: 12px;
  color: var(--ink-soft);
}
.columns span {
  padding: 5px 4px;
}
.columns span:first-child {
  padding-left: 12px;
}
.columns span:last-child {
  padding-left: 8px;
}
.columns kbd {
  font-size: 9px;
  opacity: 0.7;
}
.nothing {
  flex: 1;
  padding: 64px 24px;
  text-align: center;
}
</style>
