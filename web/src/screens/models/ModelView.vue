<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";
import Splitter from "primevue/splitter";
import SplitterPanel from "primevue/splitterpanel";
import { computed, ref, watch } from "vue";

import { useMaterials } from "@/api/materials";
import {
  useModel,
  useModelChanges,
  type Painted,
  useProposals,
  type VertexStroke,
  type Wears,
} from "@/api/models";
import { useSets } from "@/api/queries";
import { useKeys } from "@/app/keys";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/models";

import ModelFacts from "./ModelFacts.vue";
import ModelFindings from "./ModelFindings.vue";
import ModelStage from "./ModelStage.vue";
import SlotList from "./SlotList.vue";
import type { VertexBrush } from "./vertexBrush";
import VertexPanel from "./VertexPanel.vue";
import { sureOf } from "./wearing";

/** One model: drawn in what its slots wear, with its slots and what is wrong with them beside it. */
const props = defineProps<{ slug: string; id: number; mayChange: boolean }>();
const emit = defineEmits<{ gone: [] }>();
const query = useModel(
  () => props.slug,
  () => props.id,
);
const proposals = useProposals(
  () => props.slug,
  () => props.id,
);
const materials = useMaterials(() => props.slug);
const sets = useSets(() => props.slug);
const changes = useModelChanges(() => props.slug);
const model = computed(() => query.data.value);
const slots = computed(() => model.value?.slots_out ?? []);
const sure = computed(() => (model.value ? sureOf(model.value, proposals.data.value ?? []) : {}));
const slot = ref(-1);
/** Parts that are not drawn. */
const hidden = ref<string[]>([]);

function assign(key: string, worn: Wears | null): void {
  if (model.value) void changes.assign(model.value, { [key]: worn });
}
function takeProposals(): void {
  if (model.value && Object.keys(sure.value).length && props.mayChange)
    void changes.assign(model.value, sure.value);
}
function step(by: number): void {
  const at = slots.value.findIndex((one) => one.index === slot.value);
  const next = slots.value[(at + by + slots.value.length) % Math.max(1, slots.value.length)];
  if (next) slot.value = next.index;
}
/** Show the parts of a slot alone; all again where they are alone already. */
function solo(index: number): void {
  const parts = model.value?.parts ?? [];
  const others = parts.filter((one) => !one.slots.includes(index)).map((one) => one.name);
  hidden.value =
    hidden.value.length === others.length && others.every((one) => hidden.value.includes(one)) ? [] : others;
}
const active = ref<"" | "add" | "take">("");
const brush = ref<VertexBrush>({ channel: "red", radius: 0, strength: 0.8, falloff: 0.5, mirror: false });
const coarse = ref<{ spacing: number; wanted: number } | null>(null);
const slotInHand = computed(() => slots.value.find((one) => one.index === slot.value) ?? null);
const painting = computed(() =>
  active.value
    ? { brush: brush.value, takes: active.value === "take", slot: slotInHand.value?.key ?? null }
    : null,
);
watch(
  () => model.value?.size.join(),
  () => {
    // A brush of a tenth of the model to begin with.
    const { size, metres } = model.value ?? { size: [], metres: 1 };
    if (size.length) brush.value.radius = Math.max(...size) / metres / 10;
  },
  { immediate: true },
);
async function keepStroke(stroke: VertexStroke, done: (kept: Painted | null) => void): Promise<void> {
  const kept = model.value ? await changes.paint(model.value, stroke) : null;
  coarse.value =
    kept && kept.spacing !== null && kept.wanted !== null
      ? { spacing: kept.spacing, wanted: kept.wanted }
      : null;
  done(kept);
}
async function remove(): Promise<void> {
  if (model.value && (await changes.remove(model.value)) !== null) emit("gone");
}
watch(
  () => model.value?.parts.map((one) => one.name).join("\n"),
  () => (hidden.value = hidden.value.filter((name) => model.value?.parts.some((one) => one.name === name))),
);
useKeys(t("models"), [
  { key: "ArrowDown", does: t("nextSlot"), run: () => step(1) },
  { key: "ArrowUp", does: t("previousSlot"), run: () => step(-1) },
  { key: "S", does: t("showTheSlotAlone"), run: () => slot.value >= 0 && solo(slot.value) },
  { key: "A", does: t("takeProposals"), run: takeProposals },
]);
</script>

