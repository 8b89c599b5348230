<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import type { Channels, Letter, Source } from "@/api/rules";
import type { RoleInfo, TextureSet } from "@/api/types";
import { t } from "@/texts/rules";

import ChannelLane from "./ChannelLane.vue";

/** A packed map's channels as lanes: from the source, through what changes it, into the channel. */
defineProps<{
  slug: string;
  roles: RoleInfo[];
  mayChange: boolean;
  /** The set whose maps are shown as sources. */
  sample: TextureSet | null;
  /** Pictures of what comes out, by channel letter. */
  results: Record<string, string>;
}>();
const channels = defineModel<Channels>("channels", { required: true });

const LETTERS: Letter[] = ["r", "g", "b", "a"];
const NAMES: Record<Letter, string> = { r: t("red"), g: t("green"), b: t("blue"), a: t("alpha") };
const used = computed(() => LETTERS.filter((letter) => channels.value[letter]));
const next = computed(() => LETTERS[used.value.length]);

const set = (letter: Letter, source: Source) => (channels.value = { ...channels.value, [letter]: source });
function add(): void {
  if (next.value) channels.value = { ...channels.value, [next.value]: { missing: 0 } };
}
function remove(): void {
  const last = used.value.at(-1);
  const rest = { ...channels.value };
  if (last && last !== "r") delete rest[last];
  channels.value = rest;
}
</script>

<template>
  <div class="lanes">
    <ChannelLane
      v-for="letter in used"
      :key="letter"
      :slug="slug"
      :letter="letter"
      :name="NAMES[letter]"
      :source="channels[letter]!"
      :roles="roles"
      :sample="sample"
      :result="results[letter]"
      :may-change="mayChange"
      @change="set(letter, $event)"
    />
    <div v-if="mayChange" class="row">
      <Button v-if="next" :label="t('add', { next: NAMES[next] })" text icon="pi pi-plus" @click="add" />
      <Button
        v-if="used.length > 1"
        :label="t('remove', { at: NAMES[used.at(-1)!] })"
        text
        severity="secondary"
        icon="pi pi-trash"
        @click="remove"
      />
    </div>
  </div>
</template>

<style scoped>
.lanes {
  display: grid;
  gap: var(--space-2);
  align-content: start;
}
</style>
