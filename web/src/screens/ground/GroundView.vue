<script setup lang="ts">
import Button from "primevue/button";
import Splitter from "primevue/splitter";
import SplitterPanel from "primevue/splitterpanel";
import Tab from "primevue/tab";
import TabList from "primevue/tablist";
import TabPanel from "primevue/tabpanel";
import TabPanels from "primevue/tabpanels";
import Tabs from "primevue/tabs";
import { computed, ref } from "vue";

import {
  type GroundLayer,
  type GroundStroke,
  useGround,
  useGroundChanges,
  useGroundKinds,
  useRepetition,
} from "@/api/ground";
import { useMaterials } from "@/api/materials";
import { useSets } from "@/api/queries";
import { useKeys } from "@/app/keys";
import StateView from "@/parts/StateView.vue";
import { choicesFor } from "@/screens/models/wearing";
import { t } from "@/texts/ground";

import type { Brush } from "./brush";
import GroundStage from "./GroundStage.vue";
import LandPanel from "./LandPanel.vue";
import LayerCard from "./LayerCard.vue";
import { moved, newLayer } from "./layers";
import RepetitionPanel from "./RepetitionPanel.vue";

/** One patch of ground: the landscape, and beside it its layers from above to below, its land, and repetition. */
const props = defineProps<{ slug: string; id: number; mayChange: boolean }>();
const emit = defineEmits<{ gone: [] }>();
const query = useGround(() => props.slug, () => props.id); // prettier-ignore
const ground = computed(() => query.data.value);
const changes = useGroundChanges(() => props.slug);
const materials = useMaterials(() => props.slug);
const sets = useSets(() => props.slug);
const kinds = useGroundKinds();
const tab = ref("layers");
const open = ref("");
const hidden = ref<string[]>([]);
const active = ref<"" | "add" | "take">("");
const brush = ref<Brush>({ radius: 2, strength: 1, falloff: 0.5, mirror: "", wrap: false });
const shares = ref<number[]>([]);
const distance = ref(20);
const helped = ref("");
const layers = computed(() => ground.value?.layers ?? []);
/** As they lie: the highest first. */
const listed = computed(() => layers.value.map((layer, at) => ({ layer, at })).reverse());
const painted = computed(() => (active.value ? layers.value.findIndex((one) => one.key === open.value) : -1));
const options = computed(() =>
  choicesFor([], materials.data.value?.casts ?? [], sets.data.value?.sets ?? []),
);

const send = (next: (layers: GroundLayer[]) => GroundLayer[], what: string) =>
  changes.layers(ground.value!, next, what);
const put = (key: string, part: Partial<GroundLayer>, what: string) =>
  void send((all) => all.map((one) => (one.key === key ? { ...one, ...part } : one)), what);
async function add(): Promise<void> {
  const terms = kinds.value?.terms ?? [];
  const made = await send((all) => [...all, newLayer(terms, all)], t("layerAdded"));
  if (made) choose(made.layers.at(-1)!.key);
}
function choose(key: string): void {
  open.value = open.value === key ? "" : key;
  active.value = "";
}
const place = (all: GroundLayer[], key: string) => all.findIndex((one) => one.key === key);
const move = (key: string, by: 1 | -1) =>
  void send((all) => moved(all, place(all, key), by) ?? all, t("layersMoved"));
const mayMove = (at: number) => ({
  up: moved(layers.value, at, 1) !== null,
  down: moved(layers.value, at, -1) !== null,
});
const take = (layer: GroundLayer) =>
  void send((all) => all.filter((one) => one.key !== layer.key), t("layerTakenOut", { name: layer.name }));
const hide = (key: string) =>
  (hidden.value = hidden.value.includes(key)
    ? hidden.value.filter((one) => one !== key)
    : [...hidden.value, key]);
async function keep(stroke: GroundStroke, done: (kept: unknown) => void): Promise<void> {
  done(await changes.paint(ground.value!, stroke));
}
async function remove(): Promise<void> {
  if (ground.value && (await changes.remove(ground.value)) !== null) emit("gone");
}
const turn = (to: "" | "add" | "take") => {
  if (open.value && props.mayChange && layers.value.findIndex((one) => one.key === open.value) > 0)
    active.value = active.value === to ? "" : to;
};
const byRadius = (factor: number) =>
  (brush.value = {
    ...brush.value,
    radius: Math.max(0.05, Math.round(brush.value.radius * factor * 100) / 100),
  });
