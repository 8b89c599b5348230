<script setup lang="ts">
import Button from "primevue/button";
import Popover from "primevue/popover";
import SelectButton from "primevue/selectbutton";
import { computed, ref } from "vue";

import type { RoleInfo } from "@/api/types";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { t } from "@/texts/sets";

import type { Grouping, Sort } from "./matrix";
import type { Height } from "./useSetList";

/** How the list is looked at: height of rows, order, groups, columns. */
defineProps<{ slug: string; columns: RoleInfo[] }>();
const height = defineModel<Height>("height", { required: true });
const sort = defineModel<Sort>("sort", { required: true });
const group = defineModel<Grouping>("group", { required: true });
const hidden = defineModel<string[]>("hidden", { required: true });
const open = ref<InstanceType<typeof Popover>>();

const HEIGHTS = [
  { value: "compact", label: t("compact") },
  { value: "normal", label: t("normal") },
  { value: "large", label: t("large") },
];
const SORTS: { value: Sort; label: string }[] = [
  { value: "name", label: t("name") },
  { value: "verdict", label: t("worstFirst") },
  { value: "maps", label: t("mostMapsFirst") },
  { value: "resolution", label: t("largestFirst") },
];
const GROUPS: { value: Grouping; label: string }[] = [
  { value: "none", label: t("noGroups") },
  { value: "folder", label: t("folder") },
  { value: "prefix", label: t("namePrefix") },
  { value: "verdict", label: t("verdict") },
];
const shownIn = (role: string) =>
  computed({
    get: () => !hidden.value.includes(role),
    set: (shown) =>
      (hidden.value = shown ? hidden.value.filter((one) => one !== role) : [...hidden.value, role]),
  });
</script>

<template>
  <Button
    outlined
    severity="secondary"
    icon="pi pi-sliders-h"
    :label="t('view')"
    @click="open?.toggle($event)"
  />
  <Popover ref="open" :aria-label="t('viewOfTheList')">
    <div class="fields">
      <span class="soft">{{ t("rows") }}</span>
      <SelectButton
        v-model="height"
        :options="HEIGHTS"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        :aria-label="t('heightOfRows')"
      />
      <span class="soft">{{ t("order") }}</span>
      <ChoiceField v-model="sort" :options="SORTS" :label="t('order')" />
      <span class="soft">{{ t("groups") }}</span>
      <ChoiceField v-model="group" :options="GROUPS" :label="t('groups')" />
      <span class="soft">{{ t("columns") }}</span>
      <div class="columns">
        <CheckField
          v-for="one in columns"
          :key="one.key"
          v-model="shownIn(one.key).value"
          :label="one.label"
        />
      </div>
      <span class="soft">{{ t("download") }}</span>
      <span class="row">
        <a class="target" :href="`/api/projects/${slug}/sets/table?format=csv`" download>{{
          t("downloadAsCsv")
        }}</a>
        <a class="target" :href="`/api/projects/${slug}/sets/table`" :download="`${slug}-sets.json`">{{
          t("downloadAsJson")
        }}</a>
      </span>
    </div>
  </Popover>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: 1fr 1fr;
}
</style>
