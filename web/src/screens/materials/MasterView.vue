<script setup lang="ts">
import { computed, ref } from "vue";

import {
  type CastRow,
  type MasterDocument,
  type SheetDocument,
  useCast,
  useCatalogue,
  useMaster,
} from "@/api/materials";
import { useMaterialChanges } from "@/api/materialChanges";
import Mark from "@/parts/Mark.vue";
import { chosen } from "@/parts/typed";
import SheetSurface from "@/preview/SheetSurface.vue";

import MasterKeepers from "./MasterKeepers.vue";
import MasterParts from "./MasterParts.vue";
import SheetRows from "./SheetRows.vue";
import { useMasterDraft } from "./useMasterDraft";
import { documentValue, plainOf } from "./values";
import VersionTrail from "./VersionTrail.vue";
import { fetchCast, slotSources, materialOfCast } from "./previewMaterials";

/** A master's sheet, written and read, with its versions; on a surface with the maps of one of its casts. */
const props = defineProps<{ slug: string; name: string; casts: CastRow[] }>();
const master = useMaster(() => props.name);
const catalogue = useCatalogue();
const changes = useMaterialChanges(() => props.slug);
const draft = useMasterDraft(
  () => master.data.value ?? null,
  (name, document, seen) => changes.keepDraft(name, document, seen),
);
const { sheet, problem, said, document } = draft;
const own = computed(() => props.casts.filter((one) => one.master === props.name));
const shownWith = ref(0);
const shown = computed(
  () => own.value.find((one) => one.id === shownWith.value)?.id ?? own.value[0]?.id ?? 0,
);
const cast = useCast(() => props.slug, shown);
const moved = ref<Record<string, number[]>>({});
const values = computed(() => ({
  ...Object.fromEntries((sheet.value?.parameters ?? []).map((one) => [one.name, one.default])),
  ...moved.value,
}));
const slots = computed(() => slotSources(props.slug, sheet.value?.slots ?? [], cast.data.value));
const materialOf = async (id: number) => materialOfCast(props.slug, await fetchCast(props.slug, id));
const mayWrite = computed(() => master.data.value?.may_write ?? false);
const general = computed(() => sheet.value?.remarks.filter((one) => !one.row) ?? []);
/** The sheet that is added to: of a layered master one layer's at a time. */
const layer = ref("");
const sheetIn = (of: MasterDocument): SheetDocument =>
  of.layers
    ? (of.layers.find((one) => one.name === layer.value) ?? of.layers[0]!).sheet
    : (of as SheetDocument);
const changeSheet = (edit: (own: SheetDocument) => void) =>
  void draft.change((edited) => edit(sheetIn(edited)));
const missing = computed(() => {
  const there = document.value ? sheetIn(document.value).inputs : {};
  return (catalogue.data.value?.inputs ?? []).filter((one) => !(one.name in there));
});
const sources = ["red", "green", "blue", "alpha", "map", "none"];
const sourceWords: Record<string, string> = { map: "where a map is white", none: "one amount everywhere" };
const rowName = ref("");

function keep(name: string, value: number[]): void {
  const parameter = sheet.value!.parameters.find((one) => one.name === name)!;
  moved.value = {};
  void draft.begin(name, documentValue(parameter, value));
}
function addInput(name: string): void {
  const input = missing.value.find((one) => one.name === name);
  if (!input) return;
  const text =
    input.size === 1
      ? String(input.neutral[0])
      : input.meaning === "normal"
        ? "normalise(vector(0, 0, 1))"
        : `rgb(${input.neutral.join(", ")})`;
  changeSheet((own) => (own.inputs[name] = text));
}
function addRow(): void {
  const name = rowName.value.trim();
  rowName.value = "";
  if (name) changeSheet((own) => (own.rows = [...(own.rows ?? []), { name, expression: "1" }]));
}
</script>

