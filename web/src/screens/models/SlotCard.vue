<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import type { ModelFinding, ModelSlot, Proposal, Wears } from "@/api/models";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import type { Given } from "@/parts/fields/options";
import TextField from "@/parts/fields/TextField.vue";
import Mark from "@/parts/Mark.vue";
import { t } from "@/texts/models";

import { count, nameOf, valueOf, wearsOf } from "./wearing";

/** One slot: what it wears, what is proposed for it, and, in hand, its parts, numbers and names. */
const props = defineProps<{
  slotOf: ModelSlot;
  options: readonly Given<string>[];
  proposal: Proposal | null;
  /** Names of slots that wear the same. */
  shared: string[];
  findings: ModelFinding[];
  chosen: boolean;
  mayChange: boolean;
}>();
const emit = defineEmits<{
  choose: [];
  assign: [worn: Wears | null];
  solo: [];
  call: [title: string];
  split: [part: string];
  join: [];
  fill: [];
}>();
const name = computed(() => nameOf(props.slotOf));
const empty = computed(() => !props.slotOf.worn || props.slotOf.worn.name === null);
const worst = computed(
  () =>
    (["error", "warning", "note"] as const).find((one) => props.findings.some((f) => f.severity === one)) ??
    "fine",
);
function whyOf({ why, word }: Proposal): string {
  if (why === "texture") return t("byTexture", { word });
  if (why === "part") return t("byPart", { word });
  return why === "file" ? t("byFile", { word }) : t("bySlot");
}
const offered = computed(() => (empty.value && props.mayChange ? props.proposal : null));
</script>

<template>
  <li class="slot" :class="{ chosen, empty }" :data-chosen="chosen" :data-test="`slot ${slotOf.key}`">
    <div class="line">
      <Button
        text
        severity="secondary"
        class="name"
        :aria-expanded="chosen"
        :title="t('showInTheModel')"
        @click="emit('choose')"
      >
        <Mark :severity="worst" />
        <span>{{ name }}</span>
        <span v-if="slotOf.title" class="soft small">{{ t("deliveredAs", { title: slotOf.title }) }}</span>
      </Button>
      <ChoiceField
        :model-value="empty ? '' : valueOf(slotOf.worn)"
        :options="options"
        :label="t('whatSlotWears', { name })"
        :disabled="!mayChange"
        @update:model-value="emit('assign', wearsOf($event ?? ''))"
      />
    </div>
    <ChoiceField
      v-if="!empty && slotOf.regions.length"
      :model-value="slotOf.worn?.region ?? ''"
      :options="[
        { value: '', label: t('allOfTheMaps') },
        ...slotOf.regions.map((one) => ({ value: one, label: one })),
      ]"
      :label="t('regionOfSlot', { name })"
      :disabled="!mayChange"
      @update:model-value="emit('assign', { ...wearsOf(valueOf(slotOf.worn))!, region: $event || null })"
    />
    <p v-if="slotOf.worn && slotOf.worn.name === null" class="small error">{{ t("whatItWoreIsGone") }}</p>
    <div v-if="offered" class="row small">
      <span
        >{{ t("probably", { name: offered.name, share: Math.round(offered.share * 100) }) }}
        <span class="soft">{{ whyOf(offered) }}</span></span
      >
      <Button
        text
        :label="t('take')"
        :aria-label="t('takeFor', { name: offered.name, slot: name })"
        @click="emit('assign', { kind: offered.kind, id: offered.id })"
      />
    </div>
    <p v-if="shared.length" class="small soft">{{ t("alsoOn", { slots: shared.join(", ") }) }}</p>
    <div v-if="chosen" class="more">
      <div class="row wrap">
        <Button
          outlined
          severity="secondary"
          :label="t('showAlone')"
          :title="t('showAloneKey')"
          @click="emit('solo')"
        />
        <Button
          v-if="slotOf.islands && !empty && mayChange"
          outlined
          severity="secondary"
          :label="t('fillBetweenIslands')"
          :title="t('fillBetweenIslandsHelp')"
          @click="emit('fill')"
        />
        <Button
          v-if="slotOf.split_from !== null && mayChange"
          outlined
          severity="secondary"
          :label="t('shareAgain', { slot: slotOf.split_from })"
          @click="emit('join')"
        />
      </div>
      <dl class="facts small">
        <dt>{{ t("parts") }}</dt>
        <dd>
          <span v-for="part in slotOf.parts" :key="part" class="part"
            >{{ part }}
            <Button
              v-if="slotOf.parts.length > 1 && mayChange"
              text
              :label="t('ownSlot')"
              :aria-label="t('ownSlotFor', { part })"
              @click="emit('split', part)"
            />
          </span>
        </dd>
        <dt>{{ t("surface") }}</dt>
        <dd>
          {{
            t("trianglesAndArea", { triangles: count(slotOf.triangles), area: slotOf.area.toPrecision(3) })
          }}
        </dd>
        <dt>{{ t("density") }}</dt>
        <dd>
          {{
            slotOf.density === null
              ? t("noDensity")
              : t("texelsAMetre", { density: Math.round(slotOf.density) })
          }}
        </dd>
        <dt>{{ t("uvs") }}</dt>
        <dd>
          {{ slotOf.uv_sets ? t("nIslands", { count: slotOf.islands }) : t("noUvs") }}
          <template v-if="slotOf.overlap"
            >, {{ t("overlap", { share: (slotOf.overlap * 100).toFixed(1) }) }}</template
          >
        </dd>
        <template v-if="slotOf.textures.length">
          <dt>{{ t("texturesNamed") }}</dt>
          <dd class="mono">
            <div v-for="one in slotOf.textures" :key="one.use">{{ one.file || t("insideTheFile") }}</div>
          </dd>
        </template>
        <dt>{{ t("nameDelivered") }}</dt>
        <dd>
          <TextField
            :value="slotOf.title"
            :label="t('nameDelivered')"
            :placeholder="slotOf.name"
            :disabled="!mayChange"
            @change="emit('call', $event)"
          />
        </dd>
      </dl>
    </div>
  </li>
</template>

<style scoped>
.slot {
  border: 1px solid var(--line);
  border-radius: var(--radius);
  padding: 2px var(--space-2);
}
.empty {
  border-left: 4px solid var(--error);
}
.chosen {
  background: var(--accent-wash);
}
.line {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.1fr);
  gap: var(--space-2);
  align-items: center;
}
.name {
  justify-content: flex-start;
  gap: var(--space-2);
  text-align: left;
  color: var(--ink);
  overflow-wrap: anywhere;
}
.more {
  padding: var(--space-2) 0;
  display: grid;
  gap: var(--space-2);
}
.wrap {
  flex-wrap: wrap;
}
.facts {
  display: grid;
  grid-template-columns: max-content minmax(0, 1fr);
  gap: 2px var(--space-3);
  align-items: baseline;
  margin: 0;
}
.facts dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.facts dt {
  color: var(--ink-soft);
}
.part {
  margin-right: var(--space-2);
}
</style>
