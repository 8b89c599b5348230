<script setup lang="ts">
import { computed, ref } from "vue";

import { useProjects } from "@/api/queries";
import { type RuleKind, useRules } from "@/api/rules";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";
import PickAction from "@/parts/fields/PickAction.vue";
import { t } from "@/texts/rules";

/** A rule of another project, copied into this one; the copy keeps its origin. */
const props = defineProps<{ slug: string; kind: RuleKind }>();
const emit = defineEmits<{ copy: [project: string, name: string] }>();

const projects = useProjects();
const others = computed(() => (projects.data.value ?? []).filter((one) => one.slug !== props.slug));
const from = ref<string | null>(null);
const rules = useRules(
  () => from.value ?? props.slug,
  () => props.kind,
);
const own = computed(() => (from.value ? (rules.data.value ?? []).filter((one) => one.own) : []));
</script>

<template>
  <div v-if="others.length" class="from">
    <ChoiceField
      v-model="from"
      :options="named(others, 'slug', 'name')"
      :label="t('copyFromAnotherProject')"
      :placeholder="t('copyFromAnotherProject')"
    />
    <PickAction
      v-if="own.length"
      :options="named(own, 'name', 'title')"
      :label="t('chooseWhatToCopy')"
      @pick="emit('copy', from!, $event)"
    />
    <span v-else-if="from" class="soft">{{ t("thisProjectHasNoneOfIts") }}</span>
  </div>
</template>

<style scoped>
.from {
  display: grid;
  gap: var(--space-1);
}
</style>
