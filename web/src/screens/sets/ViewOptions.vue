<script setup lang="ts">
import Button from "primevue/button";
import Popover from "primevue/popover";
import SelectButton from "primevue/selectbutton";
import { computed, ref } from "vue";

import type { RoleInfo } from "@/api/types";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";

import type { Grouping, Sort } from "./matrix";
import type { Height } from "./useSetList";

/** How the list is looked at: height of rows, order, groups, columns. */
defineProps<{ columns: RoleInfo[] }>();
const height = defineModel<Height>("height", { required: true });
const sort = defineModel<Sort>("sort", { required: true });
const group = defineModel<Grouping>("group", { required: true });
const hidden = defineModel<string[]>("hidden", { required: true });
const open = ref<InstanceType<typeof Popover>>();

const HEIGHTS = [
  { value: "compact", label: "Compact" },
  { value: "normal", label: "Normal" },
  { value: "large", label: "Large" },
];
const SORTS: { value: Sort; label: string }[] = [
  { value: "name", label: "Name" },
  { value: "verdict", label: "Worst first" },
  { value: "maps", label: "Most maps first" },
  { value: "resolution", label: "Largest first" },
];
const GROUPS: { value: Grouping; label: string }[] = [
  { value: "none", label: "No groups" },
  { value: "folder", label: "Folder" },
  { value: "prefix", label: "Name prefix" },
  { value: "verdict", label: "Verdict" },
];
const shownIn = (role: string) =>
  computed({
    get: () => !hidden.value.includes(role),
    set: (shown) =>
      (hidden.value = shown ? hidden.value.filter((one) => one !== role) : [...hidden.value, role]),
  });
</script>

<template>
  <Button outlined severity="secondary" icon="pi pi-sliders-h" label="View" @click="open?.toggle($event)" />
  <Popover ref="open" aria-label="View of the list">
    <div class="fields">
      <span class="soft">Rows</span>
      <SelectButton
        v-model="height"
        :options="HEIGHTS"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        aria-label="Height of rows"
      />
      <span class="soft">Order</span>
      <ChoiceField v-model="sort" :options="SORTS" label="Order" />
      <span class="soft">Groups</span>
      <ChoiceField v-model="group" :options="GROUPS" label="Groups" />
      <span class="soft">Columns</span>
      <div class="columns">
        <CheckField
          v-for="one in columns"
          :key="one.key"
          v-model="shownIn(one.key).value"
          :label="one.label"
        />
      </div>
    </div>
  </Popover>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: 1fr 1fr;
}
</style>
