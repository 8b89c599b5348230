<script setup lang="ts">
import Button from "primevue/button";
import Popover from "primevue/popover";
import { computed, ref } from "vue";

import { newStep, type RecipeStep } from "@/api/recipes";
import { useCatalogue, useTargets } from "@/api/queries";
import type { RoleInfo, TextureSet } from "@/api/types";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";
import PickAction from "@/parts/fields/PickAction.vue";
import LicenceInput from "@/parts/LicenceInput.vue";
import { t } from "@/texts/sets";

import ReviewBar from "@/screens/team/ReviewBar.vue";

import AtlasDialog from "./atlas/AtlasDialog.vue";
import RenameMany from "./RenameMany.vue";
import TargetsOfSets from "./TargetsOfSets.vue";

/** What can be done to all sets that are selected. */
const props = defineProps<{
  slug: string;
  sets: TextureSet[];
  roles: RoleInfo[];
  mayChange: boolean;
  right?: string;
}>();
const emit = defineEmits<{
  clear: [];
  merge: [];
  rename: [names: Record<number, string>];
  deliver: [target: string];
  steps: [role: string, recipe: RecipeStep[]];
}>();
const licences = ref<InstanceType<typeof Popover>>();
const stepping = ref<InstanceType<typeof Popover>>();
const assigning = ref<InstanceType<typeof Popover>>();
const renaming = ref(false);
const packing = ref(false);
const catalogue = useCatalogue();
const targets = useTargets(() => props.slug);

const role = ref("normal");
const step = ref<string | null>(null);
const roles = computed(() =>
  props.roles.filter((one) => props.sets.some((set) => set.maps.some((map) => map.role === one.key))),
);
const kinds = computed(() =>
  (catalogue.data.value?.steps ?? []).filter((one) => one.roles.includes(role.value)),
);
const offered = computed(() =>
  [...new Set(kinds.value.map((one) => one.group))].map((group) => ({
    group,
    options: kinds.value
      .filter((one) => one.group === group)
      .map((one) => ({ value: one.step, label: one.label, help: one.help })),
  })),
);
function addStep(): void {
  const kind = kinds.value.find((one) => one.step === step.value);
  const map = props.sets.flatMap((one) => one.maps).find((one) => one.role === role.value);
  if (!kind || !map) return;
  emit("steps", role.value, [newStep(kind, map)]);
  stepping.value?.hide();
}
</script>

<template>
  <div class="bulk row" role="toolbar" :aria-label="t('selectedSets')" data-test="bulk">
    <b>{{ t("n1SetSelected", { count: sets.length }) }}</b>
    <template v-if="mayChange">
      <Button :label="t('deliver1Set', { count: sets.length })" @click="emit('deliver', '')" />
      <PickAction
        :label="t('deliverToAnotherTarget')"
        :options="named(targets.data.value ?? [], 'name', 'title')"
        @pick="emit('deliver', $event)"
      />
      <Button outlined severity="secondary" :label="t('rename')" @click="renaming = true" />
      <Button outlined severity="secondary" :label="t('setLicence')" @click="licences?.toggle($event)" />
      <Button outlined severity="secondary" :label="t('assignTargets')" @click="assigning?.toggle($event)" />
      <Button outlined severity="secondary" :label="t('addAStep')" @click="stepping?.toggle($event)" />
      <Button
        outlined
        severity="secondary"
        :label="t('makeAnAtlas')"
        :title="t('makeAnAtlasHelp')"
        :disabled="sets.length < 2"
        @click="packing = true"
      />
      <Button
        outlined
        severity="secondary"
        :label="t('merge')"
        :title="t('putTheirMapsIntoTheFirst')"
        :disabled="sets.length < 2"
        @click="emit('merge')"
      />
    </template>
    <ReviewBar :slug="slug" :sets="sets.map((one) => one.id)" :right="right" />
    <span class="grow" />
    <Button text severity="secondary" :label="t('clearSelection')" @click="emit('clear')" />
    <Popover ref="licences" :aria-label="t('licenceOfTheSelectedSets')">
      <LicenceInput :slug="slug" :sets="sets.map((one) => one.id)" @said="licences?.hide()" />
    </Popover>
    <Popover ref="assigning" :aria-label="t('targetsOfTheSelectedSets')">
      <TargetsOfSets
        :slug="slug"
        :sets="sets"
        :targets="targets.data.value ?? []"
        @done="assigning?.hide()"
      />
    </Popover>
    <Popover ref="stepping" :aria-label="t('aStepForTheSelectedSets')">
      <div class="fields">
        <span class="soft">{{ t("maps") }}</span>
        <ChoiceField
          v-model="role"
          :options="named(roles, 'key', 'label')"
          :label="t('mapsThatGetTheStep')"
        />
        <span class="soft">{{ t("step") }}</span>
        <ChoiceField v-model="step" :options="offered" :label="t('step')" :placeholder="t('chooseAStep')" />
        <span /><Button :label="t('addTheStep')" :disabled="!step" @click="addStep" />
      </div>
    </Popover>
    <AtlasDialog v-if="packing" v-model:shown="packing" :slug="slug" :sets="sets" :roles="props.roles" />
    <RenameMany v-if="renaming" v-model:open="renaming" :sets="sets" @rename="emit('rename', $event)" />
  </div>
</template>

<style scoped>
.bulk {
  padding: var(--space-1) var(--space-4);
  background: var(--accent-wash);
  border-bottom: 1px solid var(--line);
}
</style>
