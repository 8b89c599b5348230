<script setup lang="ts">
import Dialog from "primevue/dialog";
import InputText from "primevue/inputtext";
import { computed, nextTick, ref, watch } from "vue";

import { t } from "@/texts/app";

import { ranked } from "./commands";
import { useCommands } from "./useCommands";

/** One field that goes to any set, file, master, cast or rule, and runs any action. */
const props = defineProps<{ slug: string }>();
const open = defineModel<boolean>("open", { required: true });
const words = ref("");
const at = ref(0);
const all = useCommands(() => props.slug, words);
const shown = computed(() => ranked(all.value, words.value));
const list = ref<HTMLElement>();
const idOf = (index: number) => `command-${index}`;

watch(words, () => (at.value = 0));
watch(at, async () => {
  await nextTick();
  list.value?.querySelector('[aria-selected="true"]')?.scrollIntoView({ block: "nearest" });
});
function step(by: number): void {
  at.value = Math.max(0, Math.min(shown.value.length - 1, at.value + by));
}
function run(index = at.value): void {
  const command = shown.value[index];
  if (!command) return;
  open.value = false;
  command.run();
}
</script>

<template>
  <Dialog
    v-model:visible="open"
    modal
    dismissable-mask
    position="top"
    :show-header="false"
    :style="{ width: '40rem', marginTop: '48px' }"
    :pt="{
      root: { 'aria-label': t('goToAnything'), 'aria-labelledby': null },
      content: { style: 'padding: 12px' },
    }"
  >
    <InputText
      v-model="words"
      autofocus
      fluid
      role="combobox"
      :aria-label="t('goToASetFileMaterial')"
      :placeholder="t('setFileMaterialRuleOrAction')"
      aria-expanded="true"
      aria-controls="commands"
      :aria-activedescendant="shown.length ? idOf(at) : undefined"
      @keydown.down.prevent="step(1)"
      @keydown.up.prevent="step(-1)"
      @keydown.enter.prevent="run()"
    />
    <ul id="commands" ref="list" role="listbox" :aria-label="t('whatWasFound')">
      <li
        v-for="(one, index) in shown"
        :id="idOf(index)"
        :key="`${one.kind} ${one.label} ${index}`"
        role="option"
        :aria-selected="index === at"
        @click="run(index)"
        @pointermove="at = index"
      >
        <span class="soft kind">{{ one.kind }}</span>
        <span class="label">{{ one.label }}</span>
        <span class="soft detail">{{ one.detail }}</span>
        <kbd v-if="one.key">{{ one.key }}</kbd>
      </li>
    </ul>
    <p v-if="!shown.length" class="soft">{{ t("nothingHasThatName") }}</p>
  </Dialog>
</template>

<style scoped>
ul {
  list-style: none;
  margin: var(--space-2) 0 0;
  padding: 0;
  max-height: 50vh;
  overflow: auto;
}
li {
  display: grid;
  grid-template-columns: 6rem minmax(0, auto) minmax(0, 1fr) auto;
  gap: var(--space-2);
  align-items: center;
  min-height: 28px;
  padding: 2px 8px;
  cursor: pointer;
}
li[aria-selected="true"] {
  background: var(--accent-wash);
  outline: 1px solid var(--accent);
  outline-offset: -1px;
}
.label,
.detail {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
