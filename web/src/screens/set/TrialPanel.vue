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

import TrialTable from "./TrialTable.vue";

/** Formats tried on the map: what each costs and spoils; one is shown against the map. Below: misreadings. */
const props = defineProps<{ slug: string; map: TextureMap; mayChange: boolean }>();
const emit = defineEmits<{ show: [other: Other | null] }>();

const QUALITIES = [
  { value: "quick", label: "Quick" },
  { value: "normal", label: "Normal" },
  { value: "best", label: "Best, slow" },
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
    label: `as ${trial.label}`,
  });
}
function showMisread(one: Misreading): void {
  shown.value = one.misreading;
  emit("show", {
    address: (more) => misreadPictureOf(props.slug, props.map, one.misreading, more),
    key: one.misreading,
    label: "misread",
  });
}
watch([() => props.map.digest, quality], () => {
  shown.value = "";
  emit("show", null);
});
const numbers = (one: Misreading) => {
  const { before, after } = one.mean;
  const mean = `mean ${before!.toFixed(3)} becomes ${after!.toFixed(3)}`;
  return `${one.cause}: ${mean}; ${errorWords(one.error).slice(0, 2).join(", 99 % ")}.`;
};
</script>

<template>
  <section class="panel" aria-label="Formats">
    <h2>Compressed</h2>
    <StateView :query="trials" :rows="3">
      <p v-if="trials.data.value" class="soft">
        {{ map.width }} × {{ map.height }}, {{ memoryWords(trials.data.value.plain_bytes) }} uncompressed.
        Error limit {{ trials.data.value.limit }} at the 99th percentile, for
        {{ trials.data.value.sort.replace("_", " ") }}.
      </p>
      <div v-if="mayChange" class="choice">
        <CheckField v-for="one in offered" :key="one.key" v-model="wanted" :of="one.key" :label="one.label" />
      </div>
      <div v-if="mayChange" class="row">
        <Button
          text
          :label="all ? 'Only formats allowed here' : 'All formats'"
          :aria-expanded="all"
          @click="all = !all"
        />
        <ChoiceField v-model="quality" :options="QUALITIES" label="Quality of the encoder" />
        <Button
          :label="missing.length ? `Encode ${missing.length}` : 'All encoded'"
          :disabled="!missing.length || changes.busy.value || job !== undefined"
          @click="changes.tryFormats(map.id, missing, quality)"
        />
        <span v-if="job" class="soft" role="status"
          >{{ job.message || "waiting for a worker" }} {{ timeLeft(job) }}</span
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
        Nothing is encoded yet. Encode, and the table says which formats are within the limit.
      </p>
      <figure v-if="tried.some((one) => one.format === shown)">
        <img
          :src="trialPictureOf(slug, map, shown, quality, 'error')"
          alt="Where the error lies"
          data-test="error-picture"
        />
        <figcaption class="soft">Where the error lies; white is far more than can be seen.</figcaption>
      </figure>
    </StateView>
    <h2>If the target misreads it</h2>
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
        title="Show it beside the map"
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
