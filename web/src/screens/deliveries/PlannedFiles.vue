<script setup lang="ts">
import Tag from "primevue/tag";

import type { PlannedFile } from "@/api/types";
import { t } from "@/texts/deliveries";

import { formOf, piecesOf, whyInWords } from "./plan";

/** The files of one set: what happens to each, its path, size, form, and the steps behind it. */
defineProps<{ files: PlannedFile[] }>();
const SEVERITY: Record<string, string> = { new: "success", changed: "warn", unchanged: "secondary" };
</script>

<template>
  <table class="table">
    <thead class="visually-hidden">
      <tr>
        <th scope="col">{{ t("whatHappens") }}</th>
        <th scope="col">{{ t("path") }}</th>
        <th scope="col">{{ t("size") }}</th>
        <th scope="col">{{ t("form") }}</th>
        <th scope="col">{{ t("steps") }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="file in files" :key="file.path">
        <td>
          <Tag :severity="SEVERITY[file.status]" :value="file.status" />
          <div v-if="file.why.length" class="soft" data-test="why">{{ whyInWords(file.why) }}</div>
        </td>
        <td class="mono">
          <template v-for="(piece, index) in piecesOf(file.path)" :key="index">{{ piece }}<wbr /></template>
        </td>
        <td class="mono size">{{ file.width ? `${file.width} × ${file.height}` : "" }}</td>
        <td>{{ formOf(file) }}</td>
        <td class="soft">{{ file.steps.join(", ") }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  width: 100%;
}
.size {
  white-space: nowrap;
}
</style>
