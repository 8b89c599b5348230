<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";

import { pictureOf } from "@/api/pictures";
import type { Finding, RoleInfo, Severity, SetDetail } from "@/api/types";
import Mark from "@/parts/Mark.vue";

/** Findings in order of harm: the number, its threshold, where to look, and what can be done. */
const props = defineProps<{
  slug: string;
  set: SetDetail;
  roles: RoleInfo[];
  mayChange: boolean;
  mayWaive?: boolean;
  shown: number | null;
}>();
const emit = defineEmits<{
  show: [finding: Finding];
  remedy: [finding: Finding];
  alpha: [finding: Finding, role: string];
  judge: [];
  waive: [finding: Finding, reason: string, until: string | null];
  revoke: [finding: Finding];
}>();

const vFocus = { mounted: (input: HTMLInputElement) => input.focus() };
const NAMES: Record<string, string> = {
  licence_unknown: "Licence unknown",
  licence_refused: "Licence not taken here",
  credit_missing: "Nobody to name",
  direction_against_name: "Green against the name",
  direction_unknown: "Direction unknown",
  not_unit_length: "Vectors not of unit length",
  two_channel_normal: "Two-channel normal",
  not_a_normal_map: "Not a normal map",
  plain_channel: "Plain channel",
  roughness_metallic_exchanged: "Roughness and metallic exchanged",
  hidden_alpha: "Mask hidden in alpha",
  plain_alpha: "Plain alpha",
  height_steps: "Steps in height",
  gloss_for_roughness: "Gloss in place of roughness",
  missing_map: "Map missing",
  sizes_differ: "Sizes differ",
  not_power_of_two: "No power of two",
  not_multiple_of_four: "No multiple of four",
  tag_against_role: "Colour tag against role",
  name_against_rules: "Name against the house rules",
  specular_workflow: "Specular and gloss",
  larger_than_target: "Larger than the target takes",
  twin_across_project: "Twin in another set",
  primaries_against_role: "Other primaries than sRGB",
  unreadable: "Cannot be read",
  normal_strength: "Normal strength out of range",
  metallic_mid_grey: "Metallic in between",
  gloss_as_roughness: "Gloss as roughness",
  twin_maps: "Twin maps",
  implausible_colour: "Implausible colour",
  baked_light: "Shadow baked into the colour",
  grey_colour: "Grey where colour is meant",
  opacity_kind: "Kind of opacity",
  unused_height_range: "Height range unused",
  upscaled: "Made larger than it was",
  seam: "Seam at the border",
  lossy_data: "Data in a lossy file",
  more_depth_than_needed: "More depth than needed",
};
const label = (role: string | null) => props.roles.find((one) => one.key === role)?.label ?? "";
const number = (value: number | null) =>
  value === null ? "" : Number.isInteger(value) ? String(value) : value.toPrecision(3);

const waiving = ref<number | null>(null);
const reason = ref("");
const until = ref("");
function begin(finding: Finding): void {
  [waiving.value, reason.value, until.value] = [finding.id, "", ""];
}
function waive(finding: Finding): void {
  if (!reason.value.trim()) return;
  emit("waive", finding, reason.value, until.value || null);
  waiving.value = null;
}
/** What counts first; what somebody chose to live with behind it. */
const findings = computed(() =>
  [...props.set.findings].sort((a, b) => Number(Boolean(a.waiver)) - Number(Boolean(b.waiver))),
);

const evidence = computed(() =>
  Object.fromEntries(
    props.set.findings.map((finding) => {
      const map = props.set.maps.find((one) => one.id === finding.map);
      if (!map || !finding.place) return [finding.id, ""];
      const { x, y, width, height } = finding.place;
      const channel = finding.place.channel ?? undefined;
      // An unused alpha lies in the source; a map taken from one channel has only that one.
      const source = channel === "a";
      return [
        finding.id,
        pictureOf(props.slug, map, {
          side: 128,
          box: { x, y, width, height },
          channel: map.channel ? undefined : channel,
          source,
        }),
      ];
    }),
  ),
);
</script>

