<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import { computed, ref } from "vue";

import { type Region, useAtlasChanges } from "@/api/atlases";
import { pictureOf } from "@/api/pictures";
import type { SetDetail, TextureMap } from "@/api/types";
import CheckField from "@/parts/fields/CheckField.vue";
import NumberField from "@/parts/fields/NumberField.vue";
import TextField from "@/parts/fields/TextField.vue";
import { t } from "@/texts/atlas";

import { grid, texelsOf, withMetres, withTexels } from "./regions";
import RegionsPicture from "./RegionsPicture.vue";

/** Regions of a set: drawn on the picture, exact in texels, with their size in metres. */
const props = defineProps<{ slug: string; set: SetDetail; map: TextureMap; mayChange: boolean }>();
const shown = defineModel<boolean>("shown", { required: true });
const { keep, busy } = useAtlasChanges(() => props.slug);
const regions = ref<Region[]>(props.set.regions.map((one) => ({ ...one })));
const chosen = ref(-1);
const strips = ref(false);
const columns = ref(2);
const rows = ref(2);
const sides = computed(() => ({ width: props.map.width ?? 1, height: props.map.height ?? 1 }));
const SIDES = [
  ["left", t("fromTheLeft")],
  ["top", t("fromAbove")],
  ["width", t("width")],
  ["height", t("height")],
] as const;
const METRES = [t("metresWide"), t("metresHigh")] as const;
function freeName(): string {
  const names = new Set(regions.value.map((one) => one.name));
  for (let number = regions.value.length + 1; ; number++) {
    const name = strips.value ? t("strip", { number }) : t("region", { number });
    if (!names.has(name)) return name;
  }
}
function add(region: Region): void {
  regions.value.push(region);
  chosen.value = regions.value.length - 1;
}
const put = (at: number, region: Region) => (regions.value[at] = region);
function remove(at: number): void {
  regions.value.splice(at, 1);
  chosen.value = -1;
}
function equalCells(): void {
  regions.value = grid(columns.value, rows.value, (number) => t("region", { number }));
  chosen.value = -1;
}
async function apply(): Promise<void> {
  if (await keep(props.set, regions.value)) shown.value = false;
}
</script>

<template>
  <Dialog
    v-model:visible="shown"
    modal
    :header="t('regionsOf', { name: set.name })"
    :style="{ width: 'min(96vw, 1320px)' }"
  >
    <div class="both">
      <section>
        <RegionsPicture
          :url="pictureOf(slug, map, { side: 1024 })"
          :regions="regions"
          :chosen="chosen"
          :sides="sides"
          :strips="strips"
          :name-of-next="freeName()"
          :may-change="mayChange"
          @draw="add"
          @choose="chosen = $event"
        />
        <p v-if="mayChange" class="small soft">{{ t("drawHelp") }}</p>
      </section>
      <section class="side">
        <p class="small soft">{{ t("regionsHelp") }}</p>
        <div v-if="mayChange" class="row wrap">
          <CheckField v-model="strips" :label="t('wholeWidth')" />
          <span class="grow" />
          <Button
            outlined
            severity="secondary"
            :label="t('addRegion')"
            @click="add({ name: freeName(), left: 0, top: 0, width: strips ? 1 : 0.25, height: 0.25 })"
          />
        </div>
        <div v-if="mayChange" class="row wrap">
          <NumberField
            :value="columns"
            :label="t('columns')"
            :min="1"
            :max="32"
            :digits="0"
            @change="columns = $event!"
          />
          ×
          <NumberField
            :value="rows"
            :label="t('rows')"
            :min="1"
            :max="16"
            :digits="0"
            @change="rows = $event!"
          />
          <Button outlined severity="secondary" :label="t('equalCells')" @click="equalCells" />
        </div>
        <p v-if="!regions.length" class="soft">{{ t("noRegions") }}</p>
        <ul class="list">
          <li
            v-for="(one, at) in regions"
            :key="at"
            :class="{ chosen: at === chosen }"
            @focusin="chosen = at"
          >
            <div class="row">
              <TextField
                :value="one.name"
                :label="t('nameOfRegion', { number: at + 1 })"
                :disabled="!mayChange"
                class="grow"
                @change="put(at, { ...one, name: $event })"
              />
              <Button
                v-if="mayChange"
                text
                severity="secondary"
                :label="t('remove')"
                :aria-label="t('removeRegion', { name: one.name })"
                @click="remove(at)"
              />
            </div>
            <div class="numbers small">
              <label v-for="[side, label] in SIDES" :key="side"
                >{{ label }}
                <NumberField
                  :value="texelsOf(one, side, sides)"
                  :label="t('fieldOfRegion', { field: label, name: one.name })"
                  :min="0"
                  :max="Math.max(sides.width, sides.height)"
                  :digits="0"
                  :disabled="!mayChange"
                  @change="put(at, withTexels(one, side, $event ?? 0, sides))"
                />
              </label>
              <label v-for="(label, axis) in METRES" :key="label"
                >{{ label }}
                <NumberField
                  :value="one.metres?.[axis]"
                  :label="t('fieldOfRegion', { field: label, name: one.name })"
                  :min="0.001"
                  :digits="3"
                  optional
                  :placeholder="t('unknown')"
                  :disabled="!mayChange"
                  @change="put(at, withMetres(one, axis as 0 | 1, $event))"
                />
              </label>
            </div>
          </li>
        </ul>
      </section>
    </div>
    <template #footer>
      <Button text severity="secondary" :label="t('cancel')" @click="shown = false" />
      <Button v-if="mayChange" :label="t('keep')" :loading="busy" @click="apply" />
    </template>
  </Dialog>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: var(--space-4);
  align-items: start;
}
.side {
  display: grid;
  gap: var(--space-2);
  align-content: start;
}
.list {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: var(--space-2);
  max-height: 52vh;
  overflow-y: auto;
}
.list li {
  padding: var(--space-2);
  border: 1px solid var(--line);
  border-radius: var(--radius);
  display: grid;
  gap: var(--space-1);
}
.list li.chosen {
  border-color: var(--accent);
}
.numbers {
  display: grid;
  grid-template-columns: repeat(6, minmax(0, 1fr));
  gap: var(--space-1);
}
.numbers label {
  display: grid;
  align-content: end;
}
@media (max-width: 900px) {
  .both {
    grid-template-columns: 1fr;
  }
}
</style>
