<script setup lang="ts">
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";

/** Which set a rule is shown on. */
defineProps<{ sets: { id: number; name: string }[]; sample: { id: number } | null }>();
const emit = defineEmits<{ choose: [id: number] }>();
</script>

<template>
  <span class="row">
    <span class="soft">Example set</span>
    <ChoiceField
      :model-value="sample?.id"
      :options="named(sets, 'id', 'name')"
      label="Example set"
      placeholder="No sets yet"
      :disabled="!sets.length"
      @update:model-value="$event && emit('choose', $event)"
    />
  </span>
</template>
