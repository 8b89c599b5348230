<script setup lang="ts">
import { computed } from "vue";

import { useTargets } from "@/api/queries";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";
import { t } from "@/texts/deliveries";

/** The target, with what it wants beside it. */
const props = defineProps<{ slug: string }>();
const target = defineModel<string>({ required: true });
const targets = useTargets(() => props.slug);
const shown = computed(() => targets.data.value?.find((one) => one.name === target.value) ?? null);
const outputs = computed(() => (shown.value?.outputs ?? []).map((one) => one.output).join(", "));
</script>

<template>
  <section>
    <h2>{{ t("target") }}</h2>
    <ChoiceField
      :model-value="target"
      :options="named(targets.data.value ?? [], 'name', 'title')"
      :label="t('target')"
      @update:model-value="target = $event ?? ''"
    />
    <div v-if="shown" class="fields">
      <span class="soft">{{ t("name") }}</span><span class="mono">{{ shown.name }}</span>
      <span class="soft">{{ t("green") }}</span><span>{{
        shown.green === "up" ? t("upY") : t("downY")
      }}</span>
      <span class="soft">{{ t("writes") }}</span><span>{{ outputs }}</span>
    </div>
  </section>
</template>

<style scoped>
section {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: var(--space-2);
}
.fields {
  align-items: start;
}
</style>
