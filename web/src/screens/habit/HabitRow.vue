<script setup lang="ts">
import Button from "primevue/button";
import Tag from "primevue/tag";
import { computed, ref } from "vue";

import { isGuess } from "@/api/habit";
import type { HabitLine, RoleInfo } from "@/api/types";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import Print from "@/parts/Print.vue";
import { t } from "@/texts/habit";

import { meaningsOf, stateOf, suffixName } from "./meanings";
import PackChannels from "./PackChannels.vue";

/** One suffix: what it means, how many files have it, why, and three pictures. */
const props = defineProps<{
  slug: string;
  line: HabitLine;
  roles: RoleInfo[];
  mayChange: boolean;
  busy: boolean;
}>();
const emit = defineEmits<{ teach: [role: string, channels: Record<string, string>]; forget: [] }>();

const packing = ref(false);
const name = computed(() => suffixName(props.line));
const meanings = computed(() => meaningsOf(props.roles));
const state = computed(() => stateOf(props.line));
const percent = computed(() => `${Math.round(props.line.confidence * 100)} %`);

function choose(role: string): void {
  packing.value = role === "pack";
  if (role !== "pack") emit("teach", role, {});
}

function teachPack(channels: Record<string, string>): void {
  packing.value = false;
  emit("teach", "pack", channels);
}
</script>

<template>
  <tr :data-suffix="line.suffix">
    <th scope="row">
      <span class="mono">{{ name }}</span>
      <span v-if="line.where === 'start'" class="soft">{{ t("inFront") }}</span>
      <span v-if="line.folder" class="soft mono">{{ t("in", { folder: line.folder }) }}</span>
    </th>
    <td>
      <ChoiceField
        v-if="mayChange"
        :model-value="packing ? 'pack' : line.decided || line.taught ? line.role : null"
        :options="meanings"
        :disabled="busy"
        :placeholder="line.role === 'none' ? t('sayWhatItMeans') : t('perhaps', { meaning: line.meaning })"
        :label="t('meaningOf', { name })"
        class="means"
        @update:model-value="$event && choose($event)"
      />
      <template v-else>{{ line.decided ? line.meaning : t("undecided") }}</template>
      <div v-if="line.role === 'pack' && !packing" class="soft">{{ line.meaning }}</div>
      <PackChannels v-if="packing" :roles="roles" :channels="line.channels" :name="name" @teach="teachPack" />
    </td>
    <td class="number">{{ line.files }}</td>
    <td>
      <Tag :severity="state.severity" :value="line.taught ? state.word : `${state.word} ${percent}`" />
      <Button
        v-if="mayChange && isGuess(line)"
        :label="t('confirm')"
        text
        :disabled="busy"
        @click="emit('teach', line.role, line.channels)"
      />
      <Button
        v-if="mayChange && line.taught"
        :label="t('forget')"
        text
        :disabled="busy"
        @click="emit('forget')"
      />
    </td>
    <td class="why soft">{{ line.why }}</td>
    <td>
      <div class="pictures">
        <Print v-for="map in line.examples" :key="map.id" :slug="slug" :map="map" class="picture" />
      </div>
    </td>
  </tr>
</template>

<style scoped>
td {
  vertical-align: middle !important;
}
th .mono {
  font-weight: 650;
  display: block;
}
.means {
  width: 220px;
}
.number {
  font-variant-numeric: tabular-nums;
}
.why {
  max-width: 46ch;
}
.pictures {
  display: flex;
  gap: 4px;
}
.picture {
  width: 48px;
}
</style>
