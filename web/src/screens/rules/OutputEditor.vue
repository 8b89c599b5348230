<script setup lang="ts">
import { computed } from "vue";

import { useCatalogue } from "@/api/queries";
import type { Channels, OutputDocument, TargetDocument } from "@/api/rules";
import type { RoleInfo, TextureSet } from "@/api/types";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import NumberField from "@/parts/fields/NumberField.vue";
import TextField from "@/parts/fields/TextField.vue";
import { t } from "@/texts/rules";

import ChannelLanes from "./ChannelLanes.vue";
import { byFamily } from "./families";
import LivePicture from "./LivePicture.vue";
import { useLivePicture } from "./useLivePicture";

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
type Container = OutputDocument["container"];
type Bits = NonNullable<OutputDocument["bits"]>;
const SPACES: { value: OutputDocument["colour_space"]; label: string }[] = [
  { value: "linear", label: t("linear") },
  { value: "srgb", label: t("srgb") },
];
const QUALITIES: NonNullable<OutputDocument["quality"]>[] = ["quick", "normal", "best"];

const catalogue = useCatalogue();
const containers = computed(() => catalogue.data.value?.containers ?? []);
const containerOf = (name: string) => containers.value.find((one) => one.name === name);
const blocks = computed(() => containerOf(props.output.container)?.blocks ?? false);
const bits = computed(() => (containerOf(props.output.container)?.bits ?? []) as Bits[]);
const count = computed(() => Object.keys(props.output.channels).length);
const formats = computed(() =>
  byFamily(catalogue.data.value?.formats ?? []).map(({ family, formats: all }) => ({
    group: family,
    options: all.map((one) => ({
      value: one.key,
      label: t("bitsTexel", { label: one.label, bits_per_texel: one.bits_per_texel }),
      disabled: one.channels.length < count.value,
    })),
  })),
);

function set(change: Partial<OutputDocument>): void {
  const next = { ...props.output, ...change };
  for (const key of Object.keys(next) as (keyof OutputDocument)[])
    if (next[key] === undefined) delete next[key];
  emit("change", next);
}
function contain(name: Container): void {
  const next = containerOf(name);
  if (!next) return;
  if (next.blocks)
    set({
      container: name,
      format: props.output.format ?? catalogue.data.value?.usual_formats[count.value],
      bits: undefined,
      dither: undefined,
      quality: props.output.quality ?? "normal",
      mips: true,
    });
  else {
    const now = props.output.bits ?? 8;
    const kept = next.bits.includes(now) ? now : (next.bits[0] as Bits);
    const none = { format: undefined, quality: undefined, mips: undefined, zstd: undefined };
    set({ container: name, bits: kept, ...none });
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
    <ChannelLanes
      v-model:channels="channels"
      :slug="slug"
      :sample="sample"
      :results="results"
      :roles="roles"
      :may-change="mayChange"
    />
    <div class="right">
      <LivePicture :address="results[''] ?? null" :problem="problem" />
      <div class="fields">
        <span>{{ t("name") }}</span>
        <TextField
          mono
          :label="t('nameOfTheOutput')"
          :value="output.output"
          :disabled="!mayChange"
          @change="set({ output: $event })"
        />
        <span>{{ t("colourSpace") }}</span>
        <ChoiceField
          :label="t('colourSpace')"
          :model-value="output.colour_space"
          :options="SPACES"
          :disabled="!mayChange"
          @update:model-value="$event && set({ colour_space: $event })"
        />
        <span>{{ t("fileFormat") }}</span>
        <ChoiceField
          :label="t('fileFormat')"
          :model-value="output.container"
          :options="
            containers.map((one) => ({ value: one.name as Container, label: one.name.toUpperCase() }))
          "
          :disabled="!mayChange"
          @update:model-value="$event && contain($event)"
        />
        <template v-if="!blocks">
          <span>{{ t("bitsPerChannel") }}</span>
          <ChoiceField
            :label="t('bitsPerChannel')"
            :model-value="output.bits"
            :options="bits"
            :disabled="!mayChange"
            @update:model-value="$event && set({ bits: $event, dither: undefined })"
          />
          <template v-if="output.bits === 8">
            <span>{{ t("dither") }}</span>
            <CheckField
              :label="t('ditherDeeperMaps')"
              :help="t('deeperMapsAreDitheredTo8')"
              :model-value="output.dither ?? false"
              :disabled="!mayChange"
              @update:model-value="set({ dither: $event ? true : undefined })"
            />
          </template>
        </template>
        <template v-else>
          <span>{{ t("compression") }}</span>
          <ChoiceField
            :label="t('compression')"
            :model-value="output.format"
            :options="formats"
            :disabled="!mayChange"
            @update:model-value="$event && set({ format: $event })"
          />
          <span>{{ t("quality") }}</span>
          <ChoiceField
            :label="t('quality')"
            :model-value="output.quality ?? 'normal'"
            :options="QUALITIES"
            :disabled="!mayChange"
            @update:model-value="$event && set({ quality: $event })"
          />
          <span>{{ t("mipLevels") }}</span>
          <CheckField
            :label="t('written')"
            :model-value="output.mips ?? true"
            :disabled="!mayChange"
            @update:model-value="set({ mips: Boolean($event) })"
          />
          <template v-if="output.container === 'ktx2'">
            <span>{{ t("zstandard") }}</span>
            <CheckField
              :label="t('packTheFile')"
              :model-value="output.zstd ?? false"
              :disabled="!mayChange"
              @update:model-value="set({ zstd: $event ? true : undefined })"
            />
          </template>
        </template>
        <span>{{ t("longestSide") }}</span>
        <NumberField
          :label="t('longestSideOfTheOutput')"
          :value="output.largest"
          :min="1"
          :max="16384"
          :digits="0"
          optional
          :placeholder="String(target.largest ?? 'any')"
          :disabled="!mayChange"
          @change="set({ largest: $event ?? undefined })"
        />
      </div>
    </div>
  </div>
</template>

<style scoped>
.output {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 260px;
  gap: var(--space-5);
}
.right {
  display: grid;
  gap: var(--space-3);
  align-content: start;
}
@media (max-width: 1100px) {
  .output {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
