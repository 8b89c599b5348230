<script setup lang="ts">
import Button from "primevue/button";
import Chip from "primevue/chip";
import ContextMenu from "primevue/contextmenu";
import type { MenuItem } from "primevue/menuitem";
import InputText from "primevue/inputtext";
import SelectButton from "primevue/selectbutton";
import { computed, ref } from "vue";

import { isGuess, useHabit } from "@/api/habit";
import { useProject } from "@/api/queries";
import { useSetChanges } from "@/api/setChanges";
import type { TextureMap } from "@/api/types";
import { router } from "@/app/router";
import ScreenHead from "@/parts/ScreenHead.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/sets";

import BulkBar from "./BulkBar.vue";
import ManyProgress from "./ManyProgress.vue";
import QuickLook from "./QuickLook.vue";
import SetMatrix from "./SetMatrix.vue";
import UndecidedTray from "./UndecidedTray.vue";
import { menuOf } from "./menu";
import { useSelection } from "./useSelection";
import { useSetList } from "./useSetList";
import { useSetsKeys } from "./useSetsKeys";
import ViewOptions from "./ViewOptions.vue";

const props = defineProps<{ slug: string }>();
const list = useSetList(() => props.slug);
const { setList, words, filter, sort, group, height, hiddenRoles, columns, every, rows, narrowed } = list;
const project = useProject(() => props.slug);
const changes = useSetChanges(() => props.slug);
const habit = useHabit(() => props.slug);
/** Suffixes that were guessed or left open. */
const unsure = computed(
  () => (habit.data.value?.lines ?? []).filter((one) => isGuess(one) || !(one.decided || one.taught)).length,
);
const mayChange = computed(() => (project.data.value?.right ?? "look") !== "look");
const selection = useSelection(() => rows.value.map((row) => row.set.id));
const chosenSets = computed(() =>
  rows.value.map((row) => row.set).filter((set) => selection.chosen.value.has(set.id)),
);
const [renaming, looked] = [ref<number | null>(null), ref<TextureMap | null>(null)];
const searchBox = ref<{ $el: HTMLInputElement }>();
const matrix = ref<{ reveal: (row: number) => void }>();

const open = (id: number, map?: TextureMap) =>
  void router.push({ name: "set", params: { slug: props.slug, id }, query: map ? { map: map.id } : {} });
function deliver(sets: readonly number[], target = ""): void {
  const query = { ...(sets.length ? { sets: sets.join(",") } : {}), ...(target ? { target } : {}) };
  void router.push({ name: "deliveries", params: { slug: props.slug }, query });
}
const takeOut = (map: TextureMap) => void changes.place.mutate({ map: map.id, set: null, role: "" });
function assign(map: TextureMap, role: string): void {
  if (map.set !== null) void changes.place.mutate({ map: map.id, set: map.set, role });
}

const { focus, focusedRow, focusedMap } = useSetsKeys({
  rows,
  columns,
  looked,
  reveal: (row) => matrix.value?.reveal(row),
  open,
  chooseRow: (id, range) => selection.toggle(id, range),
  chooseAll: selection.all,
  startRename: (id) => (renaming.value = mayChange.value ? id : null),
  search: () => searchBox.value?.$el.focus(),
  assign,
  takeOut,
  merge: () => merge(),
  deliver: () => deliver(selection.ids.value),
});

function finishRename(id: number, name: string | null): void {
  if (renaming.value !== id) return;
  renaming.value = null;
  if (name !== null) void changes.rename.mutate({ set: id, name });
}
function merge(): void {
  const { value: ids } = selection.ids;
  if (ids.length < 2) return;
  void changes.merge.mutate({ into: ids[0]!, sets: ids });
  selection.clear();
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
  void changes.place.mutate({ map, set: there?.id ?? null, role, newSet: there ? undefined : setName });
}
function dropped(map: number, set: number, role: string): void {
  remember(map, role);
  void changes.place.mutate({ map, set, role });
}

