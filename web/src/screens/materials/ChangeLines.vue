<script setup lang="ts">
import Tag from "primevue/tag";

import type { Impact } from "@/api/materials";
import { t } from "@/texts/materials";

/** What differs between two versions: what, before, after, and what it means for casts, side by side. */
defineProps<{ changes: Impact["changes"] }>();
const MEANINGS: Record<string, { label: string; severity: "danger" | "warn" }> = {
  removes: { label: t("castsMayLoseSomething"), severity: "danger" },
  changes: { label: t("changesAppearance"), severity: "warn" },
};
</script>

<template>
  <p v-if="!changes.length" class="soft">{{ t("nothingDiffers") }}</p>
  <table v-else class="table">
    <thead>
      <tr>
        <th scope="col">{{ t("change") }}</th>
        <th scope="col">{{ t("before") }}</th>
        <th scope="col">{{ t("after") }}</th>
        <th scope="col">{{ t("forCasts") }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(one, at) in changes" :key="at" :data-breaks="one.breaks">
        <td>{{ one.message }}</td>
        <td class="mono">{{ one.before ?? "" }}</td>
        <td class="mono">{{ one.after ?? "" }}</td>
        <td>
          <Tag
            v-if="MEANINGS[String(one.breaks)]"
            :severity="MEANINGS[String(one.breaks)]!.severity"
            :value="MEANINGS[String(one.breaks)]!.label"
          />
        </td>
      </tr>
    </tbody>
  </table>
</template>
