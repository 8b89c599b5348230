<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import type { MirrorDocument } from "@/api/rules";
import type { RoleInfo } from "@/api/types";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import TextField from "@/parts/fields/TextField.vue";
import { t } from "@/texts/rules";

/** What an engine takes a file for by the end of its name: a line for each, the first that fits counts. */
type Line = NonNullable<MirrorDocument["reads"]>[number];
type Letter = "r" | "g" | "b" | "a";
const props = defineProps<{ lines: Line[]; common: boolean; roles: RoleInfo[]; mayChange: boolean }>();
const emit = defineEmits<{ change: [lines: Line[]]; common: [on: boolean] }>();
const LETTERS: Letter[] = ["r", "g", "b", "a"];
const NONE = "";
const choices = computed(() => [
  { value: NONE, label: t("notRead") },
  ...props.roles.map((one) => ({ value: one.key, label: one.label })),
]);
const put = (at: number, line: Line) =>
  emit(
    "change",
    props.lines.map((one, index) => (index === at ? line : one)),
  );
function name(at: number, text: string): void {
  const suffixes = text
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean);
  if (suffixes.length) put(at, { ...props.lines[at]!, suffixes });
}
function read(at: number, letter: Letter, role: string): void {
  const channels = { ...props.lines[at]!.channels };
  if (role) channels[letter] = role as Line["channels"][string];
  else delete channels[letter];
  // A line that reads nothing would be none.
  if (Object.keys(channels).length) put(at, { ...props.lines[at]!, channels });
}
const add = () =>
  emit("change", [
    ...props.lines,
    { suffixes: ["_orm"], channels: { r: "occlusion", g: "roughness", b: "metallic" } },
  ]);
</script>

<template>
  <section :aria-label="t('namesItKnows')">
    <h2>{{ t("namesItKnows") }}</h2>
    <table v-if="lines.length" class="table">
      <thead>
        <tr>
          <th scope="col">{{ t("endsOfNames") }}</th>
          <th v-for="letter in LETTERS" :key="letter" scope="col">{{ letter.toUpperCase() }}</th>
          <th scope="col">
            <span class="visually-hidden">{{ t("remove2") }}</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(line, at) in lines" :key="at">
          <td>
            <TextField
              mono
              :value="line.suffixes.join(', ')"
              :label="t('endsOfNamesOfLine', { number: at + 1 })"
              :disabled="!mayChange"
              @change="name(at, $event)"
            />
          </td>
          <td v-for="letter in LETTERS" :key="letter">
            <ChoiceField
              :model-value="line.channels[letter] ?? NONE"
              :options="choices"
              :label="t('channelOfLine', { letter: letter.toUpperCase(), number: at + 1 })"
              :disabled="!mayChange"
              @update:model-value="read(at, letter, $event ?? NONE)"
            />
          </td>
          <td>
            <Button
              v-if="mayChange"
              text
              severity="secondary"
              icon="pi pi-times"
              :aria-label="t('removeLine', { number: at + 1 })"
              @click="
                emit(
                  'change',
                  lines.filter((_, index) => index !== at),
                )
              "
            />
          </td>
        </tr>
      </tbody>
    </table>
    <div class="row">
      <Button
        v-if="mayChange"
        outlined
        severity="secondary"
        icon="pi pi-plus"
        :label="t('addALine')"
        @click="add"
      />
      <CheckField
        :model-value="common"
        :label="t('readsOtherNamesAsTheTrade')"
        :disabled="!mayChange"
        @update:model-value="emit('common', Boolean($event))"
      />
    </div>
  </section>
</template>
