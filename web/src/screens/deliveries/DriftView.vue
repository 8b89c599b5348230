<script setup lang="ts">
import Button from "primevue/button";
import SelectButton from "primevue/selectbutton";
import { computed, ref } from "vue";

import {
  type Choice,
  deliveredPicture,
  type Destination,
  type Drift,
  pictureThere,
  useDestinationChanges,
  useDrift,
} from "@/api/destinations";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/deliveries";

import FilePair from "@/parts/FilePair.vue";
import PairLook from "@/parts/PairLook.vue";
import { isPicture } from "./plan";

/**
 * What others did to delivered files, ours beside theirs, with a choice for each that the next delivery would touch:
 * write ours over it, keep theirs, or take theirs in as a source and keep it there.
 */
const props = defineProps<{ slug: string; destination: Destination; mayChange: boolean }>();
const emit = defineEmits<{ done: [] }>();
const number = computed(() => props.destination.newest ?? props.destination.holds);
const drift = useDrift(
  () => props.slug,
  () => props.destination.id,
  number,
);
const changes = useDestinationChanges(() => props.slug);
type Chosen = Choice | "take";
const chosen = ref<Record<string, Chosen>>({});
const looked = ref<Drift | null>(null);
const files = computed(() => drift.data.value ?? []);
const asking = computed(() => files.value.filter((one) => one.asks));
const open = computed(() => asking.value.filter((one) => !chosen.value[one.path]));
const KINDS: Record<Drift["kind"], string> = {
  changed: t("changedByOthers"),
  missing: t("removedByOthers"),
  added: t("addedByOthers"),
  in_the_way: t("inTheWay"),
};
function choicesOf(one: Drift): { value: Chosen; label: string }[] {
  if (one.kind === "missing")
    return [
      { value: "overwrite", label: t("writeAgain") },
      { value: "keep", label: t("leaveAway") },
    ];
  const take = { value: "take" as const, label: t("takeIn") };
  if (one.kind === "added") return isPicture(one.path) ? [take] : [];
  return [
    { value: "overwrite", label: t("overwrite") },
    { value: "keep", label: t("keepTheirs") },
    ...(isPicture(one.path) ? [take] : []),
  ];
}
const ours = (one: Drift, side: number) => {
  const lies = one.kind === "changed" || one.kind === "missing" ? props.destination.holds : number.value;
  return one.kind !== "added" && lies !== null && isPicture(one.path)
    ? deliveredPicture(props.slug, lies, one.path, side)
    : null;
};
const theirs = (one: Drift, side: number) =>
  one.kind !== "missing" && isPicture(one.path) && props.destination.kind !== "zip"
    ? pictureThere(props.slug, props.destination.id, one.path, one.digest, side)
    : null;
function chooseAll(choice: Chosen): void {
  for (const one of asking.value) chosen.value[one.path] = choice;
}
async function bring(): Promise<void> {
  if (number.value === null) return;
  const taken = Object.entries(chosen.value).filter(([, choice]) => choice === "take");
  const paths = taken.map(([path]) => path);
  if (paths.length && !(await changes.takeIn(props.destination, paths))) return;
  const choices = Object.fromEntries(
    Object.entries(chosen.value).map(([path, choice]) => [path, choice === "take" ? "keep" : choice]),
  );
  if (await changes.bring(props.destination, number.value, choices)) emit("done");
}
</script>

<template>
  <section :aria-label="t('driftAt', { name: destination.name })">
    <div class="row">
      <h2>{{ t("driftAt", { name: destination.name }) }}</h2>
      <span class="grow" />
      <Button text :label="t('backToThePlan')" icon="pi pi-arrow-left" @click="emit('done')" />
    </div>
    <StateView :query="drift" :rows="4" height="6rem" :empty="!files.length">
      <template #empty>
        <p>{{ t("nothingWasChangedThere") }}</p>
      </template>
      <p class="soft">{{ t("driftIsWhatOthersChanged") }}</p>
      <div v-if="mayChange && number !== null" class="row">
        <template v-if="asking.length > 1">
          <Button outlined severity="secondary" :label="t('overwriteAll')" @click="chooseAll('overwrite')" />
          <Button outlined severity="secondary" :label="t('keepAll')" @click="chooseAll('keep')" />
        </template>
        <span class="grow" />
        <span v-if="open.length" class="soft">{{ t("filesWaitForAChoice", { count: open.length }) }}</span>
        <Button
          :label="t('bringDelivery', { number })"
          :disabled="open.length > 0 || changes.busy.value"
          @click="bring"
        />
      </div>
      <FilePair
        v-for="one in files"
        :key="one.path"
        :path="one.path"
        :words="KINDS[one.kind]"
        :before="ours(one, 192)"
        :after="theirs(one, 192)"
        :before-label="t('delivered')"
        :after-label="t('thereNow')"
        :data-kind="one.kind"
        @look="looked = one"
      >
        <SelectButton
          v-if="mayChange && choicesOf(one).length"
          v-model="chosen[one.path]"
          :options="choicesOf(one)"
          option-label="label"
          option-value="value"
          size="small"
          :aria-label="t('whatToDoWith', { path: one.path })"
        />
      </FilePair>
    </StateView>
    <PairLook
      v-if="looked"
      :path="looked.path"
      :before="ours(looked, 1024)"
      :after="theirs(looked, 1024)"
      :before-label="t('delivered')"
      :after-label="t('thereNow')"
      @close="looked = null"
    />
  </section>
</template>
