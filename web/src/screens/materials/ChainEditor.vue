<script setup lang="ts">
import { computed, ref, watch } from "vue";

import {
  type Chain,
  type Operation,
  type Problem,
  type Sheet,
  type SheetRow,
  textOfChain,
} from "@/api/materials";
import { vTyped } from "@/parts/typed";

/** A row written: as an expression, or step by step. Both are one thing; the server keeps them in step. */
const props = defineProps<{
  row: SheetRow;
  sheet: Sheet;
  operations: Operation[];
  problem: Problem | null;
}>();
const emit = defineEmits<{ write: [text: string]; drop: [] }>();
const text = ref(props.row.text);
const said = ref("");
const adding = ref("");
watch(
  () => props.row.text,
  (now) => (text.value = now),
);
const starts = computed(() => {
  const slots = props.sheet.slots.flatMap((one) =>
    one.layout ? ["r", "g", "b", "a"].map((letter) => `${one.name}.${letter}`) : [one.name],
  );
  const rows = props.sheet.rows
    .filter((one) => !one.is_input && one.name !== props.row.name)
    .map((one) => one.name);
  const all = [...slots, ...rows, ...props.sheet.parameters.map((one) => one.name), "vertex.r", "uv"];
  return [...new Set([props.row.chain.start, ...all])];
});
const groups = computed(() => [...new Set(props.operations.map((one) => one.group))]);
const argumentsOf = (step: string) =>
  props.operations.find((one) => one.name === step)?.arguments.slice(1) ?? [];
/** What stands in a new step until a person writes something else: it changes little or nothing. */
const FIRST: Record<string, string> = {
  by: "1",
  to: "0",
  less: "0",
  share: "0.5",
  exponent: "1",
  black: "0",
  white: "1",
  low: "0",
  high: "1",
  limit: "1",
  colour: "rgb(1, 1, 1)",
  amount: "1",
  occlusion: "1",
  strength: "1",
  detail: "vector(0, 0, 1)",
  switch: "1",
  otherwise: "0",
  choice: "0",
  others: "0",
  and: "0",
  green: "0",
  blue: "0",
  with: "0",
};

async function change(edit: (chain: Chain) => void): Promise<void> {
  const chain = JSON.parse(JSON.stringify(props.row.chain)) as Chain;
  edit(chain);
  try {
    emit("write", await textOfChain(chain));
    said.value = "";
  } catch (error) {
    said.value = (error as Error).message;
  }
}
function add(): void {
  const step = adding.value;
  adding.value = "";
  if (step)
    void change((chain) =>
      chain.steps.push({ step, others: argumentsOf(step).map((one) => FIRST[one] ?? "0") }),
    );
}
function write(): void {
  if (text.value.trim() !== props.row.text) emit("write", text.value);
}
const before = computed(() => text.value.slice(0, props.problem?.start ?? 0));
const wrong = computed(() => text.value.slice(props.problem?.start ?? 0, props.problem?.end ?? 0) || " ");
</script>

<template>
  <div class="editor">
    <label class="visually-hidden" :for="`text-${row.name}`">Expression of {{ row.label }}</label>
    <input
      :id="`text-${row.name}`"
      v-model="text"
      class="mono text"
      spellcheck="false"
      autocomplete="off"
      @change="write"
      @keydown.enter="write"
    />
    <p v-if="problem" class="problem" role="alert">
      <span class="mono place" aria-hidden="true"
        ><span class="hidden">{{ before }}</span
        ><span class="under">{{ wrong }}</span></span
      >
      {{ problem.message }}
    </p>
    <p v-if="said" class="problem" role="alert">{{ said }}</p>
    <ol class="steps">
      <li>
        starts with
        <select
          :value="row.chain.start"
          :aria-label="`Start of ${row.label}`"
          @change="change((chain) => (chain.start = ($event.target as HTMLSelectElement).value))"
        >
          <option v-for="one in starts" :key="one" :value="one">{{ one }}</option>
        </select>
      </li>
      <li v-for="(link, at) in row.chain.steps" :key="at">
        {{ operations.find((one) => one.name === link.step)?.label ?? "Channels" }}
        <input
          v-if="link.letters"
          v-typed="link.letters"
          class="mono"
          aria-label="Channels"
          @change="change((chain) => (chain.steps[at]!.letters = ($event.target as HTMLInputElement).value))"
        />
        <label v-for="(other, index) in link.others" :key="index"
          ><span class="soft">{{ argumentsOf(link.step)[index] ?? "and" }}</span>
          <input
            v-typed="other"
            class="mono"
            @change="
              change((chain) => (chain.steps[at]!.others![index] = ($event.target as HTMLInputElement).value))
            "
        /></label>
        <button
          v-if="at > 0"
          class="plain link"
          title="One place earlier"
          @click="change((chain) => chain.steps.splice(at - 1, 0, ...chain.steps.splice(at, 1)))"
        >
          ↑<span class="visually-hidden">Earlier</span>
        </button>
        <button class="plain link" @click="change((chain) => chain.steps.splice(at, 1))">Take out</button>
      </li>
      <li>
        <select v-model="adding" aria-label="Add a step" @change="add">
          <option value="">then …</option>
          <optgroup v-for="group in groups" :key="group" :label="group">
            <option
              v-for="one in operations.filter((each) => each.group === group)"
              :key="one.name"
              :value="one.name"
              :title="one.help"
            >
              {{ one.label }}
            </option>
          </optgroup>
        </select>
        <button class="plain link drop" @click="emit('drop')">Remove this row</button>
      </li>
    </ol>
  </div>
</template>

<style scoped>
.editor {
  padding: 6px 8px;
  border-left: 2px solid var(--accent);
  margin: 4px 0;
}
.text {
  width: 100%;
}
input,
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 1px 4px;
}
.steps input {
  width: 120px;
}
.steps {
  list-style: none;
  padding: 0;
  margin: 6px 0 0;
  display: grid;
  gap: 4px;
}
.steps li {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.problem {
  margin: 2px 0;
  color: var(--error);
}
.place {
  display: block;
  padding-left: 5px;
  white-space: pre;
  line-height: 3px;
}
.hidden {
  visibility: hidden;
}
.under {
  color: transparent;
  border-bottom: 2px solid var(--error);
}
.link {
  color: var(--accent);
}
.drop {
  margin-left: auto;
}
</style>
