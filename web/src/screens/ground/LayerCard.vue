<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import type { GroundLayer, Repetition } from "@/api/ground";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import NumberField from "@/parts/fields/NumberField.vue";
import type { Given } from "@/parts/fields/options";
import SliderField from "@/parts/fields/SliderField.vue";
import TextField from "@/parts/fields/TextField.vue";
import Mark from "@/parts/Mark.vue";
import { valueOf, wearsOf } from "@/screens/models/wearing";
import { t } from "@/texts/ground";

import type { Brush } from "./brush";
import BrushControls from "./BrushControls.vue";
import { cssTint } from "./layers";
import RuleTerms from "./RuleTerms.vue";

/** One layer: what it wears, how it is laid, where its rule says that it lies, and what a hand corrected. */
const props = defineProps<{
  layer: GroundLayer;
  at: number;
  below: GroundLayer[];
  options: readonly Given<string>[];
  share: number | null;
  repetition: Repetition | null;
  chosen: boolean;
  hidden: boolean;
  active: "" | "add" | "take";
  metres: number;
  mayChange: boolean;
  mayMove: { up: boolean; down: boolean };
}>();
const brush = defineModel<Brush>("brush", { required: true });
const emit = defineEmits<{
  choose: [];
  change: [part: Partial<GroundLayer>, what: string];
  hide: [];
  move: [by: 1 | -1];
  remove: [];
  turn: [to: "" | "add" | "take"];
  clear: [];
}>();
const isEmpty = computed(() => !props.layer.worn || props.layer.worn.name === null);
const repeats = [
  { value: "plain" as const, label: t("plainTiles") },
  { value: "two_scales" as const, label: t("twoScales"), help: t("twoScalesHelp") },
  { value: "hexagons" as const, label: t("hexagons"), help: t("hexagonsHelp") },
];
const set = (part: Partial<GroundLayer>, what: string) => emit("change", part, what);
function wear(value: string): void {
  const wears = wearsOf(value);
  set(
    { worn: wears ? { ...wears, name: null, state: "" } : null },
    t("whatLayerWears", { name: props.layer.name }),
  );
}
</script>

<template>
  <li class="layer" :class="{ chosen, empty: isEmpty }" :data-test="`layer ${layer.name}`">
    <div class="head">
      <span class="tint" :style="{ background: cssTint(at) }" />
      <Button text severity="secondary" class="name" :aria-expanded="chosen" @click="emit('choose')">
        <Mark :severity="isEmpty ? 'error' : repetition?.is_seen ? 'warning' : 'fine'" />
        <span>{{ layer.name }}</span>
        <span v-if="share !== null" class="soft small">{{
          t("covers", { share: (share * 100).toFixed(0) })
        }}</span>
      </Button>
      <Button
        text
        severity="secondary"
        :icon="hidden ? 'pi pi-eye-slash' : 'pi pi-eye'"
        :aria-label="hidden ? t('showLayer', { name: layer.name }) : t('hideLayer', { name: layer.name })"
        :aria-pressed="hidden"
        @click="emit('hide')"
      />
    </div>
    <div class="wears">
      <ChoiceField
        :model-value="isEmpty ? '' : valueOf(layer.worn)"
        :options="options"
        :label="t('whatLayerWears', { name: layer.name })"
        :disabled="!mayChange"
        @update:model-value="wear($event ?? '')"
      />
      <NumberField
        :value="layer.tile"
        :label="t('tileOf', { name: layer.name })"
        :title="t('tileHelp')"
        unit="m"
        :min="0.01"
        :max="16384"
        :digits="2"
        :step="0.5"
        :disabled="!mayChange"
        @change="set({ tile: $event ?? layer.tile }, t('tileOf', { name: layer.name }))"
      />
    </div>
    <div v-if="chosen" class="more">
      <h3>{{ t("whereItLies") }}</h3>
      <RuleTerms
        v-if="below.length"
        :layer="layer"
        :below="below"
        :may-change="mayChange"
        @change="set({ rule: $event }, t('ruleOf', { name: layer.name }))"
      />
      <p v-else class="soft small">{{ t("lowestLayer") }}</p>
      <template v-if="mayChange && below.length">
        <h3>{{ t("correctByHand") }}</h3>
        <BrushControls
          v-model="brush"
          :metres="metres"
          :active="active"
          :painted="layer.strokes > 0"
          @turn="emit('turn', $event)"
          @clear="emit('clear')"
        />
      </template>
      <h3>{{ t("howItIsLaid") }}</h3>
      <div class="fields">
        <span>{{ t("againstRepetition") }}</span>
        <ChoiceField
          :model-value="layer.repeat"
          :options="repeats"
          :label="t('againstRepetition')"
          :disabled="!mayChange"
          @update:model-value="set({ repeat: $event ?? 'plain' }, t('tilesOf', { name: layer.name }))"
        />
        <span>{{ t("turn") }}</span>
        <NumberField
          :value="layer.turn"
          :label="t('turnOf', { name: layer.name })"
          unit="°"
          :min="-360"
          :max="360"
          :digits="1"
          :disabled="!mayChange"
          @change="set({ turn: $event ?? 0 }, t('turnOf', { name: layer.name }))"
        />
        <span :title="t('borderByReliefHelp')">{{ t("borderByRelief") }}</span>
        <SliderField
          :value="layer.edge"
          :low="0"
          :high="1"
          :label="t('borderByRelief')"
          :disabled="!mayChange"
          @keep="set({ edge: $event }, t('borderOf', { name: layer.name }))"
        />
        <span>{{ t("name") }}</span>
        <TextField
          :value="layer.name"
          :label="t('nameOf', { name: layer.name })"
          :maxlength="100"
          :disabled="!mayChange"
          @change="set({ name: $event.trim() || layer.name }, t('nameOf', { name: layer.name }))"
        />
      </div>
      <div v-if="mayChange" class="row">
        <Button
          text
          severity="secondary"
          icon="pi pi-arrow-up"
          :label="t('higher')"
          :disabled="!mayMove.up"
          @click="emit('move', 1)"
        />
        <Button
          text
          severity="secondary"
          icon="pi pi-arrow-down"
          :label="t('lower')"
          :disabled="!mayMove.down"
          @click="emit('move', -1)"
        />
        <span class="grow" />
        <Button text severity="danger" :label="t('takeLayerOut')" @click="emit('remove')" />
      </div>
    </div>
  </li>
</template>

<style scoped>
.layer {
  display: grid;
  gap: var(--space-1);
  padding: var(--space-2);
  border: 1px solid var(--line);
  border-left: 3px solid transparent;
}
.chosen {
  border-left-color: var(--accent);
}
.head {
  display: flex;
  align-items: center;
  gap: var(--space-2);
}
.tint {
  width: 12px;
  height: 12px;
  border: 1px solid var(--line-strong);
}
.name {
  flex: 1;
  justify-content: flex-start;
  text-align: left;
}
.wears,
.fields {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 6.5rem;
  gap: var(--space-2);
  align-items: center;
}
.fields {
  grid-template-columns: 8rem minmax(0, 1fr);
}
.more {
  display: grid;
  gap: var(--space-2);
  padding-top: var(--space-2);
}
h3 {
  font-size: 1em;
  margin: var(--space-1) 0 0;
}
</style>
