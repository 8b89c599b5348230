<script setup lang="ts">
import { computed } from "vue";

import type { Channels, Letter, Source } from "@/api/rules";
import { pictureOf } from "@/api/pictures";
import type { RoleInfo, TextureSet } from "@/api/types";
import { chosen, vTyped } from "@/parts/typed";

/** A packed map's channels as lanes: from the source, through what changes it, into the channel. */
const props = defineProps<{
  slug: string;
  roles: RoleInfo[];
  mayChange: boolean;
  /** The set whose maps are shown as sources. */
  sample: TextureSet | null;
  /** Pictures of what comes out, by channel letter. */
  results: Record<string, string>;
}>();
const channels = defineModel<Channels>("channels", { required: true });

const LETTERS: Letter[] = ["r", "g", "b", "a"];
const NAMES: Record<Letter, string> = { r: "Red", g: "Green", b: "Blue", a: "Alpha" };
const used = computed(() => LETTERS.filter((letter) => channels.value[letter]));
const next = computed(() => LETTERS[used.value.length]);
const scalar = (role?: string) => props.roles.find((one) => one.key === role)?.scalar ?? true;

function set(letter: Letter, change: Partial<Source>): void {
  const source = { ...channels.value[letter], ...change };
  channels.value = { ...channels.value, [letter]: source };
}
function choose(letter: Letter, role: Source["role"] | ""): void {
  const kept = channels.value[letter] ?? {};
  const source: Source = role ? { role, invert: kept.invert ?? false } : { missing: kept.missing ?? 0 };
  // A colour or a normal gives the channel of the same letter.
  if (role && !scalar(role)) source.channel = letter === "a" ? "r" : letter;
  channels.value = { ...channels.value, [letter]: source };
}
function add(): void {
  if (next.value) channels.value = { ...channels.value, [next.value]: { missing: 0 } };
}
function remove(): void {
  const last = used.value.at(-1);
  const rest = { ...channels.value };
  if (last && last !== "r") delete rest[last];
  channels.value = rest;
}
function sourceOf(source: Source): string | null {
  const map = props.sample?.maps.find((one) => one.role === source.role && one.in_use);
  if (!map) return null;
  return pictureOf(props.slug, map, { side: 96, channel: map.channel ? undefined : (source.channel ?? "r") });
}
const grey = (value: number | null | undefined) => {
  const step = Math.round(255 * (value ?? 0));
  return `rgb(${step} ${step} ${step})`;
};
const numberOf = (event: Event) => Number((event.target as HTMLInputElement).value);
</script>

<template>
  <div class="lanes">
    <fieldset v-for="letter in used" :key="letter" class="lane" :disabled="!mayChange" :data-lane="letter">
      <strong class="mono letter">{{ letter.toUpperCase() }}</strong>
      <img
        v-if="sourceOf(channels[letter]!)"
        :src="sourceOf(channels[letter]!)!"
        :alt="`Source of ${letter}`"
      />
      <span v-else class="swatch" :style="{ background: grey(channels[letter]!.missing) }" />
      <div class="controls">
        <select
          :value="channels[letter]!.role ?? ''"
          :aria-label="`Source of ${NAMES[letter]}`"
          @change="choose(letter, chosen($event))"
        >
          <option value="">a constant</option>
          <option v-for="role in roles" :key="role.key" :value="role.key">{{ role.label }}</option>
        </select>
        <template v-if="channels[letter]!.role">
          <select
            v-if="!scalar(channels[letter]!.role)"
            class="small"
            :value="channels[letter]!.channel ?? 'r'"
            :aria-label="`Channel of the source of ${NAMES[letter]}`"
            @change="set(letter, { channel: chosen($event) })"
          >
            <option v-for="one in LETTERS" :key="one" :value="one">{{ one.toUpperCase() }}</option>
          </select>
          <label class="check"
            ><input
              type="checkbox"
              :checked="channels[letter]!.invert ?? false"
              :aria-label="`Invert ${NAMES[letter]}`"
              @change="set(letter, { invert: ($event.target as HTMLInputElement).checked })"
            />
            invert</label
          >
          <label
            >curve
            <input
              v-typed="channels[letter]!.power ?? 1"
              class="number"
              type="number"
              min="0.1"
              max="10"
              step="0.1"
              :aria-label="`Power of ${NAMES[letter]}`"
              @change="set(letter, { power: numberOf($event) })"
          /></label>
          <label
            >levels
            <input
              v-typed="channels[letter]!.black ?? 0"
              class="number"
              type="number"
              min="0"
              max="1"
              step="0.05"
              :aria-label="`Black of ${NAMES[letter]}`"
              @change="set(letter, { black: numberOf($event) })" />
            to
            <input
              v-typed="channels[letter]!.white ?? 1"
              class="number"
              type="number"
              min="0"
              max="1"
              step="0.05"
              :aria-label="`White of ${NAMES[letter]}`"
              @change="set(letter, { white: numberOf($event) })"
          /></label>
        </template>
        <label class="missing"
          >{{ channels[letter]!.role ? "if missing" : "value" }}
          <template v-if="letter === 'a' && channels[letter]!.missing === null">no alpha&nbsp;</template>
          <input
            v-else
            v-typed="channels[letter]!.missing ?? ''"
            class="number"
            type="number"
            min="0"
            max="1"
            step="0.05"
            placeholder="neutral"
            :aria-label="`Value of ${NAMES[letter]} when missing`"
            @change="set(letter, { missing: numberOf($event) })"
          />
          <button
            v-if="letter === 'a' && channels[letter]!.role"
            type="button"
            class="plain link"
            @click="set(letter, { missing: channels[letter]!.missing === null ? 1 : null })"
          >
            {{ channels[letter]!.missing === null ? "a constant" : "leave it out" }}
          </button>
        </label>
      </div>
      <span class="arrow" aria-hidden="true">→</span>
      <img
        v-if="results[letter]"
        :src="results[letter]"
        :alt="`Result in ${letter}`"
        data-test="lane-result"
      />
      <span v-else class="swatch" />
    </fieldset>
    <div v-if="mayChange" class="more">
      <button v-if="next" type="button" class="plain link" @click="add">Add {{ NAMES[next] }}</button>
      <button v-if="used.length > 1" type="button" class="plain link" @click="remove">
        Take {{ NAMES[used.at(-1)!] }} off
      </button>
    </div>
  </div>
</template>

<style scoped>
.lanes {
  display: grid;
  gap: 4px;
}
.lane {
  display: grid;
  grid-template-columns: 12px 52px minmax(0, 1fr) 14px 52px;
  gap: 8px;
  align-items: center;
  border: 0;
  border-left: 3px solid var(--line-strong);
  margin: 0;
  padding: 2px 0 2px 8px;
  font-size: 12px;
}
.lane img,
.swatch {
  width: 52px;
  height: 52px;
  object-fit: contain;
  background: var(--surround);
}
.controls {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
}
.letter {
  width: 12px;
  font-size: 14px;
}
select,
input[type="number"] {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 2px;
}
select:not(.small) {
  width: 122px;
}
.number {
  width: 56px;
}
.check {
  display: flex;
  gap: 3px;
  align-items: center;
}
.more {
  display: flex;
  gap: 14px;
  font-size: 12px;
}
.link {
  color: var(--accent);
}
</style>
