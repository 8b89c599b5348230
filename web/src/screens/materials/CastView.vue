<script setup lang="ts">
import { computed, ref, watch } from "vue";

import { type CastRow, type ParameterValue, useCast, useCatalogue } from "@/api/materials";
import { useMaterialChanges } from "@/api/materialChanges";
import { useSets } from "@/api/queries";
import SheetSurface from "@/preview/SheetSurface.vue";

import SheetRows from "./SheetRows.vue";
import SlotStrip from "./SlotStrip.vue";
import { documentValue, plainOf } from "./values";
import { fetchCast, slotSources, materialOfCast } from "./previewMaterials";

/** One cast: its maps, what it changes of its master's parameters, and how it looks. */
const props = defineProps<{
  slug: string;
  id: number;
  casts: CastRow[];
  mayChange: boolean;
  mayWrite: boolean;
}>();
const emit = defineEmits<{ gone: []; made: [master: string] }>();
const cast = useCast(
  () => props.slug,
  () => props.id,
);
const setList = useSets(() => props.slug);
const catalogue = useCatalogue();
const changes = useMaterialChanges(() => props.slug);
const filling = ref("");
const search = ref("");
/** What the hand moved and the server has not said yet. */
const moved = ref<Record<string, number[]>>({});
const told = computed(() => cast.data.value ?? null);
watch(told, () => (moved.value = {}));
watch(
  () => props.id,
  () => (search.value = ""),
);
const values = computed(() => ({ ...(told.value?.values ?? {}), ...moved.value }));
const slots = computed(() => slotSources(props.slug, told.value?.sheet.slots ?? [], told.value));
const choices = computed(() => props.casts.filter((one) => one.id !== props.id));
const materialOf = async (id: number) => materialOfCast(props.slug, await fetchCast(props.slug, id));
function keep(name: string, value: number[]): void {
  const parameter = told.value!.sheet.parameters.find((one) => one.name === name)!;
  void changes.changeCast(props.id, { changes: { [name]: documentValue(parameter, value) } });
}
/** The layers that slots belong to, by the rows written in them. */
const layers = computed(() => [
  ...new Set(
    (told.value?.sheet.rows ?? []).map((one) => one.origin?.layer).filter((one) => one !== undefined),
  ),
]);
const layer = ref("");
function fill(): void {
  if (filling.value) void changes.fillCast(props.id, Number(filling.value), layer.value);
  filling.value = "";
}
async function stack(over: string): Promise<void> {
  const other = props.casts.find((one) => String(one.id) === over);
  if (!other || !told.value) return;
  const made = await changes.stack(`${other.name} over ${told.value.name}`, [props.id, other.id]);
  if (made) emit("made", made.master);
}
async function remove(): Promise<void> {
  if ((await changes.deleteCast(props.id)) !== null) emit("gone");
}
const copied = "fair-texel/changes";
async function copy(): Promise<void> {
  const kept = told.value!.changed.map((name) => {
    const parameter = told.value!.sheet.parameters.find((one) => one.name === name)!;
    return [name, documentValue(parameter, told.value!.values[name]!)];
  });
  await navigator.clipboard.writeText(JSON.stringify({ format: copied, changes: Object.fromEntries(kept) }));
}
async function paste(): Promise<void> {
  try {
    const given = JSON.parse(await navigator.clipboard.readText()) as {
      format?: string;
      changes?: Record<string, ParameterValue | null>;
    };
    if (given.format === copied && given.changes)
      await changes.changeCast(props.id, { changes: given.changes });
  } catch {
    /* What lies on the clipboard is something else. */
  }
}
</script>

<template>
  <p v-if="cast.error.value" class="none" role="alert">{{ cast.error.value.message }}</p>
  <div v-else-if="told" class="cast">
    <section class="scroll" aria-label="Cast">
      <header>
        <h1>{{ told.name }}</h1>
        <span class="soft"
          >of
          <RouterLink :to="{ name: 'materials', params: { slug, kind: 'master', key: told.master } }">{{
            told.sheet.title
          }}</RouterLink>
          {{ told.number
          }}<template v-if="told.by">, made by {{ told.by }} {{ told.created.slice(0, 10) }}</template></span
        >
        <label v-if="mayChange"
          >Fill
          <select v-if="layers.length" v-model="layer" aria-label="Layer to fill">
            <option value="">all layers</option>
            <option v-for="one in layers" :key="one" :value="one">{{ one }}</option>
          </select>
          from
          <select v-model="filling" @change="fill">
            <option value="">a set …</option>
            <option v-for="one in setList.data.value?.sets ?? []" :key="one.id" :value="String(one.id)">
              {{ one.name }}
            </option>
          </select></label
        >
        <label v-if="mayWrite && !layers.length && casts.length > 1"
          >Under
          <select
            aria-label="Stack under another cast"
            @change="
              stack(($event.target as HTMLSelectElement).value);
              ($event.target as HTMLSelectElement).value = '';
            "
          >
            <option value="">another cast …</option>
            <option v-for="one in casts.filter((each) => each.id !== id)" :key="one.id" :value="one.id">
              {{ one.name }}
            </option>
          </select></label
        >
        <span class="tools">
          <RouterLink
            class="link"
            :to="{ name: 'materials', params: { slug, kind: 'write', key: told.master } }"
            >Write</RouterLink
          >
          <button class="plain link" :disabled="!told.changed.length" @click="copy">Copy changes</button>
          <button v-if="mayChange" class="plain link" @click="paste">Paste</button>
          <button v-if="mayChange" class="plain link" @click="remove">Delete</button>
        </span>
      </header>
      <SlotStrip
        :slug="slug"
        :sheet="told.sheet"
        :cast="told"
        :sets="setList.data.value?.sets ?? []"
        :roles="setList.data.value?.roles ?? []"
        :may-change="mayChange"
        @fill="(slot, value) => changes.changeCast(id, { slots: { [slot]: value } })"
      />
      <div class="find">
        <input v-model="search" type="search" placeholder="Find a parameter" aria-label="Find a parameter" />
        <span class="soft">{{ told.changed.length }} of {{ told.sheet.parameters.length }} changed</span>
        <span
          v-if="told.memory"
          class="soft memory"
          title="In the cheapest formats that the project allows, all levels"
          >{{ (told.memory / 2 ** 20).toFixed(1) }} MiB of maps</span
        >
      </div>
      <SheetRows
        v-model:search="search"
        :sheet="told.sheet"
        :operations="catalogue.data.value?.operations ?? []"
        :values="values"
        :changed="told.changed"
        :inherited="told.inherited"
        :may-change="mayChange"
        :may-write="false"
        :problem="null"
        @move="(name, value) => (moved = { ...moved, [name]: value })"
        @keep="keep"
        @back="(name) => changes.changeCast(id, { changes: { [name]: null } })"
      />
    </section>
    <SheetSurface
      :name="told.name"
      :sheet="told.sheet"
      :values="values"
      :slots="slots"
      :choices="choices"
      :material-of="materialOf"
      :plain-of="plainOf"
    />
  </div>
</template>

<style scoped>
.cast {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(300px, 36%);
  min-height: 0;
}
section {
  padding: 8px 14px;
  display: grid;
  gap: 10px;
  align-content: start;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
}
.tools {
  display: flex;
  gap: 12px;
  margin-left: auto;
}
.find {
  display: flex;
  gap: 10px;
  align-items: center;
}
select,
input {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 2px 4px;
}
.link {
  color: var(--accent);
  text-decoration: none;
}
.link:disabled {
  color: var(--line-strong);
}
.memory {
  margin-left: auto;
}
.none {
  padding: 24px;
}
</style>
