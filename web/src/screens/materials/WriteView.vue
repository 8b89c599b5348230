<script setup lang="ts">
import { useQueryClient } from "@tanstack/vue-query";
import Select from "primevue/select";
import { useToast } from "primevue/usetoast";
import { computed, ref, watch } from "vue";

import { exportFile, FORMATS, orderExport, useExports } from "@/api/exchange";
import type { CastRow } from "@/api/materials";
import { keys } from "@/api/queries";
import { useRules } from "@/api/rules";
import Mark from "@/parts/Mark.vue";

/** Casts of a master written in an open format, or baked into maps: what is wanted, and what was made. */
const props = defineProps<{ slug: string; master: string; casts: CastRow[]; mayChange: boolean }>();
const queries = useQueryClient();
const toast = useToast();
const exports = useExports(() => props.slug);
const layouts = useRules(() => props.slug, "layout");
const own = computed(() => props.casts.filter((one) => one.master === props.master));
const ticked = ref<number[]>([]);
watch(own, (rows) => (ticked.value = rows.map((one) => one.id)), { immediate: true });
const format = ref<string>("mtlx");
const side = ref(1024);
const bits = ref<8 | 16>(8);
const green = ref<"up" | "down">("up");
const packed = ref<string[]>([]);
/** What baked maps take the colour of a mesh's vertices to be. */
const VERTEX = [
  { label: "black: the lowest layer", value: [0, 0, 0, 1] },
  { label: "red", value: [1, 0, 0, 1] },
  { label: "green", value: [0, 1, 0, 1] },
  { label: "blue", value: [0, 0, 1, 1] },
  { label: "white: all layers", value: [1, 1, 1, 1] },
];
const vertex = ref(VERTEX[0]!);
const bakes = computed(() => ["glb", "usda", "maps"].includes(format.value));
const busy = ref(false);

async function write(): Promise<void> {
  busy.value = true;
  try {
    await orderExport(props.slug, {
      casts: ticked.value,
      format: format.value,
      side: side.value,
      bits: bits.value,
      green: green.value,
      layouts: format.value === "maps" ? packed.value : [],
      vertex: vertex.value.value,
    });
    await queries.invalidateQueries({ queryKey: [...keys.project(props.slug), "exports"] });
  } catch (error) {
    toast.add({ severity: "error", summary: (error as Error).message, life: 9000 });
  } finally {
    busy.value = false;
  }
}
const size = (bytes: number) =>
  bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(1)} MB`;
const bakedOf = (baked: Record<string, string[]>) =>
  Object.entries(baked).filter(([, inputs]) => inputs.length);
</script>

<template>
  <div class="write">
    <p v-if="!mayChange" class="soft may">
      Writing needs the right to prepare; what was written can be fetched.
    </p>
    <form v-else class="scroll" aria-label="Write casts" @submit.prevent="write">
      <fieldset>
        <legend>Which casts</legend>
        <label v-for="one in own" :key="one.id"
          ><input v-model="ticked" type="checkbox" :value="one.id" /> {{ one.name }}
          <Mark v-if="one.worst" :severity="one.worst"
        /></label>
      </fieldset>
      <fieldset>
        <legend>As what</legend>
        <label v-for="one in FORMATS" :key="one.key" class="format"
          ><input v-model="format" type="radio" name="format" :value="one.key" />
          <span
            ><b>{{ one.title }}</b
            ><br /><span class="soft">{{ one.does }}</span></span
          ></label
        >
      </fieldset>
      <fieldset v-if="bakes">
        <legend>{{ format === "maps" ? "Maps" : "Where it has to be baked" }}</legend>
        <label
          >Texels a side
          <select v-model.number="side">
            <option v-for="one in [256, 512, 1024, 2048, 4096, 8192]" :key="one" :value="one">
              {{ one }}
            </option>
          </select></label
        >
        <label
          >Vertex colour
          <Select
            v-model="vertex"
            :options="VERTEX"
            option-label="label"
            size="small"
            aria-label="Vertex colour"
        /></label>
        <template v-if="format === 'maps'">
          <label
            >Bits a channel
            <select v-model.number="bits">
              <option :value="8">8</option>
              <option :value="16">16</option>
            </select></label
          >
          <label
            >Green of the normal map
            <select v-model="green">
              <option value="up">up (Y+)</option>
              <option value="down">down (Y-)</option>
            </select></label
          >
          <label class="layouts"
            >Packed by
            <select v-model="packed" multiple size="5" aria-label="Packed by layouts">
              <option v-for="one in layouts.data.value ?? []" :key="one.name" :value="one.name">
                {{ one.title || one.name }}
              </option>
            </select></label
          >
        </template>
      </fieldset>
      <button class="do" :disabled="busy || !ticked.length">
        Write {{ ticked.length }} {{ ticked.length === 1 ? "cast" : "casts" }}
      </button>
    </form>
    <section class="scroll" aria-label="Written">
      <h2>Written</h2>
      <p v-if="!exports.data.value?.length" class="soft">
        Nothing yet. What is written stays here to be fetched.
      </p>
      <article v-for="one in exports.data.value ?? []" :key="one.id" :data-export="one.id">
        <header>
          <b>{{ one.title }}</b>
          <span class="soft">{{ new Date(one.created).toLocaleString() }} by {{ one.by }}</span>
          <a v-if="one.file" :href="exportFile(slug, one.id)" download
            >{{ one.file }}, {{ size(one.size) }}</a
          >
          <span v-else :class="one.state === 'failed' ? 'failed' : 'soft'">{{
            one.state === "failed" ? one.message : one.state
          }}</span>
        </header>
        <p v-for="line in one.lost" :key="line" class="lost">Not in it: {{ line }}</p>
        <p v-for="[name, inputs] in bakedOf(one.baked)" :key="name" class="soft">
          {{ name }}: {{ inputs.join(", ").replaceAll("_", " ") }} baked
        </p>
      </article>
    </section>
  </div>
</template>

<style scoped>
.write {
  display: grid;
  grid-template-columns: 340px minmax(0, 1fr);
  min-height: 0;
  font-size: 12px;
}
form,
section {
  padding: 10px 16px;
  display: grid;
  gap: 12px;
  align-content: start;
}
.may {
  padding: 10px 16px;
}
form {
  border-right: 1px solid var(--line);
}
fieldset {
  border: 0;
  border-top: 1px solid var(--line);
  padding: 6px 0 0;
  margin: 0;
  display: grid;
  gap: 6px;
}
legend {
  font-weight: 650;
  padding: 0 8px 0 0;
}
.format {
  display: grid;
  grid-template-columns: 18px 1fr;
  align-items: start;
}
.layouts {
  display: grid;
  gap: 4px;
}
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
}
.do {
  justify-self: start;
}
article {
  border-top: 1px solid var(--line);
  padding-top: 6px;
}
article header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
}
article p {
  margin: 2px 0 0;
}
.lost {
  color: var(--warning);
}
.failed {
  color: var(--error);
}
a {
  color: var(--accent);
}
</style>
