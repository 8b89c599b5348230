<script setup lang="ts">
import Button from "primevue/button";
import { computed, nextTick, ref, watch } from "vue";

import type { StepKind } from "@/api/recipes";
import type { RoleInfo, SetDetail, TextureMap } from "@/api/types";
import CheckField from "@/parts/fields/CheckField.vue";
import PickAction from "@/parts/fields/PickAction.vue";
import { t } from "@/texts/set";

import StepOptions from "./StepOptions.vue";
import type { Draft } from "./useDraft";

/** The steps of a map, in order: tried on the picture as they are changed, applied or discarded as one. */
const props = defineProps<{
  draft: Draft;
  kinds: StepKind[];
  set: SetDetail;
  map: TextureMap;
  roles: RoleInfo[];
  mayChange: boolean;
}>();
const emit = defineEmits<{ apply: []; copy: []; tileable: [] }>();

const open = ref(0);
const applyButton = ref<{ $el: HTMLElement }>();
// A remedy was pressed elsewhere: the next Enter is for what it proposes.
watch(
  () => props.draft.label.value,
  async (label) => {
    if (!label) return;
    await nextTick();
    applyButton.value?.$el.focus();
  },
);
const kindOf = (step: string) => props.kinds.find((one) => one.step === step) ?? null;
const labelOf = (step: string) => kindOf(step)?.label ?? step.replaceAll("_", " ");
const offered = computed(() => {
  const fitting = props.kinds.filter(
    (one) => one.roles.includes(props.map.role) && !one.options.some((option) => option.kind === "cover"),
  );
  return [...new Set(fitting.map((one) => one.group))].map((group) => ({
    group,
    options: fitting
      .filter((one) => one.group === group)
      .map((one) => ({ value: one.step, label: one.label, help: one.help })),
  }));
});
const roleLabel = (role: string) => props.roles.find((one) => one.key === role)?.label ?? role;
/** Maps that a step may read: every one of the set, numbered where a role has several. */
const others = computed(() => {
  const seen = new Map<string, number>();
  return props.set.maps.map((map) => {
    const number = (seen.get(map.role) ?? 0) + 1;
    seen.set(map.role, number);
    return {
      value: number > 1 ? `${map.role}/${number}` : map.role,
      label: number > 1 ? `${roleLabel(map.role)} ${number}` : roleLabel(map.role),
    };
  });
});

function add(step: string): void {
  const kind = kindOf(step);
  if (!kind) return;
  props.draft.add(kind);
  open.value = props.draft.steps.value.length - 1;
}
</script>

<template>
  <div class="steps">
    <p v-if="!draft.steps.value.length" class="soft">{{ t("noStepsTheMapIsIts") }}</p>
    <ol v-else :aria-label="t('steps')">
      <li v-for="(step, index) in draft.steps.value" :key="index" :class="{ off: step.off }">
        <div class="head">
          <CheckField
            :model-value="!step.off"
            :label="t('isOn', { labelOf: labelOf(step.step) })"
            hidden
            :disabled="!mayChange"
            @update:model-value="draft.toggle(index)"
          />
          <Button
            text
            severity="secondary"
            class="name"
            :label="labelOf(step.step)"
            :icon="open === index ? 'pi pi-angle-down' : 'pi pi-angle-right'"
            :aria-expanded="open === index"
            @click="open = open === index ? -1 : index"
          />
          <template v-if="mayChange">
            <Button
              text
              severity="secondary"
              icon="pi pi-arrow-up"
              :disabled="index === 0"
              :aria-label="t('moveUp', { labelOf: labelOf(step.step) })"
              :title="t('moveUp2')"
              @click="draft.move(index, -1)"
            />
            <Button
              text
              severity="secondary"
              icon="pi pi-arrow-down"
              :disabled="index === draft.steps.value.length - 1"
              :aria-label="t('moveDown', { labelOf: labelOf(step.step) })"
              :title="t('moveDown2')"
              @click="draft.move(index, 1)"
            />
            <Button
              text
              severity="secondary"
              icon="pi pi-times"
              :aria-label="t('remove', { labelOf: labelOf(step.step) })"
              :title="t('remove2')"
              @click="draft.remove(index)"
            />
          </template>
        </div>
        <StepOptions
          v-if="open === index && kindOf(step.step)?.options.length && mayChange"
          :kind="kindOf(step.step)!"
          :step="step"
          :maps="others"
          @set="(option, value) => draft.set(index, option, value)"
        />
      </li>
    </ol>
    <div v-if="draft.dirty.value" class="tried" role="status">
      <span>{{ draft.label.value ? t("trying", { label: draft.label.value }) : t("notAppliedYet") }}</span>
      <Button ref="applyButton" @click="emit('apply')"
        >{{ t("apply") }} <kbd>{{ t("enter") }}</kbd></Button
      >
      <Button outlined severity="secondary" @click="draft.discard()"
        >{{ t("discard") }} <kbd>{{ t("esc") }}</kbd></Button
      >
    </div>
    <div v-if="mayChange" class="row">
      <PickAction :label="t('addAStep')" :options="offered" @pick="add" />
      <Button
        v-if="map.width"
        text
        :label="t('makeTileable')"
        :title="t('makeTileableHelp')"
        @click="emit('tileable')"
      />
      <Button v-if="map.recipe.length" text :label="t('copyStepsToOtherSets')" @click="emit('copy')" />
    </div>
  </div>
</template>

<style scoped>
.steps {
  display: grid;
  gap: var(--space-2);
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  border-top: 1px solid var(--line);
}
li:last-child {
  border-bottom: 1px solid var(--line);
}
.head {
  display: flex;
  align-items: center;
}
.name {
  flex: 1;
  justify-content: start;
  min-width: 0;
}
.off .name {
  text-decoration: line-through;
}
.tried {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
  align-items: center;
  padding: var(--space-1) var(--space-2);
  background: var(--accent-wash);
}
.tried span {
  flex: 1;
}
</style>
