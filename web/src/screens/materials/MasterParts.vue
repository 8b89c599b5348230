<script setup lang="ts">
import { computed, ref } from "vue";

import type { ParameterValue, SheetDocument } from "@/api/materials";
import { vTyped } from "@/parts/typed";

/** A sheet's slots and parameters, one line each: what they take, where they begin, how far they go. */
const props = defineProps<{ part: SheetDocument; mayWrite: boolean }>();
const emit = defineEmits<{ change: [edit: (part: SheetDocument) => void] }>();
type Slot = NonNullable<SheetDocument["slots"]>[number];
type Parameter = NonNullable<SheetDocument["parameters"]>[number];
const open = ref(false);
const slots = computed(() => props.part.slots ?? []);
const parameters = computed(() => props.part.parameters ?? []);
const takes = [
  "base_color",
  "normal",
  "roughness",
  "metallic",
  "occlusion",
  "height",
  "emissive",
  "opacity",
  "detail_mask",
];
const layouts = [
  "occlusion-roughness-metallic",
  "metallic-roughness-occlusion",
  "occlusion-roughness-displacement",
];
const kinds: Parameter["kind"][] = ["number", "colour", "vector", "switch", "choice"];
const FIRST: Record<Parameter["kind"], ParameterValue> = {
  number: 0.5,
  colour: [1, 1, 1],
  vector: [1, 1],
  switch: false,
  choice: "one",
};

const changePart = (
  list: "slots" | "parameters",
  at: number,
  change: Partial<Slot> | Partial<Parameter>,
): void =>
  emit("change", (document) => {
    const part = Object.entries({ ...document[list]![at]!, ...change });
    const filled = part.filter(([, value]) => value !== undefined && value !== "");
    document[list]![at] = Object.fromEntries(filled) as unknown as Slot & Parameter;
  });
const drop = (list: "slots" | "parameters", at: number): void =>
  emit("change", (document) => void document[list]!.splice(at, 1));
const textOf = (event: Event) => (event.target as HTMLInputElement).value;
const numberOf = (event: Event) => (textOf(event) === "" ? undefined : Number(textOf(event)));
function take(at: number, value: string): void {
  changePart(
    "slots",
    at,
    takes.includes(value)
      ? { role: value as Slot["role"], layout: undefined }
      : { layout: value, role: undefined },
  );
}
function free(list: { name: string }[], word: string): string {
  let number = 1;
  while (list.some((one) => one.name === `${word}_${number}`)) number += 1;
  return `${word}_${number}`;
}
const addSlot = (): void =>
  emit("change", (document) => {
    document.slots = [...(document.slots ?? []), { name: free(slots.value, "map"), role: "detail_mask" }];
  });
const addParameter = (kind: Parameter["kind"]): void =>
  emit("change", (document) => {
    const made: Parameter = { name: free(parameters.value, kind), kind, default: FIRST[kind] };
    if (kind === "choice") made.options = ["one", "two"];
    if (kind === "number") Object.assign(made, { low: 0, high: 1 });
    document.parameters = [...(document.parameters ?? []), made];
  });
</script>

<template>
  <details :open="open" @toggle="open = ($event.target as HTMLDetailsElement).open">
    <summary>
      {{ slots.length }} slots, {{ parameters.length }} parameters
      <span class="soft mono">{{ [...slots, ...parameters].map((one) => one.name).join(", ") }}</span>
    </summary>
    <ul aria-label="Slots of the master">
      <li v-for="(one, at) in slots" :key="at">
        <input
          v-typed="one.name"
          class="mono"
          :disabled="!mayWrite"
          :aria-label="`Name of slot ${at + 1}`"
          @change="changePart('slots', at, { name: textOf($event) })"
        />
        <input
          v-typed="one.title ?? ''"
          placeholder="title"
          :disabled="!mayWrite"
          :aria-label="`Title of slot ${at + 1}`"
          @change="changePart('slots', at, { title: textOf($event) })"
        />
        <select
          :value="one.role ?? one.layout"
          :disabled="!mayWrite"
          :aria-label="`What slot ${at + 1} takes`"
          @change="take(at, textOf($event))"
        >
          <option v-for="each in [...takes, ...layouts]" :key="each" :value="each">
            {{ each.replaceAll("_", " ") }}
          </option>
        </select>
        <button v-if="mayWrite" class="plain link" @click="drop('slots', at)">Remove</button>
      </li>
      <li v-if="mayWrite"><button class="plain link" @click="addSlot">Add a slot</button></li>
    </ul>
    <ul aria-label="Parameters of the master">
      <li v-for="(one, at) in parameters" :key="at">
        <input
          v-typed="one.name"
          class="mono"
          :disabled="!mayWrite"
          :aria-label="`Name of parameter ${at + 1}`"
          @change="changePart('parameters', at, { name: textOf($event) })"
        />
        <input
          v-typed="one.title ?? ''"
          placeholder="title"
          :disabled="!mayWrite"
          :aria-label="`Title of parameter ${at + 1}`"
          @change="changePart('parameters', at, { title: textOf($event) })"
        />
        <span class="soft">{{ one.kind }}</span>
        <input
          v-typed="one.group ?? ''"
          placeholder="group"
          :disabled="!mayWrite"
          :aria-label="`Group of parameter ${at + 1}`"
          @change="changePart('parameters', at, { group: textOf($event) })"
        />
        <template v-if="one.kind === 'number'">
          <label
            >from
            <input
              v-typed="one.low ?? ''"
              class="short mono"
              :disabled="!mayWrite"
              @change="changePart('parameters', at, { low: numberOf($event) })"
          /></label>
          <label
            >to
            <input
              v-typed="one.high ?? ''"
              class="short mono"
              :disabled="!mayWrite"
              @change="changePart('parameters', at, { high: numberOf($event) })"
          /></label>
        </template>
        <input
          v-if="one.kind === 'choice'"
          v-typed="(one.options as string[]).join(', ')"
          class="mono"
          :disabled="!mayWrite"
          :aria-label="`Options of parameter ${at + 1}`"
          @change="
            changePart('parameters', at, {
              options: textOf($event)
                .split(',')
                .map((each) => each.trim())
                .filter(Boolean),
              default: textOf($event).split(',')[0]!.trim(),
            })
          "
        />
        <button v-if="mayWrite" class="plain link" @click="drop('parameters', at)">Remove</button>
      </li>
      <li v-if="mayWrite">
        Add a
        <button v-for="kind in kinds" :key="kind" class="plain link" @click="addParameter(kind)">
          {{ kind }}
        </button>
      </li>
    </ul>
  </details>
</template>

<style scoped>
details {
  font-size: 12px;
}
ul {
  list-style: none;
  margin: 4px 0;
  padding: 0;
  display: grid;
  gap: 3px;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
input,
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 1px 4px;
  width: 110px;
}
select {
  width: 200px;
}
.short {
  width: 52px;
}
.link {
  color: var(--accent);
}
</style>
