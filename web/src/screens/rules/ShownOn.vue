<script setup lang="ts">
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";
import { t } from "@/texts/rules";

/** Which set a rule is shown on. */
defineProps<{ sets: { id: number; name: string }[]; sample: { id: number } | null }>();
const emit = defineEmits<{ choose: [id: number] }>();
</script>

<template>
  <span class="row">
    <span class="soft">{{ t("exampleSet") }}</span>
    <ChoiceField
      :model-value="sample?.id"
      :options="named(sets, 'id', 'name')"
      :label="t('exampleSet')"
      :placeholder="t('noSetsYet2')"
      :disabled="!sets.length"
      @update:model-value="$event && emit('choose', $event)"
    />
  </span>
</template>
