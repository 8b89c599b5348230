<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import { computed, ref, watch } from "vue";

import type { SetList, TextureMap } from "@/api/types";

/** Which other sets get the steps of this map, as one change that can be undone. */
const props = defineProps<{ map: TextureMap; setList: SetList; role: string }>();
const emit = defineEmits<{ copy: [sets: number[]] }>();
const shown = defineModel<boolean>("shown", { required: true });
const chosen = ref<number[]>([]);
const sets = computed(() =>
  props.setList.sets.filter(
    (one) => one.id !== props.map.set && one.maps.some((map) => map.role === props.map.role && map.in_use),
  ),
);
watch(shown, () => (chosen.value = []));

function copy(): void {
  emit("copy", chosen.value);
  shown.value = false;
}
</script>

<template>
  <Dialog v-model:visible="shown" modal header="Copy these steps to other sets" :style="{ width: '420px' }">
    <p class="soft">They replace the steps of the {{ role.toLowerCase() }} map in each set chosen.</p>
    <p v-if="!sets.length">No other set has such a map.</p>
    <div class="list">
      <label v-for="one in sets" :key="one.id">
        <input v-model="chosen" type="checkbox" :value="one.id" /> {{ one.name }}
      </label>
    </div>
    <template #footer>
      <Button text label="All" @click="chosen = sets.map((one) => one.id)" />
      <Button :label="`Copy to ${chosen.length} sets`" :disabled="!chosen.length" @click="copy" />
    </template>
  </Dialog>
</template>

<style scoped>
.list {
  display: grid;
  gap: 4px;
  max-height: 320px;
  overflow: auto;
}
</style>
