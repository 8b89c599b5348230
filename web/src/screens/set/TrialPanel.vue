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
import type { Other } from "@/viewer/usePictures";

/** Formats tried on the map: what each costs and spoils; one is shown against the map. Below: misreadings. */
const props = defineProps<{ slug: string; map: TextureMap; mayChange: boolean }>();
const emit = defineEmits<{ show: [other: Other | null] }>();

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
const chosen = ref<Set<string> | null>(null);
const shown = ref("");
const all = ref(false);

const wanted = computed(() => chosen.value ?? new Set(trials.data.value?.allowed ?? []));
const offered = computed(() => {
  const told = trials.data.value;
  return (told?.formats ?? []).filter((one) => all.value || told!.allowed.includes(one.key));
});
const found = computed(() =>
  [...(trials.data.value?.trials ?? [])].sort((a, b) => a.bits_per_texel - b.bits_per_texel),
);
const missing = computed(() =>
  [...wanted.value].filter((key) => !found.value.some((one) => one.format === key)),
);
const job = computed(() =>
  (jobs.data.value ?? []).find(
    (one) => one.kind === "try" && (one.state === "running" || one.state === "waiting"),
  ),
);
const cheapest = computed(() => found.value.find((one) => one.within)?.format ?? null);
const heads = computed(
  () =>
    ({ colour: ["ΔE", "99 %"], normal: ["mean", "99 %"], mask: ["step", "99 %"] })[
      trials.data.value?.kind ?? "mask"
    ] ?? [],
);

function toggle(key: string): void {
  const next = new Set(wanted.value);
  if (!next.delete(key)) next.add(key);
  chosen.value = next;
}
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
</script>

<template>
  <section class="panel" aria-label="Formats">
    <h2>As formats encode it</h2>
    <p v-if="trials.data.value" class="soft">
      {{ map.width }} × {{ map.height }}, {{ memoryWords(trials.data.value.plain_bytes) }} as it is. Limit
      {{ trials.data.value.limit }} at the 99th percentile, for
      {{ trials.data.value.sort.replace("_", " ") }}.
    </p>
    <p v-if="trials.error.value" class="problem" role="alert">{{ trials.error.value.message }}</p>
    <div v-if="mayChange" class="choice">
      <label v-for="one in offered" :key="one.key">
        <input type="checkbox" :checked="wanted.has(one.key)" @change="toggle(one.key)" /> {{ one.label }}
      </label>
      <button class="plain link" @click="all = !all">
        {{ all ? "only the project's formats" : "all formats …" }}
      </button>
    </div>
    <div v-if="mayChange" class="row">
      <select v-model="quality" aria-label="Quality of the encoder">
        <option value="quick">quick</option>
        <option value="normal">normal</option>
        <option value="best">best, slow</option>
      </select>
      <Button
        size="small"
        :label="missing.length ? `Encode ${missing.length}` : 'All encoded'"
        :disabled="!missing.length || changes.busy.value || job !== undefined"
        @click="changes.tryFormats(map.id, missing, quality)"
      />
      <span v-if="job" class="soft" role="status">{{ job.message || "waiting for a worker" }} …</span>
    </div>
    <table v-if="found.length">
      <thead>
        <tr>
          <th>format</th>
          <th>memory</th>
          <th>file</th>
          <th v-for="head in heads" :key="head">{{ head }}</th>
          <th v-if="trials.data.value?.kind !== 'normal'">PSNR</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="one in found"
          :key="one.format"
          :data-format="one.format"
          :class="{ now: shown === one.format, beyond: !one.within }"
          @click="show(one)"
        >
          <th scope="row">
            <button class="plain" :aria-pressed="shown === one.format">
              {{ one.within ? "✓" : "✗" }} {{ one.label }}
            </button>
            <span v-if="one.format === cheapest" class="tag">cheapest within</span>
          </th>
          <td>{{ memoryWords(one.memory) }}</td>
          <td>{{ one.size === null ? "" : memoryWords(one.size) }}</td>
          <td v-for="(word, index) in errorWords(one.error)" :key="index">{{ word }}</td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="trials.data.value" class="soft">Nothing was encoded yet. ✓ will say: within the limit.</p>
    <figure v-if="found.some((one) => one.format === shown)">
      <img
        :src="trialPictureOf(slug, map, shown, quality, 'error')"
        alt="Where the error lies"
        data-test="error-picture"
      />
      <figcaption class="soft">Where the error lies; white is far beyond what is seen.</figcaption>
    </figure>
    <h2>If the target misreads it</h2>
    <article
      v-for="one in misreadings.data.value ?? []"
      :key="one.misreading"
      :class="{ now: shown === one.misreading }"
      @click="showMisread(one)"
    >
      <button class="plain" :aria-pressed="shown === one.misreading">{{ one.symptom }}</button>
      <p class="soft">
        {{ one.cause }}: mean {{ one.mean.before!.toFixed(3) }} becomes {{ one.mean.after!.toFixed(3) }};
        {{ errorWords(one.error).slice(0, 2).join(", 99 % ") }}.
      </p>
      <p>{{ one.remedy }}.</p>
    </article>
  </section>
</template>

<style scoped>
.panel {
  padding: 8px 10px;
  display: grid;
  gap: 8px;
  align-content: start;
  font-size: 12px;
}
p,
figure {
  margin: 0;
}
.choice {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 2px 8px;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
}
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 2px;
}
table {
  border-collapse: collapse;
  width: 100%;
  font-variant-numeric: tabular-nums;
}
th {
  text-align: left;
  font-weight: 400;
}
thead th {
  color: var(--ink-soft);
}
td,
thead th:not(:first-child) {
  text-align: right;
  padding-left: 6px;
  white-space: nowrap;
}
tbody tr {
  border-top: 1px solid var(--line);
  cursor: pointer;
}
tbody th,
tbody td {
  padding-top: 3px;
  padding-bottom: 3px;
  vertical-align: top;
}
.now {
  background: var(--accent-wash);
  outline: 1px solid var(--accent);
}
.beyond {
  color: var(--ink-soft);
}
.tag {
  display: block;
  color: var(--accent);
  font-size: 11px;
}
figure img {
  width: 100%;
  background: var(--surround);
}
article {
  border-top: 1px solid var(--line);
  padding: 6px 0;
  cursor: pointer;
}
article .plain {
  font-weight: 650;
}
.problem {
  color: var(--error);
}
.link {
  color: var(--accent);
}
</style>
