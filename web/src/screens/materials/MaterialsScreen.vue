<script setup lang="ts">
import Button from "primevue/button";
import Splitter from "primevue/splitter";
import SplitterPanel from "primevue/splitterpanel";
import { computed, ref } from "vue";
import { useRoute, useRouter } from "vue-router";

import { may } from "@/api/people";
import { useLibrary, useMaterials } from "@/api/materials";
import { useFunctionChanges } from "@/api/functions";
import { useMaterialChanges } from "@/api/materialChanges";
import { useProject } from "@/api/queries";
import { useKeys } from "@/app/keys";
import FilePick from "@/parts/FilePick.vue";
import ScreenHead from "@/parts/ScreenHead.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/materials";

import CastView from "./CastView.vue";
import { chosenFile } from "./chosenFile";
import CompareView from "./CompareView.vue";
import { emptyFunction } from "./takes";
import FunctionView from "./FunctionView.vue";
import ImportView from "./ImportView.vue";
import LibraryView from "./LibraryView.vue";
import MasterView from "./MasterView.vue";
import MaterialList from "./MaterialList.vue";
import NameDialog from "./NameDialog.vue";
import NewMasterDialog from "./NewMasterDialog.vue";
import UpdateView from "./UpdateView.vue";
import WriteView from "./WriteView.vue";

/** Masters and casts: the project's at the left, one of them in the editor; the library of all masters as cards. */
const props = defineProps<{ slug: string }>();
const route = useRoute();
const router = useRouter();
const project = useProject(() => props.slug);
const materials = useMaterials(() => props.slug);
const library = useLibrary();
const changes = useMaterialChanges(() => props.slug);
const mayRule = computed(() => may(project.data.value?.right, "rules"));
const mayChange = computed(() => (project.data.value?.right ?? "look") !== "look");
const casts = computed(() => materials.data.value?.casts ?? []);
const masters = computed(() => materials.data.value?.masters ?? []);
const kind = computed(() => String(route.params.kind ?? ""));
const key = computed(() => String(route.params.key ?? ""));
const keyOf = (wanted: string) => (kind.value === wanted ? key.value : "");
/** Without a choice the first cast is open; without a cast the library. */
const cast = computed(() =>
  kind.value === "cast" ? Number(key.value) : kind.value ? 0 : (casts.value[0]?.id ?? 0),
);
const master = computed(() => keyOf("master"));
const updating = computed(() => masters.value.find((one) => one.master === keyOf("update")));
const writing = computed(() => keyOf("write"));
const comparing = computed(() => keyOf("compare"));
const inFunction = computed(() => keyOf("function"));
const inLibrary = computed(
  () =>
    kind.value === "library" || (!kind.value && materials.data.value !== undefined && !casts.value.length),
);
const go = (to: string, what: string | number = "") =>
  void router.push({ name: "materials", params: { slug: props.slug, kind: to, key: what } });
const state = computed(() =>
  t("mastersInUseCasts", {
    masters: t("mastersInUse", { count: masters.value.length }),
    casts: t("casts2", { count: casts.value.length }),
  }),
);

function read(files: File[]): void {
  chosenFile.value = files[0]!;
  go("import");
}
/** Of what a new cast is being named. */
const naming = ref<{ of: string; from: { master?: string; parent?: number } } | null>(null);
const beginning = ref(false);
async function make(name: string): Promise<void> {
  const asked = naming.value;
  naming.value = null;
  const made = asked && (await changes.newCast(name, asked.from));
  if (made) go("cast", made.id);
}
async function begin(name: string, ready: string): Promise<void> {
  beginning.value = false;
  const made = await changes.beginMaster(name, ready);
  if (made) go("master", made.name);
}
const functionChanges = useFunctionChanges(() => props.slug);
const beginningFunction = ref(false);
async function beginFunction(title: string): Promise<void> {
  beginningFunction.value = false;
  const made = await functionChanges.create(emptyFunction(title));
  if (made) go("function", made.name);
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
useKeys(t("materials"), [
  { key: "J", does: t("nextCast"), run: () => step(1) },
  { key: "K", does: t("previousCast"), run: () => step(-1) },
  { key: "W", does: t("exportCasts"), run: write },
  { key: "Y", does: t("openTheLibrary"), run: () => go("library") },
]);
</script>

<template>
  <div class="screen">
    <ScreenHead :title="t('materials')" :state="state">
      <template #actions>
        <RouterLink class="soft target" :to="{ name: 'glossary', hash: '#cast' }">{{
          t("aCastIsAMaterialMade")
        }}</RouterLink>
        <Button outlined :label="t('library')" :title="t('allMastersOfTheStudioY')" @click="go('library')" />
        <template v-if="mayRule">
          <FilePick :label="t('import')" outlined accept=".mtlx,.gltf,.glb" test="import" @files="read" />
          <Button :label="t('newMaster')" icon="pi pi-plus" @click="beginning = true" />
        </template>
      </template>
    </ScreenHead>
    <Splitter state-key="materials" state-storage="local" class="split">
      <SplitterPanel :size="18" :min-size="12" class="scroll">
        <StateView :query="materials" :rows="6" height="1.6rem">
          <MaterialList
            :slug="slug"
            :masters="masters"
            :casts="casts"
            :cast="cast"
            :master="master || writing || comparing || (updating?.master ?? '')"
            :may-change="mayChange"
            @derive="(from, of) => (naming = { of, from })"
          />
        </StateView>
      </SplitterPanel>
      <SplitterPanel :size="82" :min-size="40" class="view">
        <LibraryView
          v-if="inLibrary"
          :slug="slug"
          :library="library"
          :masters="masters"
          @begin="beginningFunction = true"
        />
        <FunctionView
          v-else-if="inFunction"
          :key="inFunction"
          :slug="slug"
          :name="inFunction"
          :casts="casts"
        />
        <UpdateView
          v-else-if="updating"
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
        <ImportView
          v-else-if="kind === 'import'"
          :slug="slug"
          :file="chosenFile"
          @made="go('master', $event)"
        />
        <CompareView v-else-if="comparing" :slug="slug" :master="comparing" :may-change="mayChange" />
        <MasterView
          v-else-if="master"
          :key="master"
          :slug="slug"
          :name="master"
          :casts="casts"
          :may-change="mayChange"
          @derive="(of) => (naming = { of, from: { master } })"
        />
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
      </SplitterPanel>
    </Splitter>
    <NewMasterDialog v-if="beginning" @make="begin" @cancel="beginning = false" />
    <NameDialog
      v-if="beginningFunction"
      :title="t('newFunction')"
      :label="t('titleOfTheFunction')"
      @name="beginFunction"
      @cancel="beginningFunction = false"
    />
    <NameDialog
      v-if="naming"
      :title="t('newCastOf', { of: naming.of })"
      :label="t('nameOfTheCast')"
      @name="make"
      @cancel="naming = null"
    />
  </div>
</template>

<style scoped>
.split {
  flex: 1;
  min-height: 0;
}
.view {
  min-height: 0;
  min-width: 0;
  overflow: hidden;
  display: grid;
}
</style>