<template>
  <section class="ledger" aria-label="Findings">
    <p v-if="!set.judged" class="soft">
      <Mark severity="judging" /> Being judged; findings follow.
      <button v-if="mayChange" class="plain again" @click="emit('judge')">Judge again</button>
    </p>
    <p v-else-if="!set.findings.length">
      <Mark severity="fine" /> Nothing found. This set is fit to deliver.
    </p>
    <article
      v-for="finding in findings"
      :key="finding.id"
      :class="[finding.severity, { shown: shown === finding.id, waived: finding.waiver }]"
      :data-check="finding.check"
      @click="emit('show', finding)"
    >
      <header>
        <Mark :severity="finding.severity as Severity" />
        <h3>{{ NAMES[finding.check] ?? finding.check }}</h3>
        <span class="soft">{{ label(finding.role) }}</span>
      </header>
      <div class="body">
        <img v-if="evidence[finding.id]" :src="evidence[finding.id]" alt="Where to look" class="evidence" />
        <div>
          <p>{{ finding.message }}</p>
          <p v-if="finding.measure !== null" class="mono soft">
            measured {{ number(finding.measure)
            }}<template v-if="finding.threshold !== null"
              >, threshold {{ number(finding.threshold) }}</template
            >
          </p>
        </div>
      </div>
      <p v-if="finding.waiver" class="waiver">
        Lived with: {{ finding.waiver.reason
        }}<span class="soft">
          ({{ finding.waiver.by ?? "somebody"
          }}<template v-if="finding.waiver.until">, until {{ finding.waiver.until }}</template
          >)</span
        >
        <button v-if="mayWaive" class="plain again" @click.stop="emit('revoke', finding)">
          Let it count again
        </button>
      </p>
      <form v-else-if="waiving === finding.id" class="why" @submit.prevent="waive(finding)" @click.stop>
        <label>Why live with it? <input v-model="reason" v-focus maxlength="500" required /></label>
        <label>until <input v-model="until" type="date" /></label>
        <button type="submit" class="do">Live with it</button>
        <button type="button" class="plain again" @click="waiving = null">Never mind</button>
      </form>
      <footer v-if="mayChange && !finding.waiver && waiving !== finding.id">
        <Button
          v-if="finding.remedy"
          size="small"
          :label="String(finding.remedy.label)"
          @click.stop="emit('remedy', finding)"
        />
        <select
          v-if="finding.check === 'hidden_alpha'"
          aria-label="Use alpha as"
          @click.stop
          @change="emit('alpha', finding, ($event.target as HTMLSelectElement).value)"
        >
          <option value="">Use alpha as …</option>
          <option v-for="role in roles.filter((one) => one.scalar)" :key="role.key" :value="role.key">
            {{ role.label }}
          </option>
        </select>
        <button v-if="mayWaive" class="plain again" data-test="waive" @click.stop="begin(finding)">
          Live with it …
        </button>
      </footer>
    </article>
  </section>
</template>

<style scoped>
.ledger {
  padding: 8px 10px;
  display: grid;
  gap: 8px;
  align-content: start;
}
p {
  margin: 0;
}
article {
  border: 1px solid var(--line);
  border-left: 3px solid var(--line-strong);
  background: var(--sheet);
  padding: 8px;
  display: grid;
  gap: 6px;
  cursor: pointer;
}
article.error {
  border-left-color: var(--error);
}
article.warning {
  border-left-color: var(--warning);
}
article.shown {
  outline: 2px solid var(--accent);
  outline-offset: -1px;
}
header {
  display: flex;
  gap: 6px;
  align-items: baseline;
}
header .soft {
  margin-left: auto;
}
.body {
  display: flex;
  gap: 8px;
}
.evidence {
  width: 72px;
  height: 72px;
  object-fit: contain;
  background: var(--surround);
  image-rendering: pixelated;
  flex: none;
}
footer {
  display: flex;
  gap: 8px;
}
.waived {
  opacity: 0.75;
}
.waiver {
  font-size: 12px;
}
.why {
  display: grid;
  gap: 6px;
  font-size: 12px;
}
.why input {
  width: 100%;
}
.do {
  background: var(--accent);
  color: #fff;
  border: 0;
  padding: 3px 8px;
  cursor: pointer;
}
.again {
  color: var(--accent);
}
footer:empty {
  display: none;
}
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
}
</style>
