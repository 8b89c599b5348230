<script setup lang="ts">
import Select from "primevue/select";
import { computed } from "vue";

import type { Derivation, StepKind } from "@/api/recipes";
import type { RoleInfo, SetDetail, TextureMap } from "@/api/types";

import StepList from "./StepList.vue";
import type { Draft } from "./useDraft";

/** What is known of the map on the bench: its file, its role, its steps, and what can be made from it. */
const props = defineProps<{
  set: SetDetail;
  map: TextureMap;
  roles: RoleInfo[];
  mayChange: boolean;
  draft: Draft;
  kinds: StepKind[];
  derivations: Derivation[];
  others?: { id: number; name: string }[];
}>();
const emit = defineEmits<{
  role: [role: string];
  layer: [layer: string];
  keep: [];
  split: [];
  copy: [];
  derive: [derivation: Derivation];
  share: [set: number];
}>();

const label = (role: string) => props.roles.find((one) => one.key === role)?.label ?? role;
const offered = computed(() => props.derivations.filter((one) => one.source === props.map.role));

function derive(event: Event): void {
  const select = event.target as HTMLSelectElement;
  const chosen = offered.value[Number(select.value)];
  if (select.value && chosen) emit("derive", chosen);
  select.value = "";
}
</script>

<template>
  <section class="panel" aria-label="This map">
    <div class="mono file" :title="map.file">
      {{ map.file }}<template v-if="map.channel"> [{{ map.channel.toUpperCase() }}]</template>
    </div>
    <div class="row">
      <label class="role">
        Role
        <select
          :value="map.role"
          :disabled="!mayChange"
          @change="emit('role', ($event.target as HTMLSelectElement).value)"
        >
          <option v-for="role in roles" :key="role.key" :value="role.key">{{ role.label }}</option>
        </select>
      </label>
      <span class="soft">{{
        map.by_hand ? "chosen by hand" : `${Math.round(map.confidence * 100)} % sure`
      }}</span>
    </div>
    <p v-if="!map.by_hand" class="soft">{{ map.why }}</p>
    <label v-if="map.layers.length" class="role">
      Layer
      <select
        :value="map.layer"
        :disabled="!mayChange"
        @change="emit('layer', ($event.target as HTMLSelectElement).value)"
      >
        <option v-for="layer in map.layers" :key="layer" :value="layer">{{ layer }}</option>
      </select>
      <span class="soft">of {{ map.layers.length }} in this file</span>
    </label>
    <StepList
      :draft="draft"
      :kinds="kinds"
      :set="set"
      :map="map"
      :roles="roles"
      :may-change="mayChange"
      @keep="emit('keep')"
    />
    <div v-if="mayChange" class="row wrap">
      <select v-if="offered.length" aria-label="Make a map from this one" @change="derive">
        <option value="">Make from this …</option>
        <option v-for="(one, index) in offered" :key="index" :value="index">
          {{ label(one.role) }}{{ one.estimate ? " (estimate)" : "" }}
        </option>
      </select>
      <button v-if="map.recipe.length" class="plain link" @click="emit('copy')">
        Copy steps to other sets
      </button>
      <button v-if="set.maps.length > 1" class="plain link" @click="emit('split')">Split off</button>
      <Select
        v-if="others?.length"
        :model-value="null"
        :options="others"
        option-label="name"
        option-value="id"
        size="small"
        filter
        placeholder="Use in another set as well"
        aria-label="Use in another set as well"
        @update:model-value="emit('share', $event)"
      />
    </div>
  </section>
</template>

<style scoped>
.panel {
  padding: 8px 10px;
  border-bottom: 1px solid var(--line);
  display: grid;
  gap: 6px;
  font-size: 12px;
}
.file {
  overflow-wrap: anywhere;
}
.row {
  display: flex;
  gap: 10px;
  align-items: center;
}
.role {
  display: flex;
  gap: 6px;
  align-items: center;
}
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 2px;
}
.wrap {
  flex-wrap: wrap;
}
p {
  margin: 0;
}
.link {
  color: var(--accent);
}
</style>
