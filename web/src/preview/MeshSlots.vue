<script setup lang="ts">
import type { OwnMesh } from "./ownMesh";

/** The material slots of an own mesh, each with the cast that it wears; one without stands out here and on the mesh. */
defineProps<{
  mesh: OwnMesh;
  assigned: Record<string, number | null>;
  choices: { id: number; name: string }[];
}>();
const emit = defineEmits<{ assign: [slot: string, cast: number | null]; away: [] }>();
const IN_HAND = 0;
</script>

<template>
  <div class="slots" role="group" :aria-label="`Material slots of ${mesh.name}`">
    <b>{{ mesh.name }}</b>
    <label v-for="slot in mesh.slots" :key="slot" :class="{ bare: assigned[slot] === null }">
      {{ slot }}
      <select
        :value="assigned[slot] === null ? '' : String(assigned[slot])"
        :aria-label="`Cast of slot ${slot}`"
        @change="
          emit(
            'assign',
            slot,
            ($event.target as HTMLSelectElement).value === ''
              ? null
              : Number(($event.target as HTMLSelectElement).value),
          )
        "
      >
        <option value="">no cast</option>
        <option :value="String(IN_HAND)">what is in hand</option>
        <option v-for="one in choices" :key="one.id" :value="String(one.id)">{{ one.name }}</option>
      </select>
    </label>
    <button class="plain link" @click="emit('away')">Back to shapes</button>
  </div>
</template>

<style scoped>
.slots {
  position: absolute;
  top: 8px;
  left: 8px;
  max-width: calc(100% - 16px);
  max-height: 45%;
  overflow: auto;
  display: grid;
  gap: 3px;
  padding: 6px 8px;
  background: var(--sheet);
  font-size: 12px;
}
label {
  display: grid;
  grid-template-columns: minmax(60px, 1fr) auto;
  gap: 8px;
  align-items: center;
  border-left: 3px solid transparent;
  padding-left: 4px;
}
.bare {
  border-left-color: var(--error);
  font-weight: 650;
}
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  max-width: 150px;
}
.link {
  color: var(--accent);
  justify-self: start;
}
</style>
