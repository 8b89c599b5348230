<script setup lang="ts">
import { computed } from "vue";
import { useRoute, useRouter } from "vue-router";

import { useProject } from "@/api/queries";
import { useKeys } from "@/app/keys";

import BudgetPart from "./BudgetPart.vue";
import FormatsPart from "./FormatsPart.vue";
import LayoutsPart from "./LayoutsPart.vue";
import LicencesPart from "./LicencesPart.vue";
import NamesPart from "./NamesPart.vue";
import PeoplePart from "./PeoplePart.vue";
import TargetsPart from "./TargetsPart.vue";

/** A project's conventions in one place: what engines want, how channels are packed, names, formats, budgets. */
const props = defineProps<{ slug: string }>();
const route = useRoute();
const router = useRouter();
const project = useProject(() => props.slug);
const mayRule = computed(() => project.data.value?.right === "rules");
const mayPrepare = computed(() => (project.data.value?.right ?? "look") !== "look");

const parts = [
  { key: "targets", label: "Targets", of: TargetsPart },
  { key: "layouts", label: "Layouts", of: LayoutsPart },
  { key: "names", label: "Names", of: NamesPart },
  { key: "formats", label: "Formats", of: FormatsPart },
  { key: "budget", label: "Budget", of: BudgetPart },
  { key: "licences", label: "Licences", of: LicencesPart },
  { key: "people", label: "People", of: PeoplePart },
];
const now = computed(() => parts.find((one) => one.key === route.params.part) ?? parts[0]!);
const go = (key: string) => void router.replace({ name: "rules", params: { slug: props.slug, part: key } });
useKeys(
  "House rules",
  parts.map((one, index) => ({ key: String(index + 1), does: one.label, run: () => go(one.key) })),
);
</script>

<template>
  <div class="screen">
    <nav class="parts" aria-label="House rules">
      <button
        v-for="(part, index) in parts"
        :key="part.key"
        class="plain"
        :aria-current="part.key === now.key ? 'page' : undefined"
        @click="go(part.key)"
      >
        {{ part.label }} <kbd>{{ index + 1 }}</kbd>
      </button>
    </nav>
    <component
      :is="now.of"
      v-if="project.data.value"
      class="part"
      :slug="slug"
      :project="project.data.value"
      :may-rule="mayRule"
      :may-prepare="mayPrepare"
    />
  </div>
</template>

<style scoped>
.parts {
  display: flex;
  gap: 22px;
  padding: 8px 14px;
  border-bottom: 1px solid var(--line);
  background: var(--sheet);
}
.parts button[aria-current] {
  color: var(--accent);
  font-weight: 650;
}
.part {
  flex: 1;
  min-height: 0;
}
</style>
