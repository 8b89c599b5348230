<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import { useHabit, useTeaching } from "@/api/habit";
import type { RoleInfo, Undecided } from "@/api/types";
import { t } from "@/texts/sets";

/** One file was placed by hand: the offer to do the same for all others with its suffix. */
const props = defineProps<{
  slug: string;
  suffix: string;
  role: string;
  undecided: Undecided[];
  roles: RoleInfo[];
}>();
const emit = defineEmits<{ done: [] }>();

const habit = useHabit(() => props.slug);
const { teach } = useTeaching(() => props.slug);
const left = computed(() => props.undecided.filter((one) => one.suffix === props.suffix).length);
const label = computed(() => props.roles.find((one) => one.key === props.role)?.label.toLowerCase());
const line = computed(() => habit.data.value?.lines.find((one) => one.written === props.suffix));

function same(): void {
  const known = line.value;
  if (!known) return;
  const where = known.where as "end";
  teach.mutate([{ suffix: known.suffix, where, folder: known.folder, role: props.role, channels: {} }]);
  emit("done");
}
</script>

<template>
  <p v-if="left && line" class="same" role="status">
    {{ t("theFileIsNow", { label }) }}
    <Button :label="t('sameForSiblings', { count: left, suffix, label })" @click="same" />
    <Button :label="t('no')" text @click="emit('done')" />
  </p>
</template>

<style scoped>
.same {
  display: flex;
  align-items: center;
  gap: 8px;
  margin: 4px 0;
}
</style>
