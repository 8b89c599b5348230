<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Tag from "primevue/tag";
import { computed, ref } from "vue";

import type { LibraryEntry } from "@/api/materials";
import { t } from "@/texts/materials";

import ChangeLines from "./ChangeLines.vue";

/** The versions of a master or function, the newest first, with what each changed; and the draft, to be published. */
const props = defineProps<{ master: LibraryEntry; busy: boolean }>();
const emit = defineEmits<{ publish: [note: string] }>();
const note = ref("");
const open = ref("");
const opened = computed(() => props.master.versions.find((one) => one.number === open.value) ?? null);
const users = computed(() =>
  (props.master.users ?? [])
    .filter((one) => one.number === open.value)
    .map((user) => `${user.title ?? t("aProjectOfOthers")} (${user.casts})`)
    .join(", "),
);
function publish(): void {
  emit("publish", note.value);
  note.value = "";
}
</script>

<template>
  <div class="trail">
    <div class="row">
      <template v-if="master.draft">
        <Tag severity="warn" :value="t('draft2')" />
        <form v-if="master.may_write" class="row" @submit.prevent="publish">
          <InputText v-model="note" :placeholder="t('whatIsNew')" :aria-label="t('whatIsNew')" />
          <Button type="submit" :label="t('publish')" :disabled="busy" />
        </form>
      </template>
      <span class="soft">{{ master.versions.length ? t("versions") : t("notPublishedYet") }}</span>
      <Button
        v-for="one in master.versions"
        :key="one.number"
        text
        :class="{ old: one.deprecated }"
        :label="one.number"
        :title="one.deprecated ? t('deprecated') : one.note || t('whatItChanged')"
        :aria-expanded="open === one.number"
        @click="open = open === one.number ? '' : one.number"
      />
    </div>
    <div v-if="opened" class="facts">
      <p>
        {{ opened.note || t("noNote") }}
        <span class="soft">{{ opened.by }}, {{ opened.created.slice(0, 10) }}</span>
      </p>
      <p v-if="users" class="soft">{{ t("usedBy", { users }) }}</p>
      <ChangeLines :changes="opened.changes" />
    </div>
  </div>
</template>

<style scoped>
.old {
  text-decoration: line-through;
}
.facts {
  border-left: 2px solid var(--line-strong);
  padding-left: var(--space-2);
}
</style>
