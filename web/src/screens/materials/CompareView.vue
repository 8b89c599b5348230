<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";

import { type ParameterValue, type SheetParameter, useComparison } from "@/api/materials";
import { useMaterialChanges } from "@/api/materialChanges";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/materials";

import ParameterControl from "./ParameterControl.vue";
import { documentValue, hexOf } from "./values";

/** A master's casts side by side: what differs, and one value set for all that are selected. */
const props = defineProps<{ slug: string; master: string; mayChange: boolean }>();
const comparison = useComparison(
  () => props.slug,
  () => props.master,
);
const changes = useMaterialChanges(() => props.slug);
const all = ref(false);
const selected = ref<number[]>([]);
const setting = ref<string | null>(null);
const told = computed(() => comparison.data.value ?? null);
const differs = (values: unknown[]) => new Set(values.map((one) => JSON.stringify(one))).size > 1;
const parameters = computed(() =>
  (told.value?.parameters ?? []).filter(
    (one) => all.value || differs(told.value!.casts.map((cast) => cast.values[one.name])),
  ),
);
const slots = computed(() =>
  (told.value?.slots ?? []).filter(
    (one) => all.value || differs(told.value!.casts.map((cast) => cast.fills[one.name])),
  ),
);
const chosen = computed(() => told.value?.parameters.find((one) => one.name === setting.value) ?? null);
const textOf = (parameter: SheetParameter, value: number[]): string => {
  const kept = documentValue(parameter, value);
  if (parameter.kind === "colour") return hexOf(value);
  if (typeof kept === "boolean") return kept ? "on" : "off";
  return Array.isArray(kept) ? kept.map((one) => Number(one.toFixed(3))).join(", ") : String(kept);
};
function setForAll(value: ParameterValue | null): void {
  const [first, ...casts] = selected.value;
  if (first !== undefined && setting.value)
    void changes.changeCast(first, { changes: { [setting.value]: value }, casts });
}
</script>

<template>
  <section class="scroll compare" :aria-label="t('compareCasts')">
    <StateView :query="comparison" :rows="6" height="1.8rem">
      <template v-if="told">
        <header class="row">
          <h2>{{ t("castsOf", { title: told.title }) }}</h2>
          <span class="grow" />
          <CheckField v-model="all" :label="t('showIdenticalValues')" />
        </header>
        <div v-if="mayChange" class="row">
          <span class="soft">{{
            selected.length ? t("selectedSet", { count: selected.length }) : t("selectCastsBelowToSetA")
          }}</span>
          <template v-if="selected.length">
            <ChoiceField
              v-model="setting"
              :options="named(told.parameters, 'name', 'title')"
              :label="t('parameterToSet')"
              :placeholder="t('parameter')"
            />
            <ParameterControl
              v-if="chosen"
              :key="`${chosen.name} ${selected}`"
              class="control"
              :parameter="chosen"
              :value="told.casts.find((one) => one.id === selected[0])?.values[chosen.name] ?? chosen.default"
              :changed="false"
              :inherited="false"
              :may-change="true"
              @keep="setForAll(documentValue(chosen, $event))"
            />
            <Button v-if="chosen" text :label="t('reset')" @click="setForAll(null)" />
          </template>
        </div>
        <div class="wide">
          <table class="table">
            <thead>
              <tr>
                <th scope="col">{{ t("rows", { count: parameters.length + slots.length }) }}</th>
                <th v-for="cast in told.casts" :key="cast.id" scope="col">
                  <span class="row">
                    <CheckField
                      v-if="mayChange"
                      v-model="selected"
                      :of="cast.id"
                      :label="t('select', { name: cast.name })"
                      hidden
                    />
                    <RouterLink
                      class="target"
                      :to="{ name: 'materials', params: { slug, kind: 'cast', key: cast.id } }"
                      >{{ cast.name }}</RouterLink
                    >
                  </span>
                </th>
              </tr>
            </thead>
            <tbody>
              <tr v-if="!parameters.length && !slots.length">
                <th scope="row">{{ t("allValues") }}</th>
                <td v-for="cast in told.casts" :key="cast.id" class="soft">{{ t("identical") }}</td>
              </tr>
              <tr v-for="one in parameters" :key="one.name">
                <th scope="row">{{ one.title }}</th>
                <td
                  v-for="cast in told.casts"
                  :key="cast.id"
                  class="mono"
                  :class="{ own: cast.changed.includes(one.name) }"
                >
                  <i
                    v-if="one.kind === 'colour'"
                    class="swatch"
                    :style="{ background: hexOf(cast.values[one.name]!) }"
                  />
                  {{ textOf(one, cast.values[one.name]!) }}
                </td>
              </tr>
              <tr v-for="one in slots" :key="one.name">
                <th scope="row">{{ one.title }}</th>
                <td v-for="cast in told.casts" :key="cast.id" class="soft">
                  {{ cast.fills[one.name] || t("noMap") }}
                </td>
              </tr>
            </tbody>
          </table>
        </div>
      </template>
    </StateView>
  </section>
</template>

<style scoped>
.compare {
  padding: var(--space-3) var(--space-4);
  display: grid;
  gap: var(--space-3);
  align-content: start;
}
.control {
  width: 340px;
}
.wide {
  overflow: auto;
}
.own {
  font-weight: 650;
}
.swatch {
  display: inline-block;
  width: 10px;
  height: 10px;
  border: 1px solid var(--line-strong);
}
</style>
