<script setup lang="ts">
import { useComments } from "@/api/team";
import { t } from "@/texts/team";

import CommentList from "./CommentList.vue";
import PresenceMarks from "./PresenceMarks.vue";

/** What was said of a cast, and who else has it open. */
const props = defineProps<{ slug: string; cast: number }>();
const comments = useComments(
  () => props.slug,
  () => `casts:${props.cast}`,
);
</script>

<template>
  <section :aria-label="t('comments')">
    <header class="row">
      <h3>{{ t("comments") }}</h3>
      <PresenceMarks :slug="slug" :about="`casts:${cast}`" />
    </header>
    <CommentList :slug="slug" :about="{ cast }" :comments="comments.data.value ?? []" />
  </section>
</template>

<style scoped>
section {
  margin-top: var(--space-4);
  max-width: 40rem;
}
</style>
