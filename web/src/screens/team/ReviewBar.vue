<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Popover from "primevue/popover";
import { computed, ref } from "vue";

import { may } from "@/api/people";
import { type ReviewStep, useReviews, useTeamChanges } from "@/api/team";
import { t } from "@/texts/team";

/** How the review of sets stands, and the steps that may follow: ready, approved, sent back with a reason. */
const props = defineProps<{ slug: string; sets: number[]; right?: string }>();
const reviews = useReviews(() => props.slug);
const changes = useTeamChanges(() => props.slug);
const back = ref<InstanceType<typeof Popover>>();
const reason = ref("");

const steps = computed(() => {
  const chosen = new Set(props.sets);
  return (reviews.data.value ?? []).filter((one) => chosen.has(one.set));
});
/** The one state that all of them share; nothing can be done to a mixture at once. */
const state = computed(() => {
  const found = new Set(props.sets.map((id) => steps.value.find((one) => one.set === id)?.state ?? ""));
  return found.size === 1 ? [...found][0]! : null;
});
const mayAsk = computed(() => may(props.right, "prepare"));
const mayDecide = computed(() => may(props.right, "rules"));
const words = computed(() => {
  const [one] = steps.value;
  const by = one?.by ?? t("someone");
  if (state.value === null || !one) return "";
  if (state.value === "ready") return t("ready", { by });
  if (state.value === "approved") return t("approved", { by });
  if (state.value === "sent_back") return t("sentBack", { by, reason: one.reason });
  return state.value === "changed" ? t("changedSince") : t("withdrawn");
});
const take = (step: ReviewStep) => changes.review(props.sets, step, reason.value);
async function sendBack(): Promise<void> {
  if (!(await take("sent_back"))) return;
  reason.value = "";
  back.value?.hide();
}
</script>

<template>
  <div v-if="state !== null && sets.length" class="row review" data-test="review" :data-state="state">
    <span class="soft words" :title="words">{{ words }}</span>
    <Button
      v-if="mayAsk && ['', 'sent_back', 'changed', 'withdrawn'].includes(state)"
      size="small"
      outlined
      severity="secondary"
      :label="t('markReady')"
      :disabled="changes.busy.value"
      @click="take('ready')"
    />
    <template v-if="mayDecide && state === 'ready'">
      <Button
        size="small"
        icon="pi pi-check"
        :label="t('approve')"
        :disabled="changes.busy.value"
        @click="take('approved')"
      />
    </template>
    <Button
      v-if="mayDecide && ['ready', 'approved'].includes(state)"
      size="small"
      outlined
      severity="secondary"
      :label="t('sendBack')"
      @click="back?.toggle($event)"
    />
    <Button
      v-if="mayAsk && state === 'ready' && !mayDecide"
      text
      size="small"
      severity="secondary"
      :label="t('takeOutOfReview')"
      @click="take('withdrawn')"
    />
    <Popover ref="back" :aria-label="t('sendBack')">
      <form class="row" @submit.prevent="sendBack">
        <InputText v-model="reason" autofocus :placeholder="t('sayWhy')" :aria-label="t('sayWhy')" />
        <Button type="submit" size="small" :label="t('sendBack')" :disabled="!reason.trim()" />
      </form>
    </Popover>
  </div>
</template>

<style scoped>
.review {
  flex-wrap: nowrap;
  min-width: 0;
}
.words {
  max-width: 18rem;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