function step(by: number): void {
  const at = listed.value.findIndex((one) => one.layer.key === open.value);
  const next = listed.value[(at + by + listed.value.length) % Math.max(1, listed.value.length)];
  if (next) choose(next.layer.key);
}
const isLooked = computed(() => tab.value === "repetition" && ground.value !== undefined);
const repetition = useRepetition(() => props.slug, () => ground.value ?? null, distance, helped, isLooked); // prettier-ignore
useKeys(t("ground"), [
  { key: "ArrowDown", does: t("nextLayer"), run: () => step(1) },
  { key: "ArrowUp", does: t("previousLayer"), run: () => step(-1) },
  { key: "B", does: t("paintTheLayer"), run: () => turn("add") },
  { key: "Shift+B", does: t("takeTheLayerAway"), run: () => turn("take") },
  { key: ",", does: t("smallerBrush"), run: () => byRadius(0.8) },
  { key: ".", does: t("largerBrush"), run: () => byRadius(1.25) },
]);
</script>

<template>
  <StateView :query="query" :rows="5" height="4rem">
    <Splitter v-if="ground" state-key="ground-view" state-storage="local" class="both">
      <SplitterPanel :size="64" :min-size="30" class="stage">
        <GroundStage
          :slug="slug"
          :ground="ground"
          :hidden="hidden"
          :painted="painted"
          :takes="active === 'take'"
          :brush="brush"
          @stroke="keep"
          @shares="shares = $event"
        />
      </SplitterPanel>
      <SplitterPanel :size="36" :min-size="22" class="scroll side">
        <Tabs v-model:value="tab">
          <TabList>
            <Tab value="layers">{{ t("layers") }}</Tab>
            <Tab value="land">{{ t("land") }}</Tab>
            <Tab value="repetition">{{ t("repetition") }}</Tab>
          </TabList>
          <TabPanels>
            <TabPanel value="layers">
              <Button
                v-if="mayChange && kinds && layers.length < kinds.layers"
                text
                icon="pi pi-plus"
                :label="t('addALayer')"
                @click="add"
              />
              <ol class="layers">
                <LayerCard
                  v-for="{ layer, at } in listed"
                  :key="layer.key"
                  v-model:brush="brush"
                  :layer="layer"
                  :at="at"
                  :below="layers.slice(0, at)"
                  :options="options"
                  :share="shares[at] ?? null"
                  :repetition="repetition.data.value?.find((one) => one.layer === layer.name) ?? null"
                  :chosen="open === layer.key"
                  :hidden="hidden.includes(layer.key)"
                  :active="open === layer.key ? active : ''"
                  :metres="ground.metres"
                  :may-change="mayChange"
                  :may-move="mayMove(at)"
                  @choose="choose(layer.key)"
                  @change="(part, what) => put(layer.key, part, what)"
                  @hide="hide(layer.key)"
                  @move="move(layer.key, $event)"
                  @remove="take(layer)"
                  @turn="active = $event"
                  @clear="changes.clear(ground!, layer.key)"
                />
              </ol>
            </TabPanel>
            <TabPanel value="land">
              <LandPanel
                :slug="slug"
                :ground="ground"
                :may-change="mayChange"
                @change="(part, what) => changes.patch(ground!, part, what)"
                @height="changes.height(ground!, $event, ground!.shape.low, ground!.shape.high)"
                @remove="remove"
              />
            </TabPanel>
            <TabPanel value="repetition">
              <RepetitionPanel
                v-model:distance="distance"
                v-model:helped="helped"
                :ground="ground"
                :told="repetition.data.value ?? null"
                :waiting="repetition.isFetching.value"
                :problem="repetition.error.value?.message ?? ''"
                :may-change="mayChange"
                @change="put"
              />
            </TabPanel>
          </TabPanels>
        </Tabs>
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
  padding: var(--space-2);
  background: var(--sheet);
}
.layers {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: var(--space-2);
}
</style>
