<script setup lang="ts">
import Button from "primevue/button";
import Textarea from "primevue/textarea";
import { computed, ref } from "vue";

import { type Comment, useTeamChanges } from "@/api/team";
import { t } from "@/texts/team";

import CommentItem from "./CommentItem.vue";
import type { Places } from "./usePlaces";

/** What was said of a set or a cast, open comments first, and a new one; of a set, places in its maps can be marked. */
const props = defineProps<{
  slug: string;
  about: { set: number } | { cast: number };
  comments: Comment[];
  /** Whether a place can be marked in a picture now. */
  places?: Places;
}>();
const emit = defineEmits<{ look: [comment: Comment] }>();
const changes = useTeamChanges(() => props.slug);
const text = ref("");
const settled = ref(false);
const open = computed(() => props.comments.filter((one) => one.closed === null));
const closed = computed(() => props.comments.filter((one) => one.closed !== null));
const place = computed(() => props.places?.place.value ?? null);
const finding = computed(() => props.places?.finding() ?? null);
/** A marked place says more than where a finding looks. */
const where = computed(() => {
  const { check, map } = finding.value ?? { check: "", map: null };
  return { check, ...(map === null ? {} : { map }), ...place.value };
});

async function say(): Promise<void> {
  if (!text.value.trim()) return;
  const done = await changes.say({ ...props.about, ...where.value, text: text.value });
  if (!done) return;
  text.value = "";
  props.places?.forget();
}
function look(one: Comment): void {
  props.places?.show(one.id);
  emit("look", one);
}
</script>

<template>
  <div data-test="comments">
    <form @submit.prevent="say">
      <Textarea
        v-model="text"
        rows="2"
        fluid
        :placeholder="t('commentHint')"
        :aria-label="t('comment')"
        @keydown.ctrl.enter="say"
      />
      <div class="row">
        <Button type="submit" size="small" :label="t('addComment')" :disabled="!text.trim()" />
        <template v-if="places">
          <Button
            v-if="place"
            text
            size="small"
            severity="secondary"
            icon="pi pi-times"
            :label="t('aboutThePlace')"
            @click="places.forget()"
          />
          <Button
            v-else
            size="small"
            severity="secondary"
            icon="pi pi-map-marker"
            :label="t('markAPlace')"
            :aria-pressed="places.marking.value"
            @click="places.toggle()"
          />
        </template>
      </div>
      <p v-if="finding" class="soft">{{ t("aboutTheFinding", { title: finding.title }) }}</p>
      <p v-if="places?.marking.value" class="soft" role="status">{{ t("placeHint") }}</p>
    </form>
    <p v-if="!comments.length" class="soft">{{ places ? t("noCommentsYet") : t("noCommentsHere") }}</p>
    <CommentItem
      v-for="(one, at) in open"
      :key="one.id"
      :slug="slug"
      :comment="one"
      :number="at + 1"
      :shown="places?.shown.value === one.id"
      @look="look(one)"
    />
    <template v-if="closed.length">
      <Button
        text
        size="small"
        severity="secondary"
        :icon="settled ? 'pi pi-chevron-up' : 'pi pi-chevron-down'"
        :label="t('closedComments', { count: closed.length })"
        :aria-expanded="settled"
        @click="settled = !settled"
      />
      <template v-if="settled">
        <CommentItem
          v-for="one in closed"
          :key="one.id"
          :slug="slug"
          :comment="one"
          :number="0"
          :shown="false"
          @look="look(one)"
        />
      </template>
    </template>
  </div>
</template>

<style scoped>
form {
  display: grid;
  gap: var(--space-1);
  margin-bottom: var(--space-2);
}
p {
  margin: 0;
}
</style>
