<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref, watch } from "vue";

import { useJobs } from "@/api/queries";
import { useRuleChanges } from "@/api/ruleChanges";
import {
  errorWords,
  type MapTrial,
  memoryWords,
  type Misreading,
  misreadPictureOf,
  trialPictureOf,
  useMisreadings,
  useTrials,
} from "@/api/rules";
import type { TextureMap } from "@/api/types";
import { timeLeft } from "@/app/timeLeft";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import StateView from "@/parts/StateView.vue";
import type { Other } from "@/viewer/usePictures";
import { t } from "@/texts/set";

import TrialTable from "./TrialTable.vue";

/** Formats tried on the map: what each costs and spoils; one is shown against the map. Below: misreadings. */
const props = defineProps<{ slug: string; map: TextureMap; mayChange: boolean }>();
const emit = defineEmits<{ show: [other: Other | null] }>();

const QUALITIES = [
  { value: "quick", label: t("quick") },
  { value: "normal", label: t("normal") },
  { value: "best", label: t("bestSlow") },
];
const quality = ref("normal");
const trials = useTrials(
  () => props.slug,
  () => props.map,
  quality,
);
const misreadings = useMisreadings(
  () => props.slug,
  () => props.map,
);
const changes = useRuleChanges(() => props.slug);
const jobs = useJobs(() => props.slug);
const chosen = ref<string[] | null>(null);
const shown = ref("");
const all = ref(false);

const wanted = computed({
  get: () => chosen.value ?? trials.data.value?.allowed ?? [],
  set: (keys) => (chosen.value = keys),
});
const offered = computed(() => {
  const { formats = [], allowed = [] } = trials.data.value ?? {};
  return formats.filter((one) => all.value || allowed.includes(one.key));
});
const tried = computed(() =>
  [...(trials.data.value?.trials ?? [])].sort((a, b) => a.bits_per_texel - b.bits_per_texel),
);
const missing = computed(() => wanted.value.filter((key) => !tried.value.some((one) => one.format === key)));
const job = computed(() =>
  (jobs.data.value ?? []).find(
    (one) => one.kind === "try" && (one.state === "running" || one.state === "waiting"),
  ),
);

function show(trial: MapTrial): void {
  shown.value = trial.format;
  emit("show", {
    address: (more) => trialPictureOf(props.slug, props.map, trial.format, quality.value, "decoded", more),
    key: `${trial.format} ${quality.value}`,
    label: t("as", { label: trial.label }),
  });
}
function showMisread(one: Misreading): void {
  shown.value = one.misreading;
  emit("show", {
    address: (more) => misreadPictureOf(props.slug, props.map, one.misreading, more),
    key: one.misreading,
    label: t("misread"),
  });
}
watch([() => props.map.digest, quality], () => {
  shown.value = "";
  emit("show", null);
});
const numbers = (one: Misreading) => {
  const { before, after } = one.mean;
  const mean = t("meanBecomes", { before: before!.toFixed(3), after: after!.toFixed(3) });
  return `${one.cause}: ${mean}; ${errorWords(one.error).slice(0, 2).join(", 99 % ")}.`;
};
</script>

<template>
  <section class="panel" :aria-label="t('formats')">
    <h2>{{ t("compressed") }}</h2>
    <StateView :query="trials" :rows="3">
      <p v-if="trials.data.value" class="soft">
        {{
          t("uncompressedErrorLimitAtThe99th", {
            width: map.width,
            height: map.height,
            memory: memoryWords(trials.data.value.plain_bytes),
            limit: trials.data.value.limit,
            sort: trials.data.value.sort.replace("_", " "),
          })
        }}
      </p>
      <div v-if="mayChange" class="choice">
        <CheckField v-for="one in offered" :key="one.key" v-model="wanted" :of="one.key" :label="one.label" />
      </div>
      <div v-if="mayChange" class="row">
        <Button
          text
          :label="all ? t('onlyFormatsAllowedHere') : t('allFormats')"
          :aria-expanded="all"
          @click="all = !all"
        />
        <ChoiceField v-model="quality" :options="QUALITIES" :label="t('qualityOfTheEncoder')" />
        <Button
          :label="missing.length ? t('encode', { count: missing.length }) : t('allEncoded')"
          :disabled="!missing.length || changes.busy.value || job !== undefined"
          @click="changes.tryFormats(map.id, missing, quality)"
        />
        <span v-if="job" class="soft" role="status"
          >{{ job.message || t("waitingForAWorker") }} {{ timeLeft(job) }}</span
        >
      </div>
      <TrialTable
        v-if="tried.length"
        :trials="tried"
        :kind="trials.data.value?.kind ?? 'mask'"
        :shown="shown"
        @show="show"
      />
      <p v-else class="soft">
        {{ t("nothingIsEncodedYetEncodeAnd") }}
      </p>
      <figure v-if="tried.some((one) => one.format === shown)">
        <img
          :src="trialPictureOf(slug, map, shown, quality, 'error')"
          :alt="t('whereTheErrorLies')"
          data-test="error-picture"
        />
        <figcaption class="soft">{{ t("whereTheErrorLiesWhiteIs") }}</figcaption>
      </figure>
    </StateView>
    <h2>{{ t("ifTheTargetMisreadsIt") }}</h2>
    <article
      v-for="one in misreadings.data.value ?? []"
      :key="one.misreading"
      :class="{ now: shown === one.misreading }"
    >
      <Button
        text
        class="symptom"
        :label="one.symptom"
        :aria-pressed="shown === one.misreading"
        :title="t('showItBesideTheMap')"
        @click="showMisread(one)"
      />
      <p class="soft">{{ numbers(one) }}</p>
      <p>{{ one.remedy }}.</p>
    </article>
  </section>
</template>

<style scoped>
.panel {
  padding: var(--space-2) var(--space-3);
  display: grid;
  gap: var(--space-2);
  align-content: start;
}
figure {
  margin: 0;
}
.choice {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 var(--space-2);
}
.now {
  background: var(--accent-wash);
  outline: 1px solid var(--accent);
}
figure img {
  width: 100%;
  background: var(--surround);
}
article {
  border-top: 1px solid var(--line);
  padding: var(--space-1) 0;
}
.symptom {
  padding-left: 0;
  text-align: left;
}
</style>
