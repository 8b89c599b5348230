<script setup lang="ts">
import { computed } from "vue";
import { useRoute, useRouter } from "vue-router";

import { useLibrary, useMaterials } from "@/api/materials";
import { useMaterialChanges } from "@/api/materialChanges";
import { useProject } from "@/api/queries";
import { useKeys } from "@/app/keys";

import CompareView from "./CompareView.vue";
import CastView from "./CastView.vue";
import MasterView from "./MasterView.vue";
import MaterialList from "./MaterialList.vue";
import { chosenFile } from "./chosenFile";
import { starter } from "./starter";
import ImportView from "./ImportView.vue";
import UpdateView from "./UpdateView.vue";
import WriteView from "./WriteView.vue";

/** Masters and casts: sheets that read from left to right, the surface beside them. */
const props = defineProps<{ slug: string }>();
const route = useRoute();
const router = useRouter();
const project = useProject(() => props.slug);
const materials = useMaterials(() => props.slug);
const library = useLibrary();
const changes = useMaterialChanges(() => props.slug);
const mayRule = computed(() => project.data.value?.right === "rules");
const mayChange = computed(() => (project.data.value?.right ?? "look") !== "look");
const casts = computed(() => materials.data.value?.casts ?? []);
const masters = computed(() => materials.data.value?.masters ?? []);
const kind = computed(() => String(route.params.kind ?? ""));
const key = computed(() => String(route.params.key ?? ""));
/** Without a choice the first cast is open. */
const cast = computed(() =>
  kind.value === "cast" ? Number(key.value) : kind.value ? 0 : (casts.value[0]?.id ?? 0),
);
const master = computed(() => (kind.value === "master" ? key.value : ""));
const updating = computed(() =>
  kind.value === "update" ? masters.value.find((one) => one.master === key.value) : undefined,
);
const writing = computed(() => (kind.value === "write" ? key.value : ""));
function read(file: File): void {
  chosenFile.value = file;
  void router.push({ name: "materials", params: { slug: props.slug, kind: "import" } });
}
const comparing = computed(() => (kind.value === "compare" ? key.value : ""));
const go = (to: string, what: string | number) =>
  void router.push({ name: "materials", params: { slug: props.slug, kind: to, key: what } });

async function derive(name: string, from: { master?: string; parent?: number }): Promise<void> {
  const made = await changes.newCast(name, from);
  if (made) go("cast", made.id);
}
async function begin(title: string): Promise<void> {
  const made = await changes.newMaster(starter(title));
  if (made) go("master", made.name);
}
function step(by: number): void {
  const at = casts.value.findIndex((one) => one.id === cast.value);
  const next = casts.value[(at + by + casts.value.length) % Math.max(1, casts.value.length)];
  if (next) go("cast", next.id);
}
function write(): void {
  const of = master.value || casts.value.find((one) => one.id === cast.value)?.master;
  if (of && casts.value.some((one) => one.master === of)) go("write", of);
}
useKeys("Masters", [
  { key: "J", does: "Next cast", run: () => step(1) },
  { key: "K", does: "Previous cast", run: () => step(-1) },
  { key: "W", does: "Write casts in an open format", run: write },
]);
</script>

<template>
  <div class="masters">
    <MaterialList
      :slug="slug"
      :masters="masters"
      :casts="casts"
      :library="library.data.value ?? []"
      :cast="cast"
      :master="master"
      :may-change="mayChange"
      :may-write="mayRule"
      @cast="derive"
      @master="begin"
      @file="read"
    />
    <UpdateView
      v-if="updating"
      :slug="slug"
      :adoption="updating"
      :may-rule="mayRule"
      @done="go('master', updating.master)"
    />
    <WriteView
      v-else-if="writing"
      :key="writing"
      :slug="slug"
      :master="writing"
      :casts="casts"
      :may-change="mayChange"
    />
    <ImportView v-else-if="kind === 'import'" :slug="slug" :file="chosenFile" @made="go('master', $event)" />
    <CompareView v-else-if="comparing" :slug="slug" :master="comparing" :may-change="mayChange" />
    <MasterView v-else-if="master" :key="master" :slug="slug" :name="master" :casts="casts" />
    <CastView
      v-else-if="cast"
      :id="cast"
      :key="cast"
      :slug="slug"
      :casts="casts"
      :may-change="mayChange"
      :may-write="mayRule"
      @made="go('master', $event)"
      @gone="router.push({ name: 'materials', params: { slug } })"
    />
    <p v-else class="none">
      A master is a material written once; a cast gives it textures and changes its parameters. Open a master
      of the library, and derive a cast from it.
    </p>
  </div>
</template>

<style scoped>
.masters {
  height: 100%;
  display: grid;
  grid-template-columns: 200px minmax(0, 1fr);
  grid-template-rows: minmax(0, 1fr);
}
.none {
  padding: 32px;
  max-width: 520px;
}
</style>
