<script setup lang="ts">
import { computed } from "vue";

import type { Channels, OutputDocument, TargetDocument } from "@/api/rules";
import type { RoleInfo, TextureSet } from "@/api/types";
import { chosen, vTyped } from "@/parts/typed";

import ChannelLanes from "./ChannelLanes.vue";
import LivePicture from "./LivePicture.vue";
import { useLivePicture } from "./useLivePicture";
import { BLOCK_FORMATS, BITS, GPU } from "./formats";

/** One output of a target: its channels, how they become a file, and what comes out. */
const props = defineProps<{
  slug: string;
  sample: TextureSet | null;
  target: TargetDocument;
  output: OutputDocument;
  roles: RoleInfo[];
  mayChange: boolean;
}>();
const emit = defineEmits<{ change: [output: OutputDocument] }>();

const gpu = computed(() => GPU.includes(props.output.container));
const text = (event: Event) => (event.target as HTMLInputElement).value;

function set(change: Partial<OutputDocument>): void {
  const next = { ...props.output, ...change };
  for (const key of Object.keys(next) as (keyof OutputDocument)[])
    if (next[key] === undefined) delete next[key];
  emit("change", next);
}
const bitsOf = (event: Event) => Number(text(event)) as 8 | 16 | 32;
function contain(container: OutputDocument["container"]): void {
  if (GPU.includes(container)) {
    const count = Object.keys(props.output.channels).length;
    const format = props.output.format ?? { 1: "bc4", 2: "bc5" }[count] ?? "bc7";
    set({
      container,
      format,
      bits: undefined,
      dither: undefined,
      quality: props.output.quality ?? "normal",
      mips: true,
    });
  } else {
    const bits = BITS[container]!.includes(props.output.bits ?? 8)
      ? (props.output.bits ?? 8)
      : BITS[container]![0];
    set({ container, bits, format: undefined, quality: undefined, mips: undefined, zstd: undefined });
  }
}
const { results, problem } = useLivePicture(
  () => props.slug,
  () => props.sample?.id ?? null,
  () => props.target,
  () => props.output.output,
);
const channels = computed<Channels>({
  get: () => props.output.channels,
  set: (next) => set({ channels: next }),
});
</script>

<template>
  <div class="output">
    <div class="left">
      <ChannelLanes
        v-model:channels="channels"
        :slug="slug"
        :sample="sample"
        :results="results"
        :roles="roles"
        :may-change="mayChange"
      />
      <fieldset class="encoding" :disabled="!mayChange">
        <label
          >called <input v-typed="output.output" class="mono" @change="set({ output: text($event) })"
        /></label>
        <label
          >colour space
          <select
            :value="output.colour_space"
            @change="set({ colour_space: text($event) as OutputDocument['colour_space'] })"
          >
            <option value="linear">linear</option>
            <option value="srgb">sRGB</option>
          </select></label
        >
        <label
          >container
          <select :value="output.container" @change="contain(chosen($event))">
            <option v-for="one in [...Object.keys(BITS), ...GPU]" :key="one" :value="one">
              {{ one.toUpperCase() }}
            </option>
          </select></label
        >
        <label v-if="!gpu"
          >bits
          <select :value="output.bits" @change="set({ bits: bitsOf($event), dither: undefined })">
            <option v-for="one in BITS[output.container]" :key="one" :value="one">{{ one }}</option>
          </select></label
        >
        <label
          v-if="!gpu && output.bits === 8"
          class="check"
          title="Deeper maps are dithered to 8 bits instead of rounded, so that faint slopes do not become plateaus"
          ><input
            type="checkbox"
            :checked="output.dither ?? false"
            @change="set({ dither: ($event.target as HTMLInputElement).checked || undefined })"
          />
          dithered</label
        >
        <template v-if="gpu">
          <label
            >format
            <select :value="output.format" @change="set({ format: text($event) })">
              <option v-for="one in BLOCK_FORMATS" :key="one" :value="one">{{ one }}</option>
            </select></label
          >
          <label
            >quality
            <select :value="output.quality ?? 'normal'" @change="set({ quality: chosen($event) })">
              <option v-for="one in ['quick', 'normal', 'best']" :key="one" :value="one">{{ one }}</option>
            </select></label
          >
          <label class="check"
            ><input
              type="checkbox"
              :checked="output.mips ?? true"
              @change="set({ mips: ($event.target as HTMLInputElement).checked })"
            />
            mip levels</label
          >
          <label v-if="output.container === 'ktx2'" class="check"
            ><input
              type="checkbox"
              :checked="output.zstd ?? false"
              @change="set({ zstd: ($event.target as HTMLInputElement).checked || undefined })"
            />
            packed with Zstandard</label
          >
        </template>
        <label
          >longest side
          <input
            v-typed="output.largest ?? ''"
            type="number"
            min="1"
            max="16384"
            :placeholder="String(target.largest ?? 'any')"
            @change="set({ largest: Number(text($event)) || undefined })"
        /></label>
      </fieldset>
    </div>
    <LivePicture :address="results[''] ?? null" :problem="problem" />
  </div>
</template>

<style scoped>
.output {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 24px;
}
.left {
  display: grid;
  gap: 14px;
  align-content: start;
}
.encoding {
  border: 0;
  margin: 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  font-size: 12px;
}
input:not([type="checkbox"]),
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 2px 4px;
  width: auto;
  max-width: 120px;
}
.check {
  display: flex;
  gap: 4px;
  align-items: center;
}
</style>
