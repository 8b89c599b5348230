<script setup lang="ts">
import { computed, ref } from "vue";

import { type ParameterValue, type SheetParameter, useComparison } from "@/api/materials";
import { useMaterialChanges } from "@/api/materialChanges";

import ParameterControl from "./ParameterControl.vue";
import { documentValue, hexOf } from "./values";

/** A master's casts side by side: what differs, and one value set for all that are ticked. */
const props = defineProps<{ slug: string; master: string; mayChange: boolean }>();
const comparison = useComparison(
  () => props.slug,
  () => props.master,
);
const changes = useMaterialChanges(() => props.slug);
const all = ref(false);
const ticked = ref<number[]>([]);
const setting = ref("");
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
const words = (parameter: SheetParameter, value: number[]): string => {
  const kept = documentValue(parameter, value);
  if (parameter.kind === "colour") return hexOf(value);
  if (typeof kept === "boolean") return kept ? "on" : "off";
  return Array.isArray(kept) ? kept.map((one) => Number(one.toFixed(3))).join(", ") : String(kept);
};
function setForAll(value: ParameterValue | null): void {
  const [first, ...casts] = ticked.value;
  if (first !== undefined) void changes.changeCast(first, { changes: { [setting.value]: value }, casts });
}
</script>

<template>
  <section class="scroll compare" aria-label="Compare casts">
    <p v-if="comparison.error.value" role="alert">{{ comparison.error.value.message }}</p>
    <template v-if="told">
      <header>
        <h1>Casts of {{ told.title }}</h1>
        <label><input v-model="all" type="checkbox" /> also what is alike</label>
      </header>
      <div v-if="mayChange" class="set">
        <label
          >For the {{ ticked.length }} ticked set
          <select v-model="setting">
            <option value="">a parameter …</option>
            <option v-for="one in told.parameters" :key="one.name" :value="one.name">{{ one.title }}</option>
          </select></label
        >
        <ParameterControl
          v-if="chosen"
          :key="`${chosen.name} ${ticked}`"
          :parameter="chosen"
          :value="told.casts.find((one) => one.id === ticked[0])?.values[chosen.name] ?? chosen.default"
          :changed="false"
          :inherited="false"
          :may-change="ticked.length > 0"
          @keep="setForAll(documentValue(chosen, $event))"
        />
        <button v-if="chosen && ticked.length" class="plain link" @click="setForAll(null)">
          Put it back
        </button>
      </div>
      <div class="wide">
        <table>
          <thead>
            <tr>
              <th scope="col">{{ parameters.length + slots.length }} differ</th>
              <th v-for="cast in told.casts" :key="cast.id" scope="col">
                <label
                  ><input
                    v-if="mayChange"
                    v-model="ticked"
                    type="checkbox"
                    :value="cast.id"
                    :aria-label="`Tick ${cast.name}`"
                  />
                  <RouterLink :to="{ name: 'materials', params: { slug, kind: 'cast', key: cast.id } }">{{
                    cast.name
                  }}</RouterLink></label
                >
              </th>
            </tr>
          </thead>
          <tbody>
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
                {{ words(one, cast.values[one.name]!) }}
              </td>
            </tr>
            <tr v-for="one in slots" :key="one.name">
              <th scope="row">{{ one.title }}</th>
              <td v-for="cast in told.casts" :key="cast.id" class="soft">
                {{ cast.fills[one.name] || "no map" }}
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </section>
</template>

<style scoped>
.compare {
  padding: 10px 16px;
  display: grid;
  gap: 10px;
  align-content: start;
}
header {
  display: flex;
  gap: 16px;
  align-items: baseline;
}
.set {
  display: flex;
  gap: 14px;
  align-items: center;
  font-size: 12px;
}
.set .parameter {
  width: 320px;
}
.wide {
  overflow: auto;
}
table {
  border-collapse: collapse;
  font-size: 12px;
}
th,
td {
  border-top: 1px solid var(--line);
  padding: 4px 16px 4px 0;
  text-align: left;
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
.link {
  color: var(--accent);
}
</style>
