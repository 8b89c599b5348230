<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import type { Ground, GroundLayer, Repetition } from "@/api/ground";
import NumberField from "@/parts/fields/NumberField.vue";
import Mark from "@/parts/Mark.vue";
import { t } from "@/texts/ground";

/** How strongly the eye finds each layer's tile from a distance, and what would help. */
const props = defineProps<{
  ground: Ground;
  told: Repetition[] | null;
  waiting: boolean;
  problem: string;
  mayChange: boolean;
}>();
const distance = defineModel<number>("distance", { required: true });
const helped = defineModel<string>("helped", { required: true });
const emit = defineEmits<{ change: [key: string, part: Partial<GroundLayer>, what: string] }>();
const rows = computed(() =>
  [...props.ground.layers].reverse().map((layer) => ({
    layer,
    found: props.told?.find((one) => one.layer === layer.name) ?? null,
  })),
);
const WAYS: Record<string, string> = {
  plain: t("plainTiles"),
  two_scales: t("twoScales"),
  hexagons: t("hexagons"),
};
function said(layer: GroundLayer, one: Repetition["remedies"][number]): string {
  const parts = [];
  if (one.tile !== layer.tile) parts.push(t("tileOfMetres", { metres: Number(one.tile.toPrecision(3)) }));
  if (one.repeat !== layer.repeat) parts.push(WAYS[one.repeat]);
  if (one.turn !== layer.turn) parts.push(t("turnedBy", { degrees: one.turn }));
  return parts.join(", ");
}
const use = (layer: GroundLayer, part: Partial<GroundLayer>) =>
  emit("change", layer.key, part, t("tilesOf", { name: layer.name })); // prettier-ignore
const percent = (value: number) => Math.round(value * 100);
</script>

<template>
  <div class="panel">
    <div class="row">
      <span>{{ t("seenFrom") }}</span>
      <NumberField
        :value="distance"
        :label="t('distanceInMetres')"
        unit="m"
        :min="0.5"
        :max="10000"
        :digits="1"
        @change="distance = $event ?? distance"
      />
    </div>
    <p v-if="told?.length" class="soft small">
      {{ t("howItIsMeasured", { limit: percent(told[0]!.limit) }) }}
    </p>
    <p v-if="waiting" role="status">{{ t("measuring") }}</p>
    <p v-if="problem" class="error" role="alert">{{ problem }}</p>
    <ul>
      <li v-for="{ layer, found } in rows" :key="layer.key" :data-test="`repetition ${layer.name}`">
        <div class="row">
          <Mark :severity="found?.is_seen ? 'warning' : 'fine'" />
          <strong>{{ layer.name }}</strong>
          <span class="grow" />
          <span v-if="found && found.strength !== null" :class="{ seen: found.is_seen }">{{
            found.is_seen
              ? t("isSeen", { strength: percent(found.strength) })
              : t("isNotSeen", { strength: percent(found.strength) })
          }}</span>
          <span v-else-if="found" class="soft">{{ t("tooLittle") }}</span>
        </div>
        <p v-if="found" class="small soft">
          {{
            t("densityFacts", {
              density: Math.round(found.density),
              needed: Math.round(found.needed),
              sharp: found.sharp_from.toPrecision(2),
            })
          }}
        </p>
        <Button
          v-if="found?.is_seen && helped !== layer.key"
          text
          :label="t('whatHelps')"
          :aria-label="t('whatHelpsFor', { name: layer.name })"
          @click="helped = layer.key"
        />
        <div v-if="found?.is_seen && helped === layer.key && found.remedies.length" class="remedies">
          <div v-if="found.vanishes" class="row">
            <span>{{ t("vanishesFrom", { metres: Number(found.vanishes.toPrecision(3)) }) }}</span>
            <span class="grow" />
            <Button
              v-if="mayChange"
              text
              :label="t('use')"
              :aria-label="t('useTile', { metres: Number(found.vanishes.toPrecision(3)) })"
              @click="use(layer, { tile: Number(found.vanishes.toPrecision(3)) })"
            />
          </div>
          <div v-for="one in found.remedies" :key="said(layer, one)" class="row">
            <span>{{ t("remedyTo", { what: said(layer, one), strength: percent(one.strength) }) }}</span>
            <span class="grow" />
            <Button
              v-if="mayChange"
              text
              :label="t('use')"
              :aria-label="t('useRemedy', { what: said(layer, one) })"
              @click="use(layer, { tile: one.tile, turn: one.turn, repeat: one.repeat })"
            />
          </div>
        </div>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.panel,
.remedies {
  display: grid;
  gap: var(--space-2);
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: var(--space-2);
}
li {
  padding: var(--space-2);
  border: 1px solid var(--line);
}
.seen {
  font-weight: 600;
}
.remedies {
  padding-left: var(--space-3);
}
</style>
