<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import { type GroundLayer, type GroundTerm, useGroundKinds } from "@/api/ground";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import NumberField from "@/parts/fields/NumberField.vue";
import { t } from "@/texts/ground";

import { type Measure, MEASURES, newTerm } from "./layers";

/** Where a layer lies: measures that hold together, each with its range and how wide it fades. */
const props = defineProps<{ layer: GroundLayer; below: GroundLayer[]; mayChange: boolean }>();
const emit = defineEmits<{ change: [rule: GroundTerm[]] }>();
const kinds = useGroundKinds();
const offered = computed(() => MEASURES.filter((one) => one.value !== "edge" || props.below.length));
const edges = computed(() => props.below.map((one) => ({ value: one.key, label: one.name })));
const ENDS = [
  { name: "from", label: t("from"), help: t("openEnd") },
  { name: "to", label: t("to"), help: t("openEnd") },
  { name: "fade", label: t("fade"), help: t("fadeHelp") },
] as const;
const unitOf = (measure: Measure) => MEASURES.find((one) => one.value === measure)!.unit;
const put = (at: number, term: GroundTerm) =>
  emit("change", props.layer.rule.map((one, place) => (place === at ? term : one))); // prettier-ignore
function set(at: number, name: keyof GroundTerm, value: number | string | null): void {
  const { [name]: _, ...rest } = props.layer.rule[at]!;
  put(at, (value === null ? rest : { ...rest, [name]: value }) as GroundTerm);
}
const without = (at: number) => emit("change", props.layer.rule.filter((_, place) => place !== at)); // prettier-ignore
const nameOf = (measure: Measure) => MEASURES.find((one) => one.value === measure)!.label;
</script>

<template>
  <div class="rule">
    <p v-if="!layer.rule.length" class="soft small">{{ t("liesEverywhere") }}</p>
    <ol>
      <li v-for="(term, at) in layer.rule" :key="at" class="term">
        <div class="row">
          <ChoiceField
            :model-value="term.measure"
            :options="offered"
            :label="t('measure')"
            :disabled="!mayChange"
            @update:model-value="kinds && put(at, newTerm(kinds.terms, $event!, below))"
          />
          <ChoiceField
            v-if="term.measure === 'edge'"
            :model-value="term.of ?? ''"
            :options="edges"
            :label="t('edgeOf')"
            :disabled="!mayChange"
            @update:model-value="set(at, 'of', $event ?? '')"
          />
          <span class="grow" />
          <Button
            v-if="mayChange"
            text
            severity="secondary"
            icon="pi pi-times"
            :aria-label="t('takeOut', { measure: nameOf(term.measure) })"
            @click="without(at)"
          />
        </div>
        <div class="numbers">
          <label v-for="{ name, label, help } in ENDS" :key="name" class="small" :title="help"
            >{{ label }}
            <NumberField
              :value="term[name] ?? null"
              :label="t('ofTheRule', { what: label, measure: nameOf(term.measure) })"
              :unit="unitOf(term.measure)"
              :digits="3"
              :step="0.1"
              :optional="name !== 'fade'"
              :placeholder="t('open')"
              :disabled="!mayChange"
              @change="set(at, name, $event)"
            />
          </label>
          <template v-if="term.measure === 'noise'">
            <label class="small"
              >{{ t("spots") }}
              <NumberField
                :value="term.size ?? 4"
                :label="t('sizeOfSpots')"
                unit="m"
                :min="0.01"
                :digits="2"
                :disabled="!mayChange"
                @change="set(at, 'size', $event)"
              />
            </label>
            <label class="small"
              >{{ t("seed") }}
              <NumberField
                :value="term.seed ?? 1"
                :label="t('seedOfNoise')"
                :min="0"
                :max="65535"
                :digits="0"
                :disabled="!mayChange"
                @change="set(at, 'seed', $event)"
              />
            </label>
          </template>
        </div>
      </li>
    </ol>
    <Button
      v-if="mayChange && kinds && layer.rule.length < kinds.terms_of_a_rule"
      text
      icon="pi pi-plus"
      :label="t('addAMeasure')"
      @click="emit('change', [...layer.rule, newTerm(kinds.terms, 'slope', below)])"
    />
  </div>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: var(--space-2);
}
.term {
  display: grid;
  gap: var(--space-1);
  padding-left: var(--space-2);
  border-left: 2px solid var(--line);
}
.numbers {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: var(--space-1) var(--space-2);
}
label :deep(input) {
  width: 100%;
}
label {
  min-width: 0;
  display: grid;
  gap: 2px;
}
</style>
