<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";
import { computed, ref, watch } from "vue";

import { fileOf, packedOf, pictureOf } from "@/api/pictures";
import { useOutputs, useTargets } from "@/api/queries";
import type { OutputChannel, RoleInfo, SetDetail } from "@/api/types";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";
import { t } from "@/texts/set";

import { factsOf, outputShown } from "./outputs";
import TwoTargets from "./TwoTargets.vue";

/** What a target packs of this set: each output channel from its source to its result; then the packed picture. */
const props = defineProps<{ slug: string; set: SetDetail; roles: RoleInfo[]; target: string }>();
const emit = defineEmits<{ target: [name: string]; large: [] }>();
const wanted = defineModel<string>("wanted", { required: true });

const SIDE = 128;
const PACKED_SIDE = 256;
const KEPT = "fair-texel-board-folded";
const folded = ref(localStorage.getItem(KEPT) === "yes");
watch(folded, (is) => localStorage.setItem(KEPT, is ? "yes" : "no"));
const comparing = ref(false);
const targets = useTargets(() => props.slug);
const outputs = useOutputs(
  () => props.slug,
  () => props.set.id,
  () => props.target,
);
const shown = computed(() => outputShown(outputs.data.value ?? [], wanted.value));
watch(
  () => props.set.id,
  () => (wanted.value = ""),
);
const choices = computed(() =>
  (outputs.data.value ?? []).map((one) => ({
    value: one.path,
    label: one.kind === "gltf" ? t("gltf", { output: one.output }) : one.output,
    help: one.path,
  })),
);

const label = (role: string | null) => props.roles.find((one) => one.key === role)?.label ?? "Constant";
const sourceOf = (channel: OutputChannel) => props.set.maps.find((map) => map.id === channel.map) ?? null;
function titleOf(channel: OutputChannel): string {
  if (!channel.map) return `${label(channel.role)}: constant ${channel.constant}`;
  const source = sourceOf(channel);
  const other = source && source.role !== channel.role ? ` from ${label(source.role).toLowerCase()}` : "";
  return label(channel.role) + other;
}
function treatmentOf(channel: OutputChannel): string {
  if (!channel.map) return t("thisSetHasNoSuchMap");
  return [...channel.steps, ...(channel.inverted ? ["inverted"] : [])].join(", ") || "unchanged";
}
function sourcePicture(channel: OutputChannel): string | null {
  const source = sourceOf(channel);
  if (!source) return null;
  const letter = source.channel ? undefined : (channel.source_channel ?? undefined);
  return pictureOf(props.slug, source, { side: SIDE, channel: letter });
}
const grey = (value: number | null) => {
  const step = Math.round(255 * (value ?? 0));
  return `rgb(${step} ${step} ${step})`;
};
</script>

<template>
  <section class="board" :aria-label="t('channelBoard')">
    <header class="row">
      <Button
        text
        severity="secondary"
        :icon="folded ? 'pi pi-angle-right' : 'pi pi-angle-down'"
        :label="t('packedFor')"
        :aria-expanded="!folded"
        @click="folded = !folded"
      />
      <ChoiceField
        :model-value="target"
        :options="named(targets.data.value ?? [], 'name', 'title')"
        :label="t('target')"
        @update:model-value="$event && emit('target', $event)"
      />
      <ChoiceField
        v-if="choices.length"
        :model-value="shown?.path"
        :options="choices"
        :label="t('output')"
        @update:model-value="wanted = $event ?? ''"
      />
      <span v-if="shown" class="soft">{{ factsOf(shown) }}</span>
      <span class="grow" />
      <Button
        text
        :label="t('besideAnotherTarget')"
        :title="t('whatTwoTargetsMake')"
        @click="comparing = true"
      />
      <template v-if="shown && !outputs.error.value">
        <Button
          outlined
          :label="t('lookAtItLarge')"
          :title="t('thePackedResultByChannelP')"
          @click="emit('large')"
        />
        <Button
          as="a"
          outlined
          severity="secondary"
          icon="pi pi-download"
          :label="t('downloadFile')"
          :href="fileOf(slug, set.id, target, shown)"
          download
        />
      </template>
    </header>
    <TwoTargets
      v-if="comparing"
      :slug="slug"
      :set="set"
      :roles="roles"
      :target="target"
      @close="comparing = false"
    />
    <Message v-if="outputs.error.value" severity="error" :closable="false">{{
      outputs.error.value.message
    }}</Message>
    <div v-else-if="shown && !folded" class="lanes">
      <div
        v-for="channel in shown.channels"
        :key="channel.letter"
        class="lane"
        :data-channel="channel.letter"
      >
        <img
          v-if="sourcePicture(channel)"
          :src="sourcePicture(channel)!"
          :alt="t('sourceOf', { letter: channel.letter.toUpperCase() })"
        />
        <span v-else class="constant" :style="{ background: grey(channel.constant) }" />
        <span class="arrow" aria-hidden="true">→</span>
        <img
          :src="packedOf(slug, set.id, target, shown, SIDE, channel.letter)"
          :alt="t('resultIn', { letter: channel.letter.toUpperCase() })"
          data-test="result"
        />
        <div class="words">
          <strong class="mono">{{ channel.letter.toUpperCase() }}</strong> {{ titleOf(channel) }}
          <div class="soft">{{ treatmentOf(channel) }}</div>
        </div>
      </div>
      <figure>
        <img
          :src="packedOf(slug, set.id, target, shown, PACKED_SIDE)"
          :alt="t('thePackedPicture')"
          data-test="packed"
        />
        <figcaption class="soft">{{ t("allChannels") }}</figcaption>
      </figure>
    </div>
  </section>
</template>

<style scoped>
.board {
  padding: 4px var(--space-3);
  background: var(--sheet);
  border-top: 1px solid var(--line-strong);
}
.lanes {
  display: flex;
  gap: var(--space-4);
  padding-top: 6px;
  overflow-x: auto;
}
.lane {
  display: grid;
  grid-template: "source arrow result" 84px "words words words" auto / 84px 14px 84px;
  gap: 2px 4px;
  align-items: center;
  flex: none;
}
.arrow {
  text-align: center;
}
.lane img,
.constant,
figure img {
  width: 84px;
  height: 84px;
  object-fit: contain;
  background: var(--surround);
}
.words {
  grid-area: words;
  width: 190px;
  overflow-wrap: anywhere;
}
figure {
  margin: 0;
  flex: none;
}
</style>
