<script setup lang="ts">
import { computed } from "vue";

import type { Plan, PlannedFile } from "@/api/types";

/** What will be written, grouped by what happens to it. */
const props = defineProps<{ plan: Plan }>();

const GROUPS: [string, string][] = [
  ["new", "New"],
  ["changed", "Changed since the last delivery"],
  ["unchanged", "Unchanged"],
];
const groups = computed(() =>
  GROUPS.map(([status, label]) => ({
    status,
    label,
    files: props.plan.files.filter((file) => file.status === status),
  })).filter((group) => group.files.length),
);
const CHANNELS: Record<string, string> = { y: "grey", ya: "grey and alpha" };

function form(file: PlannedFile): string {
  if (file.kind === "material") return "glTF 2.0 material";
  const space = file.colour_space === "srgb" ? "sRGB" : "linear";
  const green = file.green ? `, ${file.green === "up" ? "Y+" : "Y-"}` : "";
  const channels = CHANNELS[file.channels] ?? file.channels.toUpperCase();
  const depth = file.format ?? `${file.bits} bits`;
  return `${file.container.toUpperCase()} ${channels} ${depth}, ${space}${green}`;
}
/** A path in pieces between which a line may end. */
const parts = (path: string) => path.split(/(?<=[/_-])/);
const size = (file: PlannedFile) => (file.width ? `${file.width} × ${file.height}` : "");
const steps = (file: PlannedFile) => file.steps.join(", ");
</script>

<template>
  <div>
    <p v-for="problem in plan.problems" :key="problem" class="problem" role="alert">
      Left out: {{ problem }}
    </p>
    <section v-for="group in groups" :key="group.status" :data-status="group.status">
      <h3>
        {{ group.label }} <span class="soft">{{ group.files.length }}</span>
      </h3>
      <table>
        <tbody>
          <tr v-for="file in group.files" :key="file.path">
            <td class="mono">
              <template v-for="(part, index) in parts(file.path)" :key="index">{{ part }}<wbr /></template>
            </td>
            <td class="mono size">{{ size(file) }}</td>
            <td>{{ form(file) }}</td>
            <td class="soft">{{ steps(file) }}</td>
          </tr>
        </tbody>
      </table>
    </section>
    <section v-if="plan.orphaned.length" data-status="orphaned">
      <h3>
        In the last delivery, not in this one <span class="soft">{{ plan.orphaned.length }}</span>
      </h3>
      <ul class="mono">
        <li v-for="path in plan.orphaned" :key="path">{{ path }}</li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
section {
  margin-bottom: 16px;
}
h3 {
  position: sticky;
  top: 0;
  background: var(--paper);
  padding: 4px 0;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 12px;
}
td {
  padding: 2px 12px 2px 0;
  border-bottom: 1px solid var(--line);
}
td {
  white-space: nowrap;
}
td:first-child {
  white-space: normal;
  overflow-wrap: anywhere;
}
.size {
  text-align: right;
}
.problem {
  color: var(--error);
}
</style>
