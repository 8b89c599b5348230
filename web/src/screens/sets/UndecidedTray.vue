<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";

import type { SetList, Undecided } from "@/api/types";
import Print from "@/parts/Print.vue";
import { t } from "@/texts/sets";

import SameForSiblings from "./SameForSiblings.vue";
import UndecidedGroup from "./UndecidedGroup.vue";

const props = defineProps<{
  slug: string;
  setList: SetList;
  mayChange: boolean;
  /** What was placed by hand just now: its suffix and the role that it got. */
  placed?: { suffix: string; role: string } | null;
}>();
const emit = defineEmits<{
  place: [map: number, role: string, set: string];
  drop: [map: number];
  said: [];
}>();
const open = ref(true);
const over = ref(false);
const apart = ref(new Set<string>());

/** Files whose names end alike are decided together, unless somebody wants to see them one by one. */
const groups = computed(() => {
  const bySuffix = new Map<string, Undecided[]>();
  for (const one of props.setList.undecided)
    if (one.suffix) bySuffix.set(one.suffix, [...(bySuffix.get(one.suffix) ?? []), one]);
  return [...bySuffix].filter(([suffix, files]) => files.length > 1 && !apart.value.has(suffix));
});
const single = computed(() => {
  const together = new Set(groups.value.map(([suffix]) => suffix));
  return props.setList.undecided.filter((one) => !together.has(one.suffix));
});

const label = (role: string) => props.setList.roles.find((one) => one.key === role)?.label ?? role;
function answerOf(answer: Undecided["candidates"][number]): string {
  const [role, share] = [label(answer.role), Math.round(answer.confidence * 100)];
  return answer.channel
    ? t("roleInChannelOfSet", { role, channel: answer.channel.toUpperCase(), set: answer.set, share })
    : t("roleOfSet", { role, set: answer.set, share });
}

function drag(event: DragEvent, one: Undecided): void {
  event.dataTransfer?.setData("application/x-map", String(one.map.id));
}

function dropped(event: DragEvent): void {
  over.value = false;
  const map = Number(event.dataTransfer?.getData("application/x-map"));
  if (map) emit("drop", map);
}
</script>

<template>
  <aside
    :class="['tray', { over }]"
    :aria-label="t('undecidedFiles')"
    @dragover.prevent="over = mayChange"
    @dragleave="over = false"
    @drop.prevent="dropped"
  >
    <div class="row">
      <Button
        text
        severity="secondary"
        :icon="open ? 'pi pi-angle-down' : 'pi pi-angle-right'"
        :label="t('undecided', { count: setList.undecided.length })"
        :aria-expanded="open"
        @click="open = !open"
      />
      <span class="soft">{{ t("dragAFileIntoACell") }}</span>
    </div>
    <SameForSiblings
      v-if="placed && mayChange"
      :slug="slug"
      :suffix="placed.suffix"
      :role="placed.role"
      :undecided="setList.undecided"
      :roles="setList.roles"
      @done="emit('said')"
    />
    <ul v-if="open && setList.undecided.length">
      <UndecidedGroup
        v-for="[suffix, files] in groups"
        :key="suffix"
        :slug="slug"
        :suffix="suffix"
        :files="files"
        :roles="setList.roles"
        :may-change="mayChange"
        @open="apart = new Set([...apart, suffix])"
      />
      <li v-for="one in single" :key="one.map.id" :data-file="one.map.file">
        <Print
          v-if="one.readable"
          :slug="slug"
          :map="one.map"
          :draggable="mayChange"
          class="picture"
          @dragstart="drag($event, one)"
        />
        <div class="said">
          <div class="mono file" :title="one.map.file">{{ one.map.file }}</div>
          <div class="soft">{{ one.map.why }}</div>
          <div v-if="mayChange" class="answers">
            <Button
              v-for="answer in one.candidates"
              :key="answer.role + answer.set"
              outlined
              class="answer"
              :label="answerOf(answer)"
              :title="answer.why"
              @click="emit('place', one.map.id, answer.role, answer.set)"
            />
          </div>
        </div>
      </li>
    </ul>
  </aside>
</template>

<style scoped>
.tray {
  border-top: 1px solid var(--line-strong);
  background: var(--sheet);
  flex: none;
  padding: 6px 12px;
}
.tray.over {
  background: var(--accent-wash);
}
ul {
  display: flex;
  gap: 20px;
  list-style: none;
  padding: 0;
  margin: 6px 0 4px;
  overflow-x: auto;
}
li {
  display: flex;
  gap: 10px;
  flex: none;
  max-width: 420px;
}
.picture {
  width: 76px;
  flex: none;
}
.said {
  min-width: 0;
}
.file {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.answers {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
  margin-top: 4px;
}
</style>
