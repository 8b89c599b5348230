<script setup lang="ts">
import Dialog from "primevue/dialog";
import { computed, ref } from "vue";

import { packedOf } from "@/api/pictures";
import { useOutputs, useTargets } from "@/api/queries";
import { memoryWords } from "@/api/rules";
import type { Output, RoleInfo, SetDetail } from "@/api/types";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/set";

import { factsOf } from "./outputs";

/** What two targets make of one set, side by side: every file with its channels, form and memory. */
const props = defineProps<{ slug: string; set: SetDetail; roles: RoleInfo[]; target: string }>();
const emit = defineEmits<{ close: [] }>();
const SIDE = 256;
const targets = useTargets(() => props.slug);
const left = ref(props.target);
const chosen = ref("");
/** The other one: as chosen, else one that turns green the other way, else the next. */
const right = computed({
  get: () => {
    const others = (targets.data.value ?? []).filter((one) => one.name !== left.value);
    const mine = targets.data.value?.find((one) => one.name === left.value);
    const opposite = others.find((one) => one.green !== mine?.green);
    return chosen.value || (opposite ?? others[0])?.name || left.value;
  },
  set: (name) => (chosen.value = name),
});
const of = (target: () => string) =>
  useOutputs(
    () => props.slug,
    () => props.set.id,
    target,
  );
const SIDES = [
  { key: "left", name: left, outputs: of(() => left.value) },
  { key: "right", name: right, outputs: of(() => right.value) },
];
const role = (key: string | null) => props.roles.find((one) => one.key === key)?.label ?? t("constant");
const channelsOf = (one: Output) =>
  one.channels.map((channel) => `${channel.letter.toUpperCase()} ${role(channel.role)}`).join(", ");
const memoryOf = (outputs: readonly Output[] | undefined) =>
  memoryWords((outputs ?? []).filter((one) => one.kind === "map").reduce((sum, one) => sum + one.memory, 0));
</script>

<template>
  <Dialog
    :visible="true"
    modal
    maximizable
    :header="t('inTwoTargets', { set: set.name })"
    :style="{ width: '92vw', height: '92vh' }"
    @update:visible="emit('close')"
  >
    <div class="both">
      <section v-for="side in SIDES" :key="side.key" :aria-label="side.name.value" :data-side="side.key">
        <div class="row">
          <ChoiceField
            :model-value="side.name.value"
            :options="named(targets.data.value ?? [], 'name', 'title')"
            :label="t('target')"
            @update:model-value="$event && (side.name.value = $event)"
          />
          <span class="soft">{{
            t("memoryInAll", { memory: memoryOf(side.outputs.data.value ?? undefined) })
          }}</span>
        </div>
        <StateView :query="side.outputs" :rows="3" height="9rem">
          <article v-for="one in side.outputs.data.value ?? []" :key="one.path" :data-output="one.output">
            <img :src="packedOf(slug, set.id, side.name.value, one, SIDE)" :alt="one.path" loading="lazy" />
            <div>
              <div class="mono path">{{ one.path }}</div>
              <div>{{ channelsOf(one) }}</div>
              <div class="soft">{{ factsOf(one) }}, {{ memoryWords(one.memory) }}</div>
            </div>
          </article>
        </StateView>
      </section>
    </div>
  </Dialog>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: var(--space-4);
}
article {
  display: flex;
  gap: var(--space-3);
  padding: var(--space-2) 0;
  border-top: 1px solid var(--line);
}
img {
  flex: none;
  width: 9rem;
  height: 9rem;
  object-fit: contain;
  background: var(--surround);
}
.path {
  overflow-wrap: anywhere;
}
</style>
