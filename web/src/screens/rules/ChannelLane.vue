<script setup lang="ts">
import { computed } from "vue";

import { pictureOf } from "@/api/pictures";
import type { Letter, Source } from "@/api/rules";
import type { RoleInfo, TextureSet } from "@/api/types";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";
import NumberField from "@/parts/fields/NumberField.vue";
import { t } from "@/texts/rules";

/** One channel of a packed map: what it comes from at the left, what it becomes at the right. */
const props = defineProps<{
  slug: string;
  letter: Letter;
  name: string;
  source: Source;
  roles: RoleInfo[];
  sample: TextureSet | null;
  result: string | undefined;
  mayChange: boolean;
}>();
const emit = defineEmits<{ change: [source: Source] }>();

const CONSTANT = "";
const LETTERS: { value: Letter; label: string }[] = [
  { value: "r", label: t("red") },
  { value: "g", label: t("green") },
  { value: "b", label: t("blue") },
  { value: "a", label: t("alpha") },
];
const sources = computed(() => [
  { value: CONSTANT, label: t("aConstantValue") },
  ...named(props.roles, "key", "label"),
]);
const scalar = (role?: string) => props.roles.find((one) => one.key === role)?.scalar ?? true;
const set = (change: Partial<Source>) => emit("change", { ...props.source, ...change });

function choose(role: string): void {
  const source: Source = role
    ? { role: role as Source["role"], invert: props.source.invert ?? false }
    : { missing: props.source.missing ?? 0 };
  // A colour or a normal gives the channel of the same letter.
  if (role && !scalar(role)) source.channel = props.letter === "a" ? "r" : props.letter;
  emit("change", source);
}
const picture = computed(() => {
  const { source, sample } = props;
  const map = sample?.maps.find((one) => one.role === source.role && one.in_use);
  if (!map) return null;
  const channel = map.channel ? undefined : (source.channel ?? "r");
  return pictureOf(props.slug, map, { side: 192, channel });
});
const grey = computed(() => {
  const step = Math.round(255 * (props.source.missing ?? 0));
  return `rgb(${step} ${step} ${step})`;
});
</script>

<template>
  <section class="lane" :data-lane="letter" :aria-label="name">
    <figure>
      <img v-if="picture" :src="picture" :alt="t('sourceOf', { name })" />
      <span v-else class="swatch" :style="{ background: grey }" />
    </figure>
    <div class="middle">
      <div class="row">
        <strong class="mono letter">{{ letter.toUpperCase() }}</strong>
        <ChoiceField
          :model-value="source.role ?? CONSTANT"
          :options="sources"
          :label="t('sourceOf', { name })"
          :disabled="!mayChange"
          @update:model-value="choose($event ?? CONSTANT)"
        />
        <ChoiceField
          v-if="source.role && !scalar(source.role)"
          :model-value="source.channel ?? 'r'"
          :options="LETTERS"
          :label="t('channelOfTheSourceOf', { name })"
          :disabled="!mayChange"
          @update:model-value="$event && set({ channel: $event })"
        />
        <CheckField
          v-if="source.role"
          :label="t('invert')"
          :model-value="source.invert ?? false"
          :disabled="!mayChange"
          @update:model-value="set({ invert: Boolean($event) })"
        />
      </div>
      <div class="numbers">
        <template v-if="source.role">
          <span>{{ t("power") }}</span>
          <NumberField
            :value="source.power ?? 1"
            :min="0.1"
            :max="10"
            :step="0.1"
            :label="t('powerOf', { name })"
            :disabled="!mayChange"
            @change="$event !== null && set({ power: $event })"
          />
          <span>{{ t("minimum") }}</span>
          <NumberField
            :value="source.black ?? 0"
            :min="0"
            :max="1"
            :step="0.05"
            :label="t('minimumOf', { name })"
            :disabled="!mayChange"
            @change="$event !== null && set({ black: $event })"
          />
          <span>{{ t("maximum") }}</span>
          <NumberField
            :value="source.white ?? 1"
            :min="0"
            :max="1"
            :step="0.05"
            :label="t('maximumOf', { name })"
            :disabled="!mayChange"
            @change="$event !== null && set({ white: $event })"
          />
        </template>
        <span>{{ source.role ? t("ifMissing") : t("value") }}</span>
        <NumberField
          :value="source.missing"
          :min="0"
          :max="1"
          :step="0.05"
          optional
          :placeholder="letter === 'a' && source.missing === null ? t('noAlpha') : t('neutral')"
          :label="t('valueOfWhenMissing', { name })"
          :disabled="!mayChange || (letter === 'a' && source.missing === null)"
          @change="set({ missing: $event ?? undefined })"
        />
        <template v-if="letter === 'a' && source.role">
          <span />
          <CheckField
            :label="t('noAlphaIfMissing')"
            :model-value="source.missing === null"
            :disabled="!mayChange"
            @update:model-value="set({ missing: $event ? null : 1 })"
          />
        </template>
      </div>
    </div>
    <i class="pi pi-arrow-right" aria-hidden="true" />
    <figure>
      <img
        v-if="result"
        :src="result"
        :alt="t('resultIn', { letter: letter.toUpperCase() })"
        data-test="lane-result"
      />
      <span v-else class="swatch" />
    </figure>
  </section>
</template>

<style scoped>
.lane {
  display: grid;
  grid-template-columns: 96px minmax(0, 1fr) auto 96px;
  gap: var(--space-3);
  align-items: center;
  border-left: 3px solid var(--line-strong);
  padding-left: var(--space-2);
}
figure {
  margin: 0;
}
img,
.swatch {
  display: block;
  width: 96px;
  height: 96px;
  object-fit: contain;
  background: var(--surround);
}
.middle {
  display: grid;
  gap: var(--space-2);
}
.numbers {
  display: grid;
  grid-template-columns: repeat(auto-fill, 5rem 6.5rem);
  gap: var(--space-1) var(--space-2);
  align-items: center;
}
.letter {
  width: 1rem;
  font-size: var(--text-large);
}
</style>
