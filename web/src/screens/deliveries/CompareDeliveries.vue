<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";

import { type ComparedFile, deliveredPicture, useComparedDeliveries } from "@/api/destinations";
import CheckField from "@/parts/fields/CheckField.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/deliveries";

import FilePair from "@/parts/FilePair.vue";
import PairLook from "@/parts/PairLook.vue";
import { isPicture, whyInWords } from "./plan";

/** Two deliveries, picture by picture: what is new, changed or gone, and why. */
const props = defineProps<{ slug: string; before: number; now: number }>();
const emit = defineEmits<{ done: [] }>();
const compared = useComparedDeliveries(
  () => props.slug,
  () => props.before,
  () => props.now,
);
const all = ref(false);
const looked = ref<ComparedFile | null>(null);
const files = computed(() =>
  (compared.data.value ?? []).filter((one) => all.value || one.status !== "unchanged"),
);
const same = computed(() => (compared.data.value ?? []).filter((one) => one.status === "unchanged").length);
const WORDS: Record<ComparedFile["status"], string> = {
  new: t("isNew"),
  changed: t("isChanged"),
  unchanged: t("isUnchanged"),
  removed: t("isRemoved"),
};
const words = (one: ComparedFile) =>
  one.why.length ? `${WORDS[one.status]}: ${whyInWords(one.why)}` : WORDS[one.status];
const url = (one: ComparedFile, number: number, missing: ComparedFile["status"], side: number) =>
  one.status !== missing && isPicture(one.path) ? deliveredPicture(props.slug, number, one.path, side) : null;
</script>

<template>
  <section :aria-label="t('compareTwo', { before, now })">
    <div class="row">
      <h2>{{ t("compareTwo", { before, now }) }}</h2>
      <span class="grow" />
      <Button text :label="t('backToThePlan')" icon="pi pi-arrow-left" @click="emit('done')" />
    </div>
    <StateView :query="compared" :rows="4" height="6rem">
      <CheckField v-if="same" v-model="all" :label="t('showUnchanged', { count: same })" />
      <p v-if="!files.length">{{ t("theTwoAreEqual") }}</p>
      <FilePair
        v-for="one in files"
        :key="one.path"
        :path="one.path"
        :words="words(one)"
        :before="url(one, before, 'new', 192)"
        :after="url(one, now, 'removed', 192)"
        :before-label="`#${before}`"
        :after-label="`#${now}`"
        @look="looked = one"
      />
    </StateView>
    <PairLook
      v-if="looked"
      :path="looked.path"
      :before="url(looked, before, 'new', 1024)"
      :after="url(looked, now, 'removed', 1024)"
      :before-label="`#${before}`"
      :after-label="`#${now}`"
      @close="looked = null"
    />
  </section>
</template>
