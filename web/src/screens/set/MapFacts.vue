<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";

import type { Derivation } from "@/api/recipes";
import type { RoleInfo, SetDetail, TextureMap } from "@/api/types";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";
import PickAction from "@/parts/fields/PickAction.vue";
import LicenceInput from "@/parts/LicenceInput.vue";
import { t } from "@/texts/set";

/** What is known of the map: its file, its role, its size; the set's licence; what can be made from it. */
const props = defineProps<{
  slug: string;
  set: SetDetail;
  map: TextureMap;
  roles: RoleInfo[];
  mayChange: boolean;
  derivations: Derivation[];
  others: { id: number; name: string }[];
}>();
const emit = defineEmits<{
  role: [role: string];
  layer: [layer: string];
  split: [];
  share: [set: number];
  derive: [derivation: Derivation];
}>();
const licenceOpen = ref(false);
const label = (role: string) => props.roles.find((one) => one.key === role)?.label ?? role;
const offered = computed(() =>
  props.derivations
    .filter((one) => one.source === props.map.role)
    .map((one) => ({ value: one, label: label(one.role) + (one.estimate ? t("estimate") : "") })),
);
const certainty = computed(() =>
  props.map.by_hand
    ? t("setByHand")
    : t("sureBy", { share: Math.round(props.map.confidence * 100), why: props.map.why }),
);
const size = computed(() => {
  const { width, height, source_width, source_height, bits, channels } = props.map;
  const now = t("sizeNow", { width, height, bits, channels: channels.toUpperCase() });
  if (width === source_width && height === source_height) return now;
  return t("sizeWithSource", { now, width: source_width, height: source_height });
});
</script>

<template>
  <div class="facts">
    <div class="fields">
      <span class="soft">{{ t("file") }}</span>
      <span class="mono file"
        >{{ map.file }}<template v-if="map.channel"> [{{ map.channel.toUpperCase() }}]</template></span
      >
      <template v-if="map.came_as !== map.file">
        <span class="soft">{{ t("cameAs") }}</span><span class="mono file">{{ map.came_as }}</span>
      </template>
      <span class="soft">{{ t("size") }}</span><span>{{ size }}</span>
      <span class="soft">{{ t("role") }}</span>
      <ChoiceField
        :model-value="map.role"
        :options="named(roles, 'key', 'label')"
        :label="t('role')"
        :disabled="!mayChange"
        @update:model-value="$event && emit('role', $event)"
      />
      <span /><span class="soft">{{ certainty }}</span>
      <template v-if="map.layers.length">
        <span class="soft">{{ t("layer") }}</span>
        <ChoiceField
          :model-value="map.layer"
          :options="map.layers"
          :label="t('layer')"
          :disabled="!mayChange"
          @update:model-value="$event && emit('layer', $event)"
        />
      </template>
      <span class="soft">{{ t("licence") }}</span>
      <span class="row">
        <span class="mono">{{ set.licence || t("unknown") }}</span>
        <Button
          v-if="mayChange"
          text
          :label="licenceOpen ? t('close') : t('change')"
          :aria-label="t('changeTheLicence')"
          :aria-expanded="licenceOpen"
          @click="licenceOpen = !licenceOpen"
        />
      </span>
      <template v-if="set.credit">
        <span class="soft">{{ t("attribution") }}</span><span class="file">{{ set.credit }}</span>
      </template>
    </div>
    <LicenceInput v-if="licenceOpen" :slug="slug" :sets="[set.id]" @said="licenceOpen = false" />
    <div v-if="mayChange" class="row">
      <PickAction
        v-if="offered.length"
        :label="t('makeAMapFromThisOne')"
        :options="offered"
        @pick="emit('derive', $event)"
      />
      <Button
        v-if="set.maps.length > 1"
        outlined
        :label="t('moveToANewSet')"
        :title="t('theMapLeavesThisSetAnd')"
        @click="emit('split')"
      />
      <PickAction
        v-if="others.length"
        :label="t('useInAnotherSetToo')"
        :options="named(others, 'id', 'name')"
        @pick="emit('share', $event)"
      />
    </div>
  </div>
</template>

<style scoped>
.facts {
  display: grid;
  gap: var(--space-3);
}
.file {
  overflow-wrap: anywhere;
}
</style>
