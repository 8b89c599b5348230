<script setup lang="ts">
import { computed } from "vue";

import SideLabel from "@/parts/SideLabel.vue";
import { t } from "@/texts/viewer";

import type { Look } from "./look";
import type { Other } from "./usePictures";

/** What stands where, when two pictures are compared. */
const props = defineProps<{ look: Look; other: Other | null }>();
const sides = computed(() => {
  if (props.other) return [t("theMap"), props.other.label];
  return props.look.level ? [t("plainAveraging"), "correct"] : [t("beforeSource"), t("afterWithSteps")];
});
</script>

<template>
  <template v-if="look.comparison === 'wipe' || look.comparison === 'beside'">
    <SideLabel bottom>{{ sides[0] }}</SideLabel>
    <SideLabel bottom side="right">{{ sides[1] }}</SideLabel>
  </template>
  <SideLabel v-if="look.comparison === 'before'" bottom>{{ sides[0] }}</SideLabel>
  <SideLabel v-if="look.comparison === 'difference'" bottom>{{
    t("difference", { gain: look.gain })
  }}</SideLabel>
</template>
