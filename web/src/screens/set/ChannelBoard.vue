<script setup lang="ts">
import { computed, ref, watch } from "vue";

import { fileOf, packedOf, pictureOf } from "@/api/pictures";
import { useOutputs, useTargets } from "@/api/queries";
import type { Output, OutputChannel, RoleInfo, SetDetail } from "@/api/types";

/** What a target packs of this set: each output channel as a line from its source to what comes out. */
const props = defineProps<{ slug: string; set: SetDetail; roles: RoleInfo[]; target: string }>();
const emit = defineEmits<{ target: [name: string] }>();

const SIDE = 96;
const targets = useTargets(() => props.slug);
const outputs = useOutputs(
  () => props.slug,
  () => props.set.id,
  () => props.target,
);
const wanted = ref("");
const shown = computed<Output | null>(() => {
  const all = outputs.data.value ?? [];
  const packed = (one: Output) => new Set(one.channels.map((channel) => channel.role)).size > 1;
  return all.find((one) => one.path === wanted.value) ?? all.find(packed) ?? all[0] ?? null;
});
watch(
  () => props.set.id,
  () => (wanted.value = ""),
);

const label = (role: string | null) => props.roles.find((one) => one.key === role)?.label ?? "constant";
function treatment(channel: OutputChannel): string {
  const said = [...channel.steps];
  if (channel.inverted) said.push("inverted");
  return said.join(", ") || "as it is";
}
function title(channel: OutputChannel): string {
  if (!channel.map) return `${label(channel.role)}: constant ${channel.constant}`;
  const source = sourceOf(channel);
  const other = source && source.role !== channel.role ? ` from ${label(source.role).toLowerCase()}` : "";
  return label(channel.role) + other;
}
const sourceOf = (channel: OutputChannel) => props.set.maps.find((map) => map.id === channel.map) ?? null;
</script>

<template>
  <section class="board" aria-label="Channel board">
    <div class="choice">
      <h2>Packed for</h2>
      <select
        :value="target"
        aria-label="Target"
        @change="emit('target', ($event.target as HTMLSelectElement).value)"
      >
        <option v-for="one in targets.data.value" :key="one.name" :value="one.name">{{ one.title }}</option>
      </select>
      <div class="tabs" role="tablist">
        <button
          v-for="output in outputs.data.value ?? []"
          :key="output.path"
          role="tab"
          :aria-selected="output.path === shown?.path"
          :title="output.path"
          @click="wanted = output.path"
        >
          {{ output.output }}<template v-if="output.kind === 'gltf'"> (glTF)</template>
        </button>
      </div>
      <p v-if="outputs.error.value" class="problem" role="alert">{{ outputs.error.value.message }}</p>
      <p v-else-if="shown" class="soft">
        {{ shown.width }} × {{ shown.height }} {{ shown.container.toUpperCase() }},
        {{ shown.format ?? `${shown.bits} bits` }}, {{ shown.colour_space === "srgb" ? "sRGB" : "linear"
        }}<template v-if="shown.green">, {{ shown.green === "up" ? "Y+" : "Y-" }}</template>
      </p>
      <a v-if="shown && !outputs.error.value" :href="fileOf(slug, set.id, target, shown)" download
        >Save this file</a
      >
    </div>
    <div v-if="shown" class="lines">
      <div
        v-for="channel in shown.channels"
        :key="channel.letter"
        class="line"
        :data-channel="channel.letter"
      >
        <strong class="mono letter">{{ channel.letter.toUpperCase() }}</strong>
        <img
          v-if="sourceOf(channel)"
          :src="
            pictureOf(slug, sourceOf(channel)!, {
              side: SIDE,
              channel: sourceOf(channel)!.channel ? undefined : (channel.source_channel ?? undefined),
            })
          "
          :alt="`Source of ${channel.letter}`"
        />
        <span
          v-else
          class="constant mono"
          :style="{
            background: `rgb(${[0, 0, 0].map(() => Math.round(255 * (channel.constant ?? 0))).join(' ')})`,
          }"
        />
        <div class="said">
          <div>{{ title(channel) }}</div>
          <div class="soft">{{ channel.map ? treatment(channel) : "no such map in this set" }}</div>
        </div>
        <span class="arrow" aria-hidden="true">→</span>
        <img
          :src="packedOf(slug, set.id, target, shown, SIDE, channel.letter)"
          :alt="`Result in ${channel.letter}`"
          data-test="result"
        />
      </div>
    </div>
    <figure v-if="shown">
      <img :src="packedOf(slug, set.id, target, shown, 256)" alt="The packed picture" data-test="packed" />
    </figure>
  </section>
</template>

<style scoped>
.board {
  display: grid;
  grid-template-columns: 210px minmax(0, 1fr) auto;
  gap: 14px;
  padding: 8px 12px;
  background: var(--sheet);
  border-top: 1px solid var(--line-strong);
  height: 196px;
}
.choice {
  display: grid;
  gap: 6px;
  align-content: start;
  min-width: 0;
}
select {
  width: 100%;
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 2px;
}
p {
  margin: 0;
  font-size: 12px;
}
.problem {
  color: var(--error);
}
.tabs {
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
}
.tabs button {
  border: 1px solid var(--line);
  background: none;
  color: inherit;
  padding: 0 6px;
  font-size: 12px;
  cursor: pointer;
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.tabs button[aria-selected="true"] {
  border-color: var(--accent);
  color: var(--accent);
}
.lines {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 6px 18px;
  align-content: start;
}
.line {
  display: grid;
  grid-template-columns: 14px 80px minmax(0, 1fr) 14px 80px;
  gap: 8px;
  align-items: center;
}
.line img,
.constant {
  width: 80px;
  height: 80px;
  object-fit: contain;
  background: var(--surround);
}
.said {
  font-size: 12px;
  overflow-wrap: anywhere;
}
figure {
  margin: 0;
}
figure img {
  height: 178px;
  background: var(--surround);
}
</style>
