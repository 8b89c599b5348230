<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";
import Panel from "primevue/panel";
import { computed } from "vue";

import type { Model, ModelSlot } from "@/api/models";
import BrushFields from "@/parts/BrushFields.vue";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { t } from "@/texts/models";

import type { VertexBrush } from "./vertexBrush";
import { metres, nameOf } from "./wearing";

/** Vertex colours, as layered materials read them: painted by hand on a slot, or on the whole model. */
const props = defineProps<{
  model: Model;
  /** The slot in hand; without one the whole model is painted. */
  slotInHand: ModelSlot | null;
  /** In units of the file: how far points lie apart where it was painted last, and how near its border wants them. */
  coarse: { spacing: number; wanted: number } | null;
}>();
const emit = defineEmits<{ clear: [channel: string] }>();
const brush = defineModel<VertexBrush>("brush", { required: true });
const active = defineModel<"" | "add" | "take">("active", { required: true });
const set = (part: Partial<VertexBrush>) => (brush.value = { ...brush.value, ...part });
const channels = [
  { value: "red" as const, label: t("red") },
  { value: "green" as const, label: t("green") },
  { value: "blue" as const, label: t("blue") },
  { value: "alpha" as const, label: t("alpha") },
];
const turn = (to: "add" | "take") => (active.value = active.value === to ? "" : to);
const painted = computed(() => props.model.painted[brush.value.channel] ?? 0);
const largest = computed(() => Math.max(...props.model.size, 1e-3) / props.model.metres / 2);
const smallest = computed(() => largest.value / 500);
const inMetres = (units: number) => metres(units * props.model.metres);
</script>

<template>
  <Panel toggleable collapsed class="panel" :header="t('vertexColours')" data-test="vertex-colours">
    <div class="all">
      <p class="small soft">{{ t("vertexColoursHelp") }}</p>
      <div class="row wrap">
        <ChoiceField
          :model-value="brush.channel"
          :options="channels"
          :label="t('colourToPaint')"
          @update:model-value="$event && set({ channel: $event })"
        />
        <Button
          outlined
          :label="t('paint')"
          :title="t('paintHelp')"
          :aria-pressed="active === 'add'"
          :class="{ pressed: active === 'add' }"
          @click="turn('add')"
        />
        <Button
          outlined
          severity="secondary"
          :label="t('takeAway')"
          :title="t('takeAwayHelp')"
          :aria-pressed="active === 'take'"
          :class="{ pressed: active === 'take' }"
          @click="turn('take')"
        />
        <span class="grow" />
        <Button
          v-if="painted"
          text
          severity="secondary"
          :label="t('clearStrokes', { count: painted })"
          @click="emit('clear', brush.channel)"
        />
      </div>
      <template v-if="active">
        <p class="small">
          {{ slotInHand ? t("onSlot", { name: nameOf(slotInHand) }) : t("onWholeModel") }}
        </p>
        <BrushFields
          :brush="brush"
          :smallest="smallest"
          :largest="largest"
          :radius-label="t('radiusInUnits')"
          @change="set"
        >
          <span v-if="model.metres !== 1" class="small soft">{{ inMetres(brush.radius) }}</span>
        </BrushFields>
        <CheckField
          :model-value="brush.mirror"
          :label="t('otherSideToo')"
          :help="t('otherSideHelp')"
          @update:model-value="set({ mirror: Boolean($event) })"
        />
      </template>
      <Message v-if="coarse" severity="warn" :closable="false">{{
        t("tooCoarse", { spacing: inMetres(coarse.spacing), wanted: inMetres(coarse.wanted) })
      }}</Message>
    </div>
  </Panel>
</template>

<style scoped>
.panel {
  margin-bottom: var(--space-3);
}
.all {
  display: grid;
  gap: var(--space-2);
}
.pressed {
  background: var(--accent-wash);
}
</style>
