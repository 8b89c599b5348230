<script setup lang="ts">
import Button from "primevue/button";
import { ref, watch } from "vue";

import { useManyChanges } from "@/api/manyChanges";
import type { Target, TextureSet } from "@/api/types";
import CheckField from "@/parts/fields/CheckField.vue";
import { t } from "@/texts/sets";

/** Which targets the selected sets are delivered for; none for the project's own. */
const props = defineProps<{ slug: string; sets: TextureSet[]; targets: Target[] }>();
const emit = defineEmits<{ done: [] }>();
const changes = useManyChanges(() => props.slug);
const chosen = ref<string[]>([]);
/** Begins with what all of them have. */
watch(
  () => props.sets.map((one) => one.id).join(),
  () => {
    const [first, ...rest] = props.sets;
    chosen.value = (first?.targets ?? []).filter((name) => rest.every((one) => one.targets.includes(name)));
  },
  { immediate: true },
);
function assign(): void {
  emit("done");
  void changes.targets.mutate({ sets: props.sets, targets: chosen.value });
}
</script>

<template>
  <form @submit.prevent="assign">
    <p class="soft">{{ t("withoutATargetTheyAreDelivered") }}</p>
    <div v-for="one in targets" :key="one.name">
      <CheckField v-model="chosen" :of="one.name" :label="one.title" />
    </div>
    <Button type="submit" :label="t('assign')" />
  </form>
</template>
