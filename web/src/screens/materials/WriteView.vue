<script setup lang="ts">
import Button from "primevue/button";
import RadioButton from "primevue/radiobutton";
import Splitter from "primevue/splitter";
import SplitterPanel from "primevue/splitterpanel";
import { computed, ref, watch } from "vue";

import { orderExport } from "@/api/exchange";
import type { CastRow } from "@/api/materials";
import { keys, useCatalogue } from "@/api/queries";
import { useChange } from "@/api/useChange";
import CheckField from "@/parts/fields/CheckField.vue";
import Mark from "@/parts/Mark.vue";
import { t } from "@/texts/materials";

import BakeOptions from "./BakeOptions.vue";
import { type BakeOrder, plainBake } from "./bake";
import ExportList from "./ExportList.vue";

/** Casts of a master exported in an open format, or baked into maps: what is wanted, and what was made. */
const props = defineProps<{ slug: string; master: string; casts: CastRow[]; mayChange: boolean }>();
const catalogue = useCatalogue();
const { busy, change } = useChange(
  () => props.slug,
  () => [[...keys.project(props.slug), "exports"]],
);
const own = computed(() => props.casts.filter((one) => one.master === props.master));
const selected = ref<number[]>([]);
watch(own, (rows) => (selected.value = rows.map((one) => one.id)), { immediate: true });
const format = ref("mtlx");
const bake = ref<BakeOrder>(plainBake());
const BAKED = ["glb", "usda", "maps"];
const bakes = computed(() => BAKED.includes(format.value));

function write(): Promise<unknown> {
  const { layouts, ...order } = bake.value;
  const asked = {
    ...order,
    casts: selected.value,
    format: format.value,
    layouts: format.value === "maps" ? layouts : [],
  };
  return change(() => orderExport(props.slug, asked));
}
</script>

<template>
  <Splitter state-key="export" state-storage="local" class="split">
    <SplitterPanel :size="36" :min-size="24" class="scroll part">
      <p v-if="!mayChange" class="soft">{{ t("youMayNotExportHereWhat") }}</p>
      <form v-else :aria-label="t('exportCasts')" @submit.prevent="write">
        <h2>{{ t("export") }}</h2>
        <fieldset>
          <legend>{{ t("casts") }}</legend>
          <CheckField v-for="one in own" :key="one.id" v-model="selected" :of="one.id" :label="one.name"
            >{{ one.name }} <Mark v-if="one.worst" :severity="one.worst"
          /></CheckField>
        </fieldset>
        <fieldset>
          <legend>{{ t("format") }}</legend>
          <div v-for="one in catalogue.data.value?.written_as ?? []" :key="one.key" class="format">
            <RadioButton v-model="format" :value="one.key" name="format" :input-id="`format-${one.key}`" />
            <label :for="`format-${one.key}`"
              ><b>{{ one.title }}</b
              ><br /><span class="soft">{{ one.help }}</span></label
            >
          </div>
        </fieldset>
        <BakeOptions v-if="bakes" v-model="bake" :slug="slug" :maps="format === 'maps'" />
        <Button
          type="submit"
          :label="t('export1Cast', { count: selected.length })"
          :disabled="busy || !selected.length"
        />
      </form>
    </SplitterPanel>
    <SplitterPanel :size="64" :min-size="30" class="scroll part"><ExportList :slug="slug" /></SplitterPanel>
  </Splitter>
</template>

<style scoped>
.split {
  height: 100%;
  min-height: 0;
  overflow: hidden;
}
.part {
  padding: var(--space-3) var(--space-4);
}
form,
fieldset {
  display: grid;
  gap: var(--space-1);
  justify-items: start;
}
form {
  gap: var(--space-3);
}
fieldset {
  border: 0;
  border-top: 1px solid var(--line);
  padding: var(--space-1) 0 0;
  margin: 0;
  width: 100%;
}
legend {
  font-weight: 650;
  padding: 0 8px 0 0;
}
.format {
  display: grid;
  grid-template-columns: 24px 1fr;
  align-items: start;
  padding: 2px 0;
}
</style>