<template>
  <p v-if="master.error.value" class="none" role="alert">{{ master.error.value.message }}</p>
  <div v-else-if="master.data.value && sheet && document" class="master">
    <section class="scroll" aria-label="Master">
      <header>
        <h1>{{ sheet.title }}</h1>
        <span class="soft mono">{{ sheet.name }}</span>
        <span class="cost" data-test="cost"
          >{{ sheet.cost.reads }} texture reads, {{ sheet.cost.samplers }} samplers,
          {{ sheet.cost.arithmetic }} arithmetic steps, {{ sheet.cost.variants }}
          {{ sheet.cost.variants === 1 ? "variant" : "variants" }}</span
        >
      </header>
      <VersionTrail
        :slug="slug"
        :master="master.data.value"
        :busy="changes.busy.value"
        @publish="(note) => changes.publish(name, note)"
      />
      <MasterKeepers
        :master="master.data.value"
        :busy="changes.busy.value"
        @add="(person) => changes.keeper(name, person, true)"
        @remove="(person) => changes.keeper(name, person, false)"
      />
      <p v-if="problem && !problem.row" class="wrong" role="alert">{{ problem.message }}</p>
      <p v-if="said" class="wrong" role="alert">{{ said }}</p>
      <p v-for="(one, at) in general" :key="at" class="remark" :data-remark="one.check">
        <Mark :severity="one.severity" /> {{ one.message }}
      </p>
      <template v-if="document.layers">
        <div v-for="(one, at) in document.layers" :key="one.name" class="layer">
          <b>{{ one.title || one.name }}</b>
          <label v-if="at"
            >lies
            <select
              :value="one.mask?.source ?? 'red'"
              :disabled="!mayWrite"
              :aria-label="`Where ${one.title || one.name} lies`"
              @change="
                draft.change(
                  (edited) =>
                    (edited.layers![at]!.mask = {
                      ...edited.layers![at]!.mask,
                      source: chosen($event),
                    }),
                )
              "
            >
              <option v-for="source in sources" :key="source" :value="source">
                {{ sourceWords[source] ?? `where the vertex colour has ${source}` }}
              </option>
            </select></label
          >
          <span v-else class="soft">lies under all others</span>
          <MasterParts
            :part="one.sheet"
            :may-write="mayWrite"
            @change="(edit) => draft.change((edited) => edit(edited.layers![at]!.sheet))"
          />
        </div>
      </template>
      <MasterParts
        v-else
        :part="document as SheetDocument"
        :may-write="mayWrite"
        @change="(edit) => draft.change((edited) => edit(edited as SheetDocument))"
      />
      <SheetRows
        :sheet="sheet"
        :operations="catalogue.data.value?.operations ?? []"
        :values="values"
        :changed="[]"
        :inherited="[]"
        :may-change="mayWrite"
        :may-write="mayWrite"
        :problem="problem"
        @move="(key, value) => (moved = { ...moved, [key]: value })"
        @keep="keep"
        @write="draft.write"
        @drop="draft.drop"
      />
      <div v-if="mayWrite" class="more">
        <select v-if="document.layers" v-model="layer" aria-label="Layer that is added to">
          <option v-for="(one, at) in document.layers" :key="one.name" :value="at ? one.name : ''">
            {{ one.title || one.name }}
          </option>
        </select>
        <select
          aria-label="Add an input of the surface"
          @change="
            addInput(($event.target as HTMLSelectElement).value);
            ($event.target as HTMLSelectElement).value = '';
          "
        >
          <option value="">Add an input …</option>
          <option v-for="one in missing" :key="one.name" :value="one.name">{{ one.label }}</option>
        </select>
        <form @submit.prevent="addRow">
          <input v-model="rowName" class="mono" placeholder="name_of_a_row" aria-label="Name of a new row" />
          <button :disabled="!rowName.trim()">Add a row</button>
        </form>
        <label
          >Opacity
          <select
            :value="sheet.opacity_mode"
            @change="draft.change((edited) => (edited.opacity = { ...edited.opacity, mode: chosen($event) }))"
          >
            <option value="opaque">opaque</option>
            <option value="cut_out">cut-out</option>
            <option value="blend">blend</option>
          </select></label
        >
      </div>
    </section>
    <div class="beside">
      <SheetSurface
        :name="sheet.title"
        :sheet="sheet"
        :values="values"
        :slots="slots"
        :choices="casts"
        :material-of="materialOf"
        :plain-of="plainOf"
      />
      <label v-if="own.length" class="with"
        >with the maps of
        <select :value="shown" @change="shownWith = Number(($event.target as HTMLSelectElement).value)">
          <option v-for="one in own" :key="one.id" :value="one.id">{{ one.name }}</option>
        </select></label
      >
    </div>
  </div>
</template>

<style scoped>
.master {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(300px, 34%);
  min-height: 0;
}
section {
  padding: 8px 14px;
  display: grid;
  gap: 8px;
  align-content: start;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: baseline;
}
.cost {
  margin-left: auto;
  font-size: 12px;
}
.beside {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  min-height: 0;
}
.with {
  padding: 4px 8px;
  background: var(--sheet);
  font-size: 12px;
}
.more {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  border-top: 1px solid var(--line);
  padding: 8px 0;
}
.layer {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  font-size: 12px;
  align-items: baseline;
}
.more form {
  display: flex;
  gap: 4px;
}
select,
input {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 1px 4px;
}
.wrong {
  color: var(--error);
}
p {
  margin: 0;
  font-size: 12px;
}
.none {
  padding: 24px;
}
</style>
