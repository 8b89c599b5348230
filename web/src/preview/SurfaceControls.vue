<script setup lang="ts">
import Accordion from "primevue/accordion";
import AccordionContent from "primevue/accordioncontent";
import AccordionHeader from "primevue/accordionheader";
import AccordionPanel from "primevue/accordionpanel";
import Button from "primevue/button";
import SelectButton from "primevue/selectbutton";
import { computed, ref } from "vue";

import type { SheetSlot } from "@/api/materials";
import FilePick from "@/parts/FilePick.vue";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";
import SliderField from "@/parts/fields/SliderField.vue";
import { t } from "@/texts/preview";

import { titled } from "./choices";
import { detail, DETAILS } from "./detail";
import type { Painted, SheetLook } from "./sheetScene";
import { SHOWN } from "./sheetShader";

/** How the surface is looked at: what is shown of it, which maps are on, what stands beside it. */
const props = defineProps<{
  slots: SheetSlot[];
  symptoms: { key: string; symptom: string; cause: string }[];
  choices: { id: number; name: string }[];
  beside: number;
  paired: boolean;
  lifts: boolean;
  moves: boolean;
  ownColours: boolean;
}>();
const emit = defineEmits<{
  recognise: [];
  still: [side: number];
  compare: [cast: number];
  mesh: [files: File[]];
}>();
const look = defineModel<SheetLook>({ required: true });
const turning = defineModel<boolean>("turning", { required: true });
const running = defineModel<boolean>("running", { required: true });
const off = defineModel<string[]>("off", { required: true });
const side = ref(1024);
const SIDES = [512, 1024, 2048, 4096];
const LABELS: Record<string, string> = {
  lit: t("lit"),
  base_color: t("baseColour"),
  metallic: t("metallic"),
  roughness: t("roughness"),
  normal: t("normal"),
  occlusion: t("occlusion"),
  emissive: t("emissive"),
  opacity: t("opacity"),
  height: t("height"),
  density: t("texelDensity"),
};
const shown = SHOWN.map((one) => ({ value: one, label: LABELS[one]! }));
const PAINTS: Painted[] = [
  "none",
  "red",
  "green",
  "blue",
  "no_alpha",
  "red_patches",
  "red_left",
  "green_below",
];
const paints = computed(() => titled<Painted>(props.ownColours ? ["own", ...PAINTS] : PAINTS));
const details = DETAILS.map((one) => ({ value: one.share, label: one.title }));
const on = computed({
  get: () => props.slots.map((one) => one.name).filter((name) => !off.value.includes(name)),
  set: (names) => (off.value = props.slots.map((one) => one.name).filter((name) => !names.includes(name))),
});
const misreadings = computed(() => [
  { value: "" as const, label: t("readCorrectly2") },
  ...props.symptoms.map((one) => ({
    value: one.key,
    label: one.cause,
    help: one.symptom,
  })),
]);
const others = computed(() => [{ value: 0, label: t("nothing") }, ...named(props.choices, "id", "name")]);
const PARTED = [
  { value: "beside", label: t("beside") },
  { value: "wipe", label: t("wipe") },
];
</script>

<template>
  <div class="controls scroll">
    <Accordion multiple :value="['view']">
      <AccordionPanel value="view">
        <AccordionHeader>{{ t("view") }}</AccordionHeader>
        <AccordionContent>
          <div class="fields">
            <span>{{ t("show") }}</span><ChoiceField
              v-model="look.shown"
              :options="shown"
              :label="t('show')"
            />
            <span>{{ t("exposure") }}</span>
            <SliderField
              :label="t('exposure')"
              :value="look.exposure"
              :low="-3"
              :high="3"
              :step="0.1"
              :min="-8"
              :max="8"
              @move="look.exposure = $event"
            />
            <span>{{ t("vertexColour") }}</span><ChoiceField
              v-model="look.vertex"
              :options="paints"
              :label="t('vertexColour')"
            />
            <span :title="t('fewerPixelsForSlowMachines')">{{ t("detail") }}</span><ChoiceField
              v-model="detail"
              :options="details"
              :label="t('detailOfTheSurface')"
            />
          </div>
          <div class="row checks">
            <CheckField v-model="look.toneMapped" :label="t('toneMapping')" />
            <CheckField v-model="look.wire" :label="t('wireframe')" />
            <CheckField v-if="lifts" v-model="look.displace" :label="t('displacement')" />
            <CheckField v-model="turning" :label="t('turntable')" />
            <CheckField v-if="moves" v-model="running" :label="t('timeRuns')" />
          </div>
        </AccordionContent>
      </AccordionPanel>
      <AccordionPanel v-if="slots.length" value="maps">
        <AccordionHeader>{{ t("mapsOfOn", { count: on.length, count2: slots.length }) }}</AccordionHeader>
        <AccordionContent>
          <div class="row" role="group" :aria-label="t('mapsThatAreOn')">
            <CheckField v-for="one in slots" :key="one.name" v-model="on" :of="one.name" :label="one.title" />
          </div>
        </AccordionContent>
      </AccordionPanel>
      <AccordionPanel value="compare">
        <AccordionHeader>{{ t("compare") }}</AccordionHeader>
        <AccordionContent>
          <div class="fields">
            <template v-if="choices.length">
              <span>{{ t("with") }}</span>
              <ChoiceField
                :model-value="beside"
                :options="others"
                :label="t('compareWithAnotherCast')"
                @update:model-value="emit('compare', $event ?? 0)"
              />
            </template>
            <span>{{ t("misread2") }}</span>
            <ChoiceField v-model="look.misread" :options="misreadings" :label="t('misread2')" />
            <template v-if="paired">
              <span>{{ t("as") }}</span>
              <SelectButton
                v-model="look.parted"
                :options="PARTED"
                option-label="label"
                option-value="value"
                :allow-empty="false"
                :aria-label="t('howBothAreShown')"
              />
            </template>
            <template v-if="paired && look.parted === 'wipe'">
              <span>{{ t("line") }}</span>
              <SliderField
                :label="t('whereTheWipeStands')"
                :value="look.wipe"
                :low="0.02"
                :high="0.98"
                bare
                @move="look.wipe = $event"
              />
            </template>
          </div>
          <Button
            outlined
            :label="t('identifyAProblem')"
            :title="t('smallPicturesOfThisSurfaceMisread')"
            @click="emit('recognise')"
          />
        </AccordionContent>
      </AccordionPanel>
    </Accordion>
    <div class="row actions">
      <FilePick
        :label="t('loadMesh')"
        icon="pi pi-box"
        outlined
        accept=".obj,.gltf,.glb,.bin"
        multiple
        test="mesh"
        @files="emit('mesh', $event)"
      />
      <span class="grow" />
      <ChoiceField v-model="side" :options="SIDES" :label="t('pixelsOfThePicture')" />
      <Button outlined severity="secondary" :label="t('savePicture')" @click="emit('still', side)" />
    </div>
  </div>
</template>

<style scoped>
.controls {
  max-height: 46vh;
  background: var(--sheet);
  border-top: 1px solid var(--line);
}
.checks {
  padding-top: var(--space-1);
  gap: 0 var(--space-4);
}
.fields + .p-button {
  margin-top: var(--space-2);
}
.actions {
  padding: var(--space-1) var(--space-3) var(--space-2);
}
</style>
