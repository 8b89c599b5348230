<script setup lang="ts">
import Button from "primevue/button";
import Textarea from "primevue/textarea";
import { computed, ref } from "vue";

import { type Comment, useTeamChanges } from "@/api/team";
import { whenOf } from "@/app/when";
import { t } from "@/texts/team";

/** One comment with its answers: answered, settled, changed by whoever wrote it. */
const props = defineProps<{ slug: string; comment: Comment; number: number; shown: boolean }>();
defineEmits<{ look: [] }>();
const changes = useTeamChanges(() => props.slug);
const answering = ref(false);
const editing = ref<number | null>(null);
const text = ref("");
const lines = computed(() => [props.comment, ...props.comment.answers]);
const who = (by: string | null) => by ?? t("someone");

async function answer(): Promise<void> {
  if (!text.value.trim()) return;
  const done = await changes.say({ text: text.value, parent: props.comment.id });
  if (done) [answering.value, text.value] = [false, ""];
}
function edit(line: { id: number; text: string }): void {
  editing.value = line.id;
  text.value = line.text;
}
async function save(line: { id: number; revision: number }): Promise<void> {
  if (await changes.edit(line.id, text.value, line.revision)) [editing.value, text.value] = [null, ""];
}
</script>

<template>
  <article :class="{ shown }" :data-comment="comment.id">
    <div v-for="line in lines" :key="line.id" class="line" :class="{ answer: line !== comment }">
      <p class="soft">
        <Button
          v-if="line === comment && comment.x !== null"
          class="pin"
          size="small"
          rounded
          :label="String(number)"
          :aria-label="t('goToPlace')"
          :title="t('goToPlace')"
          @click="$emit('look')"
        />
        <b>{{ who(line.by) }}</b> {{ whenOf(line.created) }}
        <span v-if="line.edited">{{ t("edited") }}</span>
        <span v-if="line === comment && comment.check">{{ comment.check.replaceAll("_", " ") }}</span>
      </p>
      <template v-if="editing === line.id">
        <Textarea v-model="text" rows="3" fluid :aria-label="t('edit')" />
        <Button size="small" :label="t('saveWords')" @click="save(line)" />
        <Button text size="small" severity="secondary" :label="t('cancel')" @click="editing = null" />
      </template>
      <p v-else class="text">{{ line.text }}</p>
      <span v-if="line.mine && editing !== line.id" class="row own">
        <Button text size="small" severity="secondary" :label="t('edit')" @click="edit(line)" />
        <Button
          text
          size="small"
          severity="secondary"
          :label="t('remove')"
          @click="changes.remove(line.id)"
        />
      </span>
    </div>
    <form v-if="answering" @submit.prevent="answer">
      <Textarea
        v-model="text"
        rows="2"
        fluid
        :placeholder="t('answerHint')"
        :aria-label="t('answerTo', { by: who(comment.by) })"
        @keydown.ctrl.enter="answer"
      />
      <Button type="submit" size="small" :label="t('answer')" :disabled="!text.trim()" />
      <Button text size="small" severity="secondary" :label="t('cancel')" @click="answering = false" />
    </form>
    <div v-else class="row">
      <span v-if="comment.closed" class="soft">{{
        t("settledBy", { by: comment.closed_by ?? t("someone") })
      }}</span>
      <Button
        v-else
        text
        size="small"
        severity="secondary"
        :label="t('answer')"
        :aria-label="t('answerTo', { by: who(comment.by) })"
        @click="[answering, text] = [true, '']"
      />
      <Button
        text
        size="small"
        severity="secondary"
        :label="comment.closed ? t('openComment') : t('settle')"
        @click="changes.close(comment.id, !comment.closed)"
      />
    </div>
  </article>
</template>

<style scoped>
article {
  padding: var(--space-2) 0;
  border-top: 1px solid var(--line);
}
article.shown {
  box-shadow: inset 2px 0 var(--accent);
  padding-left: var(--space-2);
}
p {
  margin: 0;
}
.text {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.answer {
  margin: var(--space-1) 0 0 var(--space-4);
}
.pin {
  min-width: 20px;
  height: 20px;
  padding: 0 4px;
}
.own {
  gap: 0;
}
</style>
