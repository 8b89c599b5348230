<script setup lang="ts">
import Button from "primevue/button";
import { computed, reactive, ref, watch } from "vue";

import { useProject } from "@/api/queries";
import { type Camera, type Listed, useLibraries, useScanChanges, useSurfaces } from "@/api/scans";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import NumberField from "@/parts/fields/NumberField.vue";
import TextField from "@/parts/fields/TextField.vue";
import ScreenHead from "@/parts/ScreenHead.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/scans";

import KeyForm from "./KeyForm.vue";
import SurfaceCard from "./SurfaceCard.vue";
import SurfaceDetail from "./SurfaceDetail.vue";

/** A scan library: searched by words, its resolutions chosen by what the camera sees. */
const props = defineProps<{ slug: string }>();
const KEPT = "fair-texel-scan-camera";
const START: Camera = { distance: 2, height: 1080, angle: 60, metres: null };
const libraries = useLibraries(() => props.slug);
const project = useProject(() => props.slug);
const changes = useScanChanges(() => props.slug);
const mayPrepare = computed(() => (project.data.value?.right ?? "look") !== "look");
const chosen = ref("");
const library = computed(
  () => libraries.data.value?.find((one) => one.name === chosen.value) ?? libraries.data.value?.[0] ?? null,
);
const camera = reactive<Camera>({
  ...START,
  ...(JSON.parse(localStorage.getItem(KEPT) ?? "{}") as Partial<Camera>),
});
watch(camera, () => localStorage.setItem(KEPT, JSON.stringify(camera)));
const search = ref("");
const pageNumber = ref(1);
watch([search, library], () => (pageNumber.value = 1));
const surfaces = useSurfaces(
  () => props.slug,
  () => library.value?.name ?? "",
  () => ({ search: search.value, page: pageNumber.value, ...camera }),
  () => Boolean(library.value?.account),
);
const picked = ref<string | null>(null);
const shown = computed<Listed | null>(
  () => surfaces.data.value?.surfaces.find((one) => one.id === picked.value) ?? null,
);
</script>

<template>
  <div class="screen">
    <ScreenHead
      :title="t('scanLibrary')"
      :state="library?.account ? t('accountOf', { account: library.account }) : ''"
    >
      <template #actions>
        <ChoiceField
          v-if="(libraries.data.value?.length ?? 0) > 1"
          :model-value="library?.name"
          :options="(libraries.data.value ?? []).map((one) => ({ value: one.name, label: one.name }))"
          :label="t('library')"
          @update:model-value="chosen = $event ?? ''"
        />
        <Button
          v-if="library?.account"
          text
          severity="secondary"
          :label="t('forgetKey')"
          @click="changes.forgetKey(library.name)"
        />
        <Button
          as="router-link"
          text
          icon="pi pi-angle-left"
          :label="t('backToIntake')"
          :to="{ name: 'intake', params: { slug } }"
        />
      </template>
      <template v-if="library?.account" #filters>
        <label class="row"
          >{{ t("search") }}
          <TextField
            :value="search"
            :label="t('search')"
            :placeholder="t('suchAsStone')"
            @change="search = $event"
          />
        </label>
        <span class="row"
          >{{ t("nearest") }}
          <NumberField
            :value="camera.distance"
            :label="t('nearest')"
            :min="0.01"
            :max="100000"
            :step="0.5"
            :unit="t('metresAway')"
            @change="camera.distance = $event ?? START.distance"
          />
        </span>
        <span class="row"
          >{{ t("tileCovers") }}
          <NumberField
            :value="camera.metres"
            :label="t('tileCovers')"
            :min="0.01"
            :max="100000"
            :step="0.5"
            unit="m"
            optional
            :placeholder="t('ownSize')"
            @change="camera.metres = $event"
          />
        </span>
        <span class="row"
          >{{ t("screen") }}
          <NumberField
            :value="camera.height"
            :label="t('screen')"
            :min="16"
            :max="65536"
            :digits="0"
            :unit="t('pixels')"
            @change="camera.height = $event ?? START.height"
          />
        </span>
        <span class="row"
          >{{ t("fieldOfView") }}
          <NumberField
            :value="camera.angle"
            :label="t('fieldOfView')"
            :min="1"
            :max="170"
            :unit="t('degrees')"
            @change="camera.angle = $event ?? START.angle"
          />
        </span>
      </template>
    </ScreenHead>
    <StateView :query="libraries" :rows="3" :empty="!library">
      <template #empty>
        <p class="soft note">{{ t("noLibrary") }}</p>
      </template>
      <KeyForm
        v-if="library && !library.account"
        :library="library.name"
        :disabled="!mayPrepare || changes.busy.value"
        @enter="changes.enterKey(library.name, $event)"
      />
      <div v-else-if="library" class="both">
        <div class="scroll">
          <StateView
            :query="surfaces"
            :rows="6"
            height="9rem"
            :empty="surfaces.data.value?.surfaces.length === 0"
          >
            <template #empty>
              <p class="soft">{{ t("nothingFound") }}</p>
            </template>
            <div class="cards">
              <SurfaceCard
                v-for="one in surfaces.data.value?.surfaces ?? []"
                :key="one.id"
                :slug="slug"
                :library="library.name"
                :surface="one"
                :chosen="one.id === picked"
                :distance="camera.distance"
                @pick="picked = one.id"
              />
            </div>
            <Button
              v-if="surfaces.data.value?.next"
              outlined
              :label="t('more')"
              @click="pageNumber = surfaces.data.value.next ?? 1"
            />
            <Button v-if="pageNumber > 1" text :label="t('firstPage')" @click="pageNumber = 1" />
          </StateView>
        </div>
        <aside class="scroll" :aria-label="shown?.title ?? t('chooseASurface')">
          <SurfaceDetail
            v-if="shown"
            :slug="slug"
            :library="library.name"
            :surface="shown"
            :standard="surfaces.data.value?.standard ?? null"
            :may-prepare="mayPrepare"
            :changes="changes"
          />
          <p v-else class="soft">{{ t("chooseASurface") }}</p>
        </aside>
      </div>
    </StateView>
  </div>
</template>

<style scoped>
.note {
  padding: var(--space-4);
}
.both {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr) min(35rem, 45vw);
}
.scroll {
  padding: var(--space-4);
}
aside {
  border-left: 1px solid var(--line);
  background: var(--sheet);
}
.cards {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(13rem, 1fr));
  gap: var(--space-3);
}
@media (max-width: 900px) {
  .both {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
