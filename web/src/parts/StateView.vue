<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";
import Skeleton from "primevue/skeleton";
import { computed } from "vue";

import { ApiError } from "@/api/client";
import { offline } from "@/api/events";
import { t } from "@/texts/parts";

/**
 * What stands where data will stand: shapes of its size while it loads, why it cannot be shown, or the content. Data
 * that is shown stays while it is asked for again; a line says so when it may be old.
 */
const props = withDefaults(
  defineProps<{
    query: { data: { value: unknown }; error: { value: Error | null }; refetch?: () => unknown };
    /** Shapes that stand for what comes: how many, and how tall each is. */
    rows?: number;
    height?: string;
    /** Whether there is nothing in it; the slot "empty" says what to do. */
    empty?: boolean;
  }>(),
  { rows: 6, height: "2.4rem" },
);
const data = computed(() => props.query.data.value);
const error = computed(() => props.query.error.value);
const noRight = computed(() => error.value instanceof ApiError && error.value.status === 403);
</script>

<template>
  <Message v-if="offline && data" severity="warn" :closable="false" class="told">
    {{ t("noConnectionToTheServerWhat") }}
  </Message>
  <template v-if="data">
    <slot v-if="empty" name="empty" />
    <slot v-else />
  </template>
  <Message v-else-if="error" severity="error" :closable="false" class="told">
    <b v-if="noRight">{{ t("youDoNotHaveTheRight") }}</b>
    {{ error.message }}
    <Button v-if="query.refetch && !noRight" :label="t('tryAgain')" text @click="query.refetch!()" />
  </Message>
  <div v-else class="loading" role="status" :aria-label="t('loading')" data-test="loading">
    <Skeleton v-for="one in rows" :key="one" :height="height" />
  </div>
</template>

<style scoped>
.told {
  margin: var(--space-3);
}
.loading {
  display: grid;
  gap: var(--space-2);
  padding: var(--space-3) var(--space-4);
  align-content: start;
}
</style>
