<script setup lang="ts">
import Button from "primevue/button";
import Skeleton from "primevue/skeleton";
import { computed, ref, shallowRef, watch } from "vue";

import type { Adoption, Impact } from "@/api/materials";
import { useMaterialChanges } from "@/api/materialChanges";
import TextField from "@/parts/fields/TextField.vue";
import type { PreviewMaterial } from "@/preview/sheetScene";
import SheetSurface from "@/preview/SheetSurface.vue";
import { t } from "@/texts/materials";

import ChangeLines from "./ChangeLines.vue";
import UpdatePictures from "./UpdatePictures.vue";
import { plainOf } from "./values";

/** A newer version of a master: what differs, which casts it touches, what they would lose; then updated, or not. */
const props = defineProps<{ slug: string; adoption: Adoption; mayRule: boolean }>();
const emit = defineEmits<{ done: [] }>();
const changes = useMaterialChanges(() => props.slug);
const impact = ref<Impact | null>(null);
/** A cast before and after, side by side. */
const large = shallowRef<[PreviewMaterial, PreviewMaterial] | null>(null);
const renames = ref<Record<string, string>>({});
const renamed = computed(() => [
  ...new Set([
    ...(impact.value?.casts ?? []).flatMap((one) => Object.keys(one.lost)),
    ...Object.keys(renames.value),
  ]),
]);

async function ask(): Promise<void> {
  if (props.adoption.newest)
    impact.value = await changes.impact(props.adoption.master, props.adoption.newest, renames.value);
}
watch(
  [() => props.adoption.master, () => props.adoption.newest],
  () => {
    renames.value = {};
    large.value = null;
    impact.value = null;
    void ask();
  },
  { immediate: true },
);
function rename(old: string, name: string): void {
  const next = { ...renames.value };
  if (name.trim()) next[old] = name.trim();
  else delete next[old];
  renames.value = next;
  void ask();
}
async function update(): Promise<void> {
  if (await changes.adopt(props.adoption, props.adoption.newest!, renames.value)) emit("done");
}
</script>

<template>
  <section class="scroll update" :aria-label="t('update')">
    <header class="row">
      <h2>{{ adoption.title }}: {{ adoption.number }} → {{ adoption.newest }}</h2>
      <span class="grow" />
      <template v-if="mayRule">
        <Button
          :label="t('update1Cast', { count: adoption.casts, casts: adoption.casts })"
          :disabled="changes.busy.value || !impact"
          @click="update"
        />
        <Button
          outlined
          severity="secondary"
          :label="adoption.pinned ? t('followNewVersions') : t('stayWith', { number: adoption.number })"
          @click="changes.pin(adoption, !adoption.pinned)"
        />
      </template>
    </header>
    <Skeleton v-if="!impact" height="12rem" />
    <template v-else>
      <h3>{{ t("whatDiffers") }}</h3>
      <ChangeLines :changes="impact.changes" />
      <h3>{{ t("casts") }}</h3>
      <UpdatePictures
        v-if="adoption.newest && impact.casts.length"
        :slug="slug"
        :master="adoption.master"
        :number="adoption.newest"
        :casts="impact.casts"
        @look="(before, after) => (large = [before, after])"
      />
      <div v-if="large" class="large">
        <Button text :label="t('closeTheLargePicture')" @click="large = null" />
        <SheetSurface
          :key="large[0].name"
          :name="large[0].name"
          :sheet="large[0].sheet"
          :values="large[0].values"
          :slots="large[0].slots"
          :second="large[1]"
          :plain-of="plainOf"
        />
      </div>
      <template v-if="renamed.length">
        <h3>{{ t("renamedParameters") }}</h3>
        <p class="soft">
          {{ t("whereAParameterOrSlotOnly") }}
        </p>
        <div class="fields">
          <template v-for="name in renamed" :key="name">
            <span class="mono">{{ name }}</span>
            <TextField
              :value="renames[name]"
              mono
              :placeholder="t('newName')"
              :label="t('newNameOf', { name })"
              @change="rename(name, $event)"
            />
          </template>
        </div>
      </template>
    </template>
  </section>
</template>

<style scoped>
.update {
  padding: var(--space-3) var(--space-4);
  display: grid;
  gap: var(--space-3);
  align-content: start;
}
.fields {
  max-width: 30rem;
}
.large {
  display: grid;
  grid-template-rows: auto 560px;
  max-width: 1000px;
  justify-items: start;
}
.large > :last-child {
  width: 100%;
}
</style>