const menu = ref<InstanceType<typeof ContextMenu>>();
const entries = ref<MenuItem[]>([]);
function showMenu(event: MouseEvent, row: number, column: number | null): void {
  const at = rows.value[row];
  if (!at) return;
  if (column !== null) focus.value = { row, column };
  const map = column === null ? null : (at.cells[column]?.map ?? null);
  entries.value = menuOf({
    map,
    mayChange: mayChange.value,
    roles: columns.value,
    open: () => open(at.set.id, map ?? undefined),
    look: () => (looked.value = map),
    select: () => selection.toggle(at.set.id),
    rename: () => (renaming.value = at.set.id),
    deliver: () => deliver([at.set.id]),
    assign: (role) => map && assign(map, role),
    takeOut: () => map && takeOut(map),
  });
  menu.value?.show(event);
}
</script>

<template>
  <div class="screen">
    <ScreenHead :title="t('sets')" :state="list.state.value">
      <template #actions>
        <Button
          as="router-link"
          outlined
          severity="secondary"
          :label="unsure ? t('fileNamesUnsure', { unsure }) : t('fileNames')"
          :title="unsure ? t('suffixesAreGuessesOrUndecided', { unsure }) : t('whatEachSuffixMeans')"
          :to="{ name: 'habit', params: { slug } }"
        />
        <Button :label="t('deliver')" :disabled="every.length === 0" @click="deliver(selection.ids.value)" />
      </template>
      <template #filters>
        <InputText
          ref="searchBox"
          v-model="words"
          :placeholder="t('findASetOrFile')"
          :aria-label="t('findASetOrFile2')"
          class="find"
        />
        <SelectButton
          v-model="filter"
          :options="list.filters.value"
          option-label="label"
          option-value="value"
          :allow-empty="false"
          :aria-label="t('show')"
        />
        <Chip
          v-for="one in narrowed"
          :key="one.label"
          :label="one.label"
          removable
          data-test="narrowed"
          @remove="one.clear()"
        />
        <span class="grow" />
        <ViewOptions
          v-model:height="height"
          v-model:sort="sort"
          v-model:group="group"
          v-model:hidden="hiddenRoles"
          :slug="slug"
          :columns="list.everyColumn.value"
        />
      </template>
    </ScreenHead>
    <BulkBar
      v-if="chosenSets.length"
      :slug="slug"
      :sets="chosenSets"
      :roles="setList.data.value?.roles ?? []"
      :may-change="mayChange"
      :right="project.data.value?.right"
      @clear="selection.clear()"
      @merge="merge"
      @rename="(names) => changes.renameMany.mutate({ names })"
      @deliver="(target) => deliver(selection.ids.value, target)"
      @steps="(role, recipe) => changes.addSteps.mutate({ sets: selection.ids.value, role, recipe })"
    />
    <ManyProgress :slug="slug" :may-change="mayChange" />
    <StateView :query="setList" :rows="8" height="88px" :empty="list.isWhole.value && every.length === 0">
      <template #empty>
        <div class="nothing">
          <h2>{{ t("noSetsYet") }}</h2>
          <p>
            {{ t("dropAFolderOfTexturesOn") }}
            <RouterLink :to="{ name: 'intake', params: { slug } }">{{ t("intake") }}</RouterLink>{{
              t("itsFilesAreSortedIntoSets")
            }}
          </p>
        </div>
      </template>
      <SetMatrix
        ref="matrix"
        v-model:focus="focus"
        :slug="slug"
        :list="list"
        :chosen="selection.chosen.value"
        :renaming="renaming"
        :may-change="mayChange"
        @look="looked = $event"
        @open="open"
        @choose="selection.toggle"
        @choose-all="selection.all"
        @start-rename="renaming = $event"
        @rename="finishRename"
        @drop="dropped"
        @menu="showMenu"
      />
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
    </StateView>
    <ContextMenu ref="menu" :model="entries" />
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
.find {
  width: 230px;
}
.nothing {
  flex: 1;
  padding: 64px 24px;
  text-align: center;
}
</style>