<template>
  <StateView :query="query" :rows="5" height="4rem">
    <Splitter v-if="model" state-key="model" state-storage="local" class="both">
      <SplitterPanel :size="60" :min-size="30" class="stage">
        <ModelStage
          v-if="model.state === 'ready'"
          v-model:slot="slot"
          v-model:hidden="hidden"
          :slug="slug"
          :model="model"
          :painting="painting"
          @stroke="keepStroke"
        />
        <div v-else class="waiting">
          <Message v-if="model.state === 'unreadable'" severity="error" :closable="false"
            >{{ model.problem }}
            <Button v-if="mayChange" text :label="t('tryAgain')" @click="changes.measure(model)"
          /></Message>
          <p v-else role="status">{{ t("beingMeasured") }}</p>
        </div>
      </SplitterPanel>
      <SplitterPanel :size="40" :min-size="24" class="scroll side">
        <div class="row wrap">
          <h2>{{ model.name }}</h2>
          <span class="grow" />
          <Button
            v-if="mayChange && slots.some((one) => one.worn)"
            text
            severity="secondary"
            :label="t('nameByWorn')"
            :title="t('nameByWornHelp')"
            @click="changes.callByWorn(model)"
          />
          <Button
            v-if="mayChange && Object.keys(sure).length"
            :label="t('takeNProposals', { count: Object.keys(sure).length })"
            :title="t('takeProposalsHelp')"
            :disabled="changes.busy.value"
            @click="takeProposals"
          />
        </div>
        <p v-if="model.empty" class="error" data-test="empty">
          {{ t("slotsWithout", { count: model.empty }) }}
        </p>
        <SlotList
          v-model:slot="slot"
          :slug="slug"
          :model="model"
          :proposals="proposals.data.value ?? []"
          :casts="materials.data.value?.casts ?? []"
          :sets="sets.data.value?.sets ?? []"
          :may-change="mayChange"
          :hidden="hidden"
          @assign="assign"
          @solo="solo"
          @fill="changes.fill(model!, $event)"
          @call="(key, title) => changes.callSlots(model!, { [key]: title })"
          @split="(key, part) => changes.split(model!, key, part)"
          @join="(key, part) => changes.join(model!, key, part)"
        />
        <VertexPanel
          v-if="mayChange && model.state === 'ready'"
          v-model:brush="brush"
          v-model:active="active"
          :model="model"
          :slot-in-hand="slotInHand"
          :coarse="coarse"
          @clear="changes.clearPainting(model!, $event)"
        />
        <ModelFindings v-if="model.state === 'ready'" :model="model" @show="slot = $event" />
        <ModelFacts
          v-model:hidden="hidden"
          :model="model"
          :may-change="mayChange"
          @rename="changes.rename(model!, $event)"
          @scale="changes.scale(model!, $event)"
          @again="changes.again(model!, $event)"
          @back="changes.bringBack(model!, $event)"
          @textures="changes.ownTextures(model!)"
          @remove="remove"
        />
      </SplitterPanel>
    </Splitter>
  </StateView>
</template>

<style scoped>
.both {
  min-height: 0;
  height: 100%;
}
.stage {
  min-height: 0;
  min-width: 0;
  display: grid;
}
.side {
  padding: var(--space-3);
  background: var(--sheet);
}
.wrap {
  flex-wrap: wrap;
}
.waiting {
  padding: var(--space-4);
  background: var(--surround);
}
</style>
