<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";

import type { Derivation } from "@/api/recipes";
import type { RoleInfo, SetDetail, TextureMap } from "@/api/types";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";
import PickAction from "@/parts/fields/PickAction.vue";
import LicenceInput from "@/parts/LicenceInput.vue";

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
    .map((one) => ({ value: one, label: label(one.role) + (one.estimate ? " (estimate)" : "") })),
);
const certainty = computed(() =>
  props.map.by_hand ? "set by hand" : `${Math.round(props.map.confidence * 100)} % sure: ${props.map.why}`,
);
const size = computed(() => {
  const { width, height, source_width, source_height, bits, channels } = props.map;
  const now = `${width} × ${height}, ${bits} bits, ${channels.toUpperCase()}`;
  if (width === source_width && height === source_height) return now;
  return `${now} (source ${source_width} × ${source_height})`;
});
</script>

<template>
  <div class="facts">
    <div class="fields">
      <span class="soft">File</span>
      <span class="mono file"
        >{{ map.file }}<template v-if="map.channel"> [{{ map.channel.toUpperCase() }}]</template></span
      >
      <template v-if="map.came_as !== map.file">
        <span class="soft">Came as</span><span class="mono file">{{ map.came_as }}</span>
      </template>
      <span class="soft">Size</span><span>{{ size }}</span>
      <span class="soft">Role</span>
      <ChoiceField
        :model-value="map.role"
        :options="named(roles, 'key', 'label')"
        label="Role"
        :disabled="!mayChange"
        @update:model-value="$event && emit('role', $event)"
      />
      <span /><span class="soft">{{ certainty }}</span>
      <template v-if="map.layers.length">
        <span class="soft">Layer</span>
        <ChoiceField
          :model-value="map.layer"
          :options="map.layers"
          label="Layer"
          :disabled="!mayChange"
          @update:model-value="$event && emit('layer', $event)"
        />
      </template>
      <span class="soft">Licence</span>
      <span class="row">
        <span class="mono">{{ set.licence || "unknown" }}</span>
        <Button
          v-if="mayChange"
          text
          :label="licenceOpen ? 'Close' : 'Change'"
          aria-label="Change the licence"
          :aria-expanded="licenceOpen"
          @click="licenceOpen = !licenceOpen"
        />
      </span>
      <template v-if="set.credit">
        <span class="soft">Attribution</span><span class="file">{{ set.credit }}</span>
      </template>
    </div>
    <LicenceInput v-if="licenceOpen" :slug="slug" :sets="[set.id]" @said="licenceOpen = false" />
    <div v-if="mayChange" class="row">
      <PickAction
        v-if="offered.length"
        label="Make a map from this one"
        :options="offered"
        @pick="emit('derive', $event)"
      />
      <Button
        v-if="set.maps.length > 1"
        outlined
        label="Move to a new set"
        title="The map leaves this set and becomes a set of its own"
        @click="emit('split')"
      />
      <PickAction
        v-if="others.length"
        label="Use in another set too"
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
