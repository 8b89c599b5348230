<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import InputText from "primevue/inputtext";
import { computed, ref, useId } from "vue";

import type { TextureSet } from "@/api/types";
import { t } from "@/texts/sets";

import { renamed } from "./renaming";

/** New names for several sets: a text in them is replaced, something is put before or behind. */
const props = defineProps<{ sets: TextureSet[] }>();
const emit = defineEmits<{ rename: [names: Record<number, string>] }>();
const open = defineModel<boolean>("open", { required: true });
const id = useId();
const find = ref("");
const replace = ref("");
const before = ref("");
const behind = ref("");
const names = computed(() =>
  props.sets.map((set) => ({
    id: set.id,
    old: set.name,
    name: renamed(set.name, {
      find: find.value,
      replace: replace.value,
      before: before.value,
      behind: behind.value,
    }),
  })),
);
const changed = computed(() => names.value.filter((one) => one.name !== one.old));
const twice = computed(() => {
  const all = names.value.map((one) => one.name);
  return all.find((name, at) => all.indexOf(name) < at);
});
function rename(): void {
  emit("rename", Object.fromEntries(changed.value.map((one) => [one.id, one.name])));
  open.value = false;
}
</script>

<template>
  <Dialog v-model:visible="open" modal :header="t('renameTheSelectedSets')" :style="{ width: '34rem' }">
    <form @submit.prevent="rename">
      <div class="fields">
        <label :for="`${id}-find`">{{ t("find") }}</label>
        <InputText :id="`${id}-find`" v-model="find" autofocus />
        <label :for="`${id}-replace`">{{ t("replaceWith") }}</label>
        <InputText :id="`${id}-replace`" v-model="replace" />
        <label :for="`${id}-before`">{{ t("putBefore") }}</label>
        <InputText :id="`${id}-before`" v-model="before" />
        <label :for="`${id}-behind`">{{ t("putBehind") }}</label>
        <InputText :id="`${id}-behind`" v-model="behind" />
      </div>
      <ul :aria-label="t('newNames')">
        <li v-for="one in names" :key="one.id" :class="{ soft: one.name === one.old }">
          {{ one.old }} → <b>{{ one.name }}</b>
        </li>
      </ul>
      <p v-if="twice" class="error" role="alert">{{ t("twoSetsWouldBeCalled", { twice }) }}</p>
      <Button
        type="submit"
        :label="t('rename1Set', { count: changed.length })"
        :disabled="!changed.length || Boolean(twice)"
      />
    </form>
  </Dialog>
</template>

<style scoped>
form {
  display: grid;
  gap: var(--space-3);
  justify-items: start;
}
.fields {
  width: 100%;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0;
  max-height: 240px;
  overflow: auto;
}
</style>
