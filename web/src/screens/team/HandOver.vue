<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import { computed, ref } from "vue";

import { type Member, type Right, RIGHTS, usePeopleChanges } from "@/api/people";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { t } from "@/texts/team";

/** Let another member manage the project in one's own place. */
const props = defineProps<{ slug: string; members: Member[]; own: string }>();
const open = defineModel<boolean>("open", { required: true });
const changes = usePeopleChanges(() => props.slug);
const to = ref<string | null>(null);
const keep = ref<Right | "">("prepare");
const others = computed(() => props.members.map((one) => one.name).filter((name) => name !== props.own));
const kept = computed(() => [
  ...RIGHTS.filter((one) => one.value !== "manage"),
  { value: "" as const, label: t("leaveTheProject") },
]);

async function handOver(): Promise<void> {
  const name = to.value;
  if (!name) return;
  const done = await changes.handOver(name, keep.value || null, t("handedOver", { name }));
  if (done) open.value = false;
}
</script>

<template>
  <Dialog
    v-model:visible="open"
    modal
    :header="t('handOverTheProject')"
    :style="{ width: '30rem' }"
    data-test="hand-over"
  >
    <form @submit.prevent="handOver">
      <ChoiceField v-model="to" :options="others" :label="t('toWhom')" :placeholder="t('toWhom')" />
      <p>{{ t("handOverWords") }}</p>
      <ChoiceField v-model="keep" :options="kept" :label="t('whatYouKeep')" />
      <Button type="submit" :label="t('handOver')" :disabled="!to" />
    </form>
  </Dialog>
</template>

<style scoped>
form {
  display: grid;
  gap: var(--space-2);
}
p {
  margin: 0;
}
</style>
