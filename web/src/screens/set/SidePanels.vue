<script setup lang="ts">
import Accordion from "primevue/accordion";
import AccordionContent from "primevue/accordioncontent";
import AccordionHeader from "primevue/accordionheader";
import AccordionPanel from "primevue/accordionpanel";
import Tag from "primevue/tag";
import { ref, watch } from "vue";

import type { Derivation, StepKind } from "@/api/recipes";
import type { useSetChanges } from "@/api/setChanges";
import type { RoleInfo, SetDetail, TextureMap } from "@/api/types";
import CommentList from "@/screens/team/CommentList.vue";
import type { Places } from "@/screens/team/usePlaces";
import VersionsPanel from "@/screens/versions/VersionsPanel.vue";
import { t } from "@/texts/set";

import MapFacts from "./MapFacts.vue";
import RegionsPanel from "./regions/RegionsPanel.vue";
import StepList from "./StepList.vue";
import TileableDialog from "./tileable/TileableDialog.vue";
import type { Draft } from "./useDraft";

/** Beside the picture: findings of the set, steps of the map, facts about it. What is folded is remembered. */
const props = defineProps<{
  slug: string;
  set: SetDetail;
  map: TextureMap;
  roles: RoleInfo[];
  mayChange: boolean;
  draft: Draft;
  kinds: StepKind[];
  derivations: Derivation[];
  others: { id: number; name: string }[];
  changes: ReturnType<typeof useSetChanges>;
  places: Places;
}>();
const emit = defineEmits<{
  apply: [];
  copy: [];
  derive: [derivation: Derivation];
  look: [map: number | null];
}>();
const KEPT = "fair-texel-set-panels";
const open = ref<string[]>(
  JSON.parse(localStorage.getItem(KEPT) ?? '["findings", "steps", "facts"]') as string[],
);
const tiling = ref(false);
watch(open, (panels) => localStorage.setItem(KEPT, JSON.stringify(panels)));
/** Whoever comes to a comment, or marks a place, sees the comments. */
watch(
  [() => props.places.shown.value, () => props.places.place.value],
  ([shown, place]) => {
    if ((shown !== null || place !== null) && !open.value.includes("comments"))
      open.value = [...open.value, "comments"];
  },
  { immediate: true },
);
watch(
  () => props.draft.dirty.value,
  (tried) => {
    if (tried && !open.value.includes("steps")) open.value = [...open.value, "steps"];
  },
);
const counting = () => props.set.findings.filter((one) => !one.waiver).length;
</script>

<template>
  <Accordion v-model:value="open" multiple>
    <AccordionPanel value="steps">
      <AccordionHeader>
        <span class="row"
          >{{ t("steps") }} <Tag severity="secondary" :value="String(draft.steps.value.length)"
        /></span>
      </AccordionHeader>
      <AccordionContent>
        <StepList
          :draft="draft"
          :kinds="kinds"
          :set="set"
          :map="map"
          :roles="roles"
          :may-change="mayChange"
          @apply="emit('apply')"
          @copy="emit('copy')"
          @tileable="tiling = true"
        />
      </AccordionContent>
    </AccordionPanel>
    <AccordionPanel value="findings">
      <AccordionHeader>
        <span class="row">{{ t("findings") }} <Tag severity="secondary" :value="String(counting())" /></span>
      </AccordionHeader>
      <AccordionContent><slot :tileable="() => (tiling = true)" /></AccordionContent>
    </AccordionPanel>
    <AccordionPanel value="comments">
      <AccordionHeader>
        <span class="row"
          >{{ t("comments") }} <Tag severity="secondary" :value="String(places.open.value.length)"
        /></span>
      </AccordionHeader>
      <AccordionContent>
        <CommentList
          :slug="slug"
          :about="{ set: set.id }"
          :comments="places.comments.data.value ?? []"
          :places="places"
          @look="emit('look', $event.map)"
        />
        <RouterLink
          class="target"
          :to="{ name: 'history', params: { slug }, query: { about: `sets:${set.id}` } }"
          >{{ t("historyOfThisSet") }}</RouterLink
        >
      </AccordionContent>
    </AccordionPanel>
    <AccordionPanel value="facts">
      <AccordionHeader>{{ t("facts") }}</AccordionHeader>
      <AccordionContent>
        <MapFacts
          :slug="slug"
          :set="set"
          :map="map"
          :roles="roles"
          :may-change="mayChange"
          :derivations="derivations"
          :others="others"
          @role="changes.place.mutate({ map: map.id, set: set.id, role: $event })"
          @layer="changes.layer.mutate({ map: map.id, layer: $event })"
          @split="changes.split.mutate({ set: set.id, name: '', maps: [map.id] })"
          @share="changes.share.mutate({ map: map.id, set: $event })"
          @derive="emit('derive', $event)"
        />
      </AccordionContent>
    </AccordionPanel>
    <AccordionPanel value="regions">
      <AccordionHeader>
        <span class="row"
          >{{ t("regions") }}
          <Tag v-if="set.regions.length" severity="secondary" :value="String(set.regions.length)"
        /></span>
      </AccordionHeader>
      <AccordionContent>
        <RegionsPanel :slug="slug" :set="set" :map="map" :may-change="mayChange" />
      </AccordionContent>
    </AccordionPanel>
    <AccordionPanel value="versions">
      <AccordionHeader>{{ t("versions") }}</AccordionHeader>
      <AccordionContent>
        <VersionsPanel :slug="slug" :set="set.id" :map="map.id" :may-change="mayChange" />
      </AccordionContent>
    </AccordionPanel>
  </Accordion>
  <TileableDialog
    v-if="tiling"
    v-model:shown="tiling"
    :slug="slug"
    :set="set"
    :map="map.id"
    :roles="roles"
    :kinds="kinds"
  />
</template>
